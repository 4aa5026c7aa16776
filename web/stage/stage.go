package stage

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"yardbloom/core/rush"
	"yardbloom/core/stage"
	"yardbloom/core/units"
	"yardbloom/store"
	"yardbloom/web/figure"
	"yardbloom/web/form"
	"yardbloom/web/page"
	"yardbloom/web/stream"
	"yardbloom/web/words"
	"yardbloom/yard"
)

// stagesBody is the list of stage scripts with the form for a new one.
type stagesBody struct {
	Fields  []form.Field
	Scripts []page.Entry
}

// scriptBody is one script, for writing and rehearsing.
type scriptBody struct {
	ID      string
	Name    string
	Fields  []form.Field
	Lines   form.Field
	Figure  template.HTML
	Left    string // remaining or missing time
	Short   bool
	Spoken  []spokenView
	Past    []pastView
	Version int64
	Wrong   string
}

type spokenView struct {
	At, Lasts, Text string
	OverPour        bool
	Said            string // deviation in the latest rehearsal
}

// pastView is a past rehearsal compared with its plan.
type pastView struct{ When, Says string }

// showBody is a script during its presentation.
type showBody struct {
	ID           string
	Prompt       bool // for reading on a second screen
	Runs         bool
	Over         bool
	Elapsed      float64
	Now, Next    *spokenView
	Due, NextDue float64 // s
	Lasts        float64
	Hands        []handsView
	Figure       template.HTML
	N, Of        int
	Left         string
	Limit        float64
}

type handsView struct {
	Say string
	At  float64
	Cup int
}

var (
	wordsUnit = units.Unit{Symbol: "a minute", Scale: 1, Decimals: 0, Step: 5, Fine: 1}
	cupsUnit  = units.Unit{Scale: 1, Decimals: 0, Step: 1, Fine: 1}
)

func (s *Screens) stages(w http.ResponseWriter, r *http.Request) error {
	f := form.New()
	f.Values = map[string]string{"cups": "2", "words": "130", "limit": "6:00"}
	return s.showStages(w, r, http.StatusOK, f)
}

func (s *Screens) showStages(w http.ResponseWriter, r *http.Request, status int, f *form.Form) error {
	kept, err := s.yard.Store.Book(r.Context())
	if err != nil {
		return err
	}
	scripts, err := s.yard.Store.Scripts(r.Context())
	if err != nil {
		return err
	}
	body := stagesBody{}
	if len(kept) > 0 {
		body.Fields = append([]form.Field{f.Entry("name", "Name"),
			form.Select(f, "recipe", "The recipe", kept, func(k store.KeptRecipe) (string, string) { return k.ID, k.Name + ", " + k.Coffee })},
			scriptFields(f)...)
	}
	for _, d := range scripts {
		says := fmt.Sprintf("%d lines, %d rehearsals", len(d.Value.Lines), len(d.Value.Rehearsals))
		body.Scripts = append(body.Scripts, page.Entry{Href: "/stage/" +
			d.Value.ID, Name: d.Value.Name, Says: says, When: words.Day(d.At, s.yard.Now()),
			By: page.BadgeOf(r, d.Value.By)})
	}
	s.Render(w, r, status, "stages", page.Page{Title: "Stage", Side: "stage", Line: page.Line(""),
		Notice: cmp.Or(page.RemovedNotice(r), page.ArchiveNotice(r, "/stage")),
		Body:   body})
	return nil
}

func scriptFields(f *form.Form) []form.Field {
	cups := f.Stepper("cups", "Cups poured in parallel", cupsUnit)
	cups.Hint = "Each in its own brewer, started as soon after the previous one as the pours allow."
	said := f.Stepper("words", "You speak, words", wordsUnit)
	said.Hint = "A usual pace for an audience is 120 to 150 words a minute."
	return []form.Field{cups, said, f.Stepper("limit", "Time allowed", form.Clock)}
}

