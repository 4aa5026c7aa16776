package figure

import (
	"fmt"
	"html/template"
	"math"

	"yardbloom/core/cup"
)

// bedName holds the name of each region of a bed.
var bedName = map[cup.Place]string{cup.Middle: "middle", cup.Far: "far side", cup.Right: "right side", cup.Near: "near side",
	cup.Left: "left side", cup.Wall: "wall"}

// Bed draws a spent bed from above. Each region is a button that cycles through the defects.
func Bed(spots map[cup.Place]cup.Look) template.HTML {
	const middle, inner, outer, wall = 120.0, 36.0, 88.0, 112.0
	var c canvas
	zone := func(p cup.Place, path string, x, y float64) {
		look, said := spots[p], "even"
		if look != "" {
			said = string(look)
		}
		c.add(`<g class="zone %s" role="button" tabindex="0" data-place="%s" data-name="%s" aria-label="%s: %s">%s`, look, p, bedName[p],
			bedName[p], said, path)
		label := ""
		if look != "" {
			label = string(look)
		}
		c.text(x, y, "zone-word", "middle", label)
		c.add(`</g>`)
	}
	zone(cup.Wall, fmt.Sprintf(`<path fill-rule="evenodd" d="%s%s"/>`, ring(middle, wall), ring(middle, outer)), middle, middle-wall+16)
	for i, p := range []cup.Place{cup.Far, cup.Right, cup.Near, cup.Left} {
		turn := float64(i) * math.Pi / 2
		at := func(r, angle float64) (float64, float64) {
			return middle + r*math.Sin(turn+angle), middle - r*math.Cos(turn+angle)
		}
		x0, y0 := at(inner, -math.Pi/4)
		x1, y1 := at(outer, -math.Pi/4)
		x2, y2 := at(outer, math.Pi/4)
		x3, y3 := at(inner, math.Pi/4)
		x, y := at((inner+outer)/2, 0)
		zone(p, fmt.Sprintf(`<path d="M%.1f %.1fL%.1f %.1fA%g %g 0 0 1 %.1f %.1fL%.1f %.1fA%g %g 0 0 0 %.1f %.1fZ"/>`, x0, y0, x1, y1,
			outer, outer, x2, y2, x3, y3, inner, inner, x0, y0), x, y+5)
	}
	zone(cup.Middle, fmt.Sprintf(`<circle cx="%g" cy="%g" r="%g"/>`, middle, middle, inner), middle, middle+5)
	return c.wrapAs("group", 2*middle, 2*middle, "bed", "The spent bed from above: tap the uneven places")
}

// ring returns a full circle as a path.
func ring(middle, r float64) string {
	return fmt.Sprintf("M%g %gA%g %g 0 1 0 %g %gA%g %g 0 1 0 %g %gZ", middle-r, middle, r, r, middle+r, middle, r, r, middle-r, middle)
}
