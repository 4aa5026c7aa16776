package sim

import "yardbloom/core/units"

// Every is the spacing of the curves, s.
const Every = 1.0

// Curves are the course of a brew, one value every Every seconds from 0.
type Curves struct {
	Poured   []float64 // g
	Level    []float64 // of the slurry's surface over the outlet, mm
	Outflow  []float64 // g/s
	Beverage []float64 // g
	Slurry   []float64 // °C
	Kettle   []float64 // °C
	Cup      []float64 // °C, as it collects
	Ice      []float64 // g, in the cup
	TDS      []float64 // %, of the beverage so far
	EY       []float64 // %, of the dose, so far
}

// A Result is the outcome of a brew.
type Result struct {
	Curves

	Drawdown  units.Seconds // to the last steady stream
	Drained   bool          // false: it stalled, and Drawdown is the limit
	FirstDrip units.Seconds
	Dry       units.Seconds // when the last water sank into the bed
	Overflow  units.Seconds // when it first ran over; negative: never

	Beverage  units.Grams // all liquid in the cup: brew, melted ice, dilution
	Brewed    units.Grams // of that, the outflow of the brewer
	IceLeft   units.Grams
	Retained  float64 // g of liquid per g of dose
	TDS       float64 // %, of the beverage
	BrewedTDS float64 // %, before ice melted into it or water was added
	EY        float64 // %, solids in the beverage per dose
	Kept      float64 // %, solids in the liquid retained by the grounds, between and inside the grains, per dose
	Extracted float64 // %, solids out of the grains per dose, in the cup or not
	// Balance is the extracted share of bright, sweet and bitter solubles, the least certain part of the
	// model.
	Balance Balance
	// Below and Above are the shares of the dose whose own yield is more than Band points below or above
	// the mean.
	Below, Above float64

	TopLevel   float64 // highest level of the slurry, mm over the outlet
	Rim        float64 // mm
	BedHeight  float64 // mm
	SlurryMean units.Celsius
	SlurryPeak units.Celsius
	CupTemp    units.Celsius
	BrewedTemp units.Celsius // mean temperature of the outflow, before carafe, ice and dilution

	Pours []Begun // the pours at their start

	passed        []passage // each second
	next          float64
	heatSum, wSum float64
	books         books
}

// Band is the deviation from the mean at which a grain's own yield counts as below or above, points.
const Band = 3

// Begun describes a pour at its start.
type Begun struct {
	Start, End  units.Seconds
	Temperature units.Celsius // of the water in the kettle at its start
	Above       float64       // water over the bed at its start, mm
	Level       float64       // of the water over the outlet at its end, mm
	Dry         units.Seconds // time without water over the bed before its start
	Wetted      float64       // share of the grounds that is wet at its start
}

// Balance is the share of each family of solubles that was extracted, 0 to 1.
type Balance struct{ Bright, Sweet, Bitter float64 }

// Lean returns the bitter share divided by the bright one. It grows as extraction proceeds.
func (b Balance) Lean() float64 {
	if b.Bright <= 0 {
		return 0
	}
	return b.Bitter / b.Bright
}

// books tracks input, output and storage of water, solids and heat, to check conservation.
type books struct {
	waterIn, waterOut   float64
	solidsIn, solidsOut float64
	heatIn, heatOut     float64
}

func (o *Result) begin(r *runner) {
	c, pours, passed := o.Curves, o.Pours, o.passed
	if pours == nil {
		pours = make([]Begun, 0, maxPours)
		passed = make([]passage, 0, int(limit/Every)+3)
	}
	*o = Result{Overflow: -1, FirstDrip: -1, Dry: -1, Drawdown: limit, Pours: pours[:0], passed: passed[:0]}
	for _, s := range []*[]float64{&c.Poured, &c.Level, &c.Outflow, &c.Beverage, &c.Slurry, &c.Kettle, &c.Cup, &c.Ice, &c.TDS, &c.EY} {
		if cap(*s) == 0 {
			*s = make([]float64, 0, int(limit/Every)+2)
		}
		*s = (*s)[:0]
	}
	o.Curves = c
	o.Rim, o.BedHeight = r.brew.Brewer.Rim*1000, r.bedHeight*1000
	o.plot(r, r.bedHeight)
}

