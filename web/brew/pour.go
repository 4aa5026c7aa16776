package brew

import (
	"crypto/rand"
	"fmt"
	"html/template"
	"net/http"
	"strings"

	"yardbloom/core/brew"
	"yardbloom/core/cup"
	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/sim"
	"yardbloom/core/trace"
	"yardbloom/core/units"
	"yardbloom/live"
	"yardbloom/web/figure"
	"yardbloom/web/page"
	"yardbloom/web/station"
	"yardbloom/web/words"
)

// pourBody is the data of the Brew station.
type pourBody struct {
	From    string // the brew or recipe that is copied when the brew begins; empty for a stored draft
	ID      string
	Status  brew.Status // empty before the first water
	Version int64
	Key     string // of the next tap, for a screen without scripts
	Start   string // key of the first water from which Elapsed counts
	LastTap string // key of the tap that an undo takes back
	Rivals  []station.RivalView
	// Elapsed is the time since the first water when the page was rendered, from which the screen
	// continues. Speed is the speed of its clock: 1 except for a simulated brew.
	Elapsed float64
	Speed   float64
	Clock   string
	Cues    []cueView
	Marks   []markView
	Check   *bloomCheck
	Opening string   // words before the first water
	CountIn int      // s
	Reasons []string // for stopping a brew
	Seen    string   // marks so far
	Means   string   // what the last of them means for the rest of the brew
	Bent    string   // the last revision of the plan
	CanUndo bool
	Ribbons []template.HTML
	Cutaway template.HTML
	Every   int // interval of the moments of the cutaway, s
	Scale   scaleView
	Name    string
	Summary string
	Blocked bool
	Watch   bool       // a simulated hand can pour it
	Done    string     // address after the end of the pouring
	Forgot  *forgotten // the brew was left running
	Timing  timing
}

// forgotten is a brew that still runs although it must have ended long ago.
type forgotten struct {
	Since string
	Ended string // expected end
	At    float64
}

// A cueView is a stage of the brew as shown when its time comes: the screen only selects the current one.
type cueView struct {
	Stage     int     // counted from 1
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
	Tap       string // label of the tap
	Pour      bool   // water runs
	Does      bool   // the hand is busy
	Waits     bool   // for the next action
	CountsUp  bool   // no end to count down to
	Held      bool   // the scale, not the clock, ends it
	Tapped    bool   // only a tap starts it
	Long      bool   // the instruction is longer than a few letters
	Advance   string // effect of a tap: "end" the brew, "start" the next stage, or "shift" the rest
	Shown     bool
	Unit      string
}

// timing holds the thresholds of the screen while it waits for the server.
type timing struct {
	Later float64 // delay by "later", s
	Lost  float64 // silence after which a scale no longer counts, s
	Fast  float64 // rate shown as too fast, relative to the target
	Slow  float64 // rate shown as too slow, relative to the target
	Last  float64 // remaining time of a stage that is counted down aloud, s
	Early float64 // remaining time at which the next stage is announced, s
	Grace float64 // time past the expected end of the drawdown before it counts as over, s
	Empty float64 // weight up to which a scale counts as tared, g
}

var timings = timing{Later: float64(brew.LaterDelay), Lost: live.LostAfter.Seconds(), Fast: trace.FastRate, Slow: trace.SlowRate, Last: 3,
	Early: 10, Grace: 60, Empty: 1}

// A bloomCheck is the question after a bloom that is judged by eye, with the offer of more water.
type bloomCheck struct{ ID, Key, Ask, More string }

// bloomCheckOf returns the check of a running brew whose bloom is judged by eye; nil for others, and when
// enough water is in.
func bloomCheckOf(b *brew.Brew, state brew.State, key string, prefs units.Prefs) *bloomCheck {
	if !state.CanAddToBloom(b.Recipe) {
		return nil
	}
	return &bloomCheck{b.ID, key, "Swirl: is all of it wet and moving?", prefs.Unit(units.Water).Format(float64(brew.MoreWater))}
}

