package sim

import (
	"testing"

	"yardbloom/core/units"
)

// Everything that makes a bed uneven makes it faster and weaker, and levelling it restores it.
func TestUnevenBedIsFasterAndExtractsLess(t *testing.T) {
	t.Parallel()
	usualBrews(func(b Brew) {
		even := run(t, b)
		heaped := with(b, func(b *Brew) { b.Bed = 1 })
		r := run(t, heaped)
		if r.Drawdown >= even.Drawdown || r.EY >= even.EY {
			t.Errorf("%s, heaped: drawdown %v → %v, EY %.2f → %.2f", describe(b), even.Drawdown, r.Drawdown, even.EY, r.EY)
		}
		tapped := run(t, with(heaped, func(b *Brew) { b.Hands = []HandMotion{{12, Tap}} }))
		if tapped.Drawdown <= r.Drawdown || tapped.EY <= r.EY {
			t.Errorf("%s, tapped level: drawdown %v → %v, EY %.2f → %.2f", describe(b), r.Drawdown, tapped.Drawdown, r.EY, tapped.EY)
		}
		wall := func(p Pattern, height float64) Result {
			return run(t, with(b, func(b *Brew) {
				for i := range b.Pours {
					b.Pours[i].Pattern, b.Pours[i].Height = p, height
				}
			}))
		}
		if high, inner := wall(Ring, 0.2), wall(Spiral, 0.2); high.Drawdown >= inner.Drawdown {
			t.Errorf("%s: a high ring drains in %v, a spiral in %v", describe(b), high.Drawdown, inner.Drawdown)
		}
	})
}

// The lane takes more than its share of the water and extracts more.
func TestLaneExtractsMore(t *testing.T) {
	t.Parallel()
	var r runner
	var out Result
	b := base()
	b.Bed = 1
	r.begin(b, defaultLayers, defaultStep)
	out.begin(&r)
	for !r.step(&out) {
	}
	inRange(t, "share of the flow through the lane", r.laneFlow(), 1.5*laneShare, 3*laneShare)
	inRange(t, "conductance against an even bed", r.conductance(), 1.1, 1.6)
	for c := range classes {
		if a, b := r.gave(lane, c), r.gave(mostOfBed, c); a <= b {
			t.Errorf("class %d gave %.3f in the lane, %.3f beside it", c, a, b)
		}
	}
}

// gave returns the share of a class's solids that has left the grains of a column.
func (r *runner) gave(column, class int) (share float64) {
	col := &r.column[column]
	for i := range col.n {
		whole := r.opened * r.brew.Coffee.Soluble * r.dose * col.share / float64(col.n) * r.classShare[class]
		share += col.layers[i].given(class, whole) / float64(col.n)
	}
	return share
}

// Under deep water, fines thrown onto the wall clog less; a drained bed has no water to throw them with.
func TestSurfaceStirUnderWaterClearsTheBed(t *testing.T) {
	t.Parallel()
	gain := func(at units.Seconds) float64 {
		brew := func(clears float64) Brew {
			return with(base(), func(b *Brew) {
				b.Grind.Fines = 0.15
				b.Pours = []Pour{{Water: 290, Rate: 12, Temperature: 95, Height: 0.2, Pattern: Spiral}}
				b.Hands = []HandMotion{{10, Stir}, {at, Motion{Clears: clears}}}
			})
		}
		return float64(run(t, brew(0)).Drawdown - run(t, brew(0.4)).Drawdown)
	}
	full, drained := gain(40), gain(400)
	if full < 5 || drained != 0 {
		t.Errorf("a surface stir saves %.1f s under deep water, %.1f s on a drained bed", full, drained)
	}
}
