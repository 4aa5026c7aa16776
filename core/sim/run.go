package sim

import (
	"math"

	"yardbloom/core/units"
)

// The default resolution: 12 layers and half a second, which lies within 0.05
// points of yield and 1 s of drawdown of four times as many of each.
const (
	defaultLayers = 12
	defaultStep   = 0.5 // s
	maxLayers     = 96
	// limit is the longest brew that is followed, s. A bed that has not drained by then has stalled.
	limit = 1800.0
	// lastStream is the outflow at which a steady stream turns into drops, kg/s.
	lastStream = 0.25e-3
)

// layer is one slice of the bed.
type layer struct {
	solids    [classes][families]float64 // in the grains, kg
	dissolved [families]float64          // in the liquid between them, kg
}

// runner is the state of one brew. All of it is fixed in size, so that a step
// allocates nothing.
type runner struct {
	brew Brew
	n    int
	dt   float64
	t    float64

	dose, rho       float64
	shape           shape
	bedHeight       float64
	bedVolume       float64
	bedResistance   float64 // ∫dz/A, 1/m
	paperResistance float64 // 1/m³

	poured  float64 // kg, so far
	next    int     // the pour that runs or comes next
	began   float64 // of the running pour, s; NaN before it
	left    float64 // of the running pour, kg
	hand    int
	slurry  float64 // free water over the bed, kg
	between float64 // water between the grains, kg
	inside  float64 // water in the grains, kg

	layerWater   float64 // between / n
	slurrySolids [families]float64
	layers       [maxLayers]layer
	classShare   [classes]float64
	radius2      [classes]float64

	wetted, agitation, stirred float64

	heat, celsius, brewerTemp float64 // J, °C, °C
	lost                      float64 // J to the air
	heatIn                    float64

	cup        [families]float64 // solids below, kg
	cupWater   float64
	cupHeat    float64
	evaporated float64
	outflow    float64 // kg/s in the last step

	moves                      [classes][families]float64
	low, diag, high, fold, rhs [maxLayers]float64
}

// Run brews at the default resolution. A Brew outside the model's field is a
// *FieldError; an overflow or a stall is a result.
func Run(b Brew) (Result, error) {
	var out Result
	err := RunInto(&out, b)
	return out, err
}

// RunInto is Run into a Result whose curves are used again.
func RunInto(out *Result, b Brew) error { return runAt(out, b, defaultLayers, defaultStep) }

func runAt(out *Result, b Brew, layers int, dt float64) error {
	if err := b.Check(); err != nil {
		return err
	}
	var r runner
	r.begin(b, layers, dt)
	out.begin(&r)
	for !r.step(out) {
	}
	out.finish(&r)
	return nil
}

func (r *runner) begin(b Brew, layers int, dt float64) {
	r.brew, r.n, r.dt = b, layers, dt
	r.dose = float64(b.Dose) / 1000
	r.shape = b.Brewer.shape()
	r.bedVolume = r.dose / bedDensity
	r.bedHeight = r.shape.height(r.bedVolume)
	r.bedResistance = r.shape.resistance(r.bedHeight, b.Brewer.Ribbed)
	r.paperResistance = b.Filter.Resistance / r.shape.wall(r.bedHeight)
	r.began = math.NaN()
	r.brewerTemp = float64(b.Warm)
	r.celsius = float64(b.Ambient)
	r.heat = r.capacity() * r.celsius
	r.heatIn = r.heat + b.Brewer.Heat*r.brewerTemp
	r.rho = density(r.celsius)

	fast := b.Grind.fastShare()
	r.classShare[fastClass] = fast
	for i, share := range boulderShares {
		r.classShare[smallBoulders+i] = (1 - fast) * share
		radius := b.Grind.boulder(i) / 2
		r.radius2[smallBoulders+i] = radius * radius
	}
	total := b.Coffee.Soluble * r.dose / float64(r.n)
	for i := range r.n {
		for c := range classes {
			for f := range families {
				r.layers[i].solids[c][f] = total * r.classShare[c] * familyShare[f]
			}
		}
	}
}

