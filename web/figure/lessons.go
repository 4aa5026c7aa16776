package figure

import (
	"fmt"
	"html/template"
	"math"
	"math/rand/v2"
	"strings"

	"yardbloom/core/gear"
	"yardbloom/core/units"
)

// The pictures of the glossary: grind sizes to scale, the height of the pour, the patterns of the pour, and the shapes of the spent bed.

// panel is the width of one picture in a row, and lessonHeight its height with the label.
const (
	panel        = 120
	lessonHeight = 136
)

// row returns pictures beside each other, with their labels.
func row(words string, labels []string, draw func(c *canvas, i int, x float64)) template.HTML {
	var c canvas
	for i, label := range labels {
		x := panel * float64(i)
		draw(&c, i, x)
		for n, part := range strings.Split(label, "\n") {
			c.text(x+panel/2, lessonHeight-16+14*float64(n), "lesson-label", "middle", part)
		}
	}
	return c.wrap(panel*float64(len(labels)), lessonHeight+4, fmt.Sprintf("lesson lesson-%d", len(labels)), words)
}

// GrindSizes returns grounds of several median sizes, all to the same scale.
func GrindSizes(prefs units.Prefs) template.HTML {
	const perMillimetre = 22
	sizes := []units.Micrometres{450, 600, 750, 900}
	labels := make([]string, len(sizes))
	for i, size := range sizes {
		labels[i] = prefs.Unit(units.Grind).Format(float64(size)) + "\n" + strings.TrimPrefix(gear.Texture(size), "like ")
	}
	drawn := row("Grounds of four sizes, to scale", labels, func(c *canvas, i int, x float64) {
		rng := rand.New(rand.NewPCG(uint64(i), 5))
		d := float64(sizes[i]) / 1000 * perMillimetre
		for y := 12 + d/2; y < 96; y += d * 1.15 {
			for at := x + 8 + d/2; at < x+panel-8; at += d * 1.2 {
				c.add(`<path class="lesson-grain" d="%s"/>`, grain(at+rng.Float64()*2, y+rng.Float64()*2, d/2*math.Exp(0.12*rng.NormFloat64()), rng))
			}
		}
	})
	length, label := float64(perMillimetre), "1 mm"
	if prefs.Ounces {
		length, label = perMillimetre*25.4/32, "1/32 in"
	}
	bar := fmt.Sprintf(`<path class="lesson-bar" d="M8 4h%.1f"/><text x="%.1f" y="9" class="lesson-label">%s</text></svg>`, length, length+13, label)
	return template.HTML(strings.TrimSuffix(string(drawn), "</svg>") + bar)
}

// grain returns an irregular outline around a point.
func grain(x, y, radius float64, rng *rand.Rand) string {
	var b strings.Builder
	const corners = 7
	for i := range corners {
		sin, cos := math.Sincos(2 * math.Pi * float64(i) / corners)
		r := radius * (0.8 + 0.35*rng.Float64())
		fmt.Fprintf(&b, "%s%.1f %.1f", map[bool]string{true: "M", false: "L"}[i == 0], x+r*cos, y+r*sin)
	}
	return b.String() + "Z"
}

// PourHeights returns the heights from which water falls onto the bed.
func PourHeights(prefs units.Prefs) template.HTML {
	about := func(name string, mm float64) string { return name + "\nabout " + prefs.Unit(units.Length).Format(mm) }
	return row("A low, a middle and a high pour", []string{about("low", 30), about("mid", 100), about("high", 200)}, func(c *canvas, i int, x float64) {
		spout := []float64{74, 50, 16}[i]
		c.add(`<path class="lesson-water" d="M%.1f %.1fV86"/>`, x+58, spout)
		c.add(`<path class="lesson-line" d="M%.1f %.1fq16 0 22 -6v-10h22"/>`, x+56, spout)
		c.add(`<path class="lesson-bed" d="M%.1f 86h56l-12 16h-32z"/><path class="lesson-line" d="M%.1f 70l22 32h32l22 -32"/>`, x+30, x+20)
	})
}

// PourPatterns returns the ways of the stream over the bed, from above.
func PourPatterns() template.HTML {
	return row("Five patterns of a pour, from above", []string{"centre", "small circles", "spiral", "ring", "scatter"}, func(c *canvas, i int, x float64) {
		middle := x + panel/2
		c.add(`<circle cx="%.1f" cy="54" r="44" class="lesson-bed"/><circle cx="%.1f" cy="54" r="44" class="lesson-line"/>`, middle, middle)
		switch i {
		case 0:
			c.add(`<circle cx="%.1f" cy="54" r="6" class="lesson-drop"/>`, middle)
		case 1:
			c.add(`<circle cx="%.1f" cy="54" r="13" class="lesson-water"/>`, middle)
		case 2:
			var b strings.Builder
			for n := range 60 {
				sin, cos := math.Sincos(float64(n) * 0.35)
				r := 3 + 31*float64(n)/59
				fmt.Fprintf(&b, "%s%.1f %.1f", map[bool]string{true: "M", false: "L"}[n == 0], middle+r*cos, 54+r*sin)
			}
			c.add(`<path class="lesson-water" d="%s"/>`, b.String())
		case 3:
			c.add(`<circle cx="%.1f" cy="54" r="32" class="lesson-water"/>`, middle)
		case 4:
			for n := range 22 { // spread by the golden angle
				sin, cos := math.Sincos(float64(n) * 2.4)
				r := 8 * math.Sqrt(float64(n))
				c.add(`<circle cx="%.1f" cy="%.1f" r="2.6" class="lesson-drop"/>`, middle+r*cos, 54+r*sin)
			}
		}
	})
}

// BedShapes returns the shapes of a spent bed, cut through.
func BedShapes() template.HTML {
	surfaces := []string{"H96", "Q60 34 96 62", "Q60 92 96 62", "L96 44", "H96", "H96"}
	return row("Six shapes of a spent bed, cut through", []string{"flat", "domed", "cratered", "sloped", "grounds high\non the wall", "mud on top"},
		func(c *canvas, i int, x float64) {
			c.add(`<g transform="translate(%.0f 0)"><path class="lesson-bed" d="M24 62%sL68 98H52Z"/>`, x, surfaces[i])
			c.add(`<path class="lesson-line" d="M8 20L52 98H68L112 20"/>`)
			if i == 4 {
				c.add(`<path class="lesson-bed" d="M24 62L9 22h9L34 62zM96 62L111 22h-9L86 62z"/>`)
			}
			if i == 5 {
				c.add(`<path class="lesson-mud" d="M24 62H96L92 70H28Z"/>`)
			}
			c.add(`</g>`)
		})
}
