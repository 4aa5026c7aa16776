// Package learn estimates the properties of a yard's grinders, filters, brewers and coffees from measured
// brews, as far as drawdown, weight and TDS determine them.
//
// Every parameter of the brew model is a sum of effects: size and fines of a grinder, the flow of a grinder
// with a filter and of a bag, solubles and rate of a bag, resistance of a filter, retained liquid of a
// brewer. Some have a component common to the whole yard, so that a new bag or filter starts from what the
// others taught. A grinder's size is a slow random walk. Each brew updates the parameters it depends on (maximum a posteriori, with Laplace's
// approximation of the errors).
package learn

import (
	"strings"
	"time"

	"gonum.org/v1/gonum/mat"

	"yardbloom/core/forecast"
	"yardbloom/core/gear"
)

// A Sample is a measured brew. A figure of 0 was not measured.
type Sample struct {
	ID       string
	Name     string // for people
	At       time.Time
	Question forecast.Question // as brewed
	// The things that its parameters belong to. A grinder with a changed dial counts as another one.
	Bag, Grinder, Filter, Brewer string
	Drawdown                     float64 // s
	Beverage                     float64 // g
	TDS                          float64 // %
	// Out excludes the sample; In includes it although it is an outlier.
	Out, In bool
	// Simulated reports whether a simulated device measured any of the figures.
	Simulated bool
}

// GrinderKey returns the key of a grinder's parameters: the grinder, its dial and its last calibration.
func GrinderKey(g gear.Grinder) string {
	key := g.ID + "/" + string(g.Kind) + "/" + digits(float64(g.Zero)) + "/" + digits(float64(g.Step))
	if g.Zeroed > 0 {
		key += "/" + digits(float64(g.Zeroed))
	}
	return key
}

// A key is a parameter of a thing, or the yard's common component if Of is empty.
type key struct {
	p  forecast.Parameter
	of string
}

// A part is a share of a parameter's prior variance, with the thing that it belongs to.
type part struct {
	share float64
	of    func(Sample) string // empty for the component common to the yard
}

func yard(Sample) string       { return "" }
func bag(s Sample) string      { return s.Bag }
func grinder(s Sample) string  { return s.Grinder }
func filter(s Sample) string   { return s.Filter }
func brewer(s Sample) string   { return s.Brewer }
func packing(s Sample) string  { return s.Grinder + "|" + s.Filter }
func bagsFlow(s Sample) string { return bagPrefix + s.Bag }

// bagPrefix distinguishes the flow of a bag from that of a grinder with a filter.
const bagPrefix = "bag "

// parts lists the effects that add up to each parameter. The deviations of poured water and kettle temperature differ with
// each brew and are not learned.
var parts = map[forecast.Parameter][]part{
	forecast.Size:     {{1, grinder}},
	forecast.Fines:    {{1, grinder}},
	forecast.Flow:     {{0.31, packing}, {0.48, bagsFlow}, {0.21, yard}}, // 0.18 between bags, 0.19 the rest
	forecast.Solubles: {{0.6, bag}, {0.4, yard}},
	forecast.Rate:     {{0.6, bag}, {0.4, yard}},
	forecast.Paper:    {{1, filter}},
	forecast.Retained: {{0.6, brewer}, {0.4, yard}},
}

// keys lists the effects (grinder, filter, bag, brewer) that add up to a sample's parameters.
func (s Sample) keys() map[forecast.Parameter][]key {
	out := map[forecast.Parameter][]key{}
	for p, all := range parts {
		for _, one := range all {
			out[p] = append(out[p], key{p, one.of(s)})
		}
	}
	return out
}

// variance returns the prior variance of a key.
func (k key) variance() float64 {
	sd, all := forecast.Priors[k.p], parts[k.p]
	i := 0
	switch {
	case k.of == "":
		i = len(all) - 1
	case strings.HasPrefix(k.of, bagPrefix):
		i = 1
	}
	return all[i].share * sd * sd
}

// A Knowledge is what a yard has learned. The zero value has learned nothing.
type Knowledge struct {
	index map[key]int
	mean  []float64
	cov   *mat.SymDense
	// Seen holds the samples, the oldest first, each with its expectation from the earlier ones.
	Seen []Seen
}

// Seen is a measured brew with its expectation.
type Seen struct {
	ID, Name, Bag, Grinder string
	At                     time.Time
	Expected               forecast.Outcome // from the earlier brews
	Error                  forecast.Outcome // standard errors of Expected
	Drawdown, Beverage     float64          // measured; 0 if not
	TDS                    float64
	Off                    float64 // the largest deviation, in standard errors
	Odd                    bool    // an outlier: a spill or a typo
	Out                    bool    // excluded
	SaidOut, SaidIn        bool    // the person's decision
	Slow                   float64 // ln(drawdown) relative to the expectation for an ordinary bag, from all samples
	PerSize                float64 // derivative of ln(drawdown) with respect to ln(size)
}

// Brews returns the number of brews that were learned from.
func (y *Knowledge) Brews() (n int) {
	if y == nil {
		return 0
	}
	for _, s := range y.Seen {
		if !s.Out {
			n++
		}
	}
	return n
}

// grow adds the keys of a sample at their priors.
func (y *Knowledge) grow(s Sample) {
	if y.index == nil {
		y.index = map[key]int{}
	}
	keys := s.keys()
	for p := range forecast.Parameters {
		for _, k := range keys[p] {
			if _, known := y.index[k]; known {
				continue
			}
			n := len(y.mean)
			y.index[k] = n
			y.mean = append(y.mean, 0)
			cov := mat.NewSymDense(n+1, nil)
			for i := range n {
				for j := i; j < n; j++ {
					cov.SetSym(i, j, y.cov.At(i, j))
				}
			}
			cov.SetSym(n, n, k.variance())
			y.cov = cov
		}
	}
}

// Beliefs returns the distribution of a brew's parameters; the prior for those without samples.
func (y *Knowledge) Beliefs(s Sample) *forecast.Beliefs {
	if y == nil || len(y.Seen) == 0 {
		return forecast.Prior()
	}
	var out forecast.Beliefs
	keys := s.keys()
	var cov forecast.Covariance
	for p := range forecast.Parameters {
		if keys[p] == nil { // different with each brew
			cov[p][p] = forecast.Priors[p] * forecast.Priors[p]
		}
		for _, k := range keys[p] {
			i, known := y.index[k]
			if !known {
				cov[p][p] += k.variance()
				continue
			}
			out.Mean[p] += y.mean[i]
			for r := range forecast.Parameters {
				for _, l := range keys[r] {
					if j, known := y.index[l]; known {
						cov[p][r] += y.cov.At(i, j)
					}
				}
			}
		}
	}
	out.Root = cov.Root()
	for _, seen := range y.Seen {
		if !seen.Out {
			out.Brews++
			if seen.Bag == s.Bag {
				out.BagBrews++
			}
		}
	}
	return &out
}
