package web

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
	"yardbloom/web/figure"
	"yardbloom/web/words"
)

// learnedBody is what the yard has taught.
type learnedBody struct {
	Brews  int
	Busy   bool // something is being learned at the moment
	Rows   []learnedRow
	Drifts []string
	Odd    int
	Shrank string // how the error of a prediction did
	Course template.HTML
}

// learnedRow is a measured brew against what was expected of it by those before it.
type learnedRow struct {
	ID, Name, When string
	Flower         template.HTML
	Drawdown       string // measured
	Expected       string // the drawdown that was
	Strength       string
	Strong         string // the TDS that was expected
	Odd, Out       bool
	Off            string
}

// learnedPage is how many brews the page lists, the latest first.
const learnedPage = 60

// learned shows predicted against measured, brew by brew.
func (s *Server) learned(w http.ResponseWriter, r *http.Request) error {
	y := s.teacher.Yard()
	body := learnedBody{Brews: y.Brews(), Busy: s.teacher.Busy()}
	if y != nil {
		var err error
		if body.Drifts, err = s.drifts(r, y); err != nil {
			return err
		}
		body.Shrank, body.Course = shrank(y.Seen)
		for _, b := range slices.Backward(y.Seen) {
			if len(body.Rows) == learnedPage {
				break
			}
			row := learnedRow{ID: b.ID, Name: b.Name, When: words.Moment(b.At, s.Now()), Odd: b.Odd, Out: b.Out, Drawdown: "–", Strength: "–", Expected: "–", Strong: "–"}
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
	signs, err := s.Store.Signs(r.Context(), ids)
	if err != nil {
		return err
	}
	for i, row := range body.Rows {
		sign := signs[row.ID]
		body.Rows[i].Flower = figure.Flower(sign.Dose, sign.Steps, sign.Drawdown)
	}
	s.render(w, r, http.StatusOK, "learned", page{Title: "What the yard has taught", Side: "learned", Line: emptyLine(""), Body: body})
	return nil
}

// shrank says how the error of a drawdown went down from the first brews to the last,
// and draws it.
func shrank(seen []learn.Seen) (string, template.HTML) {
	var errors, offs []float64 // as shares of the drawdown
	for _, b := range seen {
		if b.Error.Drawdown > 0 && b.Expected.Drawdown > 0 {
			errors = append(errors, b.Error.Drawdown/b.Expected.Drawdown)
			offs = append(offs, (b.Drawdown-b.Expected.Drawdown)/b.Expected.Drawdown)
		}
	}
	const few = 3
	if len(errors) < few {
		return "", ""
	}
	first, last := errors[0], errors[len(errors)-1]
	return fmt.Sprintf("The first drawdown was expected to ± %.0f %%, the last one to ± %.0f %%.", 100*first, 100*last), figure.Errors(errors, offs)
}

// drifts says which grinders seem to have changed, and since when.
func (s *Server) drifts(r *http.Request, y *learn.Yard) (out []string, err error) {
	grinders, err := s.Store.Grinders(r.Context())
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
		out = append(out, fmt.Sprintf("%s seems to grind about %.0f %% %s since %s: its zero may have moved. If it was set anew, say so on its page under Gear, so that its history stays apart.",
			cmp.Or(names[d.Grinder], "A grinder"), 100*math.Abs(d.By), way, words.Day(d.Since, s.Now())))
	}
	return out, nil
}

// judge leaves a brew out of learning, or takes it though it is odd.
func (s *Server) judge(w http.ResponseWriter, r *http.Request) error {
	brewID, err := id(r)
	if err == nil {
		err = s.Store.Judge(r.Context(), brewID, chi.URLParam(r, "what") == "out")
	}
	if err != nil {
		return err
	}
	s.teacher.Learn()
	return seeOther(w, r, "/learned")
}
