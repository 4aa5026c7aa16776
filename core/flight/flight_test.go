package flight

import (
	"errors"
	"math"
	"slices"
	"testing"
)

func three(t *testing.T, blind bool) Flight {
	t.Helper()
	f, err := New("f", "Kettle or jug", Ranked, blind, 7, []Cup{{Name: "Kettle"}, {Name: "Jug"}, {Name: "Spring"}})
	if err != nil {
		t.Fatal(err)
	}
	return f
}

// Nothing that is shown before the reveal identifies a cup.
func TestBlindLabelsHideNames(t *testing.T) {
	t.Parallel()
	f := three(t, true)
	seen := map[byte]bool{}
	for i := range f.Cups {
		label := f.Label(i)
		if len(label) != 3 || label == f.Cups[i].Name || seen[label[0]] {
			t.Errorf("cup %d is called %q", i, label)
		}
		seen[label[0]] = true
	}
	if open := f.Reveal(); open.Label(1) != "Jug" {
		t.Errorf("revealed as %q", open.Label(1))
	}
	again := three(t, true)
	if !slices.Equal(again.Order, f.Order) || again.Cups[2].Code != f.Cups[2].Code {
		t.Error("the same seed stands them in another order")
	}
	if _, err := f.Reveal().Taste(Hot, Tasting{Places: []int{1, 2, 3}}); !errors.Is(err, ErrRevealed) {
		t.Errorf("tasted blind after the reveal: %v", err)
	}
	if _, err := f.ByCode("12"); !errors.Is(err, ErrCode) {
		t.Errorf("an unknown code: %v", err)
	}
}

// Over many seeds each cup gets each position about equally often.
func TestOrderIsUniform(t *testing.T) {
	t.Parallel()
	const n = 3000
	counts := [3][3]int{}
	for seed := range n {
		f, _ := New("f", "", Ranked, true, uint64(seed), []Cup{{Name: "a"}, {Name: "b"}, {Name: "c"}})
		for place, cup := range f.Order {
			counts[cup][place]++
		}
	}
	for cup := range counts {
		for place, c := range counts[cup] {
			if math.Abs(float64(c)-n/3.) > 5*math.Sqrt(n*2/9.) {
				t.Errorf("cup %d is in position %d %d times of %d", cup, place, c, n)
			}
		}
	}
}

func TestStandings(t *testing.T) {
	t.Parallel()
	f := three(t, false)
	f, err := f.Taste(Hot, Tasting{Places: []int{2, 1, 3}})
	if err != nil {
		t.Fatal(err)
	}
	if f, err = f.Taste(Cooled, Tasting{Places: []int{1, 2, 0}}); err != nil {
		t.Fatal(err)
	}
	if s := f.Standings(); s[0].Mean != 1.5 || s[1].Mean != 1.5 || s[2].Cup != 2 {
		t.Errorf("%+v", s)
	}
	if _, err := f.Taste(Hot, Tasting{Places: []int{1, 1, 2}}); !errors.Is(err, ErrPlaces) {
		t.Errorf("two first places: %v", err)
	}
}

// Calculated by hand: 5 or 6 right of 6 by guessing is (12 + 1)/729 = 0.0178; 3 of 3 is 1/27.
func TestTriangleSignificance(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		right, of int
		p         float64
		told      bool
	}{{5, 6, 13. / 729, true}, {3, 3, 1. / 27, true}, {2, 3, 7. / 27, false}, {0, 4, 1, false}} {
		if p := atLeast(c.right, c.of); math.Abs(p-c.p) > 1e-9 {
			t.Errorf("%d of %d by guessing: %.4f, want %.4f", c.right, c.of, p, c.p)
		}
		f, err := New("f", "", OddOne, false, 3, []Cup{{Name: "a"}, {Name: "b"}})
		if err != nil {
			t.Fatal(err)
		}
		for i := range c.of {
			if f, err = f.Next(); err != nil {
				t.Fatal(err)
			}
			r := f.Rounds[i]
			pick := r.Codes[r.odd()]
			if i >= c.right {
				pick = r.Codes[(r.odd()+1)%3]
			}
			if f, err = f.Pick(pick); err != nil {
				t.Fatal(err)
			}
		}
		w := f.TestResult()
		if w.Right != c.right || w.Of != c.of || w.IsSignificant() != c.told || !c.told && w.IfAllRight == 0 {
			t.Errorf("%d of %d: %+v", c.right, c.of, w)
		}
	}
}

// Each round holds two of one cup and one of the other, and a code of another round is refused.
func TestRoundHasOneOddGlass(t *testing.T) {
	t.Parallel()
	f, _ := New("f", "", OddOne, false, 11, []Cup{{Name: "a"}, {Name: "b"}})
	places := map[int]int{}
	for range MaxRounds {
		var err error
		if f, err = f.Next(); err != nil {
			t.Fatal(err)
		}
		r := f.Rounds[len(f.Rounds)-1]
		sum := r.Cups[0] + r.Cups[1] + r.Cups[2]
		if sum != 1 && sum != 2 {
			t.Fatalf("the glasses hold %v", r.Cups)
		}
		places[r.odd()]++
		if _, err := f.Pick("000"); !errors.Is(err, ErrCode) {
			t.Errorf("a wrong code: %v", err)
		}
		if _, err := f.Next(); !errors.Is(err, ErrRounds) {
			t.Errorf("another round before this one is picked: %v", err)
		}
		if f, err = f.Pick(r.Codes[0]); err != nil {
			t.Fatal(err)
		}
	}
	if len(places) != 3 {
		t.Errorf("the odd glass stands only at %v", places)
	}
	if _, err := f.Next(); !errors.Is(err, ErrRounds) {
		t.Errorf("a round too many: %v", err)
	}
}
