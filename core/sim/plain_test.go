package sim

import (
	"fmt"
	"math"
	"testing"
)

// plain solves the same brew in the simplest way: forward Euler with a small fixed step, many layers,
// central differences for advection, and each mode of each grain size separately. It is slow, and the
// reference for the model's own scheme. It supports timed pours from a thermostat kettle, and motions
// between pours.
type plain struct {
	b                             Brew
	n                             int
	t, dt                         float64
	poured, bloom, through        float64
	reached                       float64
	slurry, between, inside       float64
	wetted, agit, stirred, groove float64
	front, pockets                float64
	heat, wall                    float64 // J, °C
	grains                        [columns][][families][plainClasses]float64
	liquid                        [columns][][families]float64
	above, cup                    [families]float64
	share, rate                   [plainClasses]float64 // of the classes
	outflow, drawdown             float64
}

// plainClasses are the fast class, each mode of each size, and the bound share.
const plainClasses = 2 + sizes*modes

func newPlain(b Brew, n int, dt float64) *plain {
	p := &plain{b: b, n: n, dt: dt, wall: float64(b.Warm), groove: heaped * b.Bed}
	for c := range plainClasses {
		p.share[c], p.rate[c] = p.class(c)
	}
	p.heat = heatOfCoffee * p.dose() * float64(b.Ambient)
	for k := range columns {
		p.grains[k], p.liquid[k] = make([][families][plainClasses]float64, n), make([][families]float64, n)
	}
	return p
}

func (p *plain) dose() float64 { return float64(p.b.Dose) / 1000 }

func (p *plain) part(k int) float64 {
	if k == lane {
		return laneShare
	}
	return 1 - laneShare
}

// class returns the share of the solubles in a class, and its rate per diffusivity, 1/m².
func (p *plain) class(c int) (share, rate float64) {
	fast := p.b.Grind.fastShare()
	switch c {
	case 0:
		return (1 - boundShare) * fast, 0
	case plainClasses - 1:
		return boundShare, 0
	}
	size, mode := (c-1)/modes, (c-1)%modes
	radius := p.b.Grind.boulder(size) / 2
	return (1 - boundShare) * (1 - fast) * modeShare[mode] / sizes, modeRate[mode] / (radius * radius)
}

// composition returns the shares of the families in a class.
func (p *plain) composition(c int) (out [families]float64) {
	for f := range families {
		out[f] = threeFamilies.bound[f]
		if c < plainClasses-1 {
			out[f] = (threeFamilies.share[f] - boundShare*threeFamilies.bound[f]) / (1 - boundShare)
		}
	}
	return out
}

func (p *plain) temperature() float64 {
	return p.heat / (heatOfWater*(p.slurry+p.between+p.inside) + heatOfCoffee*p.dose())
}

// stream returns the current pour, and whether more follows.
func (p *plain) stream() (now Pour, rate float64, more bool) {
	free := 0.0
	for _, q := range p.b.Pours {
		start := max(float64(q.Start), free)
		free = start + float64(q.Water)/q.Rate
		if p.t >= start && p.t < free {
			now, rate = q, q.Rate/1000
		}
		more = more || p.t < free
	}
	return now, rate, more
}

func (p *plain) brew() {
	for p.t < limit {
		if p.step() {
			return
		}
	}
}

