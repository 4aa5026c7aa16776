package web

import (
	"fmt"
	"html/template"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"

	"yardbloom/core/coffee"
	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/core/practice"
	"yardbloom/core/recipe"
	"yardbloom/core/trace"
	"yardbloom/core/units"
	"yardbloom/device"
	"yardbloom/live"
	"yardbloom/store"
	"yardbloom/web/figure"
	"yardbloom/web/form"
	"yardbloom/web/words"
)

// practiceBody is the list of lessons with what was poured last.
type practiceBody struct {
	Lessons []lessonRow
	Tries   []tryView
}

type lessonRow struct {
	practice.Lesson
	What string
	Best string
}

// exerciseBody is one lesson.
type exerciseBody struct {
	practice.Lesson
	What     string
	Scales   []choice
	Demo     bool
	Ribbons  []template.HTML
	Last     *tryView
	Tries    []tryView
	Began    string
	Ended    string
	Water    form.Field
	Wrong    string
	Unit     string
	Decimals int
	ToG      float64 // g in one of the person's units
}

type choice struct{ ID, Name string }

// tryView is a try as it was scored.
type tryView struct {
	ID, Lesson, When, All string
	Parts                 []fact
}

func (s *Server) practice(w http.ResponseWriter, r *http.Request) error {
	tries, err := s.Store.Tries(r.Context())
	if err != nil {
		return err
	}
	body := practiceBody{}
	best := map[string]int{}
	for _, d := range tries {
		v, marks, ok := tryOf(d, prefsOf(r), s.Now())
		if !ok {
			continue
		}
		best[d.It.Lesson.ID] = max(best[d.It.Lesson.ID], marks.All)
		const shown = 12
		if len(body.Tries) < shown {
			body.Tries = append(body.Tries, v)
		}
	}
	for _, l := range practice.Lessons() {
		row := lessonRow{Lesson: l, What: wanted(l, prefsOf(r))}
		if b := best[l.ID]; b > 0 {
			row.Best = strconv.Itoa(b)
		}
		body.Lessons = append(body.Lessons, row)
	}
	s.render(w, r, http.StatusOK, "practice", page{Title: "Practice", Side: "practice", Line: emptyLine(""), Notice: asideNotice(r, "/practice/tries"), Body: body})
	return nil
}

// wanted says what a lesson asks for.
func wanted(l practice.Lesson, prefs units.Prefs) string {
	return fmt.Sprintf("%s at %s, %s, %s: %s", prefs.Unit(units.Water).Format(float64(l.Water)), prefs.Unit(units.Rate).Format(l.Rate), l.Height, l.Pattern, l.Lasts())
}

// tryOf is a try with its marks; false where no water was poured.
func tryOf(d store.Dated[practice.Try], prefs units.Prefs, now time.Time) (tryView, practice.Score, bool) {
	m, ok := d.It.Marks()
	v := tryView{ID: d.ID, Lesson: d.It.Lesson.Name, When: words.Moment(d.At, now), All: strconv.Itoa(m.All)}
	steady := "needs a scale"
	if len(d.It.Readings) > 0 {
		steady = "too short to tell"
	}
	if m.Steady >= 0 {
		steady = fmt.Sprintf("%d, wandering by %.0f %%", m.Steady, 100*m.Wander)
	}
	water := prefs.Unit(units.Water)
	v.Parts = []fact{
		{"Steadiness", steady},
		{"Rate", fmt.Sprintf("%d, %s where %s was wanted", m.Pace, prefs.Unit(units.Rate).Format(units.Round(m.Rate, 1)), units.Trim(d.It.Lesson.Rate, 1))},
		{"Start", fmt.Sprintf("%d, %s s after the signal", m.Start, units.Signed(float64(m.Late), 1))},
		{"Amount", fmt.Sprintf("%d, %s", m.Amount, water.Difference(units.Round(float64(m.Water-d.It.Lesson.Water), 0)))},
	}
	return v, m, ok
}

