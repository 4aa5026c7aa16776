package store

import (
	"context"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/cup"
	"yardbloom/core/person"
	"yardbloom/core/trace"
	"yardbloom/core/units"
)

// traded returns a yard with some of everything that brews have: people, tastings, corrections, readings, photos and parents.
func traded(t *testing.T, brews int) *Store {
	t.Helper()
	s, bagID, _ := yard(t)
	must(t, s.AddPerson(ctx, person.Person{ID: "ada", Name: "Ada"}, false))
	rng := rand.New(rand.NewPCG(5, 6))
	for i := range brews {
		id, at := plan(t, s, bagID, fmt.Sprintf("brew-%03d", i)), noon.Add(time.Duration(rng.IntN(50*24))*time.Hour)
		_, err := s.Begin(ctx, id, brew.Event{Key: "s", Kind: brew.Start, Instant: at}, nil)
		must(t, err)
		_, err = s.Change(ctx, id, func(b brew.Brew) (brew.Brew, error) {
			return b.Apply(brew.Event{Key: "f", Kind: brew.Finish, At: 180, By: "ada"}, at.Add(time.Hour))
		})
		must(t, err)
		if i%3 == 0 {
			must(t, s.AppendReadings(ctx, map[string][]trace.Reading{id: {{At: 0.1, Grams: 3}, {At: 0.2, Grams: 4.7}}}))
		}
		for range rng.IntN(3) {
			_, err = tasteAs(s, id, cup.Cup{Drawdown: units.Seconds(170 + rng.IntN(20)), Beverage: 260, TDS: 1.2 + 0.01*float64(rng.IntN(20)),
				Taste: cup.Taste{Overall: 4 + rng.IntN(5), Notes: `"half" a brick`, Faults: map[cup.Fault]bool{}}})
			must(t, err)
		}
		if i%4 == 1 {
			must(t, errOf(s.write.Exec(`UPDATE brews SET parent_id = ? WHERE id = ?`, fmt.Sprintf("brew-%03d", rng.IntN(i)), id)))
		}
	}
	must(t, s.AddPhoto(ctx, Image{Photo: Photo{ID: "photo", BrewID: "brew-001", Width: 2, Height: 2}, Small: []byte("s"), Full: []byte("f")}, noon))
	addedScript(t, s)
	must(t, s.Remove(ctx, Brews, "brew-002", "", noon))
	return s
}

// documentsIn returns all documents of a yard, and its readings and photos.
func documentsIn(t *testing.T, s *Store) []string {
	t.Helper()
	var out []string
	for _, kind := range RecordKinds() {
		must(t, s.EachRecord(ctx, kind, time.Time{}, time.Time{}, func(d Document) error {
			out = append(out, d.Text)
			return nil
		}))
	}
	must(t, s.EachTrace(ctx, time.Time{}, time.Time{}, func(_, id string, readings []trace.Reading) error {
		out = append(out, fmt.Sprint(id, readings))
		return nil
	}))
	return out
}

// staged returns the records of one yard, staged for another.
func staged(t *testing.T, from, into *Store) *Staging {
	t.Helper()
	st, err := into.Stage(ctx)
	must(t, err)
	for _, kind := range RecordKinds() {
		must(t, from.EachRecord(ctx, kind, time.Time{}, time.Time{}, func(d Document) error {
			return st.Put(ctx, []Document{d})
		}))
	}
	must(t, from.EachTrace(ctx, time.Time{}, time.Time{}, func(_, id string, readings []trace.Reading) error {
		return st.PutReadings(ctx, id, readings)
	}))
	must(t, from.EachPhoto(ctx, time.Time{}, time.Time{}, func(id string, jpeg []byte) error {
		return st.PutPhoto(ctx, id, 2, 2, []byte("s"), jpeg)
	}))
	return st
}

// join imports one yard into another and returns the numbers by action.
func join(t *testing.T, from, into *Store) map[Action]int {
	t.Helper()
	st := staged(t, from, into)
	counts, err := st.Plan(ctx)
	must(t, err)
	must(t, st.Apply(ctx, "file", "", noon, func(int, int) {}))
	must(t, st.Close())
	out := map[Action]int{}
	for _, c := range counts {
		out[c.Action] += c.Records
	}
	return out
}

func same(t *testing.T, got, want []string) {
	t.Helper()
	for i := range max(len(got), len(want)) {
		switch {
		case i >= len(got):
			t.Fatalf("missing: %s", want[i])
		case i >= len(want):
			t.Fatalf("too many: %s", got[i])
		case got[i] != want[i]:
			t.Fatalf("got  %s\nwant %s", got[i], want[i])
		}
	}
}