func readScript(f *form.Form, x *stage.Script) {
	x.Cups = int(f.Quantity("cups", "The cups", cupsUnit, stage.CupsRange, true))
	x.Words = int(f.Quantity("words", "The words", wordsUnit, stage.WordsRange, true))
	x.Limit = units.Seconds(f.Quantity("limit", "The time", form.Clock, stage.LimitRange, true))
}

func (s *Screens) addScript(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	x := stage.Script{ID: store.NewID(), Name: f.Text("name", "The name", 60, true), RecipeID: f.Values["recipe"]}
	readScript(f, &x)
	if _, _, err := s.yard.Store.Draft(r.Context(), x.RecipeID); err != nil {
		f.Fail("recipe", "Choose one of the recipes.")
	}
	if !f.OK() {
		return s.showStages(w, r, http.StatusUnprocessableEntity, f)
	}
	x.Lines = []stage.Line{{Text: "Good morning. This coffee comes from a farm that you do not know yet."},
		{Text: "While it blooms: look for the bubbles, that is the gas of a fresh roast."},
		{Text: "I pour low and in spirals, so that the bed settles flat."},
		{Text: "You will find it clear and sweet; drink it as it cools."}}
	x.By = page.PersonID(r)
	if err := s.yard.Store.AddScript(r.Context(), x, s.yard.Now()); err != nil {
		return err
	}
	return page.SeeOther(w, r, "/stage/%s", x.ID)
}

// staged is a script with the schedule of the hands.
type staged struct {
	stage.Script
	busy   []stage.Busy
	spoken []stage.Spoken
	ready  units.Seconds // of the last cup
	bars   figure.Hands
}

// staged loads a script and plans its cups.
func (s *Screens) staged(ctx context.Context, id string) (staged, error) {
	x, err := s.yard.Store.Script(ctx, id)
	if err != nil {
		return staged{}, err
	}
	return s.planned(ctx, x)
}

// planned plans the cups of a script and schedules its lines between the actions of the hands.
func (s *Screens) planned(ctx context.Context, x stage.Script) (staged, error) {
	o, plan, err := s.yard.PlanCups(ctx, x.RecipeID, x.Cups)
	switch {
	case errors.Is(err, rush.ErrLong):
		return staged{Script: x}, page.Problem{Status: http.StatusUnprocessableEntity, Title: "These cups take longer than an hour",
			Text: "Plan fewer cups, or a recipe that is poured sooner."}
	case errors.Is(err, yard.ErrUnplannable):
		return staged{Script: x}, page.Problem{Status: http.StatusUnprocessableEntity, Title: "This recipe cannot be planned",
			Text: "The model cannot predict it. See its page for the reason."}
	case err != nil:
		return staged{Script: x}, err
	}
	out := staged{Script: x, ready: plan.Ready(), busy: stage.Hands(o, plan)}
	for i, slot := range plan.Slots {
		out.bars.Rows = append(out.bars.Rows, figure.HandsRow{Name: fmt.Sprintf("Cup %d", i+1), Ready: slot.Ready})
	}
	for _, b := range out.busy {
		row := &out.bars.Rows[b.Cup-1]
		row.Bars = append(row.Bars, figure.HandsBar{From: b.From, To: b.To, Say: b.Say})
	}
	out.spoken = stage.Place(x.Lines, x.Words, out.busy)
	lines := figure.HandsRow{Name: "You say", Spoken: true}
	for _, l := range out.spoken {
		lines.Bars = append(lines.Bars, figure.HandsBar{From: l.From, To: l.To, Say: l.Text, Off: l.OverPour})
	}
	out.bars.Rows = append(out.bars.Rows, lines)
	return out, nil
}

// ends returns the time of the last action or line.
func (x staged) ends() units.Seconds {
	end := x.ready
	for _, l := range x.spoken {
		end = max(end, l.To)
	}
	return end
}