type markView struct{ What, Key string }

var markKeys = map[cup.Mark]string{cup.DrySpot: "D", cup.Channel: "C", cup.Stall: "S", cup.Spill: "X", cup.Outlets: "O", cup.Ridge: "R",
	cup.Dome: "B", cup.Sludge: "G", cup.CrustBroken: "K"}

// marksOn lists the marks that a brew can show: only a flat bed has several outlets, only corrugated paper has ridges, only a bloom
// has a dome, and only a steep has a crust, which is marked if the recipe leaves it alone.
func marksOn(b gear.Brewer, r recipe.Recipe) (out []markView) {
	cannot := map[cup.Mark]bool{cup.Outlets: b.Kind != gear.FlatBed, cup.Ridge: b.Filter != gear.CorrugatedPaper,
		cup.Dome: !r.Pours[0].Bloom, cup.CrustBroken: !r.Steeps() || r.Crust > 0}
	for _, m := range cup.Marks() {
		if cannot[m] {
			continue
		}
		out = append(out, markView{string(m), markKeys[m]})
	}
	return out
}

// countIn is the count-down to the first water, s.
const countIn = 5

// stopReasons are the offered reasons for stopping a brew.
var stopReasons = []string{"wrong recipe", "spilled", "it does not drain", "called away", "only trying"}

// pour serves the Brew station.
func (s *Screens) pour(w http.ResponseWriter, r *http.Request) error {
	sc := station.Of(r)
	if err := sc.BagGone(); err != nil {
		return err
	}
	switch {
	case sc.Brew != nil && sc.Brew.Over():
		return page.SeeOther(w, r, "/brews/%s/cup", sc.ID)
	case sc.Draft != nil && !sc.Editable():
		return page.SeeOther(w, r, "/brews/%s/recipe", sc.ID)
	}
	s.showPour(w, r, sc)
	return nil
}

func (s *Screens) showPour(w http.ResponseWriter, r *http.Request, sc *station.Scene) {
	body := s.pourBody(r, sc)
	s.Render(w, r, http.StatusOK, "pour", page.Page{Title: "Brewing " +
		sc.Bag.Name, Station: "Brew", Line: station.Line(sc, "Brew"), Wide: true, Body: body})
}

func (s *Screens) pourBody(r *http.Request, sc *station.Scene) pourBody {
	body := pourBody{ID: sc.ID, Key: rand.Text(), Name: sc.Bag.Name, Speed: s.yard.Speed(sc.ID), Reasons: stopReasons, Timing: timings,
		Every: figure.FrameEvery, Scale: s.scaleOf(r, sc),
		Summary: fmt.Sprintf("%s, %s, %s", sc.Prefs.Unit(units.Dose).Format(float64(sc.Recipe.Dose)),
			sc.Gear.Grinder.Setting(sc.Recipe.Grind), sc.Prefs.Unit(units.Temperature).Format(float64(sc.Recipe.Temperature())))}
	body.Marks = marksOn(sc.Gear.Brewer, sc.Recipe)
	if sc.Brew == nil {
		s.ready(&body, sc)
	} else {
		s.poured(&body, sc)
		body.Rivals = station.Rivals(r, sc)
	}
	addOtherActions(body.Cues, sc.Recipe, sc.Prefs)
	return body
}

