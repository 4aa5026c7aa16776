package rush

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
	"time"

	"github.com/go-chi/chi/v5"

	"yardbloom/core/brew"
	"yardbloom/core/recipe"
	"yardbloom/core/rush"
	"yardbloom/core/units"
	"yardbloom/web/figure"
	"yardbloom/web/page"
	"yardbloom/yard"
)

// boardBody is the state of a rush.
type boardBody struct {
	ID      string
	Started bool
	Over    bool
	Left    int // orders that were not brewed when the rush was ended
	Elapsed float64
	Now     *actView // current or next action
	Then    []actView
	Tiles   []tileView
	Figure  template.HTML
	Says    string        // when the next cup is ready
	Next    string        // when another order would be ready
	More    []page.Choice // recipes that can be added
	Wrong   string
	Key     string
	Undo    *undoView // the last tap
	Delay   *actView  // the wait that can be extended
	Later   float64   // by how much, s
	Filled  float64   // water added to the kettle so far, g
	prefs   units.Prefs
}

// undoView is the last tap of a rush, with the form that takes it back.
type undoView struct {
	N                    int
	Says, Action, Undoes string
}

// An actView is an action, with the form that confirms it.
type actView struct {
	N            int
	On, Do, How  string
	At           float64 // s after the start of the rush
	Action, Kind string
	Stage        int    // of the brew, to which the tap refers; 0: none
	Say          string // spoken
	Tap          string
	Now          bool
	Lasts        float64
	Water        float64 // water added to the kettle, g
}

type tileView struct {
	N              int
	On, Name, Says string
	At             float64 // time of its next action; negative: none
	Act            *actView
	Done           bool
	Brew           string
}

func rushID(r *http.Request) string { return chi.URLParam(r, "id") }

func (s *Screens) rush(w http.ResponseWriter, r *http.Request) error {
	body, err := s.board(r.Context(), rushID(r), page.Prefs(r))
	if err != nil {
		return err
	}
	s.Render(w, r, http.StatusOK, "board", page.Page{Title: "Rush", Side: "rush", Wide: true, Body: body})
	return nil
}

// board plans the present state of a rush: running brews as they are, waiting ones around them.
func (s *Screens) board(ctx context.Context, id string, prefs units.Prefs) (boardBody, error) {
	rs, err := s.yard.Store.Rush(ctx, id)
	if err != nil {
		return boardBody{}, err
	}
	body := boardBody{ID: id, Started: !rs.Started.IsZero(), Over: rs.Ended, Key: rand.Text(), prefs: prefs}
	now := units.Seconds(0)
	if body.Started {
		now = units.Seconds(s.yard.RushMoment(rs).Sub(rs.Started).Seconds())
	}
	body.Elapsed = float64(now)
	all, busy, err := s.yard.RushBrews(ctx, rs, now)
	if err != nil {
		return body, err
	}
	of, waits := rs.Waiting(func(brewID string) bool {
		return slices.ContainsFunc(all, func(o yard.RushBrew) bool { return o.Ordered.Brew == brewID && o.Brew != nil })
	})
	if rs.Ended {
		body.Left = len(waits)
	}
	plan, err := rush.Make(waits, busy, rs.Kettle.After(waterOf(all), rs.Filled))
	if err != nil {
		body.Wrong = "The rest can no longer be planned: brew one after the other."
	}
	body.fill(all, of, plan, now)
	body.Filled, body.Later = float64(rs.Filled), float64(brew.LaterDelay)
	body.undo(all)
	if body.Started && !body.Over {
		body.another(ctx, s, append(busy, plan.Busy(waits)...), plan.Kettle, now)
	}
	return body, nil
}

// another adds the recipes that can be ordered, and when an additional order of the first would be ready.
func (body *boardBody) another(ctx context.Context, s *Screens, busy []rush.Busy, kettle rush.Kettle, now units.Seconds) {
	kept, err := s.yard.Store.Book(ctx)
	if err != nil {
		s.yard.Log.Error("recipe book", "err", err)
		return
	}
	const most = 6 // recipes
	for _, k := range kept[:min(len(kept), most)] {
		body.More = append(body.More, page.Choice{ID: k.ID, Name: k.Name})
	}
	if len(kept) == 0 || body.Wrong != "" { // with an impossible plan the time is unknown
		return
	}
	o, err := s.yard.NextOrder(ctx, kept[0].ID)
	if errors.Is(err, yard.ErrUnplannable) { // its duration is unknown
		return
	}
	if err != nil {
		s.yard.Log.Error("recipe", "id", kept[0].ID, "err", err)
		return
	}
	if plan, err := rush.Make([]rush.Order{o}, busy, kettle); err == nil {
		body.Next = fmt.Sprintf("another %s would be ready at about %s", kept[0].Name, now+plan.Ready())
	}
}

// undo offers to take back the last tap of all brews, or the start of a brew without taps.
func (body *boardBody) undo(all []yard.RushBrew) {
	latest := units.Seconds(-1)
	for _, o := range all {
		if o.Brew == nil || o.Brew.Status == brew.Done || o.Brew.Status == brew.Abandoned {
			continue
		}
		v, at := undoView{N: o.Number, Says: "the start", Action: fmt.Sprintf("/rush/%s/undo/%d", body.ID, o.Number)}, units.Seconds(0)
		if key := o.State.LastTap(); key != "" {
			at, _ = o.Brew.TimeOf(key)
			v.Says, v.Action, v.Undoes = "the tap at "+(o.Since+at).String(), fmt.Sprintf("/brews/%s/tap", o.Ordered.Brew), key
		} else if !o.Brew.LooksLikeRinse(o.Brew.Started.Add(time.Duration(float64(units.Seconds(body.Elapsed)-o.Since) * float64(time.Second)))) {
			continue
		}
		if o.Since+at > latest {
			latest, body.Undo = o.Since+at, &v
		}
	}
}