// begun records the start of the next pour.
func (o *Result) begun(r *runner) {
	above := r.shape.height(r.bedVolume+r.slurry/r.rho) - r.bedHeight
	o.Pours = append(o.Pours, Begun{Start: units.Seconds(r.began), End: limit, Temperature: units.Celsius(r.kettle), Above: 1000 * above,
		Dry: units.Seconds(r.dryFor), Wetted: r.wetted})
}

// ended records the end of the running pour.
func (o *Result) ended(r *runner, at float64) {
	p := &o.Pours[len(o.Pours)-1]
	p.End, p.Level = units.Seconds(at), 1000*r.shape.height(r.bedVolume+r.slurry/r.rho)
}

// record records a step.
func (o *Result) record(r *runner, level float64) {
	mm := level * 1000
	o.TopLevel = max(o.TopLevel, mm)
	if mm > o.Rim && o.Overflow < 0 {
		o.Overflow = units.Seconds(r.t)
	}
	if r.cupWater > 0 && o.FirstDrip < 0 {
		o.FirstDrip = units.Seconds(r.t)
	}
	if r.slurry > 0 {
		o.Dry = units.Seconds(r.t)
		o.heatSum += r.celsius * r.dt
		o.wSum += r.dt
		o.SlurryPeak = max(o.SlurryPeak, units.Celsius(r.celsius))
	}
	if r.t+1e-9 >= o.next {
		o.plot(r, level)
	}
}

// plot adds a point to the curves.
func (o *Result) plot(r *runner, level float64) {
	o.next += Every
	solids, liquid := r.inCup(), r.liquid()
	const least = 1e-4 // kg; below this TDS is reported as 0
	tds := 0.0
	if liquid >= least {
		tds = 100 * solids / liquid
	}
	o.Poured = append(o.Poured, r.poured*1000)
	o.Level = append(o.Level, level*1000)
	o.Outflow = append(o.Outflow, r.outflow*1000)
	o.Curves.Beverage = append(o.Curves.Beverage, liquid*1000)
	o.Slurry = append(o.Slurry, r.celsius)
	o.Kettle = append(o.Kettle, r.kettle)
	o.Cup = append(o.Cup, r.cupCelsius)
	o.Ice = append(o.Ice, r.cupIce*1000)
	o.Curves.TDS = append(o.Curves.TDS, tds)
	o.Curves.EY = append(o.Curves.EY, 100*solids/r.dose)
	o.passed = append(o.passed, passage{r.ran, r.out})
}

// inCup returns the solids in the cup, kg; liquid its liquid, kg.
func (r *runner) inCup() float64  { return r.cup[bright] + r.cup[sweet] + r.cup[bitter] }
func (r *runner) liquid() float64 { return r.cupWater + r.below - r.cupIce + r.inCup() }

func (o *Result) finish(r *runner) {
	o.passed = append(o.passed, passage{r.ran, r.out})
	r.dilute()
	var inGrains, inLiquid float64
	var left [families]float64
	for f := range families {
		inLiquid += r.slurrySolids[f]
		for k := range r.column {
			for i := range r.column[k].n {
				l := &r.column[k].layers[i]
				inLiquid += l.dissolved[f]
				for c := range classes {
					left[f] += l.solids[f][c]
				}
			}
		}
		inGrains += left[f]
	}
	dry := (1 - r.opened) * r.brew.Coffee.Soluble * r.dose
	for f := range families {
		left[f] += dry * r.mixture.share[f]
	}
	inGrains += dry
	all, inCup := r.brew.Coffee.Soluble*r.dose, r.inCup()
	o.Beverage, o.Brewed, o.IceLeft = units.Grams(r.liquid()*1000), units.Grams((r.cupWater+inCup)*1000), units.Grams(r.cupIce*1000)
	o.Retained = (r.inside + r.between + inLiquid) / r.dose
	if r.cupWater > 0 {
		o.BrewedTemp = units.Celsius(r.carried / (r.ran * heatOfWater))
		o.TDS, o.BrewedTDS = 100*inCup/r.liquid(), 100*inCup/(r.cupWater+inCup)
	}
	o.CupTemp = units.Celsius(r.cupCelsius)
	o.EY = 100 * inCup / r.dose
	o.Extracted = 100 * (all - inGrains) / r.dose
	o.Kept = 100 * r.kept() / r.dose
	share := func(f int) float64 {
		if r.mixture.kinds < families {
			return 0
		}
		out := 1 - left[f]/(all*r.mixture.share[f])
		if r.out[f] > 0 { // without the parts that were not collected
			out *= r.cup[f] / r.out[f]
		}
		return out
	}
	o.Balance = Balance{share(bright), share(sweet), share(bitter)}
	if o.wSum > 0 {
		o.SlurryMean = units.Celsius(o.heatSum / o.wSum)
	}
	if !r.flowOnly {
		o.unevenness(r)
	}
	o.books = books{
		waterIn: r.poured, waterOut: r.ran + r.inside + r.between + r.slurry + r.evaporated,
		solidsIn: all, solidsOut: r.out[bright] + r.out[sweet] + r.out[bitter] + inLiquid + inGrains,
		heatIn: r.heatIn, heatOut: r.heat + r.brew.Brewer.Heat*r.brewerTemp + r.cupHeat + r.lost,
	}
}

