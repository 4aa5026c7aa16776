package device

import (
	"math"
	"math/rand/v2"

	"yardbloom/core/forecast"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// A Manner is how somebody pours.
type Manner struct {
	Late, LateSpread units.Seconds // after a pour is due
	Over, OverSpread units.Grams   // what goes in after the total was reached
	Unsteady         float64       // of the rate, as a share of it
	Lifts            float64       // share of the swirls for which the brewer is lifted off the scale
}

// Manners of people.
var (
	Practised = Manner{Late: 0.5, LateSpread: 0.4, Over: 0.3, OverSpread: 0.7, Unsteady: 0.06, Lifts: 0.3}
	Usual     = Manner{Late: 0.9, LateSpread: 0.8, Over: 1, OverSpread: 2, Unsteady: 0.12, Lifts: 0.5}
	Hurried   = Manner{Late: 6, LateSpread: 3, Over: 2, OverSpread: 3, Unsteady: 0.2, Lifts: 0.5}
	Heavy     = Manner{Late: 1, LateSpread: 0.8, Over: 9, OverSpread: 3, Unsteady: 0.15, Lifts: 0.5}
)

// Manners are the manners by name.
var Manners = map[string]Manner{"practised": Practised, "usual": Usual, "hurried": Hurried, "heavy": Heavy}

// breath is the least time between two pours, s: the spout goes up, the eye goes to the screen.
const breath = 2

// What stands on the scale besides the water, g.
const (
	brewerWeight units.Grams = 140
	CarafeWeight units.Grams = 260
)

// A Hand is a stand-in for a person who pours a recipe over a scale: a little late,
// unsteady, over by some grams. What runs through the bed, and when the brewer is lifted
// off, comes from the brew model.
type Hand struct {
	manner   Manner
	question forecast.Question
	rng      *rand.Rand

	t       float64
	total   float64 // poured
	step    int     // of the plan, that is done or comes next
	due     float64 // when it begins to pour; NaN: not made up its mind yet
	target  float64
	flow    float64 // g/s
	wander  float64
	pouring bool
	turns   float64 // from then on it swirls or stirs
	free    float64 // until then
	lifted  bool    // and the brewer is off the scale for it
	done    []recipe.Pour
	end     float64 // when it lifts the brewer off; NaN: not known yet
	model   forecast.Forecast
	modelOf int // how many pours the model has seen
	Poured  []Poured
}

// Poured is what a hand really did.
type Poured struct {
	Start, End units.Seconds
	Total      units.Grams
}

// Stands is what is on the scale before the first water.
func (h *Hand) Stands() Load {
	return Load{Grams: brewerWeight + CarafeWeight + h.question.Recipe.Dose}
}

// TaredScale is a stand-in scale that was tared with all that stands on it before the first water.
func (h *Hand) TaredScale(seed uint64) *ScaleStandIn {
	const rests = 10 // steps
	s := NewScaleStandIn(seed, 1)
	for range rests {
		s.Step(h.Stands())
	}
	s.Tare()
	return s
}

// NewHand returns a hand that is about to brew a recipe, in the same way for the same seed.
func NewHand(seed uint64, m Manner, q forecast.Question) *Hand {
	return &Hand{manner: m, question: q, rng: rand.New(rand.NewPCG(seed, 3)), due: math.NaN(), end: math.NaN()}
}

// LiftAt lets it lift the brewer off at a second that is known already, and not when the model
// has the last steady stream end.
func (h *Hand) LiftAt(end units.Seconds) { h.end = float64(end) }

// Total is what it has poured.
func (h *Hand) Total() units.Grams { return units.Grams(h.total) }

// Off is when the brewer was lifted off for good; false while it stands.
func (h *Hand) Off() (units.Seconds, bool) {
	return units.Seconds(h.end), !math.IsNaN(h.end) && h.t >= h.end
}

// Gone says that the brewer has stood beside the scale for some seconds: the hand has finished.
func (h *Hand) Gone() bool {
	const looks = 9
	return !math.IsNaN(h.end) && h.t >= h.end+looks
}

// Step lets Every pass, with the plan as it stands at that moment, and returns what is
// on the scale: the brewer with the coffee in it over its carafe, and the water.
func (h *Hand) Step(plan recipe.Plan) Load {
	h.t += Every
	switch {
	case h.pouring:
		h.pour(plan.Steps[h.step])
	case h.step < len(plan.Steps):
		h.wait(plan)
	case math.IsNaN(h.end):
		h.drain()
	}
	acts := h.turns <= h.t && h.t < h.free
	on := h.Stands()
	on.Grams, on.Swirl = on.Grams+h.Total(), acts && !h.lifted
	if h.pouring {
		on.Stream = h.flow
	}
	if _, off := h.Off(); off || acts && h.lifted {
		on.Grams = CarafeWeight + h.below()
	}
	return on
}

// wait waits until the next step is due.
func (h *Hand) wait(plan recipe.Plan) {
	s := plan.Steps[h.step]
	if math.IsNaN(h.due) {
		h.due = math.Max(-1, float64(h.manner.Late)+float64(h.manner.LateSpread)*h.rng.NormFloat64())
		if h.step == 0 {
			h.due = 0 // the first water is when the brew begins
		}
	}
	if h.t < float64(s.Start)+h.due || h.t < h.free || len(h.Poured) > 0 && h.t < float64(h.Poured[len(h.Poured)-1].End)+breath {
		return
	}
	h.due = math.NaN()
	if s.Act != recipe.PourWater {
		h.turns, h.free, h.lifted = h.t, h.t+float64(s.Lasts), false
		h.step++
		return
	}
	h.pouring, h.flow, h.wander = true, 0, 0
	h.target = float64(s.Total) + math.Max(-3, float64(h.manner.Over)+float64(h.manner.OverSpread)*h.rng.NormFloat64())
	h.target = math.Max(h.target, h.total+5)
	h.done = append(h.done, h.question.Recipe.Pours[min(len(h.done), len(h.question.Recipe.Pours)-1)])
	h.done[len(h.done)-1].Start, h.done[len(h.done)-1].WhenDrained = units.Seconds(h.t), false
	h.Poured = append(h.Poured, Poured{Start: units.Seconds(h.t)})
}

// pour tips the kettle for one step of time: the hand needs a moment to get to its rate
// and to stop, and wanders about it.
func (h *Hand) pour(s recipe.Step) {
	const slow, wanders = 0.3, 1.5 // s
	h.wander += -h.wander*Every/wanders + h.manner.Unsteady*math.Sqrt(2*Every/wanders)*h.rng.NormFloat64()
	wanted := s.Rate * math.Max(0.35, 1+h.wander)
	left := h.target - h.total
	wanted = math.Min(wanted, math.Max(0.8, left/slow))
	h.flow += (wanted - h.flow) * (1 - math.Exp(-Every/slow))
	water := math.Min(h.flow*Every, left)
	h.total += water
	if h.total < h.target-1e-9 {
		return
	}
	h.pouring = false
	last, p := &h.Poured[len(h.Poured)-1], &h.done[len(h.done)-1]
	last.End, last.Total = units.Seconds(h.t), units.Grams(h.total)
	before := 0.0
	if n := len(h.Poured); n > 1 {
		before = float64(h.Poured[n-2].Total)
	}
	p.Water = units.Grams(h.total - before)
	p.Rate = float64(p.Water) / math.Max(0.5, float64(last.End-last.Start))
	if s.Then != recipe.NoHand {
		const after, lasts = 1.2, 3.5 // s: the kettle is put down first
		h.lifted = s.Then == recipe.Swirl && h.rng.Float64() < h.manner.Lifts
		h.turns, h.free = h.t+after, h.t+after+lasts
	}
	h.step++
}

// drain finds out from the model when the last steady stream ends.
func (h *Hand) drain() {
	result := h.brewed()
	const looks = 0.8 // s until the hand is there
	h.end = math.Max(h.t+1, float64(result.Drawdown)+looks*h.rng.Float64())
	if !result.Drained {
		h.end = h.t + 240
	}
}

// brewed is what the model makes of the pours so far.
func (h *Hand) brewed() *forecast.Forecast {
	if len(h.done) != h.modelOf {
		q := h.question
		q.Recipe.Pours = h.done
		_ = h.model.AskRoughly(q) // outside its ranges the model gives nothing, and the hand goes by the plan
		h.modelOf = len(h.done)
	}
	return &h.model
}

// below is what has run into the carafe.
func (h *Hand) below() units.Grams {
	curve := h.brewed().Curves.Beverage
	if len(curve) == 0 {
		return 0
	}
	return units.Grams(curve[min(int(h.t), len(curve)-1)])
}
