// Package learn estimates the properties of a yard's grinders, filters, brewers and coffees from measured
// brews, as far as drawdown, weight and TDS determine them.
//
// Every parameter of the brew model belongs to something: size and fines to a grinder, the flow to a
// grinder with a filter, solubles and rate to a bag, resistance to a filter, retained liquid to a brewer.
// Some have a component common to the whole yard, so that a new bag or filter starts from what the others
// taught. Each brew updates the parameters it depends on (maximum a posteriori, with Laplace's
// approximation of the errors).
package learn

import (
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

// common is the share of a parameter's prior variance that is common to the yard. The deviations of poured
// water and kettle temperature differ with each brew and are not learned.
var common = map[forecast.Parameter]float64{
	forecast.Size: 0, forecast.Fines: 0, forecast.Flow: 0.4, forecast.Solubles: 0.4, forecast.Rate: 0.4, forecast.Paper: 0,
	forecast.Retained: 0.4,
}

// keys lists the effects (grinder, filter, bag, brewer) that add up to a sample's parameters.
func (s Sample) keys() map[forecast.Parameter][]key {
	of := map[forecast.Parameter]string{
		forecast.Size: s.Grinder, forecast.Fines: s.Grinder, forecast.Flow: s.Grinder + "|" + s.Filter,
		forecast.Solubles: s.Bag, forecast.Rate: s.Bag, forecast.Paper: s.Filter, forecast.Retained: s.Brewer,
	}
	out := map[forecast.Parameter][]key{}
	for p, share := range common {
		out[p] = []key{{p, of[p]}}
		if share > 0 {
			out[p] = append(out[p], key{p, ""})
		}
	}
	return out
}

// variance returns the prior variance of a key.
func (k key) variance() float64 {
	sd, share := forecast.Priors[k.p], common[k.p]
	if k.of == "" {
		return share * sd * sd
	}
	return (1 - share) * sd * sd
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
	Slow                   float64 // ln(drawdown) relative to the expectation from all samples
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
