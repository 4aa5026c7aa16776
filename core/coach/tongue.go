package coach

import (
	"fmt"
	"math"
	"strings"

	"yardbloom/core/cup"
)

// A Tongue is how a person uses words and marks, learned from the tastings of earlier bags.
type Tongue struct {
	// Tasters holds the probability of each taster of the table.
	Tasters []float64
	Words   map[cup.Sense]Usage
}

// A Usage accumulates a person's words for a sense, for a regression of the word on the expected step: their number, and sums over the
// expected distance from the step at the aim, x, and the excess of the word over the expected step, r.
type Usage struct{ N, X, R, XX, XR float64 }

// Prior standard deviations of a person's bias, in steps, and of the relative slope of their words; noise of one word.
const (
	biasSpread  = 0.35
	slopeSpread = 0.25
	wordNoise   = 0.8
)

func (u Usage) plus(o Usage) Usage {
	return Usage{u.N + o.N, u.X + o.X, u.R + o.R, u.XX + o.XX, u.XR + o.XR}
}

// fit returns the bias of the words, in steps, and their relative slope: ridge regression, which is the mean of the posterior.
func (u Usage) fit() (bias, slope float64) {
	a, b := u.N+square(wordNoise/biasSpread), u.XX+square(wordNoise/slopeSpread)
	det := a*b - u.X*u.X
	bias, slope = (b*u.R-u.X*u.XR)/det, (a*u.XR-u.X*u.R)/det
	return bias, max(-0.6, min(0.8, slope))
}

// heardAs returns the step at which a person uses a word for a sense that most people would call step.
func (t *Tongue) heardAs(s cup.Sense) func(step float64) float64 {
	if t == nil || t.Words[s].N == 0 {
		return func(step float64) float64 { return step }
	}
	bias, slope := t.Words[s].fit()
	at := traits[s].at
	return func(step float64) float64 { return step + bias + slope*(step-at) }
}

// priors returns the probabilities of the tasters for another bag: mostly those known, since people change little.
func (t *Tongue) priors() (out [tastes]float64) {
	const kept = 0.97
	for i, who := range tasters {
		out[i] = who.prior
		if t != nil && len(t.Tasters) == tastes {
			out[i] = kept*t.Tasters[i] + (1-kept)*who.prior
		}
	}
	return out
}

// tongue returns how this person uses words, by the earlier bags and the cups of this one.
func (w *weighing) tongue() *Tongue {
	out := &Tongue{Tasters: make([]float64, tastes), Words: map[cup.Sense]Usage{}}
	for i := range w.aim.weight {
		for bed := range beds {
			for _, row := range w.aim.weight[i][bed] {
				for _, p := range row {
					out.Tasters[i] += p
				}
			}
		}
	}
	if w.Tongue != nil {
		for s, u := range w.Tongue.Words {
			out.Words[s] = u
		}
	}
	for i, past := range w.path {
		for s, t := range traits {
			step := past.step(s)
			if step == 0 || past.Cup.Likes[s] != 0 || w.badBeds[i] > 0.5 {
				continue
			}
			expected := w.truths.mean(func(of *truth) float64 {
				return t.step(of.who, w.cups[i].yield-of.y, w.cups[i].strength-of.s, w.badBeds[i])
			})
			x := max(1, min(5, expected)) - t.at
			r := float64(step) - t.at - x
			out.Words[s] = out.Words[s].plus(Usage{1, x, r, x * x, x * r})
		}
	}
	return out
}

// Says describes a person's words and marks in sentences; none before they differ from most people's.
func (t *Tongue) Says() (out []string) {
	if t == nil {
		return nil
	}
	if len(t.Tasters) == tastes {
		loose, strict, mild := 0.0, 0.0, 0.0
		for i, p := range t.Tasters {
			loose += tasters[i].loose * p
			switch {
			case tasters[i].per >= 2:
				strict += p
			case tasters[i].per < 1:
				mild += p
			}
		}
		const surely = 0.65
		if loose > surely {
			out = append(out, "Your “bitter” mostly means strong, and your “sour” mostly means weak.")
		}
		if strict > surely {
			out = append(out, "Your marks fall quickly for a cup that is a little off your taste.")
		}
		if mild > surely {
			out = append(out, "Your marks are mild: also cups that are well off your taste get a good one.")
		}
	}
	const words, apart = 5, 0.35 // at least; steps
	for _, sc := range cup.Scales() {
		if _, known := traits[sc.Sense]; !known {
			continue
		}
		u := t.Words[sc.Sense]
		if bias, _ := u.fit(); u.N >= words && math.Abs(bias) > apart {
			out = append(out, fmt.Sprintf("Your words for %s are %s than most people’s for the same cup.", strings.ToLower(sc.Name),
				oneOf(bias > 0, "higher", "lower")))
		}
	}
	return out
}