// ready adds the content shown before the first water.
func (s *Screens) ready(body *pourBody, sc *station.Scene) {
	ribbon := figure.Ribbon{Plan: sc.Plan(), Prefs: sc.Prefs, Live: true}
	q := sc.Question(sc.Now)
	if f, err := forecast.Predict(q); err == nil {
		ribbon.Plan, ribbon.Forecast = f.Plan, &f.Result
		body.Cutaway = cutawayOf(q, &f)
	}
	state := brew.At(ribbon.Plan, nil, 0)
	ribbon.Actual = &state
	body.Blocked, body.Clock, body.Watch = !sc.Draft.Ready(), units.Seconds(0).String(), s.yard.Demo
	body.Ribbons, body.Cues = ribbon.Both(), cues(ribbon.Plan, state, sc.Prefs)
	if len(body.Cues) > 0 && !body.Blocked {
		body.CountIn, body.Opening = countIn, fmt.Sprintf("Ready. %s, in %d seconds.", body.Cues[0].Say, countIn)
	}
	setDrainEnd(body.Cues, ribbon.Forecast, sc.Recipe.CutAt)
	if beside := words.Additions(sc.Recipe, sc.Prefs); beside != "" {
		body.Summary += ", " + strings.TrimPrefix(beside, "+ ")
	}
}

// poured adds the events so far and the next step.
func (s *Screens) poured(body *pourBody, sc *station.Scene) {
	b, now := sc.Brew, s.yard.Moment(sc.Brew)
	state, elapsed := b.At(now), b.Elapsed(now)
	body.Status, body.Version, body.Start, body.LastTap = b.Status, b.Version, b.StartKey(), state.LastTap()
	body.CanUndo = body.LastTap != ""
	body.Elapsed, body.Clock = float64(elapsed), elapsed.String()
	var seen []string
	for _, m := range state.Marks {
		seen = append(seen, fmt.Sprintf("%s %s", m.At, m.What))
	}
	if n := len(state.Marks); n > 0 && b.Status == brew.Running {
		body.Means = state.Marks[n-1].What.Now()
	}
	body.Seen, body.Bent = strings.Join(seen, " · "), planChange(state)
	readings, err := s.yard.Trace(s.yard.Hub.Context(), sc.ID)
	if err != nil {
		s.yard.Log.Error("readings", "brew", sc.ID, "err", err)
	}
	ribbon := figure.Ribbon{Plan: mergedPlan(b.Plan, state), Prefs: sc.Prefs, Now: elapsed, Actual: &state, Trace: readings,
		Live: b.Status == brew.Running}
	switch {
	case b.Over():
		body.Done = fmt.Sprintf("/brews/%s/cup", b.ID)
	case b.Status == brew.Running:
		body.Cues, body.Check = cues(state.Plan(), state, sc.Prefs), bloomCheckOf(b, state, body.Key, sc.Prefs)
		q := sc.Question(b.Started)
		q.Recipe = q.Recipe.WithSteps(state.Steps())
		if f, err := s.predictions.run(b.ID, q); err == nil {
			body.Cutaway, ribbon.Forecast = cutawayOf(q, f), &f.Result
			setDrainEnd(body.Cues, ribbon.Forecast, sc.Recipe.CutAt)
		}
		body.Forgot = forgottenBrew(*b, state, elapsed)
	}
	body.Ribbons = ribbon.Both()
}

// minDeviation is the smallest deviation from the plan that is mentioned, s.
const minDeviation = 3

// planChange describes the present deviation from the original plan in a few words.
func planChange(state brew.State) string {
	late := int(float64(state.Late))
	switch {
	case state.Finished:
		return ""
	case late >= minDeviation:
		return fmt.Sprintf("rest %d s later", late)
	case late <= -minDeviation:
		return fmt.Sprintf("rest %d s earlier", -late)
	}
	return state.RevisionNote
}

// forgottenBrew returns a brew that must have ended long ago and had no taps since; nil for one that may still
// run.
func forgottenBrew(b brew.Brew, state brew.State, elapsed units.Seconds) *forgotten {
	const long = 15 * 60
	end := state.Plan().Finish
	last := end
	for _, e := range b.Events {
		if e.Kind.IsTap() {
			last = max(last, e.At)
		}
	}
	if state.Finished || elapsed < last+long {
		return nil
	}
	return &forgotten{Since: minutes(elapsed), Ended: end.String(), At: float64(end)}
}

