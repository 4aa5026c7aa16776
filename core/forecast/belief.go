package forecast

import (
	"math"
	"slices"

	"yardbloom/core/sim"
	"yardbloom/core/units"
)

// A Parameter is something that a recipe does not say and a brew depends on.
type Parameter int

// The parameters, each with what it belongs to.
const (
	Size     Parameter = iota // grinder: ln of the grains' size against what its dial says
	Fines                     // grinder: ln of their share against its kind's
	Flow                      // grinder and filter: ln of the bed's permeability against what the sizes give
	Solubles                  // bag: share of the dose that water can take along, besides its roast's
	Rate                      // bag: ln of how fast it does
	Paper                     // filter: ln of its resistance
	Held                      // brewer: liquid that the grounds keep besides the usual, g/g
	Poured                    // brew: water poured besides what was meant, g
	Heat                      // brew: temperature of the kettle besides what it shows, °C
	Parameters
)

// Names are the parameters as an open format names them.
var Names = [Parameters]string{"size_ln", "fines_ln", "flow_ln", "solubles", "rate_ln", "paper_ln", "held_g_per_g", "poured_g", "kettle_c"}

// ParameterOf returns the parameter of a name.
func ParameterOf(name string) (Parameter, bool) {
	p := slices.Index(Names[:], name)
	return Parameter(p), p >= 0
}

// Priors are how far each parameter may lie from what the product takes for granted,
// one standard deviation, before anything was measured.
var Priors = [Parameters]float64{
	Size:     0.08,  // a dial's marks, and where its zero is
	Fines:    0.20,  // between burrs of one kind
	Flow:     0.22,  // packing, and all that Kozeny and Carman leave out
	Solubles: 0.012, // between coffees of one roast
	Rate:     0.13,  // between coffees of one roast
	Paper:    0.30,  // between papers of one kind
	Held:     0.10,  // between brewers
	Poured:   2,     // a hand and a scale's delay
	Heat:     1,     // a kettle's thermometer
}

// Beliefs are what is believed of the parameters: their means, and a root of their
// covariance, in whose columns they move independently.
type Beliefs struct {
	Mean [Parameters]float64
	Root [Parameters][Parameters]float64
	// Brews is how many measured brews of the yard they stand on, and Of how many of
	// this bag.
	Brews, Of int
}

// A Covariance is that of the parameters.
type Covariance [Parameters][Parameters]float64

// Root is the lower triangle whose square is a covariance (Cholesky). Rounding that
// leaves a variance below nothing counts as nothing.
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

// Covariance is what the beliefs' root stands for.
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

// Prior returns what is believed before anything was measured.
func Prior() *Beliefs {
	var b Beliefs
	for p, sd := range Priors {
		b.Root[p][p] = sd
	}
	return &b
}

// Coarser is how much coarser than it is set a grind seems, by how it drains: ln of the
// size of even grains that would let water through as much. Without measured brews it
// is 0.
func (b *Beliefs) Coarser(g sim.Grind) float64 {
	if b == nil || b.Brews == 0 {
		return 0
	}
	as := Turned(sim.Brew{Grind: g}, b.Mean).Grind
	return math.Log(float64(as.Sauter()/g.Sauter())) + b.Mean[Flow]/2
}

// Turned returns a brew of the model with its parameters where theta says.
func Turned(b sim.Brew, theta [Parameters]float64) sim.Brew {
	b.Grind.Median *= units.Micrometres(math.Exp(theta[Size]))
	b.Grind.Fines *= math.Exp(theta[Fines] - theta[Size]) // a grinder that is set finer makes more of them (sim.Mill)
	b.Grind.Flow = math.Exp(theta[Flow])
	b.Coffee.Soluble += theta[Solubles]
	b.Coffee.Rate *= math.Exp(theta[Rate])
	b.Filter.Resistance *= math.Exp(theta[Paper])
	b.Brewer.Keeps += theta[Held]
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
