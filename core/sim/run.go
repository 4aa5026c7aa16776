package sim

import (
	"cmp"
	"math"
	"sync/atomic"

	"yardbloom/core/units"
)

// The default resolution: 14 layers and half a second, which is within 0.06 points of yield and 1 s of
// drawdown of a resolution four times as fine.
const (
	defaultLayers = 14
	defaultStep   = 0.5 // s
	coarseLayers  = 8
	maxLayers     = 96
	// limit is the longest simulated brew, s. A bed that has not drained by then has stalled.
	limit = 1800.0
	// lastStream is the outflow at which a steady stream turns into drops, kg/s.
	lastStream = 0.25e-3
)

// layer is one slice of a column of the bed.
type layer struct {
	solids    [families][classes]float64 // in the grains, kg
	dissolved [families]float64          // in the liquid between them, kg
}

// column is a stack of equal layers: most of the bed, or the lane through it.
type column struct {
	share  float64 // of the dose
	n      int     // layers
	water  float64 // between the grains of one layer, kg
	layers [maxLayers]layer
}

// runner is the state of one brew. It has a fixed size, so that a step does not allocate.
type runner struct {
	brew     Brew
	flowOnly bool // without solids
	mixture  *mixture
	dt       float64
	t        float64

	dose, rho       float64
	shape           shape
	bedHeight       float64
	bedVolume       float64
	bedResistance   float64 // ∫dz/A, 1/m
	held, full      float64 // between the grains of a drained and of a saturated bed, kg per kg of dose
	permeability    float64 // of the undisturbed bed, m²
	paperResistance float64 // 1/m³

	poured  float64 // kg, so far
	bloom   float64 // of the first pour, weighted by its evenness, kg
	next    int     // index of the running or next pour
	began   float64 // start of the running pour, s; NaN before it
	left    float64 // of the running pour, kg
	then    Motion  // hand action after the running pour
	hand    int
	dryFor  float64 // s since the last water drained into the bed
	slurry  float64 // free water over the bed, kg
	between float64 // water between the grains, kg
	inside  float64 // water in the grains, kg

	slurrySolids [families]float64
	column       [columns]column
	classShare   [classes]float64
	bound        float64                // share of the solubles
	free         [families]float64      // composition of the others
	fresh        [families]float64      // concentration below which the bound share leaves
	pace         [boulderStates]float64 // rates of the boulders per diffusivity, 1/m²

	front   float64 // share of the grounds that the wetting front has passed
	pockets float64 // share of the dry pockets behind it that have opened

	wetted, agitation, stirred, groove float64
	opened                             float64 // share of the dose that extracts: wetted, minus the latest
	opens                              float64 // share of the dry pockets opened by a hand in this step
	reached                            float64 // s since the first water

	heat, celsius, brewerTemp float64   // J, °C, °C
	vessels                   [2]vessel // the kettle and the second one
	kettle                    float64   // °C, of the water that was poured last
	airVapour                 float64   // pressure of the vapour in the room's air, Pa
	losses                    float64   // × the losses of heat to the air
	lost                      float64   // J, lost to the air
	heatIn                    float64

	out                         [families]float64 // solids that left the brewer, kg
	ran                         float64           // water that left the brewer, kg
	cup                         [families]float64 // solids in the cup, kg
	cupWater, below             float64           // kg: brewed; ice and dilution
	cupHeat, cupCelsius, cupIce float64           // J, °C, kg
	carried                     float64           // J, in the outflow
	evaporated                  float64
	outflow                     float64 // kg/s in the last step
	through                     float64 // kg, from the slurry into the bed in the last step

	moves               [families][classes]float64
	high, inverse, fold [maxLayers]float64
	rhs                 [maxLayers][families]float64
}

// Run simulates a brew at the default resolution. A Brew outside the valid ranges is a *units.ValueError;
// an overflow or a stall is a result.
func Run(b Brew) (Result, error) {
	var out Result
	err := RunInto(&out, b)
	return out, err
}

// RunInto is Run into an existing Result, whose curves it reuses.
func RunInto(out *Result, b Brew) error { return runAt(out, b, defaultLayers, defaultStep) }

// RunCoarse is RunInto with two thirds of the layers and steps twice as long, at about a third of the cost.
// Most of its error cancels in the difference of two runs.
func RunCoarse(out *Result, b Brew) error { return runAt(out, b, coarseLayers, 2*defaultStep) }

// RunLumped is RunCoarse with all solubles as one family, at about half of its cost, for the errors of a yield. The result has no
// Balance.
func RunLumped(out *Result, b Brew) error {
	r := runner{mixture: &oneFamily}
	return r.run(out, b, coarseLayers, 2*defaultStep)
}