func (p *plain) step() (over bool) {
	b, dose, dt := &p.b, p.dose(), p.dt
	pour, rate, more := p.stream()
	for _, h := range b.Hands {
		if at := float64(h.At); at >= p.t && at < p.t+dt {
			p.agit += h.Agitation
			p.groove *= 1 - h.Levels
			p.pockets += (1 - p.pockets) * h.Opens
		}
	}
	s := b.Brewer.shape()
	bed := s.height(dose / bedDensity)
	if rate > 0 {
		if pour.Start == b.Pours[0].Start {
			p.bloom += rate * dt * pour.Pattern.Even
		}
		p.poured, p.slurry = p.poured+rate*dt, p.slurry+rate*dt
		p.heat += rate * dt * heatOfWater * (float64(pour.Temperature) - streamLoss(pour.Height))
	}
	hot := p.temperature()
	level := s.height(dose/bedDensity + p.slurry/density(hot))
	over0 := level - bed
	p.agit += (pourStirs*rate/streamRate*(0.3+7*pour.Height)/(1+over0/deepWater) - p.agit) / calming * dt
	p.stirred += p.agit * dt
	p.groove += (1 - p.groove) * pour.Pattern.Wall * rate / streamRate * pour.Height / 0.10 / (1 + over0/deepWater) / grooving * dt
	gas := b.Coffee.Gas
	if p.poured > 0 {
		x := p.bloom / dose
		p.front += max(0, 1-math.Exp(-x/frontDepth)-p.front) / frontTime * dt
		ease := laneEase * p.groove
		beside := p.through * (1 - laneShare*(1+ease)/(1+laneShare*ease)) / (1 - laneShare) / dose
		p.pockets += (1 - p.pockets) * (dt/opensAlone + beside/opensWashed) * (1 + stirHelp*p.agit) / (1 + gasDelay*gas)
		dry := clumpsMost * (1 + gasClumps*gas) * math.Exp(-clumpsPer*min(x, bloomMost)*(1-gasShield*gas))
		p.open(max(0, p.front*(1-dry*(1-p.pockets))-p.wetted))
		p.reached += dt
	}
	closed, free := p.t < float64(b.Release), p.slurry > 0
	p.flow(level, over0, bed, hot, closed)
	p.extract(p.temperature())
	if closed || p.agit > 0.3 {
		p.mix(closed)
	}
	p.lose(s.area(level))
	p.t += dt
	if more || closed || free || p.poured == 0 || p.outflow > lastStream {
		return false
	}
	p.drawdown = p.t
	return true
}

// open adds a share of the dose that was dry.
func (p *plain) open(share float64) {
	p.wetted += share
	for k := range columns {
		all := share * p.b.Coffee.Soluble * p.dose() * p.part(k) / float64(p.n)
		for i := range p.n {
			for f := range families {
				for c := range plainClasses {
					p.grains[k][i][f][c] += all * p.composition(c)[f] * p.share[c]
				}
			}
		}
	}
}

func (p *plain) flow(level, over, bed, hot float64, closed bool) {
	b, dose, dt := &p.b, p.dose(), p.dt
	up := max(0, min((insideGrains*dose*p.wetted-p.inside)/(uptakeTime*(1+uptakeGas*b.Coffee.Gas))*dt, p.between))
	p.inside, p.between = p.inside+up, p.between-up
	fill := max(0, min(betweenFull*dose*p.wetted-p.between, p.slurry, 0.012*dt))
	ease := laneEase * p.groove
	through, past, drained := 0.0, 0.0, 0.0
	runs := func(h float64) float64 { // kg/s
		s := b.Brewer.shape()
		k := b.Grind.permeability(b.Release > 0) / (1 + 0.09*b.Brewer.Clogging*b.Grind.Fines*p.stirred) * (1 + laneShare*ease)
		k *= (1 - pocketBlock*(1-p.wetted)) * (1 - 0.35*b.Coffee.Gas*math.Exp(-p.reached/60))
		return density(hot) * density(hot) * gravity * h / (viscosity(hot)*(s.resistance(bed,
			b.Brewer.Ribbed)/k+b.Filter.Resistance/s.wall(bed)) + b.Brewer.Outlet)
	}
	if !closed && p.inside+p.between+fill >= firstDrip*(insideGrains+betweenHeld)*dose*max(p.wetted, leastWetted) {
		if free := p.slurry - fill; free > 0 {
			share := 0.0
			if !b.Filter.Sealing {
				share = min(0.4, b.Brewer.Bypass*over/0.03)
			}
			all := min(free, runs(level)*dt/(1-share))
			past, through = all*share, all*(1-share)
		} else if room := p.between - betweenHeld*dose*p.wetted; room > 0 {
			drained = min(room, runs(bed*min(1, room/((betweenFull-betweenHeld)*dose*p.wetted)))*dt)
		}
	}
	var conc [families]float64
	for f := range families {
		if p.slurry > 0 {
			conc[f] = p.above[f] / p.slurry
		}
		p.above[f] -= conc[f] * (fill + through + past)
		p.cup[f] += conc[f] * past
	}
	laneFlow := laneShare * (1 + ease) / (1 + laneShare*ease)
	for k, flow := range [columns]float64{1 - laneFlow, laneFlow} {
		p.carry(k, conc, fill*p.part(k)+through*flow, (fill-drained)*p.part(k)/float64(p.n))
	}
	p.slurry = max(0, p.slurry-fill-through-past)
	p.between += fill - drained
	p.outflow, p.through = (past+through+drained)/dt, through
	p.heat -= (past + through + drained) * heatOfWater * hot
}

