package brew

import (
	"reflect"
	"testing"
	"time"

	"yardbloom/core/coach"
	"yardbloom/core/cup"
)

// drained returns a brew that drained in 205 s.
func drained(t *testing.T, id string, at time.Time) Brew {
	d := draft()
	d.ID = id
	b, err := Begin(d, Event{Kind: Start, Key: id, Instant: at, By: "ada"})
	if err == nil {
		b, err = b.Apply(Event{Key: id + " end", Kind: Finish, At: 205}, at.Add(206*time.Second))
	}
	if err != nil {
		t.Fatal(err)
	}
	return b
}

// Two people taste one brew: each has their taste, requests and advice, and both share the measurements.
// Mutations caught: a tasting that replaces another's, requests shared by all, a measurement kept by one.
func TestEachTasterHasTheirTasting(t *testing.T) {
	b := drained(t, "one", noon)
	sour, strong := map[cup.Sense]int{cup.Acidity: 5, cup.Sweetness: 1}, map[cup.Sense]int{cup.Body: 5, cup.Bitterness: 4}
	b, err := b.For("ada").Taste(cup.Cup{TDS: 1.2, Drawdown: 205, Taste: cup.Taste{Steps: sour, Overall: 4}}, coach.Person{})
	if err != nil {
		t.Fatal(err)
	}
	b = b.For("ben")
	if b.Cup.TDS != 1.2 || b.Cup.IsRecorded() || b.Advice != nil {
		t.Errorf("before Ben tasted, his cup is %+v with advice %v", b.Cup, b.Advice)
	}
	c := b.Cup
	c.Taste, c.Wants, c.TDS = cup.Taste{Steps: strong, Overall: 6}, map[cup.Want]bool{cup.Lighter: true}, 1.3
	if b, err = b.Taste(c, coach.Person{}); err != nil {
		t.Fatal(err)
	}
	ada, ben := b.For("ada"), b.For("ben")
	if ada.Cup.Overall != 4 || !reflect.DeepEqual(ada.Cup.Steps, sour) || len(ada.Cup.Wants) != 0 || ada.Cup.TDS != 1.3 {
		t.Errorf("Ada's cup is %+v", ada.Cup)
	}
	if ben.Cup.Overall != 6 || !ben.Cup.Wants[cup.Lighter] || ben.Advice.Rule != coach.AskedFor || ada.Advice.Rule == coach.AskedFor {
		t.Errorf("Ben's cup is %+v, advice %q; Ada's advice %q", ben.Cup, ben.Advice.Rule, ada.Advice.Rule)
	}
	if len(b.Tastings) != 2 || b.ForFirst().Taster != "ada" || b.For("nobody").Advice != nil {
		t.Errorf("%d tastings, the first by %q", len(b.Tastings), b.ForFirst().Taster)
	}
	if b.BrewedBy != "ada" {
		t.Errorf("brewed by %q", b.BrewedBy)
	}
}

// An earlier brew counts with the taster's own opinion. Mutation caught: the path as another person tasted it.
func TestPathIsTheTastersOwn(t *testing.T) {
	before := drained(t, "before", noon.Add(-24*time.Hour))
	taste := func(by string, mark int) {
		tasted, err := before.For(by).Taste(cup.Cup{Drawdown: 205, Taste: cup.Taste{Overall: mark,
			Steps: map[cup.Sense]int{cup.Acidity: 1 + mark/3}}}, coach.Person{})
		if err != nil {
			t.Fatal(err)
		}
		before = tasted
	}
	taste("ada", 9)
	taste("ben", 3)
	advice := func(by string, path ...Brew) coach.Advice {
		b, err := drained(t, "now", noon).For(by).Taste(cup.Cup{Drawdown: 205, Taste: cup.Taste{Overall: 5,
			Steps: map[cup.Sense]int{cup.Acidity: 4}}}, coach.Person{}, path...)
		if err != nil {
			t.Fatal(err)
		}
		return *b.Advice
	}
	if reflect.DeepEqual(advice("ada", before), advice("ben", before)) {
		t.Error("Ada and Ben get the same advice after different tastings")
	}
	if !reflect.DeepEqual(advice("ada", before), advice("ada", before.For("ben"))) {
		t.Error("the advice depends on who looked at the earlier brew")
	}
}
