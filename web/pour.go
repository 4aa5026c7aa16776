package web

import (
	"crypto/rand"
	"fmt"
	"html/template"
	"net/http"
	"strings"

	"yardbloom/core/brew"
	"yardbloom/core/cup"
	"yardbloom/core/forecast"
	"yardbloom/core/recipe"
	"yardbloom/core/sim"
	"yardbloom/core/units"
	"yardbloom/web/figure"
	"yardbloom/web/words"
)

// pourBody is the Brew station.
type pourBody struct {
	ID      string
	Status  brew.Status // empty before the first water
	Version int64
	Key     string // of the next touch, for a screen without scripts
	// Elapsed is the brew's second when the page was made, from which the screen counts on,
	// and Speed how fast its clock runs: 1 but for a brew that is only watched.
	Elapsed float64
	Speed   float64
	Clock   string
	Cues    []cueView
	Marks   []markView
	Reasons []string // for which a brew is stopped
	Seen    string   // what was marked so far
	Bent    string   // how the plan was bent last
	CanUndo bool
	Ribbons []template.HTML
	Cutaway template.HTML
	Every   int // s between two moments of the cutaway
	Scale   standsOn
	Name    string
	Summary string
	Blocked bool
	Watch   bool       // a stand-in hand can pour it
	Done    string     // where to go once the pouring is over
	Forgot  *forgotten // it was left running
}

// forgotten is a brew that runs although it must have ended long ago.
type forgotten struct {
	Since string
	Ended string // when it was expected to end
	At    float64
}

// A cueView is one stretch of the brew, ready to be shown when its second comes:
// the screen only picks the one whose time it is.
type cueView struct {
	At, Until float64 // s since the start
	From, To  float64 // on the scale, in the person's unit
	Rate      float64 // wanted, in the person's unit a second
	Decimals  int
	Soon      float64 // remaining water at which the screen warns, in the user's unit
	Place     string  // "Pour 2 of 4"
	Do        string  // "Pour to 135 g"
	Say       string  // the same, spoken
	How       string
	Then      string
	Tap       string // what a tap says now
	Pour      bool   // water runs
	Does      bool   // the hand is busy
	CountsUp  bool   // no end to count down to
	Held      bool   // the scale, not the clock, ends it
	Tapped    bool   // only a tap begins it
	Long      bool   // what to do takes more than a few letters
	Shown     bool
	Unit      string
}

type markView struct{ What, Key string }

var markKeys = map[cup.Mark]string{cup.DrySpot: "D", cup.Channel: "C", cup.Stall: "S", cup.Spill: "X"}

// stopReasons are why a brew is stopped before its end.
var stopReasons = []string{"wrong recipe", "spilled", "it does not drain", "called away", "only trying"}

// pour is the Brew station: what to do now, and what comes next.
func (s *Server) pour(w http.ResponseWriter, r *http.Request) error {
	sc := sceneOf(r)
	if err := sc.onLine(); err != nil {
		return err
	}
	switch {
	case sc.brew != nil && sc.brew.Over():
		return seeOther(w, r, "/brews/%s/cup", sc.ID)
	case sc.draft != nil && !sc.editable():
		return seeOther(w, r, "/brews/%s/recipe", sc.ID)
	}
	s.showPour(w, r, sc)
	return nil
}

func (s *Server) showPour(w http.ResponseWriter, r *http.Request, sc *scene) {
	body := s.pourBody(sc)
	s.render(w, r, http.StatusOK, "pour", page{Title: "Brewing " + sc.Bag.Name, Station: "Brew", Line: lineOf(sc, "Brew"), Wide: true, Body: body})
}

func (s *Server) pourBody(sc *scene) pourBody {
	body := pourBody{ID: sc.ID, Key: rand.Text(), Name: sc.Bag.Name, Speed: s.watch.speed(sc.ID), Reasons: stopReasons, Every: figure.FrameEvery, Scale: s.scaleOf(sc),
		Summary: fmt.Sprintf("%s, %s, %s", sc.prefs.Unit(units.Dose).Format(float64(sc.Recipe.Dose)), sc.Gear.Grinder.Setting(sc.Recipe.Grind), sc.prefs.Unit(units.Temperature).Format(float64(sc.Recipe.Temperature())))}
	for _, m := range cup.Marks() {
		body.Marks = append(body.Marks, markView{string(m), markKeys[m]})
	}
	if sc.brew == nil {
		s.ready(&body, sc)
	} else {
		s.poured(&body, sc)
	}
	besidePouring(body.Cues, sc.Recipe, sc.prefs)
	return body
}

// ready fills in what is shown before the first water.
func (s *Server) ready(body *pourBody, sc *scene) {
	ribbon := figure.Ribbon{Plan: sc.plan(), Prefs: sc.prefs, Live: true}
	q := sc.Question(sc.now)
	if f, err := forecast.Of(q); err == nil {
		ribbon.Plan, ribbon.Forecast = f.Plan, &f.Result
		body.Cutaway = cutawayOf(q, &f)
	}
	state := brew.At(ribbon.Plan, nil, 0)
	ribbon.Actual = &state
	body.Blocked, body.Clock, body.Watch = !sc.draft.Ready(), units.Seconds(0).String(), s.Demo
	body.Ribbons, body.Cues = ribbon.Both(), cues(ribbon.Plan, state, sc.prefs)
	setDrainEnd(body.Cues, ribbon.Forecast)
	if beside := words.Beside(sc.Recipe, sc.prefs); beside != "" {
		body.Summary += ", " + strings.TrimPrefix(beside, "+ ")
	}
}

