package practice

import (
	"fmt"
	"html/template"
	"net/http"
	"net/url"
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
	"yardbloom/web/page"
	"yardbloom/web/stream"
	"yardbloom/web/words"
)

// practiceBody is the list of lessons with the latest pours.
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
	Scales   []page.Choice
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
	ToG      float64 // g per person's unit
	Ready    float64 // countdown before the pour, s
	Settle   float64 // time before the signal in which the scale shows its load, s
	After    float64 // time after the last water at which the pour counts as over, s
	Fast     float64 // rate shown as too fast, relative to the target
	Slow     float64 // rate shown as too slow, relative to the target
}

// tryView is a scored try.
type tryView struct {
	ID, Lesson, When, All string
	By                    *page.Badge // nil: there is no name
	Parts                 []page.Fact
}

func (s *Screens) practice(w http.ResponseWriter, r *http.Request) error {
	tries, err := s.yard.Store.Tries(r.Context())
	if err != nil {
		return err
	}
	body := practiceBody{}
	best := map[string]int{}
	for _, d := range tries {
		v, marks, ok := tryOf(d, page.Prefs(r), s.yard.Now())
		v.By = page.BadgeOf(r, d.Value.By)
		if !ok {
			continue
		}
		best[d.Value.Lesson.ID] = max(best[d.Value.Lesson.ID], marks.All)
		const shown = 12
		if len(body.Tries) < shown {
			body.Tries = append(body.Tries, v)
		}
	}
	for _, l := range practice.Lessons() {
		row := lessonRow{Lesson: l, What: targetText(l, page.Prefs(r))}
		if b := best[l.ID]; b > 0 {
			row.Best = strconv.Itoa(b)
		}
		body.Lessons = append(body.Lessons, row)
	}
	s.Render(w, r, http.StatusOK, "practice", page.Page{Title: "Practice", Side: "practice", Line: page.Line(""),
		Notice: page.ArchiveNotice(r, "/practice/tries"), Body: body})
	return nil
}

// targetText describes the targets of a lesson.
func targetText(l practice.Lesson, prefs units.Prefs) string {
	return fmt.Sprintf("%s at %s, %s, %s: %s", prefs.Unit(units.Water).Format(float64(l.Water)), prefs.Unit(units.Rate).Format(l.Rate),
		l.Height, l.Pattern, l.Duration())
}

// tryOf returns a try with its marks; false if no water was poured.
func tryOf(d store.Dated[practice.Try], prefs units.Prefs, now time.Time) (tryView, practice.Score, bool) {
	m, ok := d.Value.Score()
	v := tryView{ID: d.ID, Lesson: d.Value.Lesson.Name, When: words.Moment(d.At, now), All: strconv.Itoa(m.All)}
	steady := "needs a scale"
	if len(d.Value.Readings) > 0 {
		steady = "too short to tell"
	}
	if m.Steady >= 0 {
		steady = fmt.Sprintf("%d, varying by %.0f %%", m.Steady, 100*m.Variation)
	}
	water := prefs.Unit(units.Water)
	v.Parts = []page.Fact{
		{Name: "Steadiness", Value: steady},
		{Name: "Rate", Value: fmt.Sprintf("%d, %s where %s was wanted", m.Pace, prefs.Unit(units.Rate).Format(units.Round(m.Rate, 1)),
			units.Trim(d.Value.Lesson.Rate, 1))},
		{Name: "Start", Value: fmt.Sprintf("%d, %s s after the signal", m.Start, units.Signed(float64(m.Late), 1))},
		{Name: "Amount", Value: fmt.Sprintf("%d, %s", m.Amount, water.Difference(units.Round(float64(m.Water-d.Value.Lesson.Water), 0)))},
	}
	return v, m, ok
}

func lessonOf(r *http.Request) (practice.Lesson, error) {
	l, ok := practice.LessonByID(chi.URLParam(r, "lesson"))
	if !ok {
		return l, store.ErrNotFound
	}
	return l, nil
}

func (s *Screens) lesson(w http.ResponseWriter, r *http.Request) error {
	l, err := lessonOf(r)
	if err != nil {
		return err
	}
	return s.showLesson(w, r, http.StatusOK, l, form.New(), "")
}

func (s *Screens) showLesson(w http.ResponseWriter, r *http.Request, status int, l practice.Lesson, f *form.Form, wrong string) error {
	tries, err := s.yard.Store.Tries(r.Context())
	if err != nil {
		return err
	}
	if wrong != "" {
		w.Header().Set(page.ReasonHeader, url.PathEscape(wrong)) // for the script that sent the readings
	}
	prefs := page.Prefs(r)
	body := exerciseBody{Ready: getReady.Seconds(), Settle: 0.5, After: 3, Fast: trace.FastRate, Slow: trace.SlowRate, Lesson: l,
		What: targetText(l, prefs), Demo: s.yard.Demo, Began: f.Values["began"], Ended: f.Values["ended"],
		Water: f.Stepper("water", "Weight on the scale", prefs.Unit(units.Water)), Wrong: wrong,
		Unit: prefs.Unit(units.Water).Symbol, Decimals: prefs.Unit(units.Water).Decimals,
		ToG: prefs.Unit(units.Water).Canonical(1) - prefs.Unit(units.Water).Canonical(0)}
	for _, link := range s.yard.Bench.ByKind(gear.Scale) {
		body.Scales = append(body.Scales, page.Choice{ID: link.Device.ID, Name: link.Title()})
	}
	step := recipe.Step{Act: recipe.PourWater, Water: l.Water, Total: l.Water, Lasts: l.Duration(), Rate: l.Rate, Height: l.Height,
		Pattern: l.Pattern}
	plan := recipe.Plan{Steps: []recipe.Step{step}, Finish: step.End(), Window: coffee.Window{From: step.End() - 1, To: step.End() + 1}}
	ribbon := figure.Ribbon{Plan: plan, Prefs: prefs, Live: true}
	for _, d := range tries {
		v, _, ok := tryOf(d, prefs, s.yard.Now())
		v.By = page.BadgeOf(r, d.Value.By)
		if !ok || d.Value.Lesson.ID != l.ID {
			continue
		}
		if body.Last == nil {
			body.Last, ribbon.Trace = &v, d.Value.Readings
		}
		const shown = 8
		if len(body.Tries) < shown {
			body.Tries = append(body.Tries, v)
		}
	}
	body.Ribbons = ribbon.Both()
	s.Render(w, r, status, "exercise", page.Page{Title: l.Name, Side: "practice", Practice: true, Line: page.Line(""), Body: body})
	return nil
}

