package figure

import (
	"fmt"
	"html/template"
	"math"

	"yardbloom/core/coach"
	"yardbloom/core/units"
)

// Map draws cups by yield and strength: the patch of a person's estimated aim, the cups of a bag as flowers
// in chronological order, the last with its error, and the predicted result of a change. There is no box of
// ideal values: the patch is all that is known.
type Map struct {
	coach.Map
	Flowers []template.HTML // of the cups; empty if unknown
}

// The sizes of the figure and its parts, px.
const (
	mapWidth, mapHeight                = 560.0, 360.0
	mapLeft, mapRight, mapTop, mapFoot = 56.0, 14.0, 26.0, 40.0
)

// Draw returns the figure.
func (m Map) Draw() template.HTML {
	if len(m.Cups) == 0 {
		return ""
	}
	here := m.Cups[len(m.Cups)-1]
	yields, strengths := extent{here.Yield, here.Yield}, extent{here.Strength, here.Strength}
	for _, p := range m.Cups {
		yields.cover(p.Yield, 0.6)
		strengths.cover(p.Strength, 0.05)
	}
	yields.cover(here.Yield, m.YieldError)
	strengths.cover(here.Strength, m.StrengthError)
	yields.cover(m.Aim.Yield, 1.6*m.Aim.YieldSpread)
	strengths.cover(m.Aim.Strength, 1.6*m.Aim.StrengthSpread)
	if m.Then != nil {
		yields.cover(m.Then.Yield, 0.4)
		strengths.cover(m.Then.Strength, 0.04)
	}
	yields.widen(4)
	strengths.widen(0.36)
	perYield := (mapWidth - mapLeft - mapRight) / (yields.hi - yields.lo)
	perStrength := (mapHeight - mapTop - mapFoot) / (strengths.hi - strengths.lo)
	x := func(yield float64) float64 { return mapLeft + (yield-yields.lo)*perYield }
	y := func(strength float64) float64 { return mapTop + (strengths.hi-strength)*perStrength }

	var c canvas
	for _, v := range yields.ticks(0.5, 1, 2, 5) {
		c.add(`<path d="M%.1f %.1fV%.1f" class="map-grid"/>`, x(v), mapTop, mapHeight-mapFoot)
		c.text(x(v), mapHeight-mapFoot+17, "map-tick", "middle", units.Trim(v, 1))
	}
	for _, v := range strengths.ticks(0.05, 0.1, 0.2, 0.5) {
		c.add(`<path d="M%.1f %.1fH%.1f" class="map-grid"/>`, mapLeft, y(v), mapWidth-mapRight)
		c.text(mapLeft-7, y(v)+4, "map-tick", "end", fmt.Sprintf("%.2f", v))
	}
	c.text(mapWidth-mapRight, mapHeight-5, "map-name", "end", "extraction yield, %")
	c.text(4, mapTop-13, "map-name", "start", "TDS, %")
	c.patch(m.Aim, x, y, perYield, perStrength)
	c.text(x(m.Aim.Yield), y(m.Aim.Strength)+4, "map-aim", "middle", "your aim")

	class := "map-error"
	if !m.Measured {
		class += " predicted"
	}
	c.add(`<ellipse cx="%.1f" cy="%.1f" rx="%.1f" ry="%.1f" class="%s"/>`, x(here.Yield), y(here.Strength), m.YieldError*perYield,
		m.StrengthError*perStrength, class)
	for i := 1; i < len(m.Cups); i++ {
		a, b := m.Cups[i-1], m.Cups[i]
		c.add(`<path d="M%.1f %.1fL%.1f %.1f" class="map-path"/>`, x(a.Yield), y(a.Strength), x(b.Yield), y(b.Strength))
	}
	if m.Then != nil {
		c.add(`<path d="M%.1f %.1fL%.1f %.1f" class="map-step"/>`, x(here.Yield), y(here.Strength), x(m.Then.Yield), y(m.Then.Strength))
		c.add(`<circle cx="%.1f" cy="%.1f" r="9" class="map-then"/>`, x(m.Then.Yield), y(m.Then.Strength))
	}
	for i, p := range m.Cups {
		size := 34.0
		if i == len(m.Cups)-1 {
			size = 46
		}
		c.flowerAt(x(p.Yield), y(p.Strength), size, m.flower(i))
		if len(m.Cups) > 1 {
			c.text(x(p.Yield)+size*0.42, y(p.Strength)-size*0.32, "map-number", "start", fmt.Sprint(i+1))
		}
	}
	return c.wrap(mapWidth, mapHeight, "map", m.words())
}

func (m Map) flower(i int) template.HTML {
	if i < len(m.Flowers) {
		return m.Flowers[i]
	}
	return ""
}

// flowerAt draws a flower on the map, or a dot for a cup without one.
func (c *canvas) flowerAt(x, y, size float64, flower template.HTML) {
	if flower == "" {
		c.add(`<circle cx="%.1f" cy="%.1f" r="6" class="flower-heart"/>`, x, y)
		return
	}
	c.add(`<circle cx="%.1f" cy="%.1f" r="%.1f" class="map-plot"/><svg x="%.1f" y="%.1f" width="%g" height="%g" viewBox="0 0 64 64"
		aria-hidden="true">%s</svg>`, x, y, size/2, x-size/2, y-size/2, size, size, flower)
}

// patch draws a distribution as rings that fade outwards.
func (c *canvas) patch(p coach.Patch, x, y func(float64) float64, perYield, perStrength float64) {
	// The covariance in px; y grows downwards.
	xx, yy := square(p.YieldSpread*perYield), square(p.StrengthSpread*perStrength)
	xy := -p.Together * p.YieldSpread * perYield * p.StrengthSpread * perStrength
	middle, off := (xx+yy)/2, math.Hypot((xx-yy)/2, xy)
	long, short := math.Sqrt(middle+off), math.Sqrt(max(1, middle-off))
	turn := math.Atan2(2*xy, xx-yy) / 2 * 180 / math.Pi
	for _, sigma := range []float64{1.5, 1, 0.5} {
		c.add(`<ellipse cx="0" cy="0" rx="%.1f" ry="%.1f" transform="translate(%.1f %.1f) rotate(%.1f)" class="map-patch"/>`, sigma*long,
			sigma*short, x(p.Yield), y(p.Strength), turn)
	}
}

func square(v float64) float64 { return v * v }

func (m Map) words() string {
	here := m.Cups[len(m.Cups)-1]
	out := fmt.Sprintf("This cup: about %.1f ± %.1f %% yield and %.2f ± %.2f %% TDS. Your preference: about %.1f ± %.1f %% and "+
		"%.2f ± %.2f %%.", here.Yield, m.YieldError, here.Strength, m.StrengthError,
		m.Aim.Yield, m.Aim.YieldSpread, m.Aim.Strength, m.Aim.StrengthSpread)
	if m.Then != nil {
		out += fmt.Sprintf(" After the change: about %.1f %% and %.2f %%.", m.Then.Yield, m.Then.Strength)
	}
	return out
}