// left describes the remaining time, and whether the presentation is too long.
func (x staged) left() (says string, short bool) {
	if left := x.Limit - x.ends(); left >= 0 {
		return fmt.Sprintf("%s of %s are left", left, x.Limit), false
	}
	return fmt.Sprintf("%s too long for %s", x.ends()-x.Limit, x.Limit), true
}

func (s *Screens) script(w http.ResponseWriter, r *http.Request) error {
	x, err := s.staged(r.Context(), chi.URLParam(r, "id"))
	if err != nil {
		return err
	}
	f := form.New()
	f.Values = map[string]string{"cups": fmt.Sprint(x.Cups), "words": fmt.Sprint(x.Words), "limit": x.Limit.String(),
		"lines": stage.Text(x.Lines)}
	s.showScript(w, r, http.StatusOK, x, f, "")
	return nil
}

func (s *Screens) showScript(w http.ResponseWriter, r *http.Request, status int, x staged, f *form.Form, wrong string) {
	body := scriptBody{ID: x.ID, Name: x.Name, Fields: scriptFields(f), Lines: f.Entry("lines", "What you say, one line each"),
		Figure: x.bars.SVG(), Version: x.Version, Wrong: wrong}
	body.Lines.Kind = "area"
	body.Lines.Hint = "A time such as 1:30 before a line delays it until then. Other lines start as soon as the hands are free."
	body.Left, body.Short = x.left()
	var against []units.Seconds
	if n := len(x.Rehearsals); n > 0 {
		against = x.Rehearsals[n-1].Delays(x.spoken)
	}
	for i, l := range x.spoken {
		v := spokenOf(l)
		if i < len(against) {
			v.Said = units.Signed(float64(against[i]), 0) + " s"
		}
		body.Spoken = append(body.Spoken, v)
	}
	for i := len(x.Rehearsals) - 1; i >= 0 && len(body.Past) < 8; i-- {
		re := x.Rehearsals[i]
		says := fmt.Sprintf("%d of %d lines", len(re.LineStarts), len(x.Lines))
		if re.Ended > 0 {
			says += ", over at " + re.Ended.String()
		}
		body.Past = append(body.Past, pastView{words.Moment(re.Started, s.yard.Now()), says})
	}
	s.Render(w, r, status, "script", page.Page{Title: x.Name, Side: "stage", Line: page.Line(""), Body: body})
}

func spokenOf(l stage.Spoken) spokenView {
	return spokenView{At: l.From.String(), Lasts: fmt.Sprintf("%.0f s", float64(l.To-l.From)), Text: l.Text, OverPour: l.OverPour}
}

func (s *Screens) saveScript(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	x, err := s.yard.Store.Script(r.Context(), chi.URLParam(r, "id"))
	if err != nil {
		return err
	}
	readScript(f, &x)
	const most = 20000
	lines := f.Text("lines", "What you say", most, true)
	if !f.OK() {
		was, err := s.staged(r.Context(), x.ID)
		if err != nil {
			return err
		}
		s.showScript(w, r, http.StatusUnprocessableEntity, was, f, "")
		return nil
	}
	x.Lines = stage.Parse(lines)
	version := f.Version()
	err = s.yard.Store.ChangeScript(r.Context(), x.ID, func(now stage.Script) (stage.Script, error) {
		if version != 0 && version != now.Version {
			return now, store.ErrConflict
		}
		now.Cups, now.Words, now.Limit, now.Lines = x.Cups, x.Words, x.Limit, x.Lines
		return now, nil
	})
	if errors.Is(err, store.ErrConflict) {
		was, err := s.staged(r.Context(), x.ID)
		if err != nil {
			return err
		}
		s.showScript(w, r, http.StatusConflict, was, f, "It was changed in another window since you opened it. Your own text is still "+
			"below; save again to keep yours.")
		return nil
	}
	if err != nil {
		return err
	}
	return page.SeeOther(w, r, "/stage/%s", x.ID)
}