// pouredRange is the valid amount of a practice pour, g.
var pouredRange = units.Range{Lo: 5, Hi: 1000}

// maxReadings limits the readings of one pour: five minutes at ten a second.
const maxReadings = 3000

// keepTry stores and scores a pour.
func (s *Screens) keepTry(w http.ResponseWriter, r *http.Request) error {
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
			return s.showLesson(w, r, http.StatusUnprocessableEntity, l, f,
				"The readings of the scale could not be read. Nothing was saved; repeat the pour.")
		}
	} else {
		span := units.Unit{Scale: 1, Decimals: 2}
		try.Began = units.Seconds(f.Quantity("began", "The beginning", span, units.Range{Lo: -5, Hi: 60}, true))
		try.Ended = units.Seconds(f.Quantity("ended", "The end", span, units.Range{Lo: 0, Hi: 600}, true))
		try.Water = units.Grams(f.Quantity("water", "The water", page.Prefs(r).Unit(units.Water), pouredRange, true))
	}
	if !f.OK() {
		return s.showLesson(w, r, http.StatusUnprocessableEntity, l, f, "")
	}
	if _, ok := try.Score(); !ok {
		return s.showLesson(w, r, http.StatusUnprocessableEntity, l, f,
			"No water was seen. Was the brewer on the chosen scale?")
	}
	try.By = page.PersonID(r)
	if err := s.yard.Store.AddTry(r.Context(), try, s.yard.Now()); err != nil {
		return err
	}
	return page.SeeOther(w, r, "/practice/%s", l.ID)
}

// readingsOf parses the readings collected by a browser: "s,g;s,g;…".
func readingsOf(text string) (out []trace.Reading, ok bool) {
	for _, pair := range strings.Split(strings.Trim(text, ";"), ";") {
		t, g, cut := strings.Cut(pair, ",")
		at, err1 := strconv.ParseFloat(t, 64)
		grams, err2 := strconv.ParseFloat(g, 64)
		x := trace.Reading{At: units.Seconds(at), Grams: units.Grams(grams)}
		if !cut || err1 != nil || err2 != nil || !trace.IsPlausible(x) || len(out) >= maxReadings {
			return nil, false
		}
		out = append(out, x)
	}
	return out, true
}

// getReady is the countdown before a practice pour.
const getReady = 3 * time.Second

// stream sends the readings of a scale, with times from the planned start of the pour. The scale is a
// connected one or, in the demo, a stand-in with a hand that pours.
func (s *Screens) stream(w http.ResponseWriter, r *http.Request) error {
	l, err := lessonOf(r)
	if err != nil {
		return err
	}
	var said <-chan device.Message
	next := func() (units.Grams, bool) { return 0, false }
	link := s.yard.Bench.Link(r.URL.Query().Get("scale"))
	switch manner, known := device.Manners[r.URL.Query().Get("hand")]; {
	case known && s.yard.Demo:
		next = standInPour(l, manner, uint64(s.yard.Now().UnixNano()))
	case link != nil:
		var leave func()
		said, leave = link.Follow()
		defer leave()
	default:
		return store.ErrNotFound
	}
	send, end, err := s.streams.Open(w, r, "Close another screen, then try again.")
	if err != nil {
		return err
	}
	defer end()
	prefs := page.Prefs(r)
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
		case <-s.yard.Hub.Closed():
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
		if send(stream.Numbers(prefs, live.Numbers{At: at, Grams: g, Rate: reader.Rate(), Pouring: reader.Pouring()})) != nil {
			return nil
		}
	}
	return nil
}

// standInPour returns the readings of a simulated scale over which a simulated hand pours a lesson, after a
// delay.
func standInPour(l practice.Lesson, m device.Manner, seed uint64) func() (units.Grams, bool) {
	scale := device.NewScaleStandIn(seed, 1)
	brewers, grinders, kettles := gear.Starter()
	q := forecast.Question{Bag: coffee.Bag{Roast: coffee.Medium},
		Gear: gear.Set{Brewer: brewers[0], Grinder: grinders[0], Kettle: kettles[1]}}
	q.Recipe = recipe.Recipe{Dose: 15, Grind: 700, Pours: []recipe.Pour{{Water: l.Water, Rate: l.Rate, Height: l.Height, Pattern: l.Pattern,
		Temperature: 93}}}
	hand := device.NewHand(seed, m, q)
	plan := q.Recipe.Plan()
	steps := 0
	wait := int(getReady.Seconds()/device.Every) + int(float64(m.Late)/device.Every)
	return func() (units.Grams, bool) {
		steps++
		if steps < wait || steps-wait > int(float64(l.Duration())/device.Every)+80 {
			return scale.Step(device.Load{Grams: hand.Total()}), true
		}
		on := hand.Step(plan)
		on.Grams, on.Swirl = hand.Total(), false
		return scale.Step(on), true
	}
}
