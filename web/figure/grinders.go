package figure

import (
	"fmt"
	"html/template"
	"math"
)

// The signs of grinders, for choosing one: a dial with numbers, one with clicks, one without marks, a blade, and a pack of ground coffee.

// NumberedDial returns the sign of a grinder with numbers.
func NumberedDial() template.HTML {
	c := collar()
	for i := range 4 {
		x, y := around(210+80*float64(i), 24)
		c.add(`<text x="%.1f" y="%.1f" class="section-number" text-anchor="middle">%d</text>`, x, y+5, 2*i+1)
	}
	return c.sign("section-mark", "M48 42L30 22")
}

// ClickDial returns the sign of a grinder with clicks.
func ClickDial() template.HTML {
	c := collar()
	notches := ""
	for i := range 30 {
		x0, y0 := around(float64(12*i), 24)
		x1, y1 := around(float64(12*i), 30)
		notches += fmt.Sprintf("M%.1f %.1fL%.1f %.1f", x0, y0, x1, y1)
	}
	return c.sign("section-mark", notches+"M48 42L48 20")
}

// PlainDial returns the sign of a grinder without marks.
func PlainDial() template.HTML {
	c := collar()
	return c.sign("section-mark", "M36 42h24M48 30v24")
}

// BladeSign returns the sign of a blade grinder.
func BladeSign() template.HTML {
	var c canvas
	c.add(`<path class="section-bed" d="M24 50h48v18H24z"/><path class="section-wall" d="M22 14v56h52V14M18 14h60M32 78h32"/>`)
	return c.sign("section-mark", "M48 62v-16M48 46q-14 -2 -20 6M48 46q14 -2 20 -6")
}

// PackSign returns the sign of a pack of ground coffee.
func PackSign() template.HTML {
	var c canvas
	c.add(`<path class="section-bed" d="M28 44h40v32H28z"/><path class="section-wall" d="M26 18l-2 58h48l-2-58zM26 18l6-8h32l6 8"/>`)
	for i := range 18 { // spread by the golden ratio
		x, y := 31+34*math.Mod(float64(i)*0.618, 1), 50+22*float64(i)/17
		c.add(`<circle cx="%.1f" cy="%.1f" r="1.4" class="section-grain"/>`, x, y)
	}
	return c.sign("section-mark", "M24 44h48")
}

// collar returns a canvas with the round collar of a grinder.
func collar() *canvas {
	var c canvas
	c.add(`<circle cx="48" cy="42" r="36" class="section-wall"/><circle cx="48" cy="42" r="12" class="section-bed"/>`)
	return &c
}

// around returns the point at an angle, in degrees clockwise from the top, and a radius around the middle of a collar.
func around(degrees, radius float64) (x, y float64) {
	sin, cos := math.Sincos(degrees * math.Pi / 180)
	return 48 + radius*sin, 42 - radius*cos
}

// sign closes a sign with a last path.
func (c *canvas) sign(class, path string) template.HTML {
	c.add(`<path class="%s" d="%s"/>`, class, path)
	return c.wrap(96, 84, "section", "", `aria-hidden="true"`)
}
