package figure

import (
	"fmt"
	"html/template"
	"strings"
)

// Errors draws the relative errors of successive brews as dots, within the band of the stated errors.
func Errors(stated, off []float64) template.HTML {
	const width, height, most = 640.0, 140.0, 0.6
	x := func(i int) float64 { return 12 + (width-24)*(float64(i)+0.5)/float64(len(stated)) }
	y := func(v float64) float64 { return height/2 - max(-most, min(most, v))/most*(height/2-8) }
	var up, down []string
	for i, e := range stated {
		up = append(up, fmt.Sprintf("%.1f,%.1f", x(i), y(e)))
		down = append([]string{fmt.Sprintf("%.1f,%.1f", x(i), y(-e))}, down...)
	}
	var b strings.Builder
	fmt.Fprintf(&b, `<svg class="errors" viewBox="0 0 %.0f %.0f" role="img" aria-label="How far off each brew was,
		in the band of the stated error">`, width, height)
	fmt.Fprintf(&b, `<polygon class="errors-band" points="%s"/>`, strings.Join(append(up, down...), " "))
	fmt.Fprintf(&b, `<line class="errors-zero" x1="12" x2="%.0f" y1="%.1f" y2="%.1f"/>`, width-12, y(0), y(0))
	for i, o := range off {
		fmt.Fprintf(&b, `<circle class="errors-dot" cx="%.1f" cy="%.1f" r="4"/>`, x(i), y(o))
	}
	b.WriteString("</svg>")
	return template.HTML(b.String()) // numbers only
}