// step moves the brew on by one step and says whether it is over.
func (r *runner) step(out *Result) (over bool) {
	dt := r.dt
	rate, fall, pouring := r.pour(dt)
	for r.hand < len(r.brew.Hands) && float64(r.brew.Hands[r.hand].At) <= r.t {
		r.agitation += r.brew.Hands[r.hand].Strength
		r.hand++
	}
	level := r.shape.height(r.bedVolume + r.slurry/r.rho)
	above := level - r.bedHeight
	r.stir(dt, rate, fall, above)
	r.wet(dt)
	before := r.outflow
	closed := r.t < float64(r.brew.Release)
	r.move(dt, level, above, closed)
	r.rates(dt)
	r.dissolve()
	r.mix(dt, closed)
	r.evaporated += r.cool(dt, r.shape.area(level))
	if c := r.capacity(); c > 0 {
		r.celsius = r.heat / c
	}
	r.rho = density(r.celsius)
	r.t += dt
	out.record(r, level)
	if pouring || closed || r.slurry > 0 || r.poured == 0 {
		return r.t >= limit
	}
	if r.outflow <= lastStream {
		// Between the last two steps the stream fell below its limit: in proportion.
		share := 1.0
		if before > r.outflow && before > lastStream {
			share = (before - lastStream) / (before - r.outflow)
		}
		out.Drawdown, out.Drained = units.Seconds(r.t-dt+share*dt), true
		return true
	}
	return r.t >= limit
}

// pour lets the water of a step into the slurry and returns the stream's rate in
// kg/s and its height of fall, and whether any pour still runs or is to come.
func (r *runner) pour(dt float64) (rate, fall float64, more bool) {
	for now := r.t; r.next < len(r.brew.Pours); {
		p := &r.brew.Pours[r.next]
		if math.IsNaN(r.began) {
			drained := !p.WhenDrained || r.next == 0 || r.slurry <= 0
			start := max(float64(p.Start), now)
			if !drained || start >= r.t+dt {
				break
			}
			r.began, r.left = start, float64(p.Water)/1000
			now = start
		}
		water := min(r.left, p.Rate/1000*(r.t+dt-now))
		arrives := float64(p.Temperature) - streamLoss(p.Height)
		r.slurry += water
		r.poured += water
		r.left -= water
		r.heat += water * heatOfWater * arrives
		r.heatIn += water * heatOfWater * arrives
		now += water / (p.Rate / 1000)
		rate, fall = rate+water/dt, p.Height
		if r.left > 1e-12 {
			return rate, fall, true
		}
		r.next, r.began = r.next+1, math.NaN()
	}
	if r.slurry > 0 { // what has just come mixes in at once
		r.celsius = r.heat / r.capacity()
	}
	return rate, fall, r.next < len(r.brew.Pours)
}

// move lets water into the grains, fills the bed from the slurry, and lets it
// out below, with all that is dissolved in it.
func (r *runner) move(dt, level, above float64, closed bool) {
	uptake := (insideGrains*r.dose*r.wetted - r.inside) * -math.Expm1(-dt/uptakeTime)
	uptake = max(0, min(uptake, 0.5*r.between))
	r.inside += uptake
	r.between -= uptake

	const fillRate = 0.012 // kg/s: how fast a bed drinks
	fill := min(betweenFull*r.dose*r.wetted-r.between, r.slurry, fillRate*dt)
	fill = max(0, fill)
	r.slurry -= fill

	var through, past, drained float64
	held := betweenHeld * r.dose * r.wetted
	holds := (insideGrains + betweenHeld) * r.dose * max(r.wetted, leastWetted)
	if !closed && r.inside+r.between+fill >= firstDrip*holds {
		past, through, drained = r.leave(dt, level, above, held)
	}
	var out [families]float64
	if past > 0 {
		share := past / r.slurry
		for f := range families {
			out[f] = share * r.slurrySolids[f]
			r.slurrySolids[f] -= out[f]
		}
		r.slurry -= past
	}
	q0 := fill + through
	r.slurry = max(0, r.slurry-through)
	r.between += fill - drained
	r.layerWater = r.between / float64(r.n)
	// fill was taken off above; advect counts the slurry without what enters.
	low := r.advect(q0, (fill-drained)/float64(r.n))
	for f := range families {
		r.cup[f] += out[f] + low[f]
	}
	water := past + through + drained
	r.cupWater += water
	carried := water * heatOfWater * r.celsius
	r.cupHeat += carried
	r.heat -= carried
	r.outflow = water / dt
}

// leave is what goes out in a step: past the bed, through it from the slurry,
// and out of the bed itself once nothing stands over it.
func (r *runner) leave(dt, level, above, held float64) (past, through, drained float64) {
	if r.slurry > 0 {
		q := r.drain(level) * r.rho * dt
		past = q * r.bypass(above)
		through = q - past
		if q > r.slurry {
			past, through = past*r.slurry/q, through*r.slurry/q
		}
		if q <= r.slurry {
			return past, through, 0
		}
		dt *= 1 - r.slurry/q // the rest of the step drains the bed
	}
	room := r.between - held
	full := (betweenFull - betweenHeld) * r.dose * r.wetted
	if room <= 0 || full <= 0 {
		return past, through, 0
	}
	head := r.bedHeight * min(1, room/full)
	return past, through, min(room, r.drain(head)*r.rho*dt)
}
