package coach_test

import (
	"strings"
	"testing"

	"yardbloom/core/coach"
	"yardbloom/core/cup"
)

// People whose words mean strength are distinguished from others over some bags. Mutations caught: tasters that are not carried over,
// words that ignore the taster.
func TestLooseWordsAreFoundOut(t *testing.T) {
	t.Parallel()
	loose := func(w pupilWorld) (share float64) {
		const pupils = 6
		for n := range uint64(pupils) {
			p := newPupil(w, n)
			p.followBags(3)
			for i, chance := range p.Tongue.Tasters {
				share += chance * float64(min(1, i/3)) / pupils // the first three use the words as most people
			}
		}
		return share
	}
	plainly, loosely := loose(pupilWorlds[0]), loose(pupilWorlds[1])
	t.Logf("loose: %.2f of those who are, %.2f of others", loosely, plainly)
	if loosely < plainly+0.08 {
		t.Errorf("loose words are found in %.2f of those who use them, and in %.2f of others", loosely, plainly)
	}
	told := coach.Tongue{Tasters: []float64{0.05, 0.05, 0, 0.1, 0, 0, 0.6, 0.2, 0}}
	if said := strings.Join(told.Says(), " "); !strings.Contains(said, "mostly means strong") {
		t.Errorf("they are told %q", said)
	}
}

// A bias of a person's words is learned and no longer moves the aim. Mutation caught: a bias that is learned but not used.
func TestBiasOfAWordIsLearned(t *testing.T) {
	t.Parallel()
	c := cone(tastes("a4 b2 s4 o3"), mark(9))
	plain := coach.Advise(c)
	n := 12.0
	c.Tongue = &coach.Tongue{Words: map[cup.Sense]coach.Usage{cup.Acidity: {N: n, R: n}}} // always a step higher
	known := coach.Advise(c)
	if known.Map.Aim.Yield >= plain.Map.Aim.Yield {
		t.Errorf("high acidity of a person who always says so moves the aim to %.2f %%, of others to %.2f", known.Map.Aim.Yield, plain.Map.Aim.Yield)
	}
	if said := strings.Join(known.Tongue.Says(), " "); !strings.Contains(said, "acidity") {
		t.Errorf("they are told %q", said)
	}
}

// The plan for the rest of a bag adds up, changes at most in a third of the brews, and leaves the last two for drinking. Mutations
// caught: no purge, no loss, changes in the last brews.
func TestBagPlanAddsUp(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		name    string
		supply  coach.Supply
		settled bool
		chance  float64
		want    coach.BagPlan
	}{
		{"300 g of 18", coach.Supply{Left: 300, Dose: 18, Least: 10, Most: 30, Loss: 0.5, Purge: 2}, false, 0.4,
			coach.BagPlan{Brews: 15, Changes: 3, Dose: 18, Waste: 13.5, Over: 16.5}},
		{"300 g, settled", coach.Supply{Left: 300, Dose: 18, Least: 10, Most: 30, Loss: 0.5, Purge: 2}, true, 0,
			coach.BagPlan{Brews: 16, Dose: 18, Waste: 8, Over: 4}},
		{"15 out of 250 g", coach.Supply{Left: 250, Wanted: 15, Dose: 18, Least: 10, Most: 30, Loss: 0.5, Purge: 2}, true, 0,
			coach.BagPlan{Brews: 15, Dose: 16.1, Waste: 7.5, Over: 1}},
		{"60 g left", coach.Supply{Left: 60, Dose: 18, Least: 10, Most: 30, Loss: 0.2, Purge: 1}, false, 0.3,
			coach.BagPlan{Brews: 3, Changes: 1, Dose: 18, Waste: 1.6, Over: 4.4}},
		{"40 g left", coach.Supply{Left: 40, Dose: 18, Least: 10, Most: 30, Loss: 0.2, Purge: 1}, false, 0.3,
			coach.BagPlan{Brews: 2, Dose: 18, Waste: 0.4, Over: 3.6}},
		{"20 out of 100 g", coach.Supply{Left: 100, Wanted: 20, Dose: 18, Least: 10, Most: 30}, true, 0,
			coach.BagPlan{Brews: 10, Dose: 10, Short: true}},
		{"nothing left", coach.Supply{Left: 5, Dose: 18, Least: 10, Most: 30}, false, 0.3, coach.BagPlan{Dose: 18, Over: 5}},
	} {
		got := coach.PlanBag(c.supply, c.settled, c.chance)
		if d := got.Waste - c.want.Waste; d > 0.01 || d < -0.01 {
			t.Errorf("%s: %.2f g of waste, want %.2f", c.name, got.Waste, c.want.Waste)
		}
		if d := got.Over - c.want.Over; d > 0.01 || d < -0.01 {
			t.Errorf("%s: %.2f g left over, want %.2f", c.name, got.Over, c.want.Over)
		}
		got.Waste, got.Over, c.want.Waste, c.want.Over = 0, 0, 0, 0
		if got != c.want {
			t.Errorf("%s: %+v, want %+v", c.name, got, c.want)
		}
	}
}

// With one brew left nothing is tried that only teaches. Mutation caught: a value of learning that ignores the end of the bag.
func TestLastBrewIsForDrinking(t *testing.T) {
	t.Parallel()
	for _, said := range []string{"a5 b1 s2 o3", "a2 b4 s2 o4", "a3 b3 s2 o2"} {
		c := cone(tastes(said), mark(5))
		c.BrewsLeft = 1
		a := coach.Advise(c)
		for _, l := range a.First.Lines {
			if strings.Contains(l.Say, "teach") && l.By > 1e-9 {
				t.Errorf("%s: %q is worth %.3f for the last cup", said, l.Say, l.By)
			}
		}
	}
}

// The reasoning gives the advice without a sign, and it is true: the case without it gets that advice.
func TestAdviceWithoutASignIsTrue(t *testing.T) {
	t.Parallel()
	c := cone(tastes("a2 b5 s2 o3"), mark(5), wants(cup.Brighter))
	checked := 0
	for _, s := range coach.Advise(c).Signs {
		if s.Say != "You want it brighter." || s.Without == "" {
			continue
		}
		other := c
		other.Cup.Wants = nil
		if b := coach.Advise(other); b.First == nil || b.First.Say != s.Without {
			t.Errorf("without the wish: %q is said, and %+v is advised", s.Without, b.First)
		}
		checked++
	}
	t.Logf("%d signs", checked)
}

// Signs that repeat each other are named although none of them is missed alone. Mutation caught: evidence by leaving one out only.
func TestEvidenceNamesSignsThatRepeatEachOther(t *testing.T) {
	t.Parallel()
	a := coach.Advise(cone(tastes("a5 b5 s2 o3")))
	if a.Rule != string(coach.Uneven) || len(a.Evidence) < 2 {
		t.Errorf("%s, because of %q", a.Rule, a.Evidence)
	}
}