// RunFlow is RunInto without extraction, for questions about time, level and temperature alone. They are the same as those of
// RunInto, because the flow does not depend on the extraction; everything about solids is missing, and their mass in the
// beverage. It costs about a fifth.
func RunFlow(out *Result, b Brew) error { return flowAt(out, b, defaultStep) }

// RunFlowCoarse is RunFlow with the steps of RunCoarse.
func RunFlowCoarse(out *Result, b Brew) error { return flowAt(out, b, 2*defaultStep) }

// runs counts the simulated brews.
var runs atomic.Int64

// Runs returns how many brews this process has simulated. Tests use it to bound the work of a page.
func Runs() int64 { return runs.Load() }

func runAt(out *Result, b Brew, layers int, dt float64) error {
	var r runner
	return r.run(out, b, layers, dt)
}

func flowAt(out *Result, b Brew, dt float64) error {
	r := runner{flowOnly: true, mixture: &oneFamily}
	return r.run(out, b, 1, dt)
}

func (r *runner) run(out *Result, b Brew, layers int, dt float64) error {
	runs.Add(1)
	if err := b.Check(); err != nil {
		return err
	}
	r.begin(b, layers, dt)
	out.begin(r)
	for !r.step(out) {
	}
	out.finish(r)
	return nil
}

func (r *runner) begin(b Brew, layers int, dt float64) {
	r.brew, r.dt = b, dt
	if r.mixture == nil {
		r.mixture = &threeFamilies
	}
	if u := b.Unlike; u.Spread > 0 {
		r.brew.Grind.Spread *= u.Spread
		b.Grind.Spread *= u.Spread
	}
	r.losses = cmp.Or(b.Unlike.Losses, 1)
	r.dose = float64(b.Dose) / 1000
	r.shape = b.Brewer.shape()
	r.bedVolume = r.dose / bedDensity
	r.bedHeight = r.shape.height(r.bedVolume)
	r.bedResistance = r.shape.resistance(r.bedHeight, b.Brewer.Ribbed)
	r.held = betweenHeld + b.Brewer.ExtraRetained
	r.full = max(betweenFull, r.held+betweenFull-betweenHeld)
	r.permeability = b.Grind.permeability(b.Release > 0)
	if b.WaterFirst {
		r.permeability *= looserRaft
	}
	r.bound = boundShare
	if b.Unlike.NothingBound {
		r.bound = 0
	}
	if b.Unlike.FlowPower != 0 {
		const usual = 185e-6 // m: Sauter diameter of the base case
		r.permeability *= math.Pow(b.Grind.sauter()/usual, b.Unlike.FlowPower)
	}
	r.paperResistance = b.Filter.Resistance / (r.shape.wall(r.bedHeight) * (1 - laneShare*b.Brewer.Blocked))
	r.began = math.NaN()
	r.brewerTemp = float64(b.Warm)
	r.celsius = float64(b.Ambient)
	r.airVapour = humidity * vapourPressure(r.celsius)
	r.heat = r.capacity() * r.celsius
	r.heatIn = r.heat + b.Brewer.Heat*r.brewerTemp + b.Below.enthalpy()
	r.rho = density(r.celsius)
	r.groove = heaped * b.Bed
	r.below, r.cupHeat = float64(b.Below.Ice.Mass)/1000, b.Below.enthalpy()
	r.settleCup()
	r.boil()

	r.shareOut()
	// The lane is a small part of the cup and needs fewer layers.
	r.column[mostOfBed].share, r.column[mostOfBed].n = 1-laneShare, layers
	r.column[lane].share, r.column[lane].n = laneShare, max(1, layers*5/12)
}

// step advances the brew by one step and reports whether it is over.
func (r *runner) step(out *Result) (over bool) {
	dt := r.dt
	stream := r.pour(dt, out)
	// Water poured in the step is over the bed for half of it.
	level := r.shape.height(r.bedVolume + max(0, r.slurry-stream.rate*dt/2)/r.rho)
	above := level - r.bedHeight
	r.hands(above)
	r.stir(dt, stream, above)
	r.dig(dt, stream, above)
	r.wet(dt)
	before := r.outflow
	closed := r.t < float64(r.brew.Release)
	r.move(dt, level, above, closed)
	if !r.flowOnly {
		r.rates(dt)
		r.dissolve()
		r.mix(dt, closed)
	}
	r.evaporated += r.cool(dt, r.shape.area(level))
	r.stand(dt)
	if c := r.capacity(); c > 0 {
		r.celsius = r.heat / c
	}
	r.rho = density(r.celsius)
	r.t += dt
	if r.dryFor += dt; r.slurry > 0 {
		r.dryFor = 0
	}
	out.record(r, level)
	if stream.more || closed || r.slurry > 0 || r.poured == 0 {
		return r.t >= limit
	}
	if r.outflow <= lastStream {
		// The stream fell below its limit between the last two steps: interpolate.
		share := 1.0
		if before > r.outflow && before > lastStream {
			share = (before - lastStream) / (before - r.outflow)
		}
		out.Drawdown, out.Drained = units.Seconds(r.t-dt+share*dt), true
		return true
	}
	return r.t >= limit
}