// kept returns the solids in the liquid of the grounds, kg: between the grains, and inside them at the
// surrounding strength.
func (r *runner) kept() (solids float64) {
	for k := range r.column {
		col := &r.column[k]
		for i := range col.n {
			for f := range families {
				l := &col.layers[i]
				solids += l.dissolved[f]
				if col.water > 0 {
					inGrains := 0.0
					for c := range classes {
						inGrains += l.solids[f][c]
					}
					solids += min(inGrains, l.dissolved[f]/col.water*r.inside*col.share/float64(col.n))
				}
			}
		}
	}
	return solids
}

// unevenness computes the distribution of yields: of each size in each layer of bed and lane, and of the
// fines. Yields between two sizes are interpolated, so that the shares are continuous. Dry grounds have a
// yield of zero.
func (o *Result) unevenness(r *runner) {
	g := r.brew.Grind
	_, at := g.paces()
	var shell [sizes]float64
	for i := range sizes {
		shell[i] = g.shell(i)
	}
	var given [classes]float64
	var own [sizes + 1]float64 // %, from fines to the largest
	for k := range r.column {
		col := &r.column[k]
		share := col.share / float64(col.n) * r.opened
		for i := range col.n {
			whole := r.brew.Coffee.Soluble * r.dose * share
			for c := range classes {
				given[c] = col.layers[i].given(c, whole*r.classShare[c])
			}
			bound := 100 * r.brew.Coffee.Soluble * r.bound * given[boundClass]
			free := 100 * r.brew.Coffee.Soluble * (1 - r.bound)
			own[0] = bound + free*given[fastClass]
			for s := range sizes { // a boulder's outermost cells extract with the fines
				slow := 0.0
				for j := range modes {
					slow += modeShare[j] * given[firstBoulder+at[s][j]]
				}
				own[s+1] = bound + free*(shell[s]*given[fastClass]+(1-shell[s])*slow)
			}
			for s := range own {
				weight := share * (1 - g.Fines) / sizes
				if s == 0 {
					weight = share * g.Fines
				}
				lo, hi := between(own[:], s)
				o.Below += weight * partUnder(o.Extracted-Band, lo, hi)
				o.Above += weight * (1 - partUnder(o.Extracted+Band, lo, hi))
			}
		}
	}
	o.Below += 1 - r.opened
}

// given returns the share of a class's solids, initially whole kg, that has left the grains of a layer.
func (l *layer) given(class int, whole float64) float64 {
	if whole <= 0 {
		return 0
	}
	left := 0.0
	for f := range families {
		left += l.solids[f][class]
	}
	return 1 - left/whole
}

// between returns the range of yields of one size: half-way to its neighbours, and symmetric at the ends.
func between(own []float64, s int) (lo, hi float64) {
	next, before := own[min(s+1, len(own)-1)], own[max(s-1, 0)]
	if s == len(own)-1 {
		next = 2*own[s] - before
	}
	if s == 0 {
		before = 2*own[s] - next
	}
	return (own[s] + next) / 2, (own[s] + before) / 2
}

// partUnder returns the part of a uniform range from lo to hi that is below a limit.
func partUnder(limit, lo, hi float64) float64 {
	if hi <= lo {
		if limit > lo {
			return 1
		}
		return 0
	}
	return max(0, min(1, (limit-lo)/(hi-lo)))
}
