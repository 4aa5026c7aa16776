package forecast

import (
	"cmp"
	"math"
	"slices"

	"yardbloom/core/sim"
	"yardbloom/core/units"
)

// A Parameter is an unknown of a brew that the recipe does not determine.
type Parameter int

// The parameters, each with the thing it belongs to.
const (
	Size     Parameter = iota // grinder: ln of the actual size relative to the dial's
	Fines                     // grinder: ln of the fines relative to those of its kind
	Flow                      // grinder and filter, and bag: ln of the bed's permeability relative to that computed from the sizes
	Solubles                  // bag: soluble share of the dose, relative to that of its roast
	Rate                      // bag: ln of the extraction rate, relative to that of its roast
	Paper                     // filter: ln of its resistance
	Retained                  // brewer: retained liquid relative to the usual, g/g
	Poured                    // brew: deviation of the poured water, g
	Heat                      // brew: deviation of the kettle's temperature from its display, °C
	Parameters
)

// Names holds the names of the parameters in the open format.
var Names = [Parameters]string{"size_ln", "fines_ln", "flow_ln", "solubles", "rate_ln", "paper_ln", "held_g_per_g", "poured_g", "kettle_c"}

// ParameterOf returns the parameter with a name.
func ParameterOf(name string) (Parameter, bool) {
	p := slices.Index(Names[:], name)
	return Parameter(p), p >= 0
}

// Priors holds the prior standard deviation of each parameter.
var Priors = [Parameters]float64{
	Size:     0.08,  // marks and zero of a dial
	Fines:    0.20,  // between burrs of one kind
	Flow:     0.26,  // packing and the approximations of the Kozeny-Carman equation, 0.19; between bags, 0.18
	Solubles: 0.012, // between coffees of one roast
	Rate:     0.13,  // between coffees of one roast
	Paper:    0.30,  // between papers of one kind
	Retained: 0.10,  // between brewers
	Poured:   2,     // hand, and delay of the scale
	Heat:     1,     // a kettle's thermometer
}

// Beliefs is the joint distribution of the parameters: their means, and a root of their covariance, whose
// columns are independent directions.
type Beliefs struct {
	Mean [Parameters]float64
	Root [Parameters][Parameters]float64
	// Brews is the number of measured brews behind the beliefs, Of the number of those of this bag.
	Brews, BagBrews int
}

// A Covariance is the covariance matrix of the parameters.
type Covariance [Parameters][Parameters]float64

// Root returns the lower Cholesky factor of a covariance. Variances below zero by rounding count as zero.
func (c Covariance) Root() (l [Parameters][Parameters]float64) {
	for i := range c {
		for j := range i + 1 {
			sum := c[i][j]
			for k := range j {
				sum -= l[i][k] * l[j][k]
			}
			switch {
			case i == j:
				l[i][i] = math.Sqrt(max(0, sum))
			case l[j][j] > 0:
				l[i][j] = sum / l[j][j]
			}
		}
	}
	return l
}

// Covariance returns the covariance matrix of the beliefs.
func (b *Beliefs) Covariance() (c Covariance) {
	for i := range c {
		for j := range c {
			for k := range c {
				c[i][j] += b.Root[i][k] * b.Root[j][k]
			}
		}
	}
	return c
}

// Prior returns the beliefs before any measurement.
func Prior() *Beliefs {
	var b Beliefs
	for p, sd := range Priors {
		b.Root[p][p] = sd
	}
	return &b
}

// Coarser returns the apparent deviation of a grind from its setting, by its drainage: ln of the size of a
// uniform grind with the same permeability. Without measured brews it is 0.
func (b *Beliefs) Coarser(g sim.Grind) float64 {
	if b == nil || b.Brews == 0 {
		return 0
	}
	as := WithParameters(sim.Brew{Grind: g}, b.Mean).Grind
	return math.Log(float64(as.Sauter()/g.Sauter())) + b.Mean[Flow]/2
}

// WithParameters returns a brew of the model with its parameters at theta.
func WithParameters(b sim.Brew, theta [Parameters]float64) sim.Brew {
	b.Grind.Median *= units.Micrometres(math.Exp(theta[Size]))
	b.Grind.Fines *= math.Exp(theta[Fines] - theta[Size]) // a finer setting produces more of them (sim.Mill)
	b.Grind.Flow = cmp.Or(b.Grind.Flow, 1) * math.Exp(theta[Flow])
	b.Coffee.Soluble += theta[Solubles]
	b.Coffee.Rate *= math.Exp(theta[Rate])
	b.Filter.Resistance *= math.Exp(theta[Paper])
	b.Brewer.ExtraRetained += theta[Retained]
	var water float64
	for _, p := range b.Pours {
		water += float64(p.Water)
	}
	pours := make([]sim.Pour, len(b.Pours))
	for i, p := range b.Pours {
		p.Water *= units.Grams(1 + theta[Poured]/max(1, water))
		p.Temperature = min(100, p.Temperature+units.Celsius(theta[Heat]))
		pours[i] = p
	}
	b.Pours = pours
	return b
}