func lessonOf(r *http.Request) (practice.Lesson, error) {
	l, ok := practice.Of(chi.URLParam(r, "lesson"))
	if !ok {
		return l, store.ErrNotFound
	}
	return l, nil
}

func (s *Server) lesson(w http.ResponseWriter, r *http.Request) error {
	l, err := lessonOf(r)
	if err != nil {
		return err
	}
	return s.showLesson(w, r, http.StatusOK, l, form.New(), "")
}

func (s *Server) showLesson(w http.ResponseWriter, r *http.Request, status int, l practice.Lesson, f *form.Form, wrong string) error {
	tries, err := s.Store.Tries(r.Context())
	if err != nil {
		return err
	}
	prefs := prefsOf(r)
	body := exerciseBody{Lesson: l, What: wanted(l, prefs), Demo: s.Demo, Began: f.Values["began"], Ended: f.Values["ended"], Water: f.Stepper("water", "What the scale says", prefs.Unit(units.Water)), Wrong: wrong,
		Unit: prefs.Unit(units.Water).Symbol, Decimals: prefs.Unit(units.Water).Decimals, ToG: prefs.Unit(units.Water).Canonical(1) - prefs.Unit(units.Water).Canonical(0)}
	for _, link := range s.bench.Of(gear.Scale) {
		body.Scales = append(body.Scales, choice{link.Device.ID, link.Title()})
	}
	step := recipe.Step{Act: recipe.PourWater, Water: l.Water, Total: l.Water, Lasts: l.Lasts(), Rate: l.Rate, Height: l.Height, Pattern: l.Pattern}
	plan := recipe.Plan{Steps: []recipe.Step{step}, Finish: step.End(), Window: coffee.Window{From: step.End() - 1, To: step.End() + 1}}
	ribbon := figure.Ribbon{Plan: plan, Prefs: prefs, Live: true}
	for _, d := range tries {
		v, _, ok := tryOf(d, prefs, s.Now())
		if !ok || d.It.Lesson.ID != l.ID {
			continue
		}
		if body.Last == nil {
			body.Last, ribbon.Trace = &v, d.It.Readings
		}
		const shown = 8
		if len(body.Tries) < shown {
			body.Tries = append(body.Tries, v)
		}
	}
	body.Ribbons = ribbon.Both()
	s.render(w, r, status, "exercise", page{Title: l.Name, Side: "practice", Practice: true, Line: emptyLine(""), Body: body})
	return nil
}

// pouredRange is what can be poured for practice, g.
var pouredRange = units.Range{Lo: 5, Hi: 1000}

// mostReadingsOfTry bounds what a browser sends of one pour: five minutes at ten a second.
const mostReadingsOfTry = 3000

// keepTry keeps a pour and scores it.
func (s *Server) keepTry(w http.ResponseWriter, r *http.Request) error {
	l, err := lessonOf(r)
	if err != nil {
		return err
	}
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	try := practice.Try{Lesson: l}
	if text := f.Values["readings"]; text != "" {
		var ok bool
		if try.Readings, ok = readingsOf(text); !ok {
			return s.showLesson(w, r, http.StatusUnprocessableEntity, l, f, "What the scale said could not be read. Nothing was kept; pour it again.")
		}
	} else {
		span := units.Unit{Scale: 1, Decimals: 2}
		try.Began = units.Seconds(f.Quantity("began", "The beginning", span, units.Range{Lo: -5, Hi: 60}, true))
		try.Ended = units.Seconds(f.Quantity("ended", "The end", span, units.Range{Lo: 0, Hi: 600}, true))
		try.Water = units.Grams(f.Quantity("water", "The water", prefsOf(r).Unit(units.Water), pouredRange, true))
	}
	if !f.OK() {
		return s.showLesson(w, r, http.StatusUnprocessableEntity, l, f, "")
	}
	if _, ok := try.Marks(); !ok {
		return s.showLesson(w, r, http.StatusUnprocessableEntity, l, f, "No water was seen. Was the brewer on the scale, and was it the one that is chosen?")
	}
	if err := s.Store.AddTry(r.Context(), try, s.Now()); err != nil {
		return err
	}
	return seeOther(w, r, "/practice/%s", l.ID)
}

