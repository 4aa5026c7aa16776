package brew

import (
	"fmt"
	"strings"
	"testing"

	"yardbloom/core/coach"
	"yardbloom/core/cup"
)

// Each tap that ends a pour reports it once with its number, the last one ends the brew, and a cup is reported each time it is saved. A
// mark and a tap that is taken back report nothing. Mutations caught: a pour that is reported again by the next tap, a wait that counts
// as a pour, an end without its pours.
func TestStepsOfABrewAreReportedOnce(t *testing.T) {
	b := begun(t)
	var said []string
	step := func(now Brew) {
		for _, h := range Happenings(b, now) {
			said = append(said, strings.TrimSpace(fmt.Sprintf("%s %d/%d", h.Kind, h.Pour, h.Of)))
		}
		b = now
	}
	step(after(t, b, Event{Kind: Advance, At: 12}))
	step(after(t, b, Event{Kind: MarkEvent, At: 14, Mark: cup.DrySpot}))
	step(after(t, b, Event{Kind: Undo, At: 16}))
	step(after(t, b, Event{Kind: Finish, At: 190}))
	if len(said) == 0 || said[0] != "pour-finished 1/4" || said[len(said)-1] != "brew-ended 0/4" {
		t.Fatalf("%v", said)
	}
	seen := map[string]bool{}
	for _, s := range said {
		if seen[s] {
			t.Errorf("%s is reported twice: %v", s, said)
		}
		seen[s] = true
	}
	for i := range 4 {
		if pour := fmt.Sprintf("pour-finished %d/4", i+1); !seen[pour] {
			t.Errorf("no %s: %v", pour, said)
		}
	}
	said = nil
	for _, tds := range []float64{1.3, 1.35} {
		now, err := b.For("").Taste(cup.Cup{Drawdown: 190, Beverage: 250, TDS: tds}, coach.Person{})
		if err != nil {
			t.Fatal(err)
		}
		step(now)
	}
	if fmt.Sprint(said) != "[cup-saved 0/4 cup-saved 0/4]" {
		t.Errorf("%v", said)
	}
	if len(Happenings(b, b)) > 0 {
		t.Error("an unchanged brew reports something")
	}
}
