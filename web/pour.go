package web

import (
	"crypto/rand"
	"fmt"
	"html/template"
	"net/http"
	"strings"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/forecast"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/store"
	"yardbloom/web/figure"
)

// pourBody is the Brew station.
type pourBody struct {
	ID      int64
	Status  brew.Status
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

var markKeys = map[string]string{brew.DrySpot: "D", brew.Channel: "C", brew.Stall: "S", brew.Spill: "X"}

// pour is the Brew station: what to do now, and what comes next.
func (s *Server) pour(w http.ResponseWriter, r *http.Request) error {
	b, _, prefs, err := s.loadOnLine(r)
	if err != nil {
		return err
	}
	if b.Over() {
		return seeOther(w, r, "/brews/%d/cup", b.ID)
	}
	s.render(w, r, http.StatusOK, "pour", page{Title: "Brewing " + b.Bag.Name, Station: "Brew", Line: lineOf(b, prefs, "Brew"), Wide: true, Body: s.pourBody(b, prefs)})
	return nil
}

func (s *Server) pourBody(b brew.Brew, prefs units.Prefs) pourBody {
	now := s.Now()
	b.Plan = forecast.Schedule(b, now)
	state := b.At(now)
	body := pourBody{ID: b.ID, Status: b.Status, Version: b.Version, Key: rand.Text(), Elapsed: float64(b.Elapsed(now)), Clock: b.Elapsed(now).String(),
		CanUndo: brew.HasUndo(b.Events), Name: b.Bag.Name, Blocked: b.Status == brew.Planned && len(b.Draft.Typed) > 0,
		Summary: fmt.Sprintf("%s, %s, %s", prefs.Unit(units.Dose).Format(float64(b.Recipe.Dose)), b.Gear.Grinder.Setting(b.Recipe.Grind), prefs.Unit(units.Temperature).Format(float64(b.Recipe.Temperature)))}
	for _, m := range brew.Marks() {
		body.Marks = append(body.Marks, markView{m, markKeys[m]})
	}
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
	ribbon := figure.Ribbon{Plan: b.Plan, Prefs: prefs, Now: b.Elapsed(now)}
	if b.Status != brew.Planned {
		ribbon.Actual = &state
	}
	body.Ribbons = ribbon.Both()
	switch b.Status {
	case brew.Poured, brew.Done:
		body.Done = fmt.Sprintf("/brews/%d/cup", b.ID)
	case brew.Running, brew.Planned:
		body.Cues = cues(b, state, prefs)
	}
	return body
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
func cues(b brew.Brew, state brew.State, prefs units.Prefs) []cueView {
	u := prefs.Unit(units.Water)
	var out []cueView
	ahead := state.Ahead()
	for i, st := range ahead {
		step := b.Plan.Steps[st.Step]
		c := cueView{At: float64(st.Entered), Until: float64(st.Left), From: u.Shown(float64(st.From)), To: u.Shown(float64(st.To)), Decimals: u.Decimals,
			Unit: u.Symbol, Pour: st.Does(), Shown: i == 0}
		target := u.Format(float64(st.To))
		c.Place = fmt.Sprintf("Step %d of %d", st.Step+1, len(b.Plan.Steps))
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
			if next := st.Step + 1; next < len(b.Plan.Steps) && b.Plan.Steps[next].WhenDrained {
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
		c.Then = thenWhat(b, st, prefs, state)
		out = append(out, c)
	}
	return out
}

// thenWhat says what follows on a stage.
func thenWhat(b brew.Brew, st brew.Stage, prefs units.Prefs, state brew.State) string {
	if st.Kind == brew.Draining {
		return "then the cup"
	}
	if st.Step+1 >= len(b.Plan.Steps) {
		return fmt.Sprintf("then drain, aim %s", b.Plan.Finish+state.Late)
	}
	next := b.Plan.Steps[st.Step+1]
	at := next.Start + state.Late
	switch next.Act {
	case recipe.Pour:
		if next.WhenDrained {
			return fmt.Sprintf("about %s pour to %s", at, prefs.Unit(units.Water).Format(float64(next.Total)))
		}
		return fmt.Sprintf("at %s pour to %s", at, prefs.Unit(units.Water).Format(float64(next.Total)))
	case recipe.Stir:
		return fmt.Sprintf("at %s break the crust", at)
	default:
		return fmt.Sprintf("at %s open the valve", at)
	}
}

// start begins the pouring: from this second the brew is kept.
func (s *Server) start(w http.ResponseWriter, r *http.Request) error {
	b, set, _, err := s.loadOnLine(r)
	if err != nil {
		return err
	}
	if b.Status == brew.Running { // a second touch, or a second tablet
		return seeOther(w, r, "/brews/%d/brew", b.ID)
	}
	if len(b.Draft.Typed) > 0 {
		return problem{http.StatusUnprocessableEntity, "The recipe is not finished", "Something on it cannot be brewed yet. Go back to the recipe and mend the marked field."}
	}
	if err := s.Store.StartBrew(r.Context(), b.ID, set.Boiling(), s.Now()); err != nil {
		return err
	}
	s.live.tell(b.ID)
	return seeOther(w, r, "/brews/%d/brew", b.ID)
}

// touch keeps one touch of the running brew. A script sends it with its own
// key and time and gets the changed part back; a plain form goes on to the page.
func (s *Server) touch(w http.ResponseWriter, r *http.Request) error {
	brewID, err := id(r)
	if err != nil {
		return err
	}
	f, err := readForm(r)
	if err != nil {
		return err
	}
	b, err := s.Store.Brew(r.Context(), brewID)
	if err != nil {
		return err
	}
	now := s.Now()
	e := brew.Event{Key: f.text("key", "The key", 64, true), Kind: brew.EventKind(f.Values["kind"]), Mark: f.Values["mark"], At: b.Elapsed(now)}
	if said := f.Values["at"]; said != "" {
		at, err := units.ParseNumber(said, "")
		if err != nil {
			f.fail("at", "%s", err)
		}
		e.At = units.Seconds(at)
	}
	if !f.ok() || !e.Valid() {
		return problem{http.StatusBadRequest, "That touch was not understood", "Load the page again. The brew goes on, nothing is lost."}
	}
	if b, err = s.Store.Touch(r.Context(), brewID, e, now); err != nil {
		return err
	}
	s.live.tell(brewID)
	if !isPartial(r) {
		return seeOther(w, r, "/brews/%d/brew", brewID)
	}
	set, err := s.Store.Settings(r.Context())
	if err != nil {
		return err
	}
	s.write(w, http.StatusOK, "pour", "live", s.pourBody(b, set.Prefs()))
	return nil
}

// abandon gives a running brew up. It stays in the log as stopped.
func (s *Server) abandon(w http.ResponseWriter, r *http.Request) error {
	return s.turnTo(w, r, brew.Running, "/brews/%d", func(b *brew.Brew) { b.Status, b.Ended = brew.Abandoned, s.Now() })
}

// resume takes a stop back: the clock has gone on, as the water has.
func (s *Server) resume(w http.ResponseWriter, r *http.Request) error {
	return s.turnTo(w, r, brew.Abandoned, "/brews/%d/brew", func(b *brew.Brew) { b.Status, b.Ended = brew.Running, time.Time{} })
}

// turnTo changes a brew that has one status, tells its screens, and leads to an address with its id.
func (s *Server) turnTo(w http.ResponseWriter, r *http.Request, from brew.Status, to string, change func(*brew.Brew)) error {
	brewID, err := id(r)
	if err != nil {
		return err
	}
	_, err = s.Store.ChangeBrew(r.Context(), brewID, func(b *brew.Brew) error {
		if b.Status != from {
			return store.ErrStatus
		}
		change(b)
		return nil
	})
	if err != nil {
		return err
	}
	s.live.tell(brewID)
	return seeOther(w, r, to, brewID)
}
