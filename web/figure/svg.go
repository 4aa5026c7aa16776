// Package figure draws the product's own figures as SVG, such as the time ribbon and the brew flower.
// Colours come from classes of the style sheet, so that a figure follows the day and night themes; there
// are no inline styles.
package figure

import (
	"fmt"
	"html"
	"html/template"
	"strings"

	"yardbloom/core/units"
)

// canvas collects the elements of one SVG.
type canvas struct{ strings.Builder }

func (c *canvas) add(format string, args ...any) { fmt.Fprintf(c, format, args...) }

// text writes a label. anchor is start, middle or end.
func (c *canvas) text(x, y float64, class, anchor, label string) {
	c.add(`<text x="%.1f" y="%.1f" class="%s" text-anchor="%s">%s</text>`, x, y, class, anchor, html.EscapeString(label))
}

// wrap closes the figure with its size, class, description and data attributes for a script.
func (c *canvas) wrap(w, h float64, class, words string, data ...string) template.HTML {
	return c.wrapAs("img", w, h, class, words, data...)
}

// wrapAs is wrap with a role other than that of an image.
func (c *canvas) wrapAs(role string, w, h float64, class, words string, data ...string) template.HTML {
	return template.HTML(fmt.Sprintf(`<svg class="%s" viewBox="0 0 %g %g" role="%s" aria-label="%s" %s>%s</svg>`,
		class, w, h, role, html.EscapeString(words), strings.Join(data, " "), c.String()))
}

// tint returns the class of a temperature: five steps from cool to boiling.
func tint(t units.Celsius) string {
	for i, below := range []units.Celsius{84, 89, 92, 95} {
		if t < below {
			return fmt.Sprintf("tint-%d", i+1)
		}
	}
	return "tint-5"
}