// poured fills in what has happened, and what comes next.
func (s *Server) poured(body *pourBody, sc *scene) {
	b, now := sc.brew, s.watch.now(sc.brew, s.Now())
	state, elapsed := b.At(now), b.Elapsed(now)
	body.Status, body.Version, body.CanUndo = b.Status, b.Version, brew.HasUndo(b.Events)
	body.Elapsed, body.Clock = float64(elapsed), elapsed.String()
	var seen []string
	for _, m := range state.Marks {
		seen = append(seen, fmt.Sprintf("%s %s", m.At, m.What))
	}
	body.Seen, body.Bent = strings.Join(seen, " · "), bentWords(state)
	readings, err := s.owners.Trace(s.live.Context(), sc.ID)
	if err != nil {
		s.Log.Error("readings", "brew", sc.ID, "err", err)
	}
	ribbon := figure.Ribbon{Plan: planSoFar(b.Plan, state), Prefs: sc.prefs, Now: elapsed, Actual: &state, Trace: readings, Live: b.Status == brew.Running}
	switch {
	case b.Over():
		body.Done = fmt.Sprintf("/brews/%s/cup", b.ID)
	case b.Status == brew.Running:
		body.Cues = cues(state.Plan(), state, sc.prefs)
		q := sc.Question(b.Started)
		q.Recipe = q.Recipe.Along(state.Steps())
		var f forecast.Forecast
		if f.Ask(q) == nil {
			body.Cutaway, ribbon.Forecast = cutawayOf(q, &f), &f.Result
			setDrainEnd(body.Cues, ribbon.Forecast)
		}
		body.Forgot = forgot(*b, state, elapsed)
	}
	body.Ribbons = ribbon.Both()
}

// worthSaying is how many seconds off the plan are worth a word.
const worthSaying = 3

// bentWords are how the plan stands against what was planned, in a few words.
func bentWords(state brew.State) string {
	late := int(float64(state.Late))
	switch {
	case state.Finished:
		return ""
	case late >= worthSaying:
		return fmt.Sprintf("rest %d s later", late)
	case late <= -worthSaying:
		return fmt.Sprintf("rest %d s earlier", -late)
	}
	return state.Bent
}

// forgot says that a brew must have ended long ago and nobody has touched it since; nil where
// it may still run.
func forgot(b brew.Brew, state brew.State, elapsed units.Seconds) *forgotten {
	const long = 15 * 60
	end := state.Plan().Finish
	last := end
	for _, e := range b.Events {
		if e.Kind.Touch() {
			last = max(last, e.At)
		}
	}
	if state.Finished || elapsed < last+long {
		return nil
	}
	return &forgotten{Since: minutes(elapsed), Ended: end.String(), At: float64(end)}
}

// minutes says how long something has gone on.
func minutes(s units.Seconds) string {
	if m := int(s) / 60; m < 90 {
		return fmt.Sprintf("%d minutes", m)
	}
	return fmt.Sprintf("%d hours", int(s+1800)/3600)
}

// planSoFar is the plan as it was made as far as the brew has come, and as it stands from there on.
func planSoFar(made recipe.Plan, state brew.State) recipe.Plan {
	p := state.Plan()
	done := state.Now().Step
	if !state.Now().Does() {
		done++
	}
	copy(p.Steps, made.Steps[:min(done, len(made.Steps))])
	return p
}

func cutawayOf(q forecast.Question, f *forecast.Forecast) template.HTML {
	return figure.Cutaway{Brewer: q.Brew().Brewer, Forecast: &f.Result, Prefs: q.Reads, Crust: q.Recipe.Crust, Release: q.Recipe.Release}.SVG()
}

// setDrainEnd makes the last stage count down to the predicted drawdown, like the ribbon beside
// it, instead of the aim.
func setDrainEnd(cues []cueView, f *sim.Result) {
	if f == nil || !f.Drained {
		return
	}
	for i := range cues {
		if c := &cues[i]; c.CountsUp {
			c.Until = max(c.At, float64(f.Drawdown))
		}
	}
}

// besidePouring says what a recipe asks for besides its pours: coffee that goes onto the
// water, ice that waits below, and water that goes into the cup.
func besidePouring(cues []cueView, r recipe.Recipe, prefs units.Prefs) {
	water := prefs.Unit(units.Water)
	for i := range cues {
		c := &cues[i]
		if r.WaterFirst && c.Pour {
			c.How = "then tip the coffee in and wet all of it"
		}
		if !c.CountsUp {
			continue
		}
		if r.Dilution.Water > 0 {
			c.Then = fmt.Sprintf("then %s of %s into the cup", water.Format(float64(r.Dilution.Water)), recipe.DiluteBy.Choices()[int(r.Value(recipe.Of(recipe.DiluteBy)))])
		}
		if r.Ice.Mass > 0 {
			c.Then = "then swirl the ice until nothing melts any more"
		}
	}
}

