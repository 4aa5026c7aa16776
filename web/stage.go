package web

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"slices"
	"strings"

	"github.com/go-chi/chi/v5"

	"yardbloom/core/rush"
	"yardbloom/core/stage"
	"yardbloom/core/units"
	"yardbloom/store"
	"yardbloom/web/figure"
	"yardbloom/web/form"
	"yardbloom/web/words"
)

// stagesBody is the list of stage scripts with the form for a new one.
type stagesBody struct {
	Fields  []form.Field
	Scripts []listed
}

// scriptBody is one script, to be written and rehearsed.
type scriptBody struct {
	ID      string
	Name    string
	Fields  []form.Field
	Lines   form.Field
	Figure  template.HTML
	Left    string // how much time is left, or how much is missing
	Short   bool
	Spoken  []spokenView
	Past    []pastView
	Version int64
	Wrong   string
}

type spokenView struct {
	At, Lasts, Text string
	OverPour        bool
	Said            string // against the plan, in the latest rehearsal
}

// pastView is a rehearsal against its plan.
type pastView struct{ When, Says string }

// showBody is a script while it is said.
type showBody struct {
	ID           string
	Prompt       bool // on the second screen: to be read, not tapped
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

func (s *Server) stages(w http.ResponseWriter, r *http.Request) error {
	f := form.New()
	f.Values = map[string]string{"cups": "2", "words": "130", "limit": "6:00"}
	return s.showStages(w, r, http.StatusOK, f)
}

func (s *Server) showStages(w http.ResponseWriter, r *http.Request, status int, f *form.Form) error {
	kept, err := s.Store.Book(r.Context())
	if err != nil {
		return err
	}
	scripts, err := s.Store.Scripts(r.Context())
	if err != nil {
		return err
	}
	body := stagesBody{}
	if len(kept) > 0 {
		body.Fields = append([]form.Field{f.Entry("name", "What it is called"), form.Select(f, "recipe", "The recipe", kept, func(k store.Kept) (string, string) { return k.ID, k.Name + ", " + k.Coffee })}, scriptFields(f)...)
	}
	for _, d := range scripts {
		says := fmt.Sprintf("%d lines, %d rehearsals", len(d.It.Lines), len(d.It.Rehearsals))
		body.Scripts = append(body.Scripts, listed{"/stage/" + d.It.ID, d.It.Name, says, words.Day(d.At, s.Now())})
	}
	s.render(w, r, status, "stages", page{Title: "Stage", Side: "stage", Line: emptyLine(""), Notice: asideNotice(r, "/stage"), Body: body})
	return nil
}

func scriptFields(f *form.Form) []form.Field {
	cups := f.Stepper("cups", "Cups poured in parallel", cupsUnit)
	cups.Hint = "Each in a brewer of its own, one after the other by as little as the hands allow."
	said := f.Stepper("words", "You speak, words", wordsUnit)
	said.Hint = "Most people speak 120 to 150 before an audience."
	return []form.Field{cups, said, f.Stepper("limit", "Time allowed", clock)}
}

func readScript(f *form.Form, x *stage.Script) {
	x.Cups = int(f.Quantity("cups", "The cups", cupsUnit, stage.CupsRange, true))
	x.Words = int(f.Quantity("words", "The words", wordsUnit, stage.WordsRange, true))
	x.Limit = units.Seconds(f.Quantity("limit", "The time", clock, stage.LimitRange, true))
}

func (s *Server) addScript(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	x := stage.Script{ID: store.NewID(), Name: f.Text("name", "The name", 60, true), RecipeID: f.Values["recipe"]}
	readScript(f, &x)
	if _, _, err := s.Store.Draft(r.Context(), x.RecipeID); err != nil {
		f.Fail("recipe", "Choose one of the recipes.")
	}
	if !f.OK() {
		return s.showStages(w, r, http.StatusUnprocessableEntity, f)
	}
	x.Lines = []stage.Line{{Text: "Good morning. This coffee comes from a farm that you have not heard of yet."}, {Text: "While it blooms: look for the bubbles, that is the gas of a fresh roast."}, {Text: "I pour low and in spirals, so that the bed comes to rest flat."}, {Text: "You will find it clear and sweet; drink it as it cools."}}
	if err := s.Store.AddScript(r.Context(), x, s.Now()); err != nil {
		return err
	}
	return seeOther(w, r, "/stage/%s", x.ID)
}

// staged is a script with what the hands do while it is said.
type staged struct {
	stage.Script
	busy   []stage.Busy
	spoken []stage.Spoken
	ready  units.Seconds // of the last cup
	bars   figure.Hands
}

// staged loads a script and plans its cups.
func (s *Server) staged(ctx context.Context, id string) (staged, error) {
	x, err := s.Store.Script(ctx, id)
	if err != nil {
		return staged{}, err
	}
	return s.planned(ctx, x)
}

// planned plans the cups of a script and places its lines between what the hands do.
func (s *Server) planned(ctx context.Context, x stage.Script) (staged, error) {
	d, _, err := s.Store.Draft(ctx, x.RecipeID)
	if err != nil {
		return staged{Script: x}, err
	}
	s.owners.Attend(ctx, &d.Sheet)
	made, err := s.cupsPlans.get(d.Name, d.Question(s.Now()), x.Cups)
	switch {
	case errors.Is(err, rush.ErrLong):
		return staged{Script: x}, problem{http.StatusUnprocessableEntity, "These cups take longer than an hour", "Plan fewer cups, or a recipe that is poured sooner."}
	case err != nil:
		return staged{Script: x}, problem{http.StatusUnprocessableEntity, "This recipe cannot be planned", "The model cannot predict it. Its own page says why."}
	}
	plan, o := made.plan, made.order
	out := staged{Script: x, ready: plan.Ready()}
	for i, slot := range plan.Slots {
		row := figure.HandsRow{Name: fmt.Sprintf("Cup %d", i+1), Ready: slot.Ready}
		for k, at := range slot.Tasks {
			t := o.Tasks[k]
			out.busy = append(out.busy, stage.Busy{From: at, To: at + t.Lasts, Say: t.Say, Cup: i + 1})
			row.Bars = append(row.Bars, figure.HandsBar{From: at, To: at + t.Lasts, Say: t.Say})
		}
		out.bars.Rows = append(out.bars.Rows, row)
	}
	slices.SortFunc(out.busy, func(a, b stage.Busy) int { return cmp.Compare(a.From, b.From) })
	out.spoken = stage.Place(x.Lines, x.Words, out.busy)
	lines := figure.HandsRow{Name: "You say", Spoken: true}
	for _, l := range out.spoken {
		lines.Bars = append(lines.Bars, figure.HandsBar{From: l.From, To: l.To, Say: l.Text, Off: l.OverPour})
	}
	out.bars.Rows = append(out.bars.Rows, lines)
	return out, nil
}

// ends is when the last thing is done or said.
func (x staged) ends() units.Seconds {
	end := x.ready
	for _, l := range x.spoken {
		end = max(end, l.To)
	}
	return end
}

// left says how much of the time allowed is left.
func (x staged) left() (says string, short bool) {
	if left := x.Limit - x.ends(); left >= 0 {
		return fmt.Sprintf("%s of %s are left", left, x.Limit), false
	}
	return fmt.Sprintf("%s too long for %s", x.ends()-x.Limit, x.Limit), true
}

func (s *Server) script(w http.ResponseWriter, r *http.Request) error {
	x, err := s.staged(r.Context(), chi.URLParam(r, "id"))
	if err != nil {
		return err
	}
	f := form.New()
	f.Values = map[string]string{"cups": fmt.Sprint(x.Cups), "words": fmt.Sprint(x.Words), "limit": x.Limit.String(), "lines": stage.Text(x.Lines)}
	s.showScript(w, r, http.StatusOK, x, f, "")
	return nil
}

func (s *Server) showScript(w http.ResponseWriter, r *http.Request, status int, x staged, f *form.Form, wrong string) {
	body := scriptBody{ID: x.ID, Name: x.Name, Fields: scriptFields(f), Lines: f.Entry("lines", "What you say, a line each"), Figure: x.bars.SVG(), Version: x.Version, Wrong: wrong}
	body.Lines.Kind = "area"
	body.Lines.Hint = "A time in front, such as 1:30, keeps a line back until then. The others follow as soon as the hands are free."
	body.Left, body.Short = x.left()
	var against []units.Seconds
	if n := len(x.Rehearsals); n > 0 {
		against = x.Rehearsals[n-1].Against(x.spoken)
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
		says := fmt.Sprintf("%d of %d lines", len(re.Said), len(x.Lines))
		if re.Ended > 0 {
			says += ", over at " + re.Ended.String()
		}
		body.Past = append(body.Past, pastView{words.Moment(re.Started, s.Now()), says})
	}
	s.render(w, r, status, "script", page{Title: x.Name, Side: "stage", Line: emptyLine(""), Body: body})
}

func spokenOf(l stage.Spoken) spokenView {
	return spokenView{At: l.From.String(), Lasts: fmt.Sprintf("%.0f s", float64(l.To-l.From)), Text: l.Text, OverPour: l.OverPour}
}

func (s *Server) saveScript(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	x, err := s.Store.Script(r.Context(), chi.URLParam(r, "id"))
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
	err = s.Store.ChangeScript(r.Context(), x.ID, func(now stage.Script) (stage.Script, error) {
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
		s.showScript(w, r, http.StatusConflict, was, f, "It was changed in another window since you opened it. Your own text is still below; save again to keep yours.")
		return nil
	}
	if err != nil {
		return err
	}
	return seeOther(w, r, "/stage/%s", x.ID)
}

// show is a script while it is said: on the presenter's screen, or as a prompt on a second one.
func (s *Server) show(w http.ResponseWriter, r *http.Request) error {
	body, name, err := s.showBody(r.Context(), chi.URLParam(r, "id"), strings.HasSuffix(r.URL.Path, "/prompt"))
	if err != nil {
		return err
	}
	s.render(w, r, http.StatusOK, "show", page{Title: name, Side: "stage", Wide: true, Body: body})
	return nil
}

func (s *Server) showBody(ctx context.Context, id string, prompt bool) (showBody, string, error) {
	x, err := s.staged(ctx, id)
	if err != nil {
		return showBody{}, "", err
	}
	body := showBody{ID: id, Prompt: prompt, Of: len(x.spoken), Limit: float64(x.Limit)}
	body.Left, _ = x.left()
	said := 0
	if run := x.Running(); run != nil {
		body.Runs, body.Elapsed, said = true, s.Now().Sub(run.Started).Seconds(), len(run.Said)
		x.bars.Moves, x.bars.Now = true, units.Seconds(body.Elapsed)
	}
	// The line that was begun last is being said; before the first, the first comes next.
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

// showStep begins a rehearsal, says that a line is begun, or ends it.
func (s *Server) showStep(w http.ResponseWriter, r *http.Request) error {
	id := chi.URLParam(r, "id")
	err := s.Store.ChangeScript(r.Context(), id, func(x stage.Script) (stage.Script, error) {
		run := x.Running()
		switch chi.URLParam(r, "step") {
		case "begin":
			if run == nil {
				x.Rehearsals = append(x.Rehearsals, stage.Rehearsal{Started: s.Now()})
				const most = 30
				x.Rehearsals = x.Rehearsals[max(0, len(x.Rehearsals)-most):]
			}
		case "said":
			if run == nil {
				break
			}
			now := units.Seconds(max(1, s.Now().Sub(run.Started).Seconds()))
			if len(run.Said) < len(x.Lines) {
				run.Said = append(run.Said, now)
			} else {
				run.Ended = now
			}
		case "end":
			if run != nil {
				run.Ended = units.Seconds(max(1, s.Now().Sub(run.Started).Seconds()))
			}
		}
		return x, nil
	})
	if err != nil {
		return err
	}
	s.live.Tell("stage " + id)
	if isPartial(r) {
		w.WriteHeader(http.StatusNoContent)
		return nil
	}
	return seeOther(w, r, "/stage/%s/show", id)
}

// showStream sends a script while it is said to a screen, after each line.
func (s *Server) showStream(w http.ResponseWriter, r *http.Request) error {
	id, prompt := chi.URLParam(r, "id"), r.URL.Query().Get("prompt") != ""
	event := func() (string, error) {
		body, _, err := s.showBody(r.Context(), id, prompt)
		if err != nil {
			return "", err
		}
		html, err := s.part("show", "board", body)
		return inside(html), err
	}
	return s.streams(w, r, []string{"stage " + id}, nil, event, event)
}
