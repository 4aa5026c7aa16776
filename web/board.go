package web

import (
	"cmp"
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"html/template"
	"math"
	"net/http"
	"slices"

	"github.com/go-chi/chi/v5"

	"yardbloom/core/brew"
	"yardbloom/core/recipe"
	"yardbloom/core/rush"
	"yardbloom/core/units"
	"yardbloom/store"
	"yardbloom/web/figure"
)

// boardBody is a rush as it stands.
type boardBody struct {
	ID      string
	Started bool
	Over    bool
	Elapsed float64
	Now     *actView // what to do now or next
	Then    []actView
	Tiles   []tileView
	Figure  template.HTML
	Says    string   // when the next cup is ready
	Next    string   // when another order would be ready
	More    []choice // recipes of which one more can be made
	Wrong   string
	Key     string
	prefs   units.Prefs
}

// An actView is something that the hands do, with the form that says it is done.
type actView struct {
	N            int
	On, Do, How  string
	At           float64 // s since the rush began
	Action, Kind string
	Tap          string
	Now          bool
	Lasts        float64
	Water        float64 // that is filled into the kettle, g
}

type tileView struct {
	N              int
	On, Name, Says string
	At             float64 // when its next thing is due; negative: nothing is
	Act            *actView
	Done           bool
	Brew           string
}

func rushID(r *http.Request) string { return chi.URLParam(r, "id") }

func (s *Server) rush(w http.ResponseWriter, r *http.Request) error {
	body, err := s.board(r.Context(), rushID(r), prefsOf(r))
	if err != nil {
		return err
	}
	s.render(w, r, http.StatusOK, "board", page{Title: "Rush", Side: "rush", Wide: true, Body: body})
	return nil
}

// inRush is what is known of one order while a rush runs.
type inRush struct {
	rush.Ordered
	n     int
	brew  *brew.Brew // nil before its first water
	state brew.State
	since units.Seconds // of its first water, since the rush began
}

// board works a rush out as it stands: the brews that run as they are, those that wait
// planned around them.
func (s *Server) board(ctx context.Context, id string, prefs units.Prefs) (boardBody, error) {
	rs, err := s.Store.Rush(ctx, id)
	if err != nil {
		return boardBody{}, err
	}
	body := boardBody{ID: id, Started: !rs.Started.IsZero(), Over: rs.Ended, Key: rand.Text(), prefs: prefs}
	now := units.Seconds(0)
	if body.Started {
		now = units.Seconds(s.Now().Sub(rs.Started).Seconds())
	}
	body.Elapsed = float64(now)
	all, busy, err := s.inRush(ctx, rs, now)
	if err != nil {
		return body, err
	}
	of, waits := rs.Waits(func(brewID string) bool {
		return slices.ContainsFunc(all, func(o inRush) bool { return o.Brew == brewID && o.brew != nil })
	})
	plan, err := rush.Make(waits, busy, rs.Kettle.After(waterOf(all), rs.Filled))
	if err != nil {
		body.Wrong = "The rest cannot be planned any more: brew on, one after the other."
	}
	body.fill(all, of, plan, now)
	if body.Started && !body.Over {
		body.another(ctx, s, append(busy, plan.Busy(waits)...), plan.Kettle, now)
	}
	return body, nil
}

// another fills in what can be ordered besides, and when one more of the first recipe would
// be ready behind those that wait.
func (body *boardBody) another(ctx context.Context, s *Server, busy []rush.Busy, kettle rush.Kettle, now units.Seconds) {
	kept, err := s.Store.Book(ctx)
	if err != nil {
		s.Log.Error("recipe book", "err", err)
		return
	}
	const most = 6 // recipes
	for _, k := range kept[:min(len(kept), most)] {
		body.More = append(body.More, choice{k.ID, k.Name})
	}
	if len(kept) == 0 || body.Wrong != "" { // behind what cannot be planned nobody knows
		return
	}
	d, _, err := s.Store.Draft(ctx, kept[0].ID)
	if err != nil {
		s.Log.Error("recipe", "id", kept[0].ID, "err", err)
		return
	}
	s.owners.Attend(ctx, &d.Sheet)
	o, err := rush.OrderOf(d.Name, d.Question(s.Now()))
	if err != nil {
		return // the model cannot say how long it takes
	}
	if plan, err := rush.Make([]rush.Order{o}, busy, kettle); err == nil {
		body.Next = fmt.Sprintf("one more %s would be ready about %s", d.Name, now+plan.Ready())
	}
}

