// Package learn makes beliefs of measured brews: what this yard's grinders, filters,
// brewers and coffees are like, as far as drawdown, weight and TDS can tell.
//
// Every parameter of the brew model belongs to something: a grinder's size and
// fines, the flow through a grinder's bed on a filter, a bag's solubles and pace, a
// filter's resistance, a brewer's held liquid. Some have a share that the whole yard
// has in common, so that a new bag and a new filter start from what the others taught.
// Each brew moves the parameters that it depends on, by as much as it is surer than
// they are (the maximum a posteriori, with Laplace's errors).
package learn

import (
	"time"

	"gonum.org/v1/gonum/mat"

	"yardbloom/core/forecast"
	"yardbloom/core/gear"
)

// A Sample is a measured brew. What was not measured is 0.
type Sample struct {
	ID       string
	Name     string // for people
	At       time.Time
	Question forecast.Question // as it was brewed
	// What its parameters belong to. A grinder whose dial was changed is another one.
	Bag, Grinder, Filter, Brewer string
	Drawdown                     float64 // s
	Beverage                     float64 // g
	TDS                          float64 // %
	// Out leaves it out; In takes it though it is odd.
	Out, In bool
	// Simulated reports whether a simulated device measured any of the figures.
	Simulated bool
}

// GrinderKey is what a grinder's parameters belong to: the grinder with its dial as it
// is, since it was zeroed last.
func GrinderKey(g gear.Grinder) string {
	key := g.ID + "/" + string(g.Kind) + "/" + digits(float64(g.Zero)) + "/" + digits(float64(g.Step))
	if g.Zeroed > 0 {
		key += "/" + digits(float64(g.Zeroed))
	}
	return key
}

// A key is one parameter of one thing; the yard's own share where Of is empty.
type key struct {
	p  forecast.Parameter
	of string
}

// common is the share of a parameter's prior variance that all things of a yard have
// in common. Poured water and the kettle's heat are each brew's own and not learned.
var common = map[forecast.Parameter]float64{
	forecast.Size: 0, forecast.Fines: 0, forecast.Flow: 0.4, forecast.Solubles: 0.4, forecast.Rate: 0.4, forecast.Paper: 0, forecast.Held: 0.4,
}

// keys are what a sample's parameters are the sum of.
func (s Sample) keys() map[forecast.Parameter][]key {
	of := map[forecast.Parameter]string{
		forecast.Size: s.Grinder, forecast.Fines: s.Grinder, forecast.Flow: s.Grinder + "|" + s.Filter,
		forecast.Solubles: s.Bag, forecast.Rate: s.Bag, forecast.Paper: s.Filter, forecast.Held: s.Brewer,
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

// variance is the prior variance of a key.
func (k key) variance() float64 {
	sd, share := forecast.Priors[k.p], common[k.p]
	if k.of == "" {
		return share * sd * sd
	}
	return (1 - share) * sd * sd
}

// A Yard is what a yard has taught. The zero Yard has taught nothing.
type Yard struct {
	index map[key]int
	mean  []float64
	cov   *mat.SymDense
	// Seen are the samples, the oldest first, each with what was expected of it by
	// those before it.
	Seen []Seen
}

// Seen is a measured brew against what was expected of it.
type Seen struct {
	ID, Name, Bag, Grinder string
	At                     time.Time
	Expected               forecast.Outcome // by the brews before it
	Error                  forecast.Outcome // of that, one standard error
	Drawdown, Beverage     float64          // measured; 0 where they were not
	TDS                    float64
	Off                    float64 // the largest distance, in standard errors
	Odd                    bool    // further off than brews are: a spill, or a slip of the pen
	Out                    bool    // not learned from
	SaidOut, SaidIn        bool    // what somebody said of it
	Slow                   float64 // ln of the drawdown against what everything learned expects
	PerSize                float64 // ln of the drawdown per ln of size
}

// Brews is how many brews a yard has learned from.
func (y *Yard) Brews() (n int) {
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

// grow makes room for the keys of a sample, at their priors.
func (y *Yard) grow(s Sample) {
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

// Beliefs are what a yard believes of a brew's parameters; the prior where it has
// taught nothing of them.
func (y *Yard) Beliefs(s Sample) *forecast.Beliefs {
	if y == nil || len(y.Seen) == 0 {
		return forecast.Prior()
	}
	var out forecast.Beliefs
	keys := s.keys()
	var cov forecast.Covariance
	for p := range forecast.Parameters {
		if keys[p] == nil { // each brew's own
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
				out.Of++
			}
		}
	}
	return &out
}
