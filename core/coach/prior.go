package coach

import "math"

// A taster is a hypothesis about how a person uses words and marks.
type taster struct {
	// loose is the share of "sour" and "bitter" that means weak and strong, 0 to 1.
	loose float64
	top   float64 // mark of the best cup
	per   float64 // marks for a point of yield or 0.1 % of strength away from the aim
	prior float64
}

// tasters are the hypotheses with their priors: most people mean sourness by "sour", some mostly weakness; marks fall slowly or
// steeply with the distance from the aim.
var tasters = crossed([]part{{0, 0.72}, {0.5, 0.12}, {1, 0.16}}, []scale{{9.2, 0.9, 0.35}, {9.6, 1.4, 0.35}, {10, 2, 0.3}})

type part struct{ loose, prior float64 }
type scale struct{ top, per, prior float64 }

// tastes is the number of tasters.
const tastes = 9

func crossed(words []part, marks []scale) (out [tastes]taster) {
	for i, w := range words {
		for j, m := range marks {
			out[i*len(marks)+j] = taster{w.loose, m.top, m.per, w.prior * m.prior}
		}
	}
	return out
}

// An aim is the joint probability distribution of a person's ideal cup of a coffee over yield and strength, of the taster that
// they are, and of whether the recipe lays an even bed. Yield and strength are in the model's coordinates: a biased grinder or a
// coffee that extracts faster shifts cups and aim alike and cancels.
type aim struct {
	weight [tastes][beds][aimYields][aimStrengths]float64 // sums to 1
}

// Whether a recipe lays an even or an uneven bed.
const (
	even = iota
	uneven
	beds
)

// The grid of aims.
const (
	aimYields, aimStrengths = 33, 25
	yieldFrom, yieldStep    = 14.5, 0.375 // %
	strengthFrom, strongBy  = 0.84, 0.045 // %
)

// A Patch is a normal distribution over yield and strength: means, standard deviations and correlation, -1
// to 1. In %, in the model's coordinates.
type Patch struct {
	Yield, Strength             float64
	YieldSpread, StrengthSpread float64
	Together                    float64
}

// usual is the prior of an aim. A fifth of it has twice the spread, because some people like cups far from the average.
var usual = Patch{Yield: 20.8, Strength: 1.38, YieldSpread: 1.5, StrengthSpread: 0.15}

const (
	farShare = 0.2
	farther  = 2.0
)

func yieldAt(i int) float64    { return yieldFrom + yieldStep*float64(i) }
func strengthAt(j int) float64 { return strengthFrom + strongBy*float64(j) }

// newAim returns an aim with the distribution of a patch with heavy tails, probabilities of the tasters,
// and a probability of an uneven bed.
func newAim(p Patch, who [tastes]float64, unevenBed float64) *aim {
	a := new(aim)
	for i := range aimYields {
		for j := range aimStrengths {
			dy, ds := (yieldAt(i)-p.Yield)/p.YieldSpread, (strengthAt(j)-p.Strength)/p.StrengthSpread
			square := (dy*dy + ds*ds - 2*p.Together*dy*ds) / (2 * (1 - p.Together*p.Together))
			w := (1-farShare)*math.Exp(-square) + farShare/(farther*farther)*math.Exp(-square/(farther*farther))
			for t := range tasters {
				a.weight[t][even][i][j], a.weight[t][uneven][i][j] = (1-unevenBed)*w*who[t], unevenBed*w*who[t]
			}
		}
	}
	a.normalise()
	return a
}

// total returns the probability of a cell of the grid.
func (a *aim) total(i, j int) (p float64) {
	for t := range a.weight {
		p += a.weight[t][even][i][j] + a.weight[t][uneven][i][j]
	}
	return p
}

func (a *aim) normalise() {
	sum := 0.0
	for i := range aimYields {
		for j := range aimStrengths {
			sum += a.total(i, j)
		}
	}
	for t := range a.weight {
		for bed := range a.weight[t] {
			for i := range a.weight[t][bed] {
				for j := range a.weight[t][bed][i] {
					a.weight[t][bed][i][j] /= sum
				}
			}
		}
	}
}

// mend moves a share of the probability of an uneven bed to an even one, after a change of what lays the
// bed.
func (a *aim) mend(share float64) {
	for t := range a.weight {
		for i := range aimYields {
			for j := range aimStrengths {
				moved := share * a.weight[t][uneven][i][j]
				a.weight[t][uneven][i][j] -= moved
				a.weight[t][even][i][j] += moved
			}
		}
	}
}

// patch returns the normal approximation of an aim.
func (a *aim) patch() Patch {
	var p Patch
	var yy, ss, ys float64
	for i := range aimYields {
		for j := range aimStrengths {
			w, y, s := a.total(i, j), yieldAt(i), strengthAt(j)
			p.Yield, p.Strength = p.Yield+w*y, p.Strength+w*s
			yy, ss, ys = yy+w*y*y, ss+w*s*s, ys+w*y*s
		}
	}
	// The grid limits the resolution of the spread.
	p.YieldSpread = math.Sqrt(math.Max(yy-p.Yield*p.Yield, yieldStep*yieldStep/12))
	p.StrengthSpread = math.Sqrt(math.Max(ss-p.Strength*p.Strength, strongBy*strongBy/12))
	p.Together = max(-0.95, min(0.95, (ys-p.Yield*p.Strength)/(p.YieldSpread*p.StrengthSpread)))
	return p
}

// unsure returns the patch with an error of the model: a coffee extracts a little more or less than predicted, which moves yield and
// strength in proportion.
func (p Patch) unsure(yield float64) Patch {
	strength := yield / p.Yield * p.Strength
	return p.plus(yield, strength, yield*strength)
}

// plus returns the patch with an independent deviation: its standard deviations and its covariance.
func (p Patch) plus(yield, strength, covariance float64) Patch {
	covariance += p.Together * p.YieldSpread * p.StrengthSpread
	p.YieldSpread, p.StrengthSpread = math.Hypot(p.YieldSpread, yield), math.Hypot(p.StrengthSpread, strength)
	p.Together = covariance / (p.YieldSpread * p.StrengthSpread)
	return p
}

// Widened returns the patch as the prior for another bag of the same kind. Coffees of a kind differ, and unmeasured ones also in how far
// the model is off.
func (p Patch) Widened() *Patch {
	const otherBag, otherStrength = 1.0, 0.08 // standard deviation between two bags of a kind
	p = p.plus(otherBag, otherStrength, 0)
	return &p
}

// layouts lists the properties of a recipe that make an uneven bed more likely.
var layouts = []struct {
	sign sign
	adds float64 // to the probability
}{
	{noHand, 0.1}, {smallBloom, 0.15}, {thinBed, 0.15},
}