// show serves a script during its presentation: the presenter's screen, or the prompt on a second one.
func (s *Screens) show(w http.ResponseWriter, r *http.Request) error {
	body, name, err := s.showBody(r.Context(), chi.URLParam(r, "id"), strings.HasSuffix(r.URL.Path, "/prompt"))
	if err != nil {
		return err
	}
	s.Render(w, r, http.StatusOK, "show", page.Page{Title: name, Side: "stage", Wide: true, Body: body})
	return nil
}

func (s *Screens) showBody(ctx context.Context, id string, prompt bool) (showBody, string, error) {
	x, err := s.staged(ctx, id)
	if err != nil {
		return showBody{}, "", err
	}
	body := showBody{ID: id, Prompt: prompt, Of: len(x.spoken), Limit: float64(x.Limit)}
	body.Left, _ = x.left()
	said := 0
	if run := x.Running(); run != nil {
		body.Runs, body.Elapsed, said = true, s.yard.Now().Sub(run.Started).Seconds(), len(run.LineStarts)
		x.bars.Moves, x.bars.Now = true, units.Seconds(body.Elapsed)
	}
	// The last started line is current; before the first, the first is next.
	at := max(0, said-1)
	body.N = said
	if said > 0 && at < len(x.spoken) {
		v := spokenOf(x.spoken[at])
		body.Now, body.Due, body.Lasts = &v, float64(x.spoken[at].From), float64(x.spoken[at].To-x.spoken[at].From)
	}
	if said < len(x.spoken) {
		v := spokenOf(x.spoken[said])
		body.Next, body.NextDue = &v, float64(x.spoken[said].From)
	}
	for _, b := range x.busy {
		if float64(b.To) > body.Elapsed && len(body.Hands) < 3 {
			body.Hands = append(body.Hands, handsView{b.Say, float64(b.From), b.Cup})
		}
	}
	body.Figure = x.bars.SVG()
	return body, x.Name, nil
}

// showStep starts a rehearsal, records the start of a line, or ends it.
func (s *Screens) showStep(w http.ResponseWriter, r *http.Request) error {
	id, now, line := chi.URLParam(r, "id"), s.yard.Now().Add(-form.Ago(r)), r.PostFormValue("said")
	err := s.yard.Store.ChangeScript(r.Context(), id, func(x stage.Script) (stage.Script, error) {
		run := x.Running()
		switch chi.URLParam(r, "step") {
		case "begin":
			if run == nil {
				x.Rehearsals = append(x.Rehearsals, stage.Rehearsal{Started: now})
				const most = 30
				x.Rehearsals = x.Rehearsals[max(0, len(x.Rehearsals)-most):]
			}
		case "said":
			if run == nil || line != "" && line != strconv.Itoa(len(run.LineStarts)) { // sent again, or by another screen
				break
			}
			at := units.Seconds(max(1, now.Sub(run.Started).Seconds()))
			if len(run.LineStarts) < len(x.Lines) {
				run.LineStarts = append(run.LineStarts, at)
			} else {
				run.Ended = at
			}
		case "end":
			if run != nil {
				run.Ended = units.Seconds(max(1, now.Sub(run.Started).Seconds()))
			}
		}
		return x, nil
	})
	if err != nil {
		return err
	}
	s.yard.Hub.Notify(yard.StageTopic(id))
	if page.IsPartial(r) {
		w.WriteHeader(http.StatusNoContent)
		return nil
	}
	return page.SeeOther(w, r, "/stage/%s/show", id)
}

// stream sends the presentation to a screen after each line.
func (s *Screens) stream(w http.ResponseWriter, r *http.Request) error {
	id, prompt := chi.URLParam(r, "id"), r.URL.Query().Get("prompt") != ""
	event := func() (string, error) {
		body, _, err := s.showBody(r.Context(), id, prompt)
		if err != nil {
			return "", err
		}
		html, err := s.Block("show", "board", body)
		return stream.HTML(html), err
	}
	return s.streams.Serve(w, r, stream.Source{Topics: []string{yard.StageTopic(id)}, First: event, Changed: event})
}