// inRush loads the brews of a rush and what they still ask of the hands, since now.
func (s *Server) inRush(ctx context.Context, rs rush.Rush, now units.Seconds) (all []inRush, busy []rush.Busy, err error) {
	for i, o := range rs.Orders {
		x := inRush{Ordered: o, n: i + 1}
		b, err := s.Store.Brew(ctx, o.Brew)
		switch {
		case errors.Is(err, store.ErrNotFound):
		case err != nil:
			return nil, nil, err
		default:
			s.owners.Attend(ctx, &b.Sheet)
			at := s.watch.now(&b, s.Now())
			x.brew, x.state, x.since = &b, b.At(at), units.Seconds(b.Started.Sub(rs.Started).Seconds())
			if b.Status == brew.Running {
				for _, st := range x.state.Ahead() {
					if st.Does() || st.Kind == brew.Draining {
						from, to := x.since+st.Entered-now, x.since+st.Left-now
						if st.Kind == brew.Draining {
							busy = append(busy, rush.Busy{To: to + 5, Brewer: o.Brewer})
							from, to = to, to+5
						}
						busy = append(busy, rush.Busy{From: max(0, from), To: max(1, to)})
					}
				}
			}
		}
		all = append(all, x)
	}
	return all, busy, nil
}

// waterOf is the water of the brews that have begun.
func waterOf(all []inRush) (sum units.Grams) {
	for _, o := range all {
		if o.brew != nil {
			sum += o.Water
		}
	}
	return sum
}

// fill fills the board in.
func (body *boardBody) fill(all []inRush, of []int, plan rush.Plan, now units.Seconds) {
	tiles := make([]tileView, len(all))
	var acts []actView
	fig := figure.Hands{Now: now, Moves: body.Started && !body.Over}
	rows := make([]figure.HandsRow, len(all))
	for i, o := range all {
		tiles[i] = tileView{N: o.n, On: o.On, Name: o.Name, At: -1, Brew: o.Brew}
		rows[i] = figure.HandsRow{Name: fmt.Sprintf("%d %s", o.n, o.On)}
		if o.brew == nil {
			continue
		}
		acts = append(acts, tiles[i].runs(o)...)
		rows[i].Bars, rows[i].Ready = barsOf(o)
	}
	first := units.Seconds(math.Inf(1))
	for _, slot := range plan.Slots {
		i := of[slot.Order]
		o := all[i]
		for k, at := range slot.Tasks {
			rows[i].Bars = append(rows[i].Bars, figure.HandsBar{From: now + at, To: now + at + o.Tasks[k].Lasts, Say: o.Tasks[k].Say})
		}
		rows[i].Ready = now + slot.Ready
		a := actView{N: o.n, On: o.On, Do: o.Tasks[0].Say, How: o.Name, At: float64(now + slot.Tasks[0]), Action: fmt.Sprintf("/rush/%s/go/%d", body.ID, o.n), Tap: "Tap with the first water", Lasts: float64(o.Tasks[0].Lasts)}
		tiles[i].At, tiles[i].Act = a.At, &a
		tiles[i].Says = "begins at " + (now + slot.Tasks[0]).String()
		acts = append(acts, a)
		first = min(first, now+slot.Ready)
	}
	for _, r := range rows {
		if r.Ready > now {
			first = min(first, r.Ready)
		}
	}
	for _, f := range plan.Fills {
		fig.Fills = append(fig.Fills, figure.HandsBar{From: now + f.From, To: now + f.To})
		acts = append(acts, actView{Do: "Fill the kettle", How: fmt.Sprintf("%s more, and heat it; nothing is poured meanwhile", body.prefs.Unit(units.Water).Format(float64(f.Water))), At: float64(now + f.From), Lasts: float64(f.To - f.From),
			Action: fmt.Sprintf("/rush/%s/filled", body.ID), Water: math.Ceil(float64(f.Water)), Tap: "Tap when it is hot again"})
	}
	slices.SortStableFunc(acts, func(a, b actView) int {
		if a.Now != b.Now {
			return map[bool]int{true: -1, false: 1}[a.Now]
		}
		return cmp.Compare(a.At, b.At)
	})
	fig.Rows, body.Tiles = rows, tiles
	body.Figure = fig.SVG()
	if len(acts) > 0 {
		body.Now, body.Then = &acts[0], acts[1:min(len(acts), 4)]
	}
	last := plan.Ready() + now
	for _, r := range rows {
		last = max(last, r.Ready)
	}
	if !math.IsInf(float64(first), 0) && len(acts) > 0 {
		body.Says = fmt.Sprintf("next cup about %s, the last about %s", first, last)
	}
	body.Over = body.Over || len(acts) == 0
}