// stream is the water onto the bed in a step: kg/s, from a height in m, a share of it near the wall, a share of its momentum
// taken by a screen; more reports whether a pour is running or to come.
type stream struct {
	rate, fall, wall, soft float64
	more                   bool
}

// pour adds the water of a step to the slurry.
func (r *runner) pour(dt float64, out *Result) (s stream) {
	for now := r.t; r.next < len(r.brew.Pours); {
		p := &r.brew.Pours[r.next]
		if math.IsNaN(r.began) {
			drained := !p.WhenDrained || r.next == 0 || r.slurry <= 0 && (!p.ToDrips || r.outflow <= lastStream)
			start := max(float64(p.Start), now)
			if !drained || start >= r.t+dt {
				break
			}
			r.began, r.left = start, float64(p.Water)/1000
			now = start
			r.boil()
			r.draw(p, 0)
			out.begun(r)
		}
		water := min(r.left, p.Rate/1000*(r.t+dt-now))
		arrives := r.draw(p, water) - streamLoss(p.Height)
		r.slurry += water
		r.poured += water
		if r.next == 0 {
			r.bloom += water * p.Pattern.Even
		}
		r.left -= water
		r.heat += water * heatOfWater * arrives
		r.heatIn += water * heatOfWater * arrives
		now += water / (p.Rate / 1000)
		s.rate, s.fall, s.wall, s.soft = s.rate+water/dt, p.Height, p.Pattern.Wall, p.Pattern.Soft
		if r.left > 1e-12 {
			s.more = true
			return s
		}
		out.ended(r, now)
		r.then = p.Then
		r.next, r.began = r.next+1, math.NaN()
	}
	if r.slurry > 0 { // new water mixes in at once
		r.celsius = r.heat / r.capacity()
	}
	s.more = r.next < len(r.brew.Pours)
	return s
}

// move lets water into the grains, fills the bed from the slurry, and drains it with the dissolved solids.
func (r *runner) move(dt, level, above float64, closed bool) {
	uptake := (insideGrains*r.dose*r.wetted - r.inside) * passed(dt/(uptakeTime*(1+uptakeGas*r.brew.Coffee.Gas)))
	uptake = max(0, min(uptake, 0.5*r.between))
	r.inside += uptake
	r.between -= uptake

	const fillRate = 0.012 // kg/s: maximum uptake of a bed
	fill := min(r.full*r.dose*r.wetted-r.between, r.slurry, fillRate*dt)
	fill = max(0, fill)
	r.slurry -= fill

	var through, past, drained float64
	held := r.held * r.dose * r.wetted
	holds := (insideGrains + r.held) * r.dose * max(r.wetted, leastWetted)
	if !closed && r.inside+r.between+fill >= firstDrip*holds {
		past, through, drained = r.leave(dt, level, above, held)
	}
	var solids [families]float64 // in the outflow
	if past > 0 {
		share := past / r.slurry
		for f := range r.mixture.kinds {
			solids[f] = share * r.slurrySolids[f]
			r.slurrySolids[f] -= solids[f]
		}
		r.slurry -= past
	}
	mass := r.slurry + fill // of which through and fill enter the bed
	r.slurry = max(0, r.slurry-through)
	r.between += fill - drained
	r.through = through
	laneFlow := r.laneFlow()
	flow := [columns]float64{mostOfBed: 1 - laneFlow, lane: laneFlow}
	for k := range r.column {
		if r.flowOnly {
			break
		}
		col := &r.column[k]
		col.water = r.between * col.share / float64(col.n)
		in := fill*col.share + through*flow[k]
		low := r.carry(col, in, mass, (fill-drained)*col.share/float64(col.n))
		mass -= in
		for f := range r.mixture.kinds {
			solids[f] += low[f]
		}
	}
	water := past + through + drained
	carried := water * heatOfWater * r.celsius
	r.heat -= carried
	r.outflow = water / dt
	r.collect(dt, water, carried, solids)
}

// passed returns 1 − e^−x, the completed fraction of a first-order process. Small x, of which a brew has
// thousands, use the series, with an error below 2e-10.
func passed(x float64) float64 {
	if x > 0.1 {
		return 1 - math.Exp(-x)
	}
	const half, third, fourth, fifth, sixth = 1. / 2, 1. / 3, 1. / 4, 1. / 5, 1. / 6
	return x * (1 - x*half*(1-x*third*(1-x*fourth*(1-x*fifth*(1-x*sixth)))))
}
