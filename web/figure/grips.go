package figure

import (
	"fmt"
	"html"

	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// grips draws the handles of the pours: the foot changes the start, the shoulder the duration, the top the
// amount. Each names its field and its limits. A script moves it; the server computes the consequences.
func (r Ribbon) grips(c *canvas, s scale) {
	// Elements that the script draws while dragging.
	c.add(`<path class="ribbon-ghost" d=""/><text class="ribbon-said" text-anchor="middle"></text>`)
	pour := 0
	for i, st := range r.Plan.Steps {
		if st.Act != recipe.PourWater {
			continue
		}
		pour++
		until := r.until(i)
		from := st.Total - st.Water
		u := r.Prefs.Unit(units.Water)
		c.add(`<g class="ribbon-pour" data-pour="%d" data-start="%g" data-lasts="%g" data-water="%g" data-below="%g" data-until="%g">`,
			pour, float64(st.Start), float64(st.Lasts), u.Shown(float64(st.Water)), u.Shown(float64(from)), float64(until))
		if pour > 1 { // the first pour starts the clock
			r.grip(c, recipe.Address{Knob: recipe.Start, Pour: pour}, "x", s.x(st.Start), s.y(0), float64(st.Start), st.Start.String())
		}
		r.grip(c, recipe.Address{Knob: recipe.Lasts, Pour: pour}, "x", s.x(st.End()), s.y(st.Total), float64(st.Lasts),
			fmt.Sprintf("%.0f s", float64(st.Lasts)))
		r.grip(c, recipe.Address{Knob: recipe.Water, Pour: pour}, "y", (s.x(st.End())+s.x(until))/2, s.y(st.Total), float64(st.Water),
			u.Format(float64(st.Water)))
		c.add(`</g>`)
	}
}

// gripReach is the radius of a grip's hit area in figure units: at least 44 px across on a tablet.
const gripReach = 28

// gripNames describes what each grip changes.
var gripNames = map[recipe.Knob]string{recipe.Start: "starts at", recipe.Lasts: "lasts", recipe.Water: "amount"}

func (r Ribbon) grip(c *canvas, at recipe.Address, axis string, x, y, value float64, says string) {
	u, allowed := r.Prefs.Unit(at.Knob.Kind()), r.Limits(at)
	lo, hi := u.Shown(allowed.Lo), u.Shown(allowed.Hi)
	id := "wide"
	if r.Narrow {
		id = "narrow"
	}
	c.add(`<g class="grip grip-%s" id="%s-%s" tabindex="0" role="slider" aria-label="Pour %d: %s" aria-valuemin="%.4g"
		aria-valuemax="%.4g" aria-valuenow="%.4g" aria-valuetext="%s" data-grip="%s" data-axis="%s"
			transform="translate(%.1f %.1f)"><circle r="%d" class="grip-reach"/>`,
		at.Knob, id, at, at.Pour, gripNames[at.Knob], lo, hi, u.Shown(value), html.EscapeString(says), at, axis, x, y, gripReach)
	switch at.Knob {
	case recipe.Start:
		c.add(`<path d="M0 -9L6.5 3H-6.5Z" class="grip-mark"/>`)
	case recipe.Lasts:
		c.add(`<circle r="5" class="grip-mark"/>`)
	default:
		c.add(`<rect x="-11" y="-3.5" width="22" height="7" rx="3.5" class="grip-mark"/>`)
	}
	c.add(`</g>`)
}

// measures returns the attributes with which a script converts a position in the figure to an amount of
// water, in the person's unit.
func (r Ribbon) measures(s scale) []string {
	u := r.Prefs.Unit(units.Water)
	return []string{fmt.Sprintf(`data-floor="%.2f"`, s.y(0)),
		fmt.Sprintf(`data-per-weight="%.5f"`, (s.y(0) - s.y(units.Grams(u.Canonical(1))))), fmt.Sprintf(`data-unit="%s"`, u.Symbol)}
}
