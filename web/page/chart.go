package page

import (
	"html/template"

	"yardbloom/web/chart"
)

// A Chart is a chart with its numbers for the template "chart".
type Chart struct {
	SVG     template.HTML
	Title   string
	Axis    string // heading of the first column
	Summary string // printed below it; empty for none
	Rows    []chart.Row
	Note    string // heading of the notes; empty without notes
}

// ChartOf returns a chart for its template. note is the heading of the notes of its points.
func ChartOf(c chart.Chart, note string) Chart {
	return Chart{SVG: c.SVG(), Title: c.Title, Axis: c.Axis, Rows: c.Rows(), Note: noteOf(c.Rows(), note), Summary: c.About}
}

// RankingOf returns a ranking for its template.
func RankingOf(r chart.Ranking, axis, summary, note string) Chart {
	return Chart{SVG: r.SVG(), Title: r.Title, Axis: axis, Rows: r.Rows(), Note: noteOf(r.Rows(), note), Summary: summary}
}

// noteOf returns the heading if any row has a note.
func noteOf(rows []chart.Row, heading string) string {
	for _, r := range rows {
		if r.Note != "" {
			return heading
		}
	}
	return ""
}