// runs fills in the tile of a brew that has begun and returns what it still asks of the hands.
func (t *tileView) runs(o inRush) (acts []actView) {
	if o.brew.Status != brew.Running {
		t.Done, t.Says = true, "in the cup after "+o.brew.Cup.Drawdown.String()
		if o.brew.Status == brew.Abandoned {
			t.Says = "stopped"
		}
		return nil
	}
	cur := o.state.Now()
	touch := fmt.Sprintf("/brews/%s/touch", o.Brew)
	for i, st := range o.state.Ahead() {
		if !st.Does() && st.Kind != brew.Draining {
			continue
		}
		a := actView{N: o.n, On: o.On, Do: o.doing(st), How: o.Name, At: float64(o.since + st.Entered), Lasts: float64(st.Left - st.Entered), Action: touch, Kind: "advance", Tap: "Tap as you begin"}
		if i == 0 && st.Does() {
			a.Now, a.Tap = true, "Tap when it is in"
		}
		if st.Kind == brew.Draining {
			a.Do, a.At, a.Lasts, a.Tap, a.Kind = "Lift it off", float64(o.since+st.Left), 5, "Tap at the last steady stream", "finish"
		}
		acts = append(acts, a)
	}
	t.Says = map[brew.StageKind]string{brew.Pouring: "pouring", brew.Waiting: "waits", brew.Draining: "drains", brew.Stirring: "stir", brew.Releasing: "release"}[cur.Kind]
	if len(acts) > 0 {
		t.Act, t.At = &acts[0], acts[0].At
	}
	return acts
}

// doing says what a stage of an order's brew asks.
func (o inRush) doing(st brew.Stage) string {
	step := o.state.Plan().Steps[st.Step]
	switch {
	case step.Act == recipe.BreakCrust:
		return "Break the crust"
	case step.Act == recipe.OpenValve:
		return "Open the valve"
	}
	return "Pour to " + o.brew.Prefs.Unit(units.Water).Format(float64(st.To))
}

// barsOf are the things to do of a brew that has begun, since the rush began.
func barsOf(o inRush) (bars []figure.HandsBar, ready units.Seconds) {
	for i, st := range o.state.Stages {
		if st.Does() && !(st.Skipped && i < o.state.Current) {
			bars = append(bars, figure.HandsBar{From: o.since + st.Entered, To: o.since + st.Left, Done: i < o.state.Current || o.state.Finished})
		}
	}
	last := o.state.Stages[len(o.state.Stages)-1]
	return bars, o.since + last.Left
}
