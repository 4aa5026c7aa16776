package coach

import "math"

// An aim is the probability distribution of a person's ideal cup of a coffee over yield and strength, in
// the model's coordinates. A biased grinder or a coffee that extracts faster shifts cups and aim alike and
// cancels. The distribution is kept jointly with whether the recipe lays an even or an uneven bed.
type aim struct {
	weight [beds][aimYields][aimStrengths]float64 // sums to 1
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

// usual is the prior of an aim.
var usual = Patch{Yield: 20.5, Strength: 1.38, YieldSpread: 2.2, StrengthSpread: 0.18}

func yieldAt(i int) float64    { return yieldFrom + yieldStep*float64(i) }
func strengthAt(j int) float64 { return strengthFrom + strongBy*float64(j) }

// newAim returns an aim with the distribution of a patch and a probability of an uneven bed.
func newAim(p Patch, unevenBed float64) *aim {
	a := new(aim)
	for i := range aimYields {
		for j := range aimStrengths {
			dy, ds := (yieldAt(i)-p.Yield)/p.YieldSpread, (strengthAt(j)-p.Strength)/p.StrengthSpread
			w := math.Exp(-(dy*dy + ds*ds - 2*p.Together*dy*ds) / (2 * (1 - p.Together*p.Together)))
			a.weight[even][i][j], a.weight[uneven][i][j] = (1-unevenBed)*w, unevenBed*w
		}
	}
	a.normalise()
	return a
}

// cells iterates over the grid: the distance of a cup from each aim, in points of yield and % of strength,
// and the aim's weight.
func (a *aim) cells(at spot, do func(dy, ds float64, bed int, w *float64)) {
	for bed := range a.weight {
		for i := range a.weight[bed] {
			dy := at.yield - yieldAt(i)
			for j := range a.weight[bed][i] {
				do(dy, at.strength-strengthAt(j), bed, &a.weight[bed][i][j])
			}
		}
	}
}

func (a *aim) normalise() {
	sum := 0.0
	a.cells(spot{}, func(_, _ float64, _ int, w *float64) { sum += *w })
	a.cells(spot{}, func(_, _ float64, _ int, w *float64) { *w /= sum })
}

// mend moves a share of the probability of an uneven bed to an even one, after a change of what lays the
// bed.
func (a *aim) mend(share float64) {
	for i := range aimYields {
		for j := range aimStrengths {
			moved := share * a.weight[uneven][i][j]
			a.weight[uneven][i][j] -= moved
			a.weight[even][i][j] += moved
		}
	}
}

// unevenBed returns the probability that the recipe lays an uneven bed.
func (a *aim) unevenBed() (p float64) {
	a.cells(spot{}, func(_, _ float64, bed int, w *float64) { p += float64(bed) * *w })
	return p
}

// patch returns the normal approximation of an aim.
func (a *aim) patch() Patch {
	var p Patch
	var yy, ss, ys float64
	for i := range aimYields {
		for j := range aimStrengths {
			w, y, s := a.weight[even][i][j]+a.weight[uneven][i][j], yieldAt(i), strengthAt(j)
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

// Widened returns the patch as the prior for another bag of the same kind, of which it keeps a part.
func (p Patch) Widened() *Patch {
	const kept = 0.5 // of the certainty
	mix := func(a, da, b, db float64) (float64, float64) {
		wa, wb := kept/(da*da), 1/(db*db)
		return (a*wa + b*wb) / (wa + wb), 1 / math.Sqrt(wa+wb)
	}
	const otherBag, otherStrength = 1.2, 0.1 // standard deviation between two bags of a kind
	var out Patch
	out.Yield, out.YieldSpread = mix(p.Yield, math.Hypot(p.YieldSpread, otherBag), usual.Yield, usual.YieldSpread)
	out.Strength, out.StrengthSpread = mix(p.Strength, math.Hypot(p.StrengthSpread, otherStrength), usual.Strength, usual.StrengthSpread)
	return &out
}
