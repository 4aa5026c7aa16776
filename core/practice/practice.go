// Package practice scores practice pours: water at a target rate, from a target height, over an empty
// brewer.
package practice

import (
	"math"

	"yardbloom/core/recipe"
	"yardbloom/core/trace"
	"yardbloom/core/units"
)

// A Lesson is one pouring technique to practise.
type Lesson struct {
	ID      string
	Name    string
	About   string // movement of the hand
	Watch   string // sign of a good pour
	Rate    float64
	Water   units.Grams
	Height  recipe.Height
	Pattern recipe.Pattern
}

// Duration returns the duration of the pour at its target rate.
func (l Lesson) Duration() units.Seconds { return units.Seconds(float64(l.Water) / l.Rate) }

var lessons = []Lesson{
	{"slow-and-steady", "Slow and steady", "Elbow at the side, tip from the wrist, and let the spout do the rest.",
		"One unbroken stream as thick as a straw; the bar stays at its mark.", 4, 100, recipe.Low, recipe.Centre},
	{"circles", "Circles", "The whole forearm draws circles the size of a coin, one each second, out and in again.",
		"The rate does not swell on the far side of the circle.", 5, 150, recipe.Mid, recipe.Circles},
	{"high-and-breaking", "High and breaking", "Two hands’ breadths up, a full stream, still in the middle.",
		"The stream just begins to break into drops before it lands: then it digs.", 8, 120, recipe.High, recipe.Centre},
	{"low-and-gentle", "Low and gentle", "The spout almost touches the water, in a spiral away from the wall.",
		"No splash and no hollow: the surface only swells.", 3, 60, recipe.Low, recipe.Spiral},
}

// Lessons lists the lessons in teaching order.
func Lessons() []Lesson { return lessons }

// LessonByID returns the lesson with an id, or false.
func LessonByID(id string) (Lesson, bool) {
	for _, l := range lessons {
		if l.ID == id {
			return l, true
		}
	}
	return Lesson{}, false
}

// A Try is one practice pour. Its times count from the planned start.
type Try struct {
	By       string // id of the person who poured; empty: the yard
	Lesson   Lesson // with the target rate and water
	Readings []trace.Reading
	// Without a scale: the taps for start and end of the pour, and the water weighed afterwards.
	Began, Ended units.Seconds
	Water        units.Grams
}

// A Score is the result of a try. The total and its parts range from 0 to 100.
type Score struct {
	Rate      float64       // poured, g/s
	Water     units.Grams   // poured
	Late      units.Seconds // after the planned start
	Variation float64       // standard deviation of the rate, relative to the rate
	Steady    int           // -1: unknown without a scale
	Pace      int
	Start     int
	Amount    int
	All       int
}

// The weights of the faults.
const (
	lateFree, perSecond = 0.5, 15 // s; points per additional second
	offFree, perGram    = 1.0, 5  // g; points per additional gram
	paceFree, perShare  = 0.03, 250
)

// Score scores a try. It returns false if no water was poured.
func (t Try) Score() (Score, bool) {
	s := Score{Steady: -1, Water: t.Water, Late: t.Began}
	from, to := t.Began, t.Ended
	if len(t.Readings) > 0 {
		var ok bool
		if from, to, s.Water, ok = poured(t.Readings); !ok {
			return Score{}, false
		}
		s.Late = from
		if stream, ok := trace.Steady(t.Readings, from, to); ok {
			s.Steady, s.Variation = stream.Score(), stream.Variation
		}
	}
	if to <= from || s.Water <= 0 {
		return Score{}, false
	}
	s.Rate = float64(s.Water) / float64(to-from)
	s.Start = points(math.Abs(float64(s.Late))-lateFree, perSecond)
	s.Amount = points(math.Abs(float64(s.Water-t.Lesson.Water))-offFree, perGram)
	s.Pace = points(math.Abs(s.Rate/t.Lesson.Rate-1)-paceFree, perShare)
	sum, of := 2*s.Pace+s.Start+s.Amount, 4
	if s.Steady >= 0 {
		sum, of = sum+4*s.Steady, of+4
	}
	s.All = int(math.Round(float64(sum) / float64(of)))
	return s, true
}

func points(over, each float64) int { return int(math.Round(max(0, 100-each*max(0, over)))) }

// poured returns the start, end and amount of the water: from the first detected pour to the end of the
// last.
func poured(readings []trace.Reading) (from, to units.Seconds, water units.Grams, ok bool) {
	var r trace.Reader
	base := units.Grams(0)
	running := false
	take := func(seen []trace.Seen) {
		for _, s := range seen {
			switch s.Kind {
			case trace.Began:
				if !ok {
					from, base, ok = s.At, s.Total, true
				}
				running = true
			case trace.Ended, trace.Weighed:
				to, water, running = max(to, s.At), s.Total-base, false
			}
		}
	}
	for _, x := range readings {
		take(r.Read(x))
	}
	if running { // stopped while water was running
		last := readings[len(readings)-1]
		to, water = last.At, last.Grams-base
	}
	return from, to, water, ok && water > 0
}
