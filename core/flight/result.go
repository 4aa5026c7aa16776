package flight

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"gonum.org/v1/gonum/stat/distuv"
)

// guess is how often the odd one of three is found by guessing, and enough how seldom a result
// must come from guessing to be believed.
const guess, enough = 1. / 3, 0.05

// A Worth is what rounds of three glasses are worth.
type Worth struct {
	Right, Of int
	// ByGuessing is how likely somebody who cannot tell the cups apart does as well or better.
	ByGuessing float64
	// IfAllRight is how many more rounds would settle it if all of them were right, and AtThisRate
	// how many at the present share; 0 where it is settled, or cannot be at this rate.
	IfAllRight, AtThisRate int
}

// Told says that the cups can be told apart beyond reasonable doubt.
func (w Worth) Told() bool { return w.Of > 0 && w.ByGuessing < enough }

// Worth works out what the rounds so far are worth, by the binomial distribution.
func (f Flight) Worth() Worth {
	var w Worth
	for _, r := range f.Rounds {
		if r.Picked == "" {
			continue
		}
		w.Of++
		if r.Right() {
			w.Right++
		}
	}
	w.ByGuessing = atLeast(w.Right, w.Of)
	if w.Told() || w.Of == 0 {
		return w
	}
	for more := 1; more <= 30 && w.IfAllRight == 0; more++ {
		if atLeast(w.Right+more, w.Of+more) < enough {
			w.IfAllRight = more
		}
	}
	share := float64(w.Right) / float64(w.Of)
	for more := 1; more <= 60 && w.AtThisRate == 0 && share > guess+0.05; more++ {
		if atLeast(w.Right+int(math.Round(share*float64(more))), w.Of+more) < enough {
			w.AtThisRate = more
		}
	}
	return w
}

// atLeast is the probability of so many right or more by guessing.
func atLeast(right, of int) float64 {
	if right <= 0 {
		return 1
	}
	return 1 - distuv.Binomial{N: float64(of), P: guess}.CDF(float64(right-1))
}

// Says is the worth in a sentence.
func (w Worth) Says() string {
	if w.Of == 0 {
		return "Nothing was picked yet."
	}
	out := fmt.Sprintf("%d of %d right. Guessing does as well %s.", w.Right, w.Of, oneIn(w.ByGuessing))
	switch {
	case w.Told():
		return out + " You can tell them apart."
	case w.AtThisRate > 0:
		return out + fmt.Sprintf(" Not settled: at this rate about %s would settle it, or %d if all were right.", rounds(w.AtThisRate), w.IfAllRight)
	case w.IfAllRight > 0:
		return out + fmt.Sprintf(" Less than can be told: it would take %s, all of them right.", rounds(w.IfAllRight))
	}
	return out + " Less than can be told."
}

func rounds(n int) string {
	if n == 1 {
		return "one more round"
	}
	return fmt.Sprintf("%d more rounds", n)
}

// oneIn says a probability as people take it in.
func oneIn(p float64) string {
	switch {
	case p > 0.9:
		return "nearly always"
	case p >= 0.095:
		return fmt.Sprintf("in %.0f of 10 tries", 10*p)
	case p >= 0.0095:
		return fmt.Sprintf("in %.0f of 100 tries", 100*p)
	}
	return "in less than 1 of 100 tries"
}

// A Standing is a cup with its places added up; the lower the better.
type Standing struct {
	Cup    int
	Places []int // at each heat at which it was placed
	Mean   float64
}

// Standings are the cups by the mean of their places. A cup without one comes last.
func (f Flight) Standings() []Standing {
	out := make([]Standing, len(f.Cups))
	for i := range f.Cups {
		out[i] = Standing{Cup: i, Mean: math.Inf(1)}
		sum := 0
		for _, h := range Heats() {
			if t, ok := f.Tastings[h]; ok && i < len(t.Places) && t.Places[i] > 0 {
				out[i].Places = append(out[i].Places, t.Places[i])
				sum += t.Places[i]
			}
		}
		if n := len(out[i].Places); n > 0 {
			out[i].Mean = float64(sum) / float64(n)
		}
	}
	slices.SortStableFunc(out, func(a, b Standing) int {
		switch {
		case a.Mean < b.Mean:
			return -1
		case a.Mean > b.Mean:
			return 1
		}
		return 0
	})
	return out
}

// Verdict says what the places come to.
func (f Flight) Verdict() string {
	all := f.Standings()
	if len(all[0].Places) == 0 {
		return "Nothing was placed yet."
	}
	var first []string
	for _, h := range Heats() {
		t, ok := f.Tastings[h]
		if !ok {
			continue
		}
		if i := slices.Index(t.Places, 1); i >= 0 {
			first = append(first, fmt.Sprintf("%s first when %s", f.Label(i), h))
		}
	}
	out := strings.Join(first, ", ") + "."
	switch {
	case len(all) > 1 && all[0].Mean == all[1].Mean:
		return out + " Nothing to choose between the first two."
	case len(first) == 2:
		return out + fmt.Sprintf(" On the whole %s. One taster and one table: taste it again before you build on it.", f.Label(all[0].Cup))
	}
	return out + " Taste it again when it has cooled."
}
