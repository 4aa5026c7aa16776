package store

import (
	"errors"
	"fmt"
	"testing"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/coach"
	"yardbloom/core/cup"
	"yardbloom/core/flight"
	"yardbloom/core/person"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

func add(t *testing.T, s *Store, id, name string) {
	t.Helper()
	must(t, s.AddPerson(ctx, person.Person{ID: id, Name: name, Initials: person.Initials(name), Mark: person.Leaf}, false))
}

// taste stores the tasting of a brew by a person.
func taste(t *testing.T, s *Store, id, by string, mark int) {
	t.Helper()
	_, err := s.Change(ctx, id, func(b brew.Brew) (brew.Brew, error) {
		b.Status = brew.Done
		b.Tastings = append(b.Tastings, brew.Tasting{Taster: by, Cup: cup.Cup{Taste: cup.Taste{Overall: mark}}, Advice: &coach.Advice{}})
		return b, nil
	})
	must(t, err)
}

// drained returns a brew that is ready to be tasted.
func drained(t *testing.T, s *Store, id string) {
	t.Helper()
	start(t, s, id)
	_, err := tap(s, id, brew.Event{Key: "end", Kind: brew.Finish, At: 200, By: "ada"})
	must(t, err)
}

// Mutations caught: names compared by their bytes, an archived name given away, a form sent twice adding two people, or
// one opened again adding none.
func TestNamesAreUnique(t *testing.T) {
	t.Parallel()
	s := open(t, t.TempDir())
	add(t, s, "ada", "Zoë Moss")
	for _, same := range []string{"Zoë Moss", "zoë moss", "ZOE\u0308  MOSS"} {
		if err := s.AddPerson(ctx, person.Person{ID: "other", Name: same, Mark: person.Leaf}, false); !errors.Is(err, ErrTaken) {
			t.Errorf("%q: %v", same, err)
		}
	}
	add(t, s, "ada", "Zoë Moss") // sent again
	add(t, s, "ben", "Zoe Moss")
	add(t, s, "ben", "Cleo") // the page was opened again
	must(t, s.ArchivePerson(ctx, "ada", true, noon))
	if err := s.ChangePerson(ctx, person.Person{ID: "ben", Name: "Zoë moss", Mark: person.Sun}, 0); !errors.Is(err, ErrTaken) {
		t.Errorf("the name of an archived person: %v", err)
	}
	all, err := s.People(ctx)
	must(t, err)
	if len(all) != 3 || all[0].ID != "ben" || all[1].Name != "Cleo" || !all[2].Archived {
		t.Errorf("people: %+v", all)
	}
}

// Two tablets rename a person at once: the later one is told. Mutation caught: no check of the version.
func TestRenamingAtOnceIsAConflict(t *testing.T) {
	t.Parallel()
	s := open(t, t.TempDir())
	add(t, s, "ada", "Ada")
	p, err := s.Person(ctx, "ada")
	must(t, err)
	must(t, s.ChangePerson(ctx, person.Person{ID: "ada", Name: "Ada M", Mark: person.Sun}, p.Version))
	if err := s.ChangePerson(ctx, person.Person{ID: "ada", Name: "Ada X", Mark: person.Sun}, p.Version); !errors.Is(err, ErrConflict) {
		t.Errorf("the second: %v", err)
	}
	if p, err = s.Person(ctx, "ada"); err != nil || p.Name != "Ada M" {
		t.Errorf("%q, %v", p.Name, err)
	}
	if err := s.ChangePerson(ctx, person.Person{ID: "none", Name: "No", Mark: person.Sun}, 0); !errors.Is(err, ErrNotFound) {
		t.Errorf("an unknown person: %v", err)
	}
}

// Preferences belong to the person at the screen; one person needs no choice; an archived person cannot be chosen.
// Mutations caught: units of the yard for everybody, a choice that outlives archiving, a version that ignores the
// person.
func TestSettingsOfThePersonAtTheScreen(t *testing.T) {
	t.Parallel()
	s := open(t, t.TempDir())
	must(t, s.SaveUnits(ctx, "", units.Prefs{Ounces: true}, 300, 0))
	add(t, s, "ada", "Ada")
	if set, err := s.Settings(ctx, ""); err != nil || set.PersonID != "ada" || set.ByName() || !set.Ounces {
		t.Errorf("one person: %q, by name %t, %v", set.PersonID, set.ByName(), err)
	}
	add(t, s, "ben", "Ben")
	must(t, s.SaveUnits(ctx, "ben", units.Prefs{Fahrenheit: true}, 500, 0))
	must(t, s.SaveHabits(ctx, "ben", recipe.Habits{Good: 6}, 0))
	for id, want := range map[string]struct {
		person string
		prefs  units.Prefs
		good   int
	}{"": {"", units.Prefs{Ounces: true}, 0}, "ada": {"ada", units.Prefs{Ounces: true}, 0}, "ben": {"ben", units.Prefs{Fahrenheit: true}, 6},
		"gone": {"", units.Prefs{Ounces: true}, 0}} {
		set, err := s.Settings(ctx, id)
		must(t, err)
		if set.PersonID != want.person || set.Prefs() != want.prefs || set.Habits().Good != want.good || set.Altitude != 500 || !set.ByName() {
			t.Errorf("%q: %q with %+v, good from %d, %d m", id, set.PersonID, set.Prefs(), set.Habits().Good, set.Altitude)
		}
	}
	set, err := s.Settings(ctx, "ben")
	must(t, err)
	must(t, s.SaveHabits(ctx, "ben", recipe.Habits{Good: 7}, set.Version))
	if err := s.SaveUnits(ctx, "ben", units.Prefs{}, 500, set.Version); !errors.Is(err, ErrConflict) {
		t.Errorf("an outdated version: %v", err)
	}
	must(t, s.ArchivePerson(ctx, "ben", true, noon))
	if set, err := s.Settings(ctx, "ben"); err != nil || set.PersonID != "ada" || set.Named("ben").Name != "Ben" {
		t.Errorf("with Ben archived: %q, %q, %v", set.PersonID, set.Named("ben").Name, err)
	}
}

// Everything recorded names its person. A person who is removed takes tastings and marks along; brews stay.
// Mutations caught: tastings that stay, brews that go, events that refuse to lose the name, a removed taster who
// tastes again.
func TestRemovedPersonTakesTheTastings(t *testing.T) {
	t.Parallel()
	s, bagID, id := yard(t)
	add(t, s, "ada", "Ada")
	add(t, s, "ben", "Ben")
	drained(t, s, id)
	must(t, s.SetBrewer(ctx, id, "ada"))
	taste(t, s, id, "ada", 8)
	taste(t, s, id, "ben", 5)
	must(t, s.AddFlight(ctx, flight.Flight{ID: "table", Name: "Blind", By: "ada"}, noon))
	kept := plan(t, s, bagID, "draft")
	d, _, err := s.Draft(ctx, kept)
	must(t, err)
	d.By = "ada"
	_, err = s.SaveDraft(ctx, d, noon)
	must(t, err)

	counts, err := s.Recorded(ctx)
	must(t, err)
	if got := counts["ada"]; got != (Recorded{Brews: 1, Tastings: 1, Others: 2}) {
		t.Errorf("Ada recorded %+v", got)
	}
	must(t, s.RemovePerson(ctx, "ada"))
	b, err := s.Brew(ctx, id)
	must(t, err)
	table, err := s.Flight(ctx, "table")
	must(t, err)
	if d, _, err = s.Draft(ctx, kept); err != nil {
		t.Fatal(err)
	}
	if b.BrewedBy != "" || b.Events[1].By != "" || d.By != "" || table.By != "" {
		t.Errorf("names left: brew %q, event %q, draft %q, table %q", b.BrewedBy, b.Events[1].By, d.By, table.By)
	}
	if len(b.Tastings) != 1 || b.Tastings[0].Taster != "ben" || b.Cup.Overall != 5 || b.Status != brew.Done {
		t.Errorf("tastings: %+v, %s", b.Tastings, b.Status)
	}
	taste(t, s, id, "ada", 9) // from a tablet that did not notice
	if b, err = s.Brew(ctx, id); err != nil || len(b.Tastings) != 1 {
		t.Errorf("a removed person has tasted: %+v, %v", b.Tastings, err)
	}
	if err := s.SetBrewer(ctx, id, "ada"); !errors.Is(err, ErrNotFound) {
		t.Errorf("brewed by a removed person: %v", err)
	}
	if err := s.RemovePerson(ctx, "ada"); !errors.Is(err, ErrNotFound) {
		t.Errorf("removed twice: %v", err)
	}
}

// A tap with the name of a removed person counts, without the name. Mutation caught: a tap refused for its name.
func TestTapOfARemovedPersonCounts(t *testing.T) {
	t.Parallel()
	s, _, id := yard(t)
	start(t, s, id)
	e := advance("late", 20)
	e.By = "gone"
	b, err := tap(s, id, e)
	must(t, err)
	if b, err = s.Brew(ctx, id); err != nil || len(b.Events) != 2 || b.Events[1].By != "" {
		t.Errorf("events: %+v, %v", b.Events, err)
	}
}

// Records without a name are assigned in one step, except tastings of brews that the person tasted too.
// Mutations caught: one tasting overwritten by another, taps left without a name.
func TestYardsRecordsAreAssigned(t *testing.T) {
	t.Parallel()
	s, bagID, id := yard(t)
	drained(t, s, id)
	taste(t, s, id, "", 7)
	other := plan(t, s, bagID, "other")
	drained(t, s, other)
	taste(t, s, other, "", 3)
	add(t, s, "ada", "Ada")
	taste(t, s, other, "ada", 9)
	before, err := s.Brew(ctx, id)
	must(t, err)
	must(t, s.Assign(ctx, "ada"))
	if _, err := s.Change(ctx, id, func(b brew.Brew) (brew.Brew, error) { // as advice that was computed meanwhile would see it
		if b.Version == before.Version {
			t.Error("a brew whose tasting was assigned has the same version")
		}
		return b, nil
	}); err != nil {
		t.Error(err)
	}
	for brewID, marks := range map[string]map[string]int{id: {"ada": 7}, other: {"": 3, "ada": 9}} {
		b, err := s.Brew(ctx, brewID)
		must(t, err)
		got := map[string]int{}
		for _, x := range b.Tastings {
			got[x.Taster] = x.Cup.Overall
		}
		if fmt.Sprint(got) != fmt.Sprint(marks) || b.BrewedBy != "ada" || b.Events[0].By != "ada" {
			t.Errorf("%s: marks %v, want %v; brewed by %q, started by %q", brewID, got, marks, b.BrewedBy, b.Events[0].By)
		}
	}
	if err := s.Assign(ctx, "nobody"); !errors.Is(err, ErrNotFound) {
		t.Errorf("assigned to nobody: %v", err)
	}
}

// The first person may take over the records of the yard. Mutation caught: the choice is ignored.
func TestFirstPersonTakesOver(t *testing.T) {
	t.Parallel()
	s, _, id := yard(t)
	drained(t, s, id)
	must(t, s.AddPerson(ctx, person.Person{ID: "ada", Name: "Ada", Mark: person.Leaf}, true))
	if b, err := s.Brew(ctx, id); err != nil || b.BrewedBy != "ada" {
		t.Errorf("brewed by %q, %v", b.BrewedBy, err)
	}
}

// Palate and record are a person's own. Mutations caught: another person's aim, a change advised to another
// person counted.
func TestPalateAndRecordAreAPersonsOwn(t *testing.T) {
	t.Parallel()
	s, _, id := yard(t)
	add(t, s, "ada", "Ada")
	add(t, s, "ben", "Ben")
	advised := func(by string, mark int, yield float64) func(brew.Brew) (brew.Brew, error) {
		return func(b brew.Brew) (brew.Brew, error) {
			b.Status = brew.Done
			b.Tastings = append(b.Tastings, brew.Tasting{Taster: by, Cup: cup.Cup{Taste: cup.Taste{Overall: mark}},
				Advice: &coach.Advice{Map: &coach.Map{Aim: coach.Patch{Yield: yield, Strength: 1.4, YieldSpread: 1, StrengthSpread: 0.1}}}})
			return b, nil
		}
	}
	drained(t, s, id)
	for by, yield := range map[string]float64{"ada": 18, "ben": 22} {
		_, err := s.Change(ctx, id, advised(by, 5, yield))
		must(t, err)
	}
	b, err := s.Brew(ctx, id)
	must(t, err)
	other := b.Bag
	other.ID = "another"
	ada, err := s.Palate(ctx, other, "ada")
	must(t, err)
	ben, err := s.Palate(ctx, other, "ben")
	must(t, err)
	if ada.Known == nil || ben.Known == nil || ada.Known.Yield >= 20 || ben.Known.Yield <= 21 {
		t.Errorf("aims: Ada %+v, Ben %+v", ada.Known, ben.Known)
	}
	if who, err := s.Palate(ctx, other, ""); err != nil || who.Known != nil {
		t.Errorf("aim of nobody: %+v, %v", who.Known, err)
	}
	next := b.For("ada").Next("next", &coach.Proposal{Change: recipe.Change{Address: recipe.AddressOf(recipe.Grind), From: 650, To: 630}}, noon)
	must(t, s.AddDraft(ctx, next, noon))
	_, err = s.Begin(ctx, "next", brew.Event{Key: "start", Kind: brew.Start, Instant: noon.Add(time.Hour)}, nil)
	must(t, err)
	for _, by := range []string{"ada", "ben"} {
		_, err = s.Change(ctx, "next", advised(by, 8, 20))
		must(t, err)
	}
	for by, want := range map[string]Record{"ada": {1, 1}, "ben": {}} {
		if got, err := s.Record(ctx, by); err != nil || got != want {
			t.Errorf("record with %s: %+v, want %+v (%v)", by, got, want, err)
		}
	}
}

// Mutation caught: a tasting moved onto another one.
func TestTastingIsMoved(t *testing.T) {
	t.Parallel()
	s, _, id := yard(t)
	add(t, s, "ada", "Ada")
	add(t, s, "ben", "Ben")
	drained(t, s, id)
	taste(t, s, id, "ada", 8)
	must(t, s.MoveTasting(ctx, id, "ada", "ben"))
	b, err := s.Brew(ctx, id)
	must(t, err)
	if len(b.Tastings) != 1 || b.Tastings[0].Taster != "ben" || b.Tastings[0].Cup.Overall != 8 {
		t.Errorf("tastings: %+v", b.Tastings)
	}
	taste(t, s, id, "ada", 3)
	if err := s.MoveTasting(ctx, id, "ada", "ben"); !errors.Is(err, ErrTaken) {
		t.Errorf("onto another tasting: %v", err)
	}
	if err := s.MoveTasting(ctx, id, "", "gone"); !errors.Is(err, ErrNotFound) {
		t.Errorf("no tasting, no person: %v", err)
	}
}