// Mutations caught: a list of a document without its order, a parent that is younger than its brew and is not joined, a tombstone that is
// not brought, totals that count an imported brew twice or not at all, records that stay hidden.
func TestRecordsGoThroughAnotherYardUnchanged(t *testing.T) {
	t.Parallel()
	brews := 40
	if testing.Short() {
		brews = 12
	}
	s, other := traded(t, brews), open(t, t.TempDir())
	want := documentsIn(t, s)
	if counts := join(t, s, other); counts[Add] != len(want)-13-0 && counts[Add] == 0 {
		t.Errorf("%v", counts)
	}
	same(t, documentsIn(t, other), want)
	checkTotals(t, other)
	for _, query := range []string{`SELECT COUNT(*) FROM entries`, `SELECT COUNT(*) FROM bags WHERE deleted_at IS NULL`, `SELECT COUNT(*) FROM photos`,
		`SELECT COUNT(*) FROM words WHERE words MATCH 'brick'`, `SELECT SUM(marked) FROM mark_totals`} {
		var a, b int
		must(t, s.read.Get(&a, query))
		must(t, other.read.Get(&b, query))
		if a != b || a == 0 {
			t.Errorf("%s: %d, want %d", query, b, a)
		}
	}
	if counts := join(t, s, other); len(counts) != 1 || counts[Same] == 0 {
		t.Errorf("the second import: %v", counts)
	}
	if rest, err := other.Imports(ctx); err != nil || len(rest) != 2 || rest[0].Open || rest[1].Counts == nil {
		t.Errorf("%+v %v", rest, err)
	}
}

// Two yards that both changed records agree on the newer ones, keep the others, and delete what either deleted. Mutations caught: an older
// version that replaces a newer one, a version that is lost, a deleted brew that comes back, a changed brew that a deletion takes along.
func TestYardsThatWentApartMerge(t *testing.T) {
	t.Parallel()
	a, b := traded(t, 12), open(t, t.TempDir())
	join(t, a, b)
	correct := func(s *Store, id string, tds float64) {
		t.Helper()
		_, err := tasteAs(s, id, cup.Cup{Drawdown: 180, Beverage: 260, TDS: tds, Taste: cup.Taste{Overall: 7, Faults: map[cup.Fault]bool{}}})
		must(t, err)
	}
	correct(a, "brew-003", 1.11) // only there
	correct(a, "brew-004", 1.12) // here and there, here twice
	correct(b, "brew-004", 1.13)
	correct(b, "brew-004", 1.14)
	correct(a, "brew-005", 1.15) // here and there, there twice
	correct(a, "brew-005", 1.16)
	correct(b, "brew-005", 1.17)
	must(t, a.Remove(ctx, Brews, "brew-006", "", noon)) // deleted there
	must(t, a.Remove(ctx, Brews, "brew-007", "", noon)) // deleted there, changed here later
	correct(b, "brew-007", 1.18)
	must(t, b.Remove(ctx, Brews, "brew-008", "", noon)) // deleted here
	must(t, a.ArchivePerson(ctx, "ada", true, noon))    // changed there

	if counts := join(t, a, b); counts[Change] != 3 || counts[Keep] != 1 || counts[Delete] != 1 || counts[Add] != 0 {
		t.Errorf("%v", counts)
	}
	tds := func(s *Store, id string) float64 {
		t.Helper()
		found, err := s.Brew(ctx, id)
		must(t, err)
		return found.Cup.TDS
	}
	for id, want := range map[string]float64{"brew-003": 1.11, "brew-004": 1.14, "brew-005": 1.16, "brew-007": 1.18} {
		if got := tds(b, id); got != want {
			t.Errorf("%s: TDS %v, want %v", id, got, want)
		}
	}
	for id, want := range map[string]string{"brew-004": "1.12", "brew-005": "1.17"} {
		kept, err := b.OtherVersions(ctx, Brews, id)
		must(t, err)
		if len(kept) != 1 || !strings.Contains(kept[0].Text, want) || kept[0].Ours != (id == "brew-005") {
			t.Errorf("%s: %+v", id, kept)
		}
	}
	for _, id := range []string{"brew-006", "brew-008"} {
		if _, err := b.Brew(ctx, id); err == nil {
			t.Errorf("%s is there", id)
		}
	}
	checkTotals(t, b)
	must(t, b.Check(ctx))
	before := documentsIn(t, b)
	if counts := join(t, a, b); counts[Change]+counts[Keep]+counts[Delete]+counts[Add] != 0 {
		t.Errorf("the second import: %v", counts)
	}
	same(t, documentsIn(t, b), before)
	join(t, b, a) // and back
	for _, id := range []string{"brew-003", "brew-004", "brew-005", "brew-007"} {
		if x, y := tds(a, id), tds(b, id); x != y {
			t.Errorf("%s: TDS %v and %v", id, x, y)
		}
	}
}

