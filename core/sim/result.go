package sim

import (
	"math"

	"yardbloom/core/units"
)

// Every is the spacing of the curves, s.
const Every = 1.0

// Curves are the course of a brew, one value every Every seconds from 0.
type Curves struct {
	Poured   []float64 // g
	Level    []float64 // of the slurry's surface over the outlet, mm
	Outflow  []float64 // g/s
	Beverage []float64 // g
	Slurry   []float64 // °C
	Cup      []float64 // °C, as it collects
	TDS      []float64 // %, of the beverage so far
	EY       []float64 // %, of the dose, so far
}

// A Result is what came of a brew.
type Result struct {
	Curves

	Drawdown  units.Seconds // to the last steady stream
	Drained   bool          // false: it stalled, and Drawdown is the limit
	FirstDrip units.Seconds
	Dry       units.Seconds // when the last water sank into the bed
	Overflow  units.Seconds // when it first ran over; negative: never

	Beverage  units.Grams
	Retained  float64 // g of liquid per g of dose
	TDS       float64 // %
	EY        float64 // %, solids in the beverage per dose
	Extracted float64 // %, solids out of the grains per dose, in the cup or not
	// Balance is, for bright, sweet and bitter solubles, the share of each that
	// came out of the grains. The model's least certain part.
	Balance Balance
	// Below and Above are the shares of the dose whose own yield is more than
	// four points under or over the mean.
	Below, Above float64

	TopLevel   float64 // highest level of the slurry, mm over the outlet
	Rim        float64 // mm
	BedHeight  float64 // mm
	SlurryMean units.Celsius
	SlurryPeak units.Celsius
	CupTemp    units.Celsius

	next          float64
	heatSum, wSum float64
	books         books
}

// Balance is the share of each family of solubles that was extracted, 0 to 1.
type Balance struct{ Bright, Sweet, Bitter float64 }

// books are what went in and what is where at the end.
type books struct {
	waterIn, waterOut   float64
	solidsIn, solidsOut float64
	heatIn, heatOut     float64
}

func (o *Result) begin(r *runner) {
	c := o.Curves
	*o = Result{Overflow: -1, FirstDrip: -1, Dry: -1, Drawdown: limit}
	for _, s := range []*[]float64{&c.Poured, &c.Level, &c.Outflow, &c.Beverage, &c.Slurry, &c.Cup, &c.TDS, &c.EY} {
		if cap(*s) == 0 {
			*s = make([]float64, 0, int(limit/Every)+2)
		}
		*s = (*s)[:0]
	}
	o.Curves = c
	o.Rim, o.BedHeight = r.brew.Brewer.Rim*1000, r.bedHeight*1000
}

// record notes a step.
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
	if r.t+1e-9 < o.next {
		return
	}
	o.next += Every
	solids := r.cup[bright] + r.cup[sweet] + r.cup[bitter]
	tds, cup := 0.0, float64(r.brew.Ambient)
	if r.cupWater > 0 {
		tds, cup = 100*solids/(r.cupWater+solids), r.cupHeat/(r.cupWater*heatOfWater)
	}
	o.Poured = append(o.Poured, r.poured*1000)
	o.Level = append(o.Level, mm)
	o.Outflow = append(o.Outflow, r.outflow*1000)
	o.Curves.Beverage = append(o.Curves.Beverage, (r.cupWater+solids)*1000)
	o.Slurry = append(o.Slurry, r.celsius)
	o.Cup = append(o.Cup, cup)
	o.Curves.TDS = append(o.Curves.TDS, tds)
	o.Curves.EY = append(o.Curves.EY, 100*solids/r.dose)
}

func (o *Result) finish(r *runner) {
	var inCup, inGrains, inLiquid float64
	var left [families]float64
	for f := range families {
		inCup += r.cup[f]
		inLiquid += r.slurrySolids[f]
		for i := range r.n {
			inLiquid += r.layers[i].dissolved[f]
			for c := range classes {
				left[f] += r.layers[i].solids[c][f]
			}
		}
		inGrains += left[f]
	}
	all := r.brew.Coffee.Soluble * r.dose
	o.Beverage = units.Grams((r.cupWater + inCup) * 1000)
	o.Retained = (r.inside + r.between + inLiquid) / r.dose
	if r.cupWater > 0 {
		o.TDS = 100 * inCup / (r.cupWater + inCup)
		o.CupTemp = units.Celsius(r.cupHeat / (r.cupWater * heatOfWater))
	}
	o.EY = 100 * inCup / r.dose
	o.Extracted = 100 * (all - inGrains) / r.dose
	share := func(f int) float64 { return 1 - left[f]/(all*familyShare[f]) }
	o.Balance = Balance{share(bright), share(sweet), share(bitter)}
	if o.wSum > 0 {
		o.SlurryMean = units.Celsius(o.heatSum / o.wSum)
	}
	o.spread(r)
	o.books = books{
		waterIn: r.poured, waterOut: r.cupWater + r.inside + r.between + r.slurry + r.evaporated,
		solidsIn: all, solidsOut: inCup + inLiquid + inGrains,
		heatIn: r.heatIn, heatOut: r.heat + r.brew.Brewer.Heat*r.brewerTemp + r.cupHeat + r.lost,
	}
}

// spread tells how unevenly the dose gave: each layer's grains of each size have
// a yield of their own, and grounds that stayed dry have none.
func (o *Result) spread(r *runner) {
	const band = 4 // points
	mean := o.Extracted
	dry := 1 - r.wetted
	for c := range classes {
		whole := r.brew.Coffee.Soluble * r.dose / float64(r.n) * r.classShare[c]
		for i := range r.n {
			var left float64
			for f := range families {
				left += r.layers[i].solids[c][f]
			}
			own := 100 * r.brew.Coffee.Soluble * (1 - left/math.Max(whole, 1e-12))
			weight := r.classShare[c] / float64(r.n) * (1 - dry)
			switch {
			case own < mean-band:
				o.Below += weight
			case own > mean+band:
				o.Above += weight
			}
		}
	}
	o.Below += dry
}
