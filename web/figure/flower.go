package figure

import (
	"fmt"
	"html/template"
	"math"

	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// Flower draws a brew as a flower. Time runs clockwise from the top; each pour is a petal (its angle shows
// the time, its width the duration, its length the amount, its tint the temperature), the heart is the
// dose, and the ring ends at the drawdown. A full turn is five minutes, or the whole brew if it is longer.
func Flower(dose units.Grams, steps []recipe.Step, drawdown units.Seconds) template.HTML {
	var c canvas
	round := math.Max(300, float64(drawdown))
	turn := func(s units.Seconds) float64 { return float64(s) / round * 2 * math.Pi }

	c.add(`<circle cx="32" cy="32" r="29.5" class="flower-round"/>`)
	if drawdown > 0 {
		c.add(`<path d="%s" class="flower-ring"/>`, arc(29.5, turn(drawdown)))
	}
	heart := 2.6 + 0.55*math.Sqrt(float64(dose))
	pours, most := 0, units.Grams(1)
	for _, s := range steps {
		most = max(most, s.Water)
	}
	for _, s := range steps {
		if s.Act != recipe.PourWater {
			x, y := polar(25, turn(s.Start))
			c.add(`<circle cx="%.1f" cy="%.1f" r="1.6" class="flower-hand"/>`, x, y)
			continue
		}
		pours++
		length := 9 + 13*math.Sqrt(float64(s.Water/most))
		half := turn(s.Lasts) / 2
		c.add(`<path d="%s" class="flower-petal %s"/>`, petal(turn(s.Start)+half, math.Min(0.3+half, 0.9), heart*0.7, heart+length),
			tint(s.Temperature))
	}
	c.add(`<circle cx="32" cy="32" r="%.1f" class="flower-heart"/>`, heart)
	words := "Brew flower: " + units.Plural(pours, "pour")
	if drawdown > 0 {
		words += fmt.Sprintf(", drawdown %s", drawdown)
	}
	return c.wrap(64, 64, "flower", words)
}

// polar converts a radius and an angle clockwise from the top to a point.
func polar(r, angle float64) (x, y float64) {
	return 32 + r*math.Sin(angle), 32 - r*math.Cos(angle)
}

// petal returns a teardrop around an angle, from the heart to a tip.
func petal(angle, half, from, to float64) string {
	x0, y0 := polar(from, angle)
	x1, y1 := polar(to, angle)
	bulge := from + (to-from)*0.72
	ax, ay := polar(bulge, angle-half)
	bx, by := polar(bulge, angle+half)
	return fmt.Sprintf("M%.1f %.1fQ%.1f %.1f %.1f %.1fQ%.1f %.1f %.1f %.1fZ", x0, y0, ax, ay, x1, y1, bx, by, x0, y0)
}

// arc returns an arc clockwise from the top through an angle.
func arc(r, angle float64) string {
	angle = math.Min(angle, 2*math.Pi-0.001)
	x, y := polar(r, angle)
	large := 0
	if angle > math.Pi {
		large = 1
	}
	return fmt.Sprintf("M32 %.1fA%.1f %.1f 0 %d 1 %.1f %.1f", 32-r, r, r, large, x, y)
}