// An import that is interrupted anywhere leaves a yard that, after the next start, is as before or complete. Mutations caught: brews of an
// unfinished import in the log or the totals, bags that stay after it is taken back, a finishing import that is taken back or forgotten.
func TestInterruptedImportIsTakenBackOrContinued(t *testing.T) {
	t.Parallel()
	from := traded(t, 20)
	want := documentsIn(t, from)
	seen, every := map[bool]int{}, 3
	if testing.Short() {
		every = 20
	}
	for stop := 1; stop < 60; stop += every {
		into := open(t, t.TempDir())
		st := staged(t, from, into)
		if _, err := st.Plan(ctx); err != nil {
			t.Fatal(err)
		}
		before := documentsIn(t, into)
		must(t, errOf(into.write.Exec(`INSERT INTO imports (id, name, state, began_at) VALUES (?, '', 'adding', '')`, st.ID())))
		cut, cancel := context.WithCancel(ctx)
		steps := 0
		count := func(int) {
			if steps++; steps == stop {
				cancel()
			}
		}
		err := st.add(cut, noon, count) // the process ends here
		if err == nil {
			err = st.finish(cut, noon, count)
		}
		shown := 0
		must(t, into.read.Get(&shown, `SELECT COUNT(*) FROM imports WHERE state <> 'adding'`))
		rows, logErr := into.Log(ctx, Filter{Limit: 100})
		must(t, logErr)
		if shelf, _ := into.BagNames(ctx, 10); shown == 0 && (len(rows) > 0 || len(shelf) > 0) {
			t.Fatalf("stopped after %d steps, %d brews and %d bags can be seen", stop, len(rows), len(shelf))
		}
		must(t, st.yard.Close())
		back, on, resumeErr := into.ResumeImports(ctx, noon)
		must(t, resumeErr)
		if err == nil && back+on > 0 || err != nil && back+on != 1 {
			t.Fatalf("%d taken back and %d continued after %v", back, on, err)
		}
		complete := slices.Equal(documentsIn(t, into), want)
		if !complete {
			same(t, documentsIn(t, into), before)
		}
		if seen[complete]++; complete {
			checkTotals(t, into)
		}
		must(t, into.Check(ctx))
		cancel()
	}
	if seen[true] == 0 || seen[false] == 0 {
		t.Errorf("%v: not both were tried", seen)
	}
}

// What a yard cannot hold is refused and the rest is planned. Mutation caught: a brew without its bag that is added.
func TestRecordsThatDoNotFitAreRefused(t *testing.T) {
	t.Parallel()
	from, into := traded(t, 4), open(t, t.TempDir())
	st, err := into.Stage(ctx)
	must(t, err)
	var all []Document
	must(t, from.EachRecord(ctx, Brews, time.Time{}, time.Time{}, func(d Document) error {
		all = append(all, d)
		return nil
	}))
	all[1].Text = strings.Replace(all[1].Text, `"pours":[`, `"pours":["soon",`, 1)
	must(t, st.Put(ctx, append(all, all[0])))
	counts, err := st.Plan(ctx)
	must(t, err)
	if len(counts) != 1 || counts[0].Action != Refused || counts[0].Records != len(all)+1 { // one twice
		t.Errorf("%+v", counts)
	}
	must(t, st.Close())
}

// Every column of a record is in its document, or is left out on purpose. Mutation caught: a new column that exports forget.
func TestDocumentsHaveEveryColumn(t *testing.T) {
	t.Parallel()
	s := open(t, t.TempDir())
	left := []string{"id", "version", "revision", "kind", "name_key", "import", "brew_id", "recipe_id", "contents"}
	check := func(table string, fields []string, also ...string) {
		t.Helper()
		columns, err := columnsOf(ctx, s.read, table)
		must(t, err)
		known := slices.Clone(also)
		for _, f := range fields {
			known = append(known, fieldOf(f).column)
		}
		for _, c := range columns {
			if !slices.Contains(known, c) && !slices.Contains(left, c) {
				t.Errorf("%s.%s is in no document", table, c)
			}
		}
		for _, c := range known {
			if !slices.Contains(columns, c) {
				t.Errorf("%s has no column %s", table, c)
			}
		}
	}
	for _, r := range records {
		switch r.table {
		case "removed": // neither its name nor who deleted it leaves the yard
			check(r.table, r.fields, "name", "by")
		case "people": // how much of the Recipe station they see is of this yard
			check(r.table, r.fields, "full_recipe")
		default:
			check(r.table, r.fields)
		}
		for _, l := range r.lists {
			if l.table == "corrections" {
				check(l.table, l.fields, "n")
				continue
			}
			check(l.table, l.fields)
		}
	}
}