// carry moves dissolved solubles down a column: top enters above, less grow per layer. If the flow of a
// step is large relative to the water of a layer, as in a bed that has just begun to fill, the step is
// divided.
func (p *plain) carry(k int, top [families]float64, enters, grow float64) {
	n, w := p.n, p.between*p.part(k)/float64(p.n)
	if enters <= 0 && grow >= 0 || w+grow <= 0 {
		return
	}
	spread := dispersion * float64(n)
	parts := min(3000, 1+math.Ceil(enters*(1+2*spread)/(0.4*(w+grow/100))))
	for s := range int(parts) {
		p.carryPart(k, top, enters/parts, grow/parts, w+grow*(float64(s)+0.5)/parts, spread)
	}
}

func (p *plain) carryPart(k int, top [families]float64, enters, grow, w, spread float64) {
	for f := range families {
		in := top[f] * enters
		c := p.liquid[k][0][f] / w
		for i := range p.n {
			out := enters - float64(i+1)*grow
			passes, next := c*out, c
			if i < p.n-1 {
				next = p.liquid[k][i+1][f] / w
				passes = out*(c+next)/2 - spread*max(out, 0)*(next-c)
			} else {
				p.cup[f] += passes
			}
			p.liquid[k][i][f] += in - passes
			in, c = passes, next
		}
	}
}

func (p *plain) extract(hot float64) {
	if p.between <= 0 {
		return
	}
	dose := p.dose()
	speed := p.b.Coffee.Rate * (1 + extractAgit*min(1, p.agit)) * p.dt
	soaked := p.inside / (insideGrains * dose * max(p.wetted, 1e-6))
	for f := range families {
		arrhenius := math.Exp(threeFamilies.energy[f] / gasConstant * (1/(reference+273.15) - 1/(hot+273.15)))
		for c := range plainClasses {
			kappa, holds := diffusivity*threeFamilies.speed[f]*arrhenius*p.rate[c]*soaked,
				p.inside*p.share[c]/(1-boundShare)
			switch c {
			case 0:
				kappa = fastRate * arrhenius
			case plainClasses - 1:
				kappa = boundRate * threeFamilies.speed[f] * arrhenius * soaked
			}
			for k := range columns {
				part := p.part(k) / float64(p.n)
				for i := range p.n {
					conc := p.liquid[k][i][f] / (p.between * part)
					d := kappa * speed * (p.grains[k][i][f][c] - holds*part*conc)
					if c == plainClasses-1 {
						d = kappa * speed * p.grains[k][i][f][c] * max(0, 1-conc/(freshLimit*p.composition(0)[f]))
					}
					p.grains[k][i][f][c] -= d
					p.liquid[k][i][f] += d
				}
			}
		}
	}
}