// waterOf returns the water of the brews that have begun.
func waterOf(all []yard.RushBrew) (sum units.Grams) {
	for _, o := range all {
		if o.Brew != nil {
			sum += o.Water
		}
	}
	return sum
}

// fill fills in the board.
func (body *boardBody) fill(all []yard.RushBrew, of []int, plan rush.Plan, now units.Seconds) {
	tiles := make([]tileView, len(all))
	var acts []actView
	fig := figure.Hands{Now: now, Moves: body.Started && !body.Over}
	rows := make([]figure.HandsRow, len(all))
	for i, o := range all {
		tiles[i] = tileView{N: o.Number, On: o.BrewerName, Name: o.Name, At: -1, Brew: o.Ordered.Brew}
		rows[i] = figure.HandsRow{Name: fmt.Sprintf("%d %s", o.Number, o.BrewerName)}
		if o.Brew == nil {
			continue
		}
		acts = append(acts, tiles[i].runs(o)...)
		rows[i].Bars, rows[i].Ready = brewBars(o)
	}
	first := units.Seconds(math.Inf(1))
	for _, slot := range plan.Slots {
		i := of[slot.Order]
		o := all[i]
		for k, at := range slot.Tasks {
			rows[i].Bars = append(rows[i].Bars, figure.HandsBar{From: now + at, To: now + at + o.Tasks[k].Lasts, Say: o.Tasks[k].Say})
		}
		rows[i].Ready = now + slot.Ready
		a := actView{N: o.Number, On: o.BrewerName, Do: o.Tasks[0].Say, How: o.Name, At: float64(now + slot.Tasks[0]),
			Action: fmt.Sprintf("/rush/%s/go/%d", body.ID, o.Number), Tap: "Tap with the first water", Lasts: float64(o.Tasks[0].Lasts)}
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
		acts = append(acts, actView{Do: "Fill the kettle", How: fmt.Sprintf("%s more, and heat it; no pours meanwhile",
			body.prefs.Unit(units.Water).Format(float64(f.Water))), At: float64(now + f.From), Lasts: float64(f.To - f.From),
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
	for i := range acts {
		acts[i].Say = acts[i].On + ": " + acts[i].Do
	}
	if len(acts) > 0 {
		body.Now, body.Then = &acts[0], acts[1:min(len(acts), 4)]
	}
	for _, a := range acts {
		if a.Stage > 0 && !a.Now && a.Kind == "advance" {
			body.Delay = &a
			break
		}
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

// runs fills in the tile of a running brew and returns its remaining actions.
func (t *tileView) runs(o yard.RushBrew) (acts []actView) {
	if o.Brew.Status != brew.Running {
		t.Done, t.Says = true, "in the cup after "+o.Brew.Cup.Drawdown.String()
		if o.Brew.Status == brew.Abandoned {
			t.Says = "stopped"
		}
		return nil
	}
	cur := o.State.Now()
	tap := fmt.Sprintf("/brews/%s/tap", o.Ordered.Brew)
	present := o.State.Current + 1
	for i, st := range o.State.Ahead() {
		if !st.Busy() && st.Kind != brew.Draining {
			continue
		}
		a := actView{N: o.Number, On: o.BrewerName, Do: doing(o, st), How: o.Name, At: float64(o.Since + st.Entered),
			Lasts: float64(st.Left - st.Entered), Action: tap, Kind: "advance", Tap: "Tap as you begin"}
		if i == 0 && st.Busy() {
			a.Now, a.Tap = true, "Tap when the water is in"
		}
		if st.Kind == brew.Draining {
			a.Do, a.At, a.Lasts, a.Tap, a.Kind = "Lift it off", float64(o.Since+st.Left), 5, "Tap at the last steady stream", "finish"
		}
		if len(acts) == 0 && a.Kind == "advance" {
			a.Stage = present
		}
		acts = append(acts, a)
	}
	t.Says = map[brew.StageKind]string{brew.Pouring: "pouring", brew.Waiting: "waits", brew.Draining: "drains", brew.Stirring: "stir",
		brew.Releasing: "release"}[cur.Kind]
	if len(acts) > 0 {
		t.Act, t.At = &acts[0], acts[0].At
	}
	return acts
}

// doing describes the action of a stage of an order.
func doing(o yard.RushBrew, st brew.Stage) string {
	step := o.State.Plan().Steps[st.Step]
	switch {
	case step.Act == recipe.BreakCrust:
		return "Break the crust"
	case step.Act == recipe.OpenValve:
		return "Open the valve"
	}
	return "Pour to " + o.Brew.Prefs.Unit(units.Water).Format(float64(st.To))
}

// brewBars returns the actions of a running brew, in seconds since the start of the rush.
func brewBars(o yard.RushBrew) (bars []figure.HandsBar, ready units.Seconds) {
	for i, st := range o.State.Stages {
		if st.Busy() && !(st.Skipped && i < o.State.Current) {
			bars = append(bars, figure.HandsBar{From: o.Since + st.Entered, To: o.Since + st.Left, Done: i < o.State.Current ||
				o.State.Finished})
		}
	}
	last := o.State.Stages[len(o.State.Stages)-1]
	return bars, o.Since + last.Left
}
