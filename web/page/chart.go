package page

import (
	"html/template"

	"yardbloom/web/chart"
)

// A Chart is a chart with its numbers for the template "chart".
type Chart struct {
	SVG   template.HTML
	Title string
	Axis  string
	Rows  []chart.Row
	Notes bool // some rows have a note
}

// ChartOf returns a chart for its template.
func ChartOf(c chart.Chart) Chart {
	out := Chart{SVG: c.SVG(), Title: c.Title, Axis: c.Axis, Rows: c.Rows()}
	for _, r := range out.Rows {
		out.Notes = out.Notes || r.Note != ""
	}
	return out
}