// minutes formats how long something has been running.
func minutes(s units.Seconds) string {
	if m := int(s) / 60; m < 90 {
		return fmt.Sprintf("%d minutes", m)
	}
	return fmt.Sprintf("%d hours", int(s+1800)/3600)
}

// mergedPlan returns the original plan up to now, and the present plan from then on.
func mergedPlan(made recipe.Plan, state brew.State) recipe.Plan {
	p := state.Plan()
	done := state.Now().Step
	if !state.Now().Busy() {
		done++
	}
	copy(p.Steps, made.Steps[:min(done, len(made.Steps))])
	return p
}

func cutawayOf(q forecast.Question, f *forecast.Forecast) template.HTML {
	return figure.Cutaway{Brewer: q.Brew().Brewer, Forecast: &f.Result, Prefs: q.Prefs, Crust: q.Recipe.Crust,
		Release: q.Recipe.Release}.SVG()
}

// setDrainEnd makes the last stage count down to the predicted drawdown, like the ribbon beside it, instead
// of the aim; with a cut, to the time at which the carafe is predicted to hold that much.
func setDrainEnd(cues []cueView, f *sim.Result, cutAt units.Grams) {
	if f == nil || !f.Drained {
		return
	}
	end := f.Drawdown
	if at, ok := f.CarafeAt(cutAt); ok && cutAt > 0 {
		end = at
	}
	for i := range cues {
		if c := &cues[i]; c.CountsUp {
			c.Until = max(c.At, float64(end))
		}
	}
}

// addOtherActions adds the other actions of a recipe: coffee added to the water, ice in the carafe, and
// dilution.
func addOtherActions(cues []cueView, r recipe.Recipe, prefs units.Prefs) {
	water := prefs.Unit(units.Water)
	for i := range cues {
		c := &cues[i]
		if r.WaterFirst && c.Pour {
			c.How = "then add the coffee and wet all of it"
		}
		if r.Reheat && c.Waits {
			c.How = strings.TrimPrefix(c.How+"; the kettle back on the heat", "; ")
		}
		if r.Discard > 0 && i == 0 {
			c.How = strings.TrimPrefix(c.How+"; the first "+water.Format(float64(r.Discard))+" of the brew into another glass", "; ")
		}
		if !c.CountsUp {
			continue
		}
		if r.CutAt > 0 {
			c.Then = fmt.Sprintf("then lift the brewer off with %s in the carafe", water.Format(float64(r.CutAt)))
		}
		if r.Dilution.Water > 0 {
			c.Then = fmt.Sprintf("then add %s of %s to the cup", water.Format(float64(r.Dilution.Water)),
				recipe.DiluteBy.Choices()[int(r.Value(recipe.AddressOf(recipe.DiluteBy)))])
		}
		if r.Ice.Mass > 0 {
			c.Then = "then swirl until the ice stops melting"
		}
	}
}

// afterPour holds the texts of hand actions after a pour.
var afterPour = map[recipe.HandAction]struct{ do, how string }{
	recipe.Tap:         {"Tap the brewer", "two light taps, until the bed is level"},
	recipe.Swirl:       {"Swirl", "a few turns, until the bed is level"},
	recipe.StirBed:     {"Stir", "a few strokes down to the paper, without touching it"},
	recipe.NeedleStir:  {"Needle stir", "circles through the whole bed, then slowly out"},
	recipe.WashWall:    {"Wash the wall", "the last grams along the paper: grounds from the wall go back under water"},
	recipe.SurfaceStir: {"Stir the surface", "the water only, not the bed: fines go to the wall"},
}

// maxLetters is the number of letters that fit in one line of the largest type.
const maxLetters = 15

// soonLeft is the remaining water at which a pour is announced as nearly finished, g.
const soonLeft = 10

