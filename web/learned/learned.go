package learned

import (
	"cmp"
	"fmt"
	"html/template"
	"math"
	"net/http"
	"slices"

	"github.com/go-chi/chi/v5"

	"yardbloom/core/learn"
	"yardbloom/core/units"
	"yardbloom/web/chart"
	"yardbloom/web/figure"
	"yardbloom/web/page"
	"yardbloom/web/words"
)

// learnedBody is the data of the page.
type learnedBody struct {
	Brews   int
	Busy    bool // learning is in progress
	Rows    []learnedRow
	Drifts  []string
	Odd     int
	Courses []page.Chart // errors of predictions
}

// learnedRow is a measured brew with its expectation from the earlier ones.
type learnedRow struct {
	ID, Name, When string
	Flower         template.HTML
	Drawdown       string // measured
	Expected       string // expected drawdown
	Strength       string
	Strong         string // expected TDS
	Odd, Out       bool
	Off            string
}

// learnedPage is the number of latest brews on the page.
const learnedPage = 60

// learned shows predicted against measured, brew by brew.
func (s *Screens) learned(w http.ResponseWriter, r *http.Request) error {
	y := s.yard.Learned()
	body := learnedBody{Brews: y.Brews(), Busy: s.yard.Learning()}
	if y != nil {
		var err error
		if body.Drifts, err = s.drifts(r, y); err != nil {
			return err
		}
		for _, f := range predictedFigures {
			if c, ok := f.errorChart(y.Seen); ok {
				body.Courses = append(body.Courses, c)
			}
		}
		for _, b := range slices.Backward(y.Seen) {
			if len(body.Rows) == learnedPage {
				break
			}
			row := learnedRow{ID: b.ID, Name: b.Name, When: words.Moment(b.At, s.yard.Now()), Odd: b.Odd, Out: b.Out, Drawdown: "–",
				Strength: "–", Expected: "–", Strong: "–"}
			if b.Drawdown > 0 {
				row.Drawdown = units.Seconds(b.Drawdown).String()
			}
			if b.Error.Drawdown > 0 {
				row.Expected = fmt.Sprintf("%s ± %s", units.Seconds(b.Expected.Drawdown), units.Seconds(b.Error.Drawdown))
			}
			if b.TDS > 0 {
				row.Strength = fmt.Sprintf("%.2f", b.TDS)
			}
			if b.Error.Strength > 0 {
				row.Strong = fmt.Sprintf("%.2f ± %.2f", b.Expected.Strength, b.Error.Strength)
			}
			if b.Odd {
				row.Off = fmt.Sprintf("%.0f", b.Off)
				body.Odd++
			}
			body.Rows = append(body.Rows, row)
		}
	}
	var ids []string
	for _, row := range body.Rows {
		ids = append(ids, row.ID)
	}
	signs, err := s.yard.Store.Flowers(r.Context(), ids)
	if err != nil {
		return err
	}
	for i, row := range body.Rows {
		sign := signs[row.ID]
		body.Rows[i].Flower = figure.Flower(sign.Dose, sign.Steps, sign.Drawdown)
	}
	s.Render(w, r, http.StatusOK, "learned", page.Page{Title: "Learned from brews", Side: "learned", Line: page.Line(""), Body: body})
	return nil
}

// A predictedFigure is a figure of a brew that is predicted, and then measured.
type predictedFigure struct {
	title string
	// of returns the measured and the predicted figure, and the stated error; 0 for a missing one.
	of func(b learn.Seen) (measured, predicted, stated float64)
}

var predictedFigures = []predictedFigure{
	{"Measured against predicted drawdown, %", func(b learn.Seen) (measured, predicted, stated float64) {
		return b.Drawdown, b.Expected.Drawdown, b.Error.Drawdown
	}},
	{"Measured against predicted TDS, %", func(b learn.Seen) (measured, predicted, stated float64) {
		return b.TDS, b.Expected.Strength, b.Error.Strength
	}},
}

// errorChart draws how far off the predictions of the latest brews were, in % of them, within their stated errors; false for less than
// three brews.
func (f predictedFigure) errorChart(seen []learn.Seen) (drawn page.Chart, ok bool) {
	const few, most = 3, 60
	c := chart.Chart{Title: f.title, Axis: "brew", Format: func(v float64) string { return units.Signed(v, 0) }}
	var first, last float64
	n := 0
	for _, b := range seen {
		measured, predicted, stated := f.of(b)
		if b.Out || measured <= 0 || predicted <= 0 || stated <= 0 {
			continue
		}
		n++
		last = 100 * stated / predicted
		if n == 1 {
			first = last
		}
		c.Points = append(c.Points, chart.Point{X: float64(n), Y: 100 * (measured - predicted) / predicted, Band: last,
			Note: fmt.Sprintf("%s, stated ± %.0f", b.Name, last)})
		c.Ticks = append(c.Ticks, chart.Tick{At: float64(n), Label: fmt.Sprint(n)})
	}
	if n < few {
		return drawn, false
	}
	c.Points, c.Ticks = c.Points[max(0, n-most):], c.Ticks[max(0, n-most):]
	c.About = fmt.Sprintf("Each dot is a brew, the band its stated standard error: ± %.0f %% at the first brew, ± %.0f %% at the last. Outliers are "+
		"left out.", first, last)
	return page.ChartOf(c, "brew"), true
}

// drifts describes the grinders that seem to have changed, and since when.
func (s *Screens) drifts(r *http.Request, y *learn.Knowledge) (out []string, err error) {
	grinders, err := s.yard.Store.Grinders(r.Context())
	if err != nil {
		return nil, err
	}
	names := map[string]string{}
	for _, g := range grinders {
		names[learn.GrinderKey(g)] = g.Name
	}
	for _, d := range y.Drifts() {
		way := "coarser"
		if d.By < 0 {
			way = "finer"
		}
		name := cmp.Or(names[d.Grinder], "A grinder")
		if d.Bag {
			how := "slower"
			if d.Slower < 0 {
				how = "faster"
			}
			out = append(out, fmt.Sprintf("Since %s the bed drains about %.0f %% %s with %s. The bag changed then too, so these brews cannot tell "+
				"whether it is the coffee or the grinder: brew an earlier bag once more, or check the zero.",
				words.Day(d.Since, s.yard.Now()), 100*math.Abs(d.Slower), how, name))
			continue
		}
		out = append(out, fmt.Sprintf("%s seems to grind about %.0f %% %s since %s: its zero may have moved. If it was re-zeroed, "+
			"record that "+
			"on its page under Gear, so that its earlier history no longer counts.",
			name, 100*math.Abs(d.By), way, words.Day(d.Since, s.yard.Now())))
	}
	return out, nil
}

// setExcluded excludes a brew from learning, or includes an outlier.
func (s *Screens) setExcluded(w http.ResponseWriter, r *http.Request) error {
	brewID, err := page.ID(r)
	if err == nil {
		err = s.yard.Store.SetExcluded(r.Context(), brewID, chi.URLParam(r, "what") == "out")
	}
	if err != nil {
		return err
	}
	s.yard.Learn()
	return page.SeeOther(w, r, "/learned")
}