// afterPour is how a screen says what the hand does when a pour is in.
var afterPour = map[recipe.Hand]struct{ do, how string }{
	recipe.Tap:         {"Tap the brewer", "two light taps, until the bed lies level"},
	recipe.Swirl:       {"Swirl", "a few turns, until the bed lies level"},
	recipe.StirBed:     {"Stir", "a few strokes down to the paper, without touching it"},
	recipe.NeedleStir:  {"Needle stir", "circles through all of the bed, slowly out again"},
	recipe.SurfaceStir: {"Stir the surface", "the water only, not the bed: fines go to the wall"},
}

// longWords is how many letters of what to do still fit in one line of the largest type.
const longWords = 15

// soonLeft is the remaining water at which a pour is announced as nearly finished, g.
const soonLeft = 10

// cues are the stretches from now on that the clock alone will bring.
func cues(plan recipe.Plan, state brew.State, prefs units.Prefs) []cueView {
	u := prefs.Unit(units.Water)
	var out []cueView
	for i, st := range state.AheadOfTaps() {
		step := plan.Steps[st.Step]
		c := cueView{At: float64(st.Entered), Until: float64(st.Left), From: u.Shown(float64(st.From)), To: u.Shown(float64(st.To)), Decimals: u.Decimals, Soon: u.Shown(soonLeft),
			Unit: u.Symbol, Pour: st.Kind == brew.Pouring, Does: st.Does(), Held: state.Watched && st.Kind == brew.Pouring, Tapped: st.Skipped, Shown: i == 0}
		target := u.Format(float64(st.To))
		c.Place = fmt.Sprintf("Step %d of %d", st.Step+1, len(plan.Steps))
		switch st.Kind {
		case brew.Pouring:
			c.Do, c.Tap, c.Rate = "Pour to "+target, "Tap when it is in", u.Shown(step.Rate)
			c.How = fmt.Sprintf("%s\u00a0· %s\u00a0· %s\u00a0· %s", step.Pattern, step.Height, prefs.Unit(units.Rate).Format(step.Rate), prefs.Unit(units.Temperature).Format(float64(step.Temperature)))
			if step.Bloom {
				c.Do = "Bloom to " + target
				c.How = "wet all of it, look for dry spots\u00a0· " + c.How
			}
			c.Say = strings.NewReplacer("\u00a0g", " grams", "\u00a0oz", " ounces").Replace(c.Do)
		case brew.Stirring:
			c.Do, c.How, c.Tap = "Break the crust", "a few slow strokes down to the bottom, then let it settle", "Tap when it is done"
		case brew.Releasing:
			c.Do, c.Tap = "Open the valve", "Tap when it runs"
			c.How = fmt.Sprintf("hold the brewer level; the cup below must take up to %s", target)
		case brew.Waiting:
			c.Do, c.Tap = "Wait", "Tap to start it early"
			if after := afterPour[step.Then]; after.do != "" {
				c.Do, c.How = after.do+", then wait", after.how
			}
			if next := st.Step + 1; next < len(plan.Steps) && plan.Steps[next].WhenDrained {
				c.How = strings.TrimPrefix(c.How+"\u00a0· pour again when the water reaches the bed", "\u00a0· ")
				c.Tap = "Tap when the water reaches the bed"
			}
		case brew.Draining:
			c.Do, c.How, c.Tap = "Let it drain", "the end is the last steady stream, not the last drop", "Tap at the last steady stream"
			if after := afterPour[step.Then]; after.do != "" {
				c.Do = after.do + ", let it drain"
			}
			if state.Watched {
				c.Tap = "Lift the brewer off at the last steady stream, or tap"
			}
			c.CountsUp = true
		}
		if c.Say == "" {
			c.Say = c.Do
		}
		c.Long = len([]rune(c.Do)) > longWords
		c.Then = thenWhat(plan, st, prefs)
		out = append(out, c)
	}
	return out
}

// thenWhat says what follows on a stage.
func thenWhat(plan recipe.Plan, st brew.Stage, prefs units.Prefs) string {
	if st.Kind == brew.Draining {
		return "then the cup"
	}
	if st.Step+1 >= len(plan.Steps) {
		return fmt.Sprintf("then drain, aim %s", plan.Finish)
	}
	next := plan.Steps[st.Step+1]
	switch next.Act {
	case recipe.PourWater:
		if next.WhenDrained {
			return fmt.Sprintf("about %s pour to %s", next.Start, prefs.Unit(units.Water).Format(float64(next.Total)))
		}
		return fmt.Sprintf("at %s pour to %s", next.Start, prefs.Unit(units.Water).Format(float64(next.Total)))
	case recipe.BreakCrust:
		return fmt.Sprintf("at %s break the crust", next.Start)
	default:
		return fmt.Sprintf("at %s open the valve", next.Start)
	}
}