// readingsOf reads what a browser collected: "s,g;s,g;…".
func readingsOf(text string) (out []trace.Reading, ok bool) {
	for _, pair := range strings.Split(strings.Trim(text, ";"), ";") {
		t, g, cut := strings.Cut(pair, ",")
		at, err1 := strconv.ParseFloat(t, 64)
		grams, err2 := strconv.ParseFloat(g, 64)
		x := trace.Reading{At: units.Seconds(at), Grams: units.Grams(grams)}
		if !cut || err1 != nil || err2 != nil || !trace.Takes(x) || len(out) >= mostReadingsOfTry {
			return nil, false
		}
		out = append(out, x)
	}
	return out, true
}

// getReady is how long a stream of practice counts down before the pour is to begin.
const getReady = 3 * time.Second

// practiceStream sends what a scale shows, counted from the moment at which the pour is to
// begin: a scale of the bench, or in the demo a stand-in with a hand that pours.
func (s *Server) practiceStream(w http.ResponseWriter, r *http.Request) error {
	l, err := lessonOf(r)
	if err != nil {
		return err
	}
	var said <-chan device.Message
	next := func() (units.Grams, bool) { return 0, false }
	link := s.bench.Link(r.URL.Query().Get("scale"))
	switch manner, known := device.Manners[r.URL.Query().Get("hand")]; {
	case known && s.Demo:
		next = standInPour(l, manner, uint64(s.Now().UnixNano()))
	case link != nil:
		var leave func()
		said, leave = link.Follow()
		defer leave()
	default:
		return store.ErrNotFound
	}
	send, end, err := s.openStream(w, r, "Close a screen that nobody looks at, then try again.")
	if err != nil {
		return err
	}
	defer end()
	prefs := prefsOf(r)
	begins := time.Now().Add(getReady)
	var reader trace.Reader
	tick := time.NewTicker(time.Duration(device.Every * float64(time.Second)))
	defer tick.Stop()
	const longest = 5 * time.Minute
	for time.Since(begins) < longest {
		var g units.Grams
		ok := false
		select {
		case <-r.Context().Done():
			return nil
		case <-s.live.Closed():
			return nil
		case m := <-said:
			if m.Grams != nil {
				g, ok = units.Grams(*m.Grams), true
			}
		case <-tick.C:
			g, ok = next()
		}
		if !ok {
			continue
		}
		at := units.Seconds(time.Since(begins).Seconds())
		reader.Read(trace.Reading{At: at, Grams: g})
		if send(numbersEvent(prefs, live.Numbers{At: at, Grams: g, Rate: reader.Rate(), Pouring: reader.Pouring()})) != nil {
			return nil
		}
	}
	return nil
}

// standInPour is a stand-in scale over which a stand-in hand pours a lesson, after a moment.
func standInPour(l practice.Lesson, m device.Manner, seed uint64) func() (units.Grams, bool) {
	scale := device.NewScaleStandIn(seed, 1)
	brewers, grinders, kettles := gear.Starter()
	q := forecast.Question{Bag: coffee.Bag{Roast: coffee.Medium}, Gear: gear.Set{Brewer: brewers[0], Grinder: grinders[0], Kettle: kettles[1]}}
	q.Recipe = recipe.Recipe{Dose: 15, Grind: 700, Pours: []recipe.Pour{{Water: l.Water, Rate: l.Rate, Height: l.Height, Pattern: l.Pattern, Temperature: 93}}}
	hand := device.NewHand(seed, m, q)
	plan := q.Recipe.Plan()
	steps := 0
	wait := int(getReady.Seconds()/device.Every) + int(float64(m.Late)/device.Every)
	return func() (units.Grams, bool) {
		steps++
		if steps < wait || steps-wait > int(float64(l.Lasts())/device.Every)+80 {
			return scale.Step(device.Load{Grams: hand.Total()}), true
		}
		on := hand.Step(plan)
		on.Grams, on.Swirl = hand.Total(), false
		return scale.Step(on), true
	}
}
