package flight

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"gonum.org/v1/gonum/stat/distuv"
)

// guess is the probability of picking the odd one of three by guessing. enough is the p-value below which a
// result counts as significant.
const guess, significance = 1. / 3, 0.05

// A TestResult is the result of a series of triangle rounds.
type TestResult struct {
	Right, Of int
	// ByGuessing is the p-value: the probability that a taster who cannot distinguish the cups does as well
	// or better.
	ByGuessing float64
	// IfAllRight is the number of further rounds needed for significance if all of them are right,
	// AtThisRate the number at the present share; 0 if the result is significant already or cannot become
	// so.
	IfAllRight, AtThisRate int
}

// IsSignificant reports whether the cups are distinguishable at the 5 % level.
func (w TestResult) IsSignificant() bool { return w.Of > 0 && w.ByGuessing < significance }

// TestResult evaluates the rounds so far with the binomial distribution.
func (f Flight) TestResult() TestResult {
	var w TestResult
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
	if w.IsSignificant() || w.Of == 0 {
		return w
	}
	for more := 1; more <= 30 && w.IfAllRight == 0; more++ {
		if atLeast(w.Right+more, w.Of+more) < significance {
			w.IfAllRight = more
		}
	}
	share := float64(w.Right) / float64(w.Of)
	for more := 1; more <= 60 && w.AtThisRate == 0 && share > guess+0.05; more++ {
		if atLeast(w.Right+int(math.Round(share*float64(more))), w.Of+more) < significance {
			w.AtThisRate = more
		}
	}
	return w
}

// atLeast returns the probability of at least that many right answers by guessing.
func atLeast(right, of int) float64 {
	if right <= 0 {
		return 1
	}
	return 1 - distuv.Binomial{N: float64(of), P: guess}.CDF(float64(right-1))
}

// Sentence returns the result as a sentence.
func (w TestResult) Sentence() string {
	if w.Of == 0 {
		return "Nothing was picked yet."
	}
	out := fmt.Sprintf("%d of %d right. Guessing does as well %s.", w.Right, w.Of, oneIn(w.ByGuessing))
	switch {
	case w.IsSignificant():
		return out + " You can tell them apart."
	case w.AtThisRate > 0:
		return out + fmt.Sprintf(" Not settled: at this rate about %s would settle it, or %d if all were right.", rounds(w.AtThisRate),
			w.IfAllRight)
	case w.IfAllRight > 0:
		return out + fmt.Sprintf(" Not distinguishable yet: it takes %s, all of them right.", rounds(w.IfAllRight))
	}
	return out + " Not distinguishable."
}

func rounds(n int) string {
	if n == 1 {
		return "1 more round"
	}
	return fmt.Sprintf("%d more rounds", n)
}

// oneIn formats a probability as "one in n".
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

// A Standing is the summed places of a cup; lower is better.
type Standing struct {
	Cup    int
	Places []int // at each heat with a place
	Mean   float64
}

// Standings returns the cups sorted by mean place. A cup without places comes last.
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

// Verdict returns the result of a ranked flight as a sentence.
func (f Flight) Verdict() string {
	all := f.Standings()
	if len(all) == 0 || len(all[0].Places) == 0 {
		return "No cup has a place yet."
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
		return out + " The first two are equal."
	case len(first) == 2:
		return out + fmt.Sprintf(" Overall %s. This is one taster and one table: taste again before you rely on it.", f.Label(all[0].Cup))
	}
	return out + " Taste it again when it has cooled."
}
