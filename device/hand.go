package device

import (
	"math"
	"math/rand/v2"

	"yardbloom/core/forecast"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// A Manner describes how a person pours.
type Manner struct {
	Late, LateSpread units.Seconds // delay of a pour
	Over, OverSpread units.Grams   // water above the target
	Unsteady         float64       // relative standard deviation of the rate
	LiftShare        float64       // share of the swirls in which the brewer is lifted off the scale
}

// The manners.
var (
	Practised = Manner{Late: 0.5, LateSpread: 0.4, Over: 0.3, OverSpread: 0.7, Unsteady: 0.06, LiftShare: 0.3}
	Usual     = Manner{Late: 0.9, LateSpread: 0.8, Over: 1, OverSpread: 2, Unsteady: 0.12, LiftShare: 0.5}
	Hurried   = Manner{Late: 6, LateSpread: 3, Over: 2, OverSpread: 3, Unsteady: 0.2, LiftShare: 0.5}
	Heavy     = Manner{Late: 1, LateSpread: 0.8, Over: 9, OverSpread: 3, Unsteady: 0.15, LiftShare: 0.5}
)

// Manners holds the manners by name.
var Manners = map[string]Manner{"practised": Practised, "usual": Usual, "hurried": Hurried, "heavy": Heavy}

// minPause is the minimum time between two pours, s, to move the kettle and look at the screen.
const minPause = 2

// The weights on the scale besides the water, g.
const (
	brewerWeight units.Grams = 140
	CarafeWeight units.Grams = 260
)

// A Hand simulates a person who pours a recipe over a scale: slightly late, unsteady, a few grams over. The
// brew model provides the drainage and the time at which the brewer is lifted off.
type Hand struct {
	manner   Manner
	question forecast.Question
	rng      *rand.Rand

	t       float64
	total   float64 // poured so far
	step    int     // index of the current or next step of the plan
	due     float64 // start of the next pour; NaN: not decided yet
	target  float64
	flow    float64 // g/s
	wander  float64
	pouring bool
	turns   float64 // start of the next swirl or stir
	free    float64 // the hand is busy until then
	lifted  bool    // the brewer is off the scale meanwhile
	done    []recipe.Pour
	end     float64 // time of lifting the brewer off; NaN: not known yet
	model   forecast.Forecast
	modelOf int // number of pours in the model's last run
	Poured  []Poured
}

// Poured is a pour as performed.
type Poured struct {
	Start, End units.Seconds
	Total      units.Grams
}

// InitialLoad returns the load on the scale before the first water.
func (h *Hand) InitialLoad() Load {
	return Load{Grams: brewerWeight + CarafeWeight + h.question.Recipe.Dose}
}

// TaredScale returns a simulated scale that was tared with the load before the first water.
func (h *Hand) TaredScale(seed uint64) *ScaleStandIn {
	const rests = 10 // steps
	s := NewScaleStandIn(seed, 1)
	for range rests {
		s.Step(h.InitialLoad())
	}
	s.Tare()
	return s
}

// NewHand returns a hand that is about to brew a recipe. The same seed gives the same brew.
func NewHand(seed uint64, m Manner, q forecast.Question) *Hand {
	return &Hand{manner: m, question: q, rng: rand.New(rand.NewPCG(seed, 3)), due: math.NaN(), end: math.NaN()}
}

// LiftAt sets the time at which the brewer is lifted off, instead of the model's last steady stream.
func (h *Hand) LiftAt(end units.Seconds) { h.end = float64(end) }

// Total returns the poured weight.
func (h *Hand) Total() units.Grams { return units.Grams(h.total) }

// LiftedAt returns the time at which the brewer was lifted off for good; false before.
func (h *Hand) LiftedAt() (units.Seconds, bool) {
	return units.Seconds(h.end), !math.IsNaN(h.end) && h.t >= h.end
}

// Finished reports whether the brewer has been off the scale for some seconds: the hand has finished.
func (h *Hand) Finished() bool {
	const looks = 9
	return !math.IsNaN(h.end) && h.t >= h.end+looks
}

// Step advances by Every, following the present plan, and returns the load on the scale: the brewer with
// the coffee over its carafe, and the water.
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
	on := h.InitialLoad()
	on.Grams, on.Swirl = on.Grams+h.Total(), acts && !h.lifted
	if h.pouring {
		on.Stream = h.flow
	}
	if _, off := h.LiftedAt(); off || acts && h.lifted {
		on.Grams = CarafeWeight + h.carafeWeight()
	}
	return on
}

// wait waits until the next step is due.
func (h *Hand) wait(plan recipe.Plan) {
	s := plan.Steps[h.step]
	if math.IsNaN(h.due) {
		h.due = math.Max(-1, float64(h.manner.Late)+float64(h.manner.LateSpread)*h.rng.NormFloat64())
		if h.step == 0 {
			h.due = 0 // the brew begins with the first water
		}
	}
	if h.t < float64(s.Start)+h.due || h.t < h.free || len(h.Poured) > 0 && h.t < float64(h.Poured[len(h.Poured)-1].End)+minPause {
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
	h.done[len(h.done)-1].Start, h.done[len(h.done)-1].Cue = units.Seconds(h.t), recipe.ForTime
	h.Poured = append(h.Poured, Poured{Start: units.Seconds(h.t)})
}

// pour pours for one time step. The rate ramps up and down, and fluctuates about the target.
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
		const after, lasts = 1.2, 3.5 // s: after putting the kettle down
		h.lifted = s.Then == recipe.Swirl && h.rng.Float64() < h.manner.LiftShare
		h.turns, h.free = h.t+after, h.t+after+lasts
	}
	h.step++
}

// drain gets the time of the last steady stream from the model.
func (h *Hand) drain() {
	result := h.brewed()
	const looks = 0.8 // s, reaction time of the hand
	h.end = math.Max(h.t+1, float64(result.Drawdown)+looks*h.rng.Float64())
	if !result.Drained {
		h.end = h.t + 240
	}
}

// brewed returns the model's forecast for the pours so far.
func (h *Hand) brewed() *forecast.Forecast {
	if len(h.done) != h.modelOf {
		q := h.question
		q.Recipe.Pours = h.done
		_ = h.model.RunCoarse(q) // outside its range the model gives nothing, and the hand follows the plan
		h.modelOf = len(h.done)
	}
	return &h.model
}

// carafeWeight returns the weight in the carafe.
func (h *Hand) carafeWeight() units.Grams {
	curve := h.brewed().Curves.Beverage
	if len(curve) == 0 {
		return 0
	}
	return units.Grams(curve[min(int(h.t), len(curve)-1)])
}