// cues returns the stages from now on, as started by the clock alone.
func cues(plan recipe.Plan, state brew.State, prefs units.Prefs) []cueView {
	u := prefs.Unit(units.Water)
	var out []cueView
	ahead := state.AheadOfTaps()
	for i, st := range ahead {
		step := plan.Steps[st.Step]
		c := cueView{Stage: st.Number(), At: float64(st.Entered), Until: float64(st.Left), From: u.Shown(float64(st.From)), To: u.Shown(float64(st.To)),
			Decimals: u.Decimals, Soon: u.Shown(soonLeft),
			Unit: u.Symbol, Pour: st.Kind == brew.Pouring, Does: st.Busy(), Held: state.Watched &&
				st.Kind == brew.Pouring, Tapped: st.Skipped, Shown: i == 0}
		target := u.Format(float64(st.To))
		c.Place = fmt.Sprintf("Step %d of %d", st.Step+1, len(plan.Steps))
		switch st.Kind {
		case brew.Pouring:
			c.Do, c.Tap, c.Rate = "Pour to "+target, "Tap when the water is in", u.Shown(step.Rate)
			c.How = fmt.Sprintf("%s\u00a0· %s\u00a0· %s\u00a0· %s", step.Pattern, step.Height, prefs.Unit(units.Rate).Format(step.Rate),
				prefs.Unit(units.Temperature).Format(float64(step.Temperature)))
			if step.Level > 0 {
				c.How = "to " + words.Level(step.Level) + "\u00a0· " + c.How
			}
			if step.Second {
				c.How = "from the second kettle\u00a0· " + c.How
			}
			if step.Bloom {
				c.Do = "Bloom to " + target
				c.How = "wet all of it, look for dry spots\u00a0· " + c.How
			}
			c.Say = strings.NewReplacer("\u00a0g", " grams", "\u00a0oz", " ounces").Replace(c.Do)
		case brew.Stirring:
			c.Do, c.How, c.Tap = "Break the crust", "a few slow strokes down to the bottom, then let it settle", "Tap when it is done"
		case brew.Releasing:
			c.Do, c.Tap = "Open the valve", "Tap when it flows"
			c.How = fmt.Sprintf("hold the brewer level; the cup below must take up to %s", target)
		case brew.Waiting:
			c.Do, c.Tap, c.Waits = "Wait", "Tap to start it early", true
			if after := afterPour[step.Then]; after.do != "" {
				c.Do, c.How = after.do+", then wait", after.how
			}
			if next := st.Step + 1; next < len(plan.Steps) && plan.Steps[next].Cue.ByEye() {
				when := plan.Steps[next].Cue.String()
				c.How = strings.TrimPrefix(c.How+"\u00a0· pour again "+when, "\u00a0· ")
				c.Tap = "Tap " + when
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
		c.Long = len([]rune(c.Do)) > maxLetters
		switch {
		case i == len(ahead)-1:
			c.Advance = "end"
		case c.Does:
			c.Advance = "start"
		default:
			c.Advance = "shift"
		}
		c.Then = nextText(plan, st, prefs)
		out = append(out, c)
	}
	return out
}

// nextText describes what follows a stage.
func nextText(plan recipe.Plan, st brew.Stage, prefs units.Prefs) string {
	if st.Kind == brew.Draining {
		return "then the cup"
	}
	if st.Step+1 >= len(plan.Steps) {
		return fmt.Sprintf("then drain, aim %s", plan.Finish)
	}
	next := plan.Steps[st.Step+1]
	switch next.Act {
	case recipe.PourWater:
		if next.Cue.ByEye() {
			return fmt.Sprintf("about %s pour to %s", next.Start, prefs.Unit(units.Water).Format(float64(next.Total)))
		}
		return fmt.Sprintf("at %s pour to %s", next.Start, prefs.Unit(units.Water).Format(float64(next.Total)))
	case recipe.BreakCrust:
		return fmt.Sprintf("at %s break the crust", next.Start)
	default:
		return fmt.Sprintf("at %s open the valve", next.Start)
	}
}
