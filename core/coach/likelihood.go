package coach

import (
	"math"

	"yardbloom/core/cup"
)

// The taste of cups away from a person's aim, in the five steps of a sense, and the likelihood of a person's words. The tables
// are trainers' experience, not measurements.

// A trait describes a sense: its step at the aim, and its change per point of excess yield, per 0.1 % of
// excess strength, per point of yield in either direction, and for an uneven bed. loose senses are those that some people use
// for strength; rising ones do not fall far below their step at the aim.
type trait struct {
	at, yield, strength, off, uneven float64
	loose, rising                    bool
}

var traits = map[cup.Sense]trait{
	cup.Acidity:    {2.9, -0.45, 0, 0, 1.2, true, false},
	cup.Bitterness: {2.2, 0.7, 0.15, 0, 1.4, true, false},
	cup.Dryness:    {1.8, 0.5, 0, 0, 0.8, false, true},
	cup.Sweetness:  {4.0, 0, 0, -0.65, -1.0, false, false},
	cup.Body:       {3.0, 0.05, 0.8, 0, 0, false, false},
	cup.Aftertaste: {3.5, 0, 0, -0.4, 0, false, false},
	cup.Clarity:    {3.5, -0.15, 0, 0, -0.9, false, false},
}

// step returns the expected step of a sense for a cup dy points and ds % away from the aim, with an unevenness from
// 0 to 1, before it saturates at 1 and 5.
func (t trait) step(who taster, dy, ds, uneven float64) float64 {
	strong := ds * 10
	if t.loose {
		dy, strong = who.means(dy, strong)
	}
	if t.rising {
		const lowest = -0.6 // points of yield
		dy = max(dy, lowest)
	}
	return t.at + t.yield*dy + t.strength*strong + t.off*math.Abs(dy) + t.uneven*uneven
}

// means returns a distance from the aim in points of yield and in 0.1 % of strength as a person who uses "sour" and "bitter" loosely
// means it.
func (t taster) means(dy, strong float64) (yield, strength float64) {
	const kept = 0.3 // of the yield, for a person who means strength alone
	return dy*(1-t.loose*(1-kept)) + t.loose*strong, strong * (1 - t.loose)
}

// A hearing is the log-likelihood of one word by the expected step, from a table, because every hypothesis needs it.
type hearing [hearings]float64

const (
	hearings            = 241
	hearFrom, hearEvery = -3.0, 0.05 // steps
)

// hear returns the hearing of a step, 1 to 5, with the noise of a tongue. The ends of the scale are open.
func hear(step int) (h hearing) {
	for i := range h {
		at := hearFrom + hearEvery*float64(i)
		lo, hi := 0.0, 1.0
		if step > 1 {
			lo = above((float64(step) - 0.5 - at) / ofSteps)
		}
		if step < 5 {
			hi = above((float64(step) + 0.5 - at) / ofSteps)
		}
		const slip = 0.03 // a word by mistake
		h[i] = math.Log(slip/5 + (1-slip)*max(0, hi-lo))
	}
	return h
}

func (h *hearing) at(step float64) float64 {
	return h[max(0, min(hearings-1, int((step-hearFrom)/hearEvery+0.5)))]
}

// flaws holds the log-likelihood ratio of a fault per point of missing yield, and for an uneven bed.
var flaws = map[cup.Fault]struct{ under, uneven float64 }{
	cup.Salty:  {1.6, 1.3},
	cup.Hollow: {1.3, 1.5},
}

// wishes describes the cups after which a person makes a request such as "sweeter": its dependence per
// point of excess yield, per 0.1 % of excess strength, and per point of yield in either direction.
var wishes = map[cup.Want]struct{ yield, strength, off float64 }{
	cup.Sweeter:  {-0.4, 0, 0.8},
	cup.Brighter: {1.2, 0, 0},
	cup.Lighter:  {0.3, 1.2, 0},
	cup.Stronger: {-0.2, -1.2, 0},
}

// The standard deviation of a person's words from these tables, in steps, and of a mark from the expected
// one; and the frequency of a bad bed by chance.
const (
	ofSteps, ofMarks = 0.6, 0.5
	badBed           = 1. / 8
	// togetherness is how much words of one cup repeat each other: n words count as n / (1 + togetherness (n − 1)).
	togetherness = 0.05
)

// expected returns the expected mark of a cup away from the aim, less for an uneven bed.
func (t taster) expected(dy, ds, uneven float64) float64 {
	return math.Max(1, t.liked(dy, ds)-unevenCosts*uneven)
}

// liked is the mark of an even cup without the lower end of the scale, so that bad cups are still ordered.
func (t taster) liked(dy, ds float64) float64 { return t.top - t.per*math.Hypot(dy, ds*10) }

const unevenCosts = 1.6

// above returns the standard normal distribution function at z, from a table, because every hypothesis needs it.
func above(z float64) float64 {
	return normal[max(0, min(len(normal)-1, int((z+normalTo)*normalPer+0.5)))]
}

// The table of the normal distribution: 0.005 apart, so that its error is below 0.001.
const normalTo, normalPer = 5, 200

var normal = func() (out [2*normalTo*normalPer + 1]float64) {
	for i := range out {
		out[i] = math.Erfc(-(float64(i)/normalPer-normalTo)/math.Sqrt2) / 2
	}
	return out
}()