func (p *plain) mix(closed bool) {
	if p.slurry <= 1e-4 || p.between <= 0 {
		return
	}
	rate := max(0, p.agit-0.3) / 12
	if closed {
		rate = 1./14 + p.agit/12
	}
	for f := range families {
		all := p.above[f]
		for k := range columns {
			for i := range p.n {
				all += p.liquid[k][i][f]
			}
		}
		for k := range columns {
			for i := range p.n {
				d := rate * p.dt * (all/(p.slurry+p.between)*p.between*p.part(k)/float64(p.n) - p.liquid[k][i][f])
				p.liquid[k][i][f] += d
				p.above[f] -= d
			}
		}
	}
}

func (p *plain) lose(surface float64) {
	b, hot, room := &p.b.Brewer, p.temperature(), float64(p.b.Ambient)
	if b.Lid {
		surface *= underLid
	}
	steam := 0.0
	if p.slurry > 0 {
		steam = min(p.slurry/2, evaporates*surface*max(0, vapourPressure(hot)-humidity*vapourPressure(room))*p.dt)
	}
	p.heat -= (b.Contact*(hot-p.wall)+surfaceLoss*surface*(hot-room))*p.dt + steam*(vaporisation+heatOfWater*hot)
	p.slurry -= steam
	p.wall += (b.Contact*(hot-p.wall) - b.Loss*(p.wall-room)) / b.Heat * p.dt
}

func (p *plain) ey() float64 { return 100 * (p.cup[bright] + p.cup[sweet] + p.cup[bitter]) / p.dose() }

// plainCases are the cases for the comparison: the base case and its extremes.
func plainCases() map[string]Brew {
	return map[string]Brew{
		"base":          base(),
		"fine":          with(base(), grind(500)),
		"coarse":        with(base(), grind(900)),
		"flat bed":      with(base(), func(b *Brew) { b.Brewer = FlatBedSmall }),
		"heavy paper":   with(base(), func(b *Brew) { b.Brewer, b.Filter = HeavyConeSmall, Filters["thick paper"] }),
		"heaped, fresh": with(base(), func(b *Brew) { b.Bed, b.Coffee.Gas = 1, 1 }),
		"stirred":       with(base(), func(b *Brew) { b.Hands = []HandMotion{stirred(12, 0.5), stirred(115, 0.5)} }),
		"steeped": with(base(), func(b *Brew) {
			b.Brewer, b.Release = SteeperSmall, 165
			b.Pours = []Pour{{Water: 288, Rate: 8, Temperature: 95, Height: 0.05, Pattern: Circles}}
			b.Hands = []HandMotion{stirred(120, 0.8)}
		}),
	}
}

func TestSchemeMatchesThePlainSolver(t *testing.T) {
	t.Parallel()
	for name, b := range plainCases() {
		r, p := run(t, b), newPlain(b, 30, 0.02)
		p.brew()
		t.Logf("%-14s EY %.3f, plain %.3f; drawdown %.1f s, plain %.1f s", name, r.EY, p.ey(), float64(r.Drawdown), p.drawdown)
		if math.Abs(r.EY-p.ey()) > 0.05 || math.Abs(float64(r.Drawdown)-p.drawdown) > 1 {
			t.Errorf("%s: EY %.3f, plain %.3f; drawdown %.2f s, plain %.2f s", name, r.EY, p.ey(), float64(r.Drawdown), p.drawdown)
		}
	}
}

// The plain solver, for the ratio to BenchmarkRun.
func BenchmarkPlainReference(b *testing.B) {
	for b.Loop() {
		newPlain(base(), 30, 0.02).brew()
	}
}

// The cost of a run by layers and steps: doubling either at most doubles the cost.
func BenchmarkGrowth(b *testing.B) {
	for _, g := range []struct {
		layers int
		step   float64
	}{{12, 0.5}, {24, 0.5}, {48, 0.5}, {96, 0.5}, {12, 0.25}, {12, 0.125}} {
		b.Run(fmt.Sprintf("layers=%d/step=%gs", g.layers, g.step), func(b *testing.B) {
			var out Result
			for b.Loop() {
				if err := runAt(&out, base(), g.layers, g.step); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}
