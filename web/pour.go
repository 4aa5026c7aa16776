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
	"yardbloom/core/units"
	"yardbloom/web/figure"
)

// pourBody is the Brew station.
type pourBody struct {
	ID      string
	Status  brew.Status // empty before the first water
	Version int64
	Key     string // of the next touch, for a screen without scripts
	// Elapsed is the brew's second when the page was made, from which the screen counts on.
	Elapsed float64
	Clock   string
	Cues    []cueView
	Marks   []markView
	Seen    string // what was marked so far
	Late    string
	CanUndo bool
	Ribbons []template.HTML
	Name    string
	Summary string
	Blocked bool
	Done    string // where to go once the pouring is over
}

// A cueView is one stretch of the brew, ready to be shown when its second comes:
// the screen only picks the one whose time it is.
type cueView struct {
	At, Until float64 // s since the start
	From, To  float64 // on the scale, in the person's unit
	Decimals  int
	Place     string // "Pour 2 of 4"
	Do        string // "Pour to 135 g"
	How       string
	Then      string
	Tap       string // what a tap says now
	Pour      bool   // the hand is busy
	CountsUp  bool   // no end to count down to
	Shown     bool
	Unit      string
}

type markView struct{ What, Key string }

var markKeys = map[cup.Mark]string{cup.DrySpot: "D", cup.Channel: "C", cup.Stall: "S", cup.Spill: "X"}

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
	s.render(w, r, http.StatusOK, "pour", page{Title: "Brewing " + sc.Bag.Name, Station: "Brew", Line: lineOf(sc, "Brew"), Wide: true, Body: s.pourBody(sc)})
	return nil
}

func (s *Server) pourBody(sc *scene) pourBody {
	body := pourBody{ID: sc.ID, Key: rand.Text(), Name: sc.Bag.Name,
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
	plan := sc.plan()
	if f, err := forecast.Of(sc.Question(sc.now)); err == nil {
		plan = f.Plan
	}
	state := brew.At(plan, nil, 0)
	body.Blocked, body.Clock = !sc.draft.Ready(), units.Seconds(0).String()
	body.Ribbons = figure.Ribbon{Plan: plan, Prefs: sc.prefs}.Both()
	body.Cues = cues(plan, state, sc.prefs)
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
	body.Seen = strings.Join(seen, " · ")
	if late := int(float64(state.Late)); late > 0 {
		body.Late = fmt.Sprintf("Running %d s late: the rest has moved with it.", late)
	} else if late < 0 {
		body.Late = fmt.Sprintf("Running %d s early: the rest has moved with it.", -late)
	}
	body.Ribbons = figure.Ribbon{Plan: b.Plan, Prefs: sc.prefs, Now: elapsed, Actual: &state}.Both()
	switch {
	case b.Over():
		body.Done = fmt.Sprintf("/brews/%s/cup", b.ID)
	case b.Status == brew.Running:
		body.Cues = cues(b.Plan, state, sc.prefs)
	}
}

// besidePouring says what a recipe asks for besides its pours: coffee that goes onto the
// water, and water that goes into the cup.
func besidePouring(cues []cueView, r recipe.Recipe, prefs units.Prefs) {
	for i := range cues {
		c := &cues[i]
		if r.WaterFirst && c.Pour {
			c.How += " · then tip the coffee in and wet all of it"
		}
		if c.CountsUp && r.Dilution.Water > 0 {
			c.Then = fmt.Sprintf("then %s of %s into the cup", prefs.Unit(units.Water).Format(float64(r.Dilution.Water)), recipe.DiluteBy.Choices()[int(r.Value(recipe.Of(recipe.DiluteBy)))])
		}
		if c.CountsUp && r.Ice.Mass > 0 {
			c.Then = "then stir until nothing melts any more"
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

// cues are the stretches from now on that the clock alone will bring.
func cues(plan recipe.Plan, state brew.State, prefs units.Prefs) []cueView {
	u := prefs.Unit(units.Water)
	var out []cueView
	ahead := state.Ahead()
	for i, st := range ahead {
		step := plan.Steps[st.Step]
		c := cueView{At: float64(st.Entered), Until: float64(st.Left), From: u.Shown(float64(st.From)), To: u.Shown(float64(st.To)), Decimals: u.Decimals,
			Unit: u.Symbol, Pour: st.Does(), Shown: i == 0}
		target := u.Format(float64(st.To))
		c.Place = fmt.Sprintf("Step %d of %d", st.Step+1, len(plan.Steps))
		switch st.Kind {
		case brew.Pouring:
			c.Do, c.Tap = "Pour to "+target, "Tap when it is in"
			c.How = fmt.Sprintf("%s · %s · %s g/s · %s", step.Pattern, step.Height, units.Trim(step.Rate, 1), prefs.Unit(units.Temperature).Format(float64(step.Temperature)))
			if step.Bloom {
				c.Do = "Bloom to " + target
				c.How = "wet all of it, look for dry spots · " + c.How
			}
		case brew.Stirring:
			c.Do, c.How, c.Tap = "Break the crust", "a few slow strokes to the bottom", "Tap when it is done"
		case brew.Releasing:
			c.Do, c.How, c.Tap = "Open the valve", "hold the brewer, check that the carafe takes all of it", "Tap when it runs"
		case brew.Waiting:
			c.Do, c.How, c.Tap = "Wait", "", "Tap to start it early"
			if after := afterPour[step.Then]; after.do != "" {
				c.Do, c.How = after.do+", then wait", after.how
			}
			if next := st.Step + 1; next < len(plan.Steps) && plan.Steps[next].WhenDrained {
				c.How = strings.TrimPrefix(c.How+" · pour again when the water reaches the bed", " · ")
				c.Tap = "Tap when the water reaches the bed"
			}
		case brew.Draining:
			c.Do, c.How, c.Tap = "Let it drain", "the end is the last steady stream, not the last drop", "Tap at the last steady stream"
			if after := afterPour[step.Then]; after.do != "" {
				c.Do = after.do + ", let it drain"
			}
			c.CountsUp = true
		}
		c.Then = thenWhat(plan, st, prefs, state)
		out = append(out, c)
	}
	return out
}

// thenWhat says what follows on a stage.
func thenWhat(plan recipe.Plan, st brew.Stage, prefs units.Prefs, state brew.State) string {
	if st.Kind == brew.Draining {
		return "then the cup"
	}
	if st.Step+1 >= len(plan.Steps) {
		return fmt.Sprintf("then drain, aim %s", plan.Finish+state.Late)
	}
	next := plan.Steps[st.Step+1]
	at := next.Start + state.Late
	switch next.Act {
	case recipe.PourWater:
		if next.WhenDrained {
			return fmt.Sprintf("about %s pour to %s", at, prefs.Unit(units.Water).Format(float64(next.Total)))
		}
		return fmt.Sprintf("at %s pour to %s", at, prefs.Unit(units.Water).Format(float64(next.Total)))
	case recipe.BreakCrust:
		return fmt.Sprintf("at %s break the crust", at)
	default:
		return fmt.Sprintf("at %s open the valve", at)
	}
}
