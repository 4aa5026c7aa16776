package document

import (
	"time"

	"yardbloom/core/practice"
	"yardbloom/core/rush"
	"yardbloom/core/stage"
	"yardbloom/core/units"
)

// Rush is a rush.Rush on disk.
type Rush struct {
	V       int       `json:"v"`
	Orders  []Order   `json:"orders"`
	Holds   float64   `json:"kettle_g,omitempty"`
	Fill    float64   `json:"kettle_fill_s,omitempty"`
	Heat    float64   `json:"kettle_heat_s_per_g,omitempty"`
	Filled  float64   `json:"filled_g,omitempty"`
	Started time.Time `json:"started,omitzero"`
	Ended   bool      `json:"ended,omitempty"`
}

// Order is an order of a rush on disk.
type Order struct {
	Brew    string  `json:"brew"`
	Name    string  `json:"name"`
	Brewer  string  `json:"brewer"`
	On      string  `json:"brewer_name"`
	Water   float64 `json:"water_g"`
	Drains  float64 `json:"drains_s"`
	Tasks   []Task  `json:"tasks"`
	Planned float64 `json:"planned_s"`
}

// Task is a rush.Task on disk.
type Task struct {
	Say     string  `json:"say"`
	Start   float64 `json:"start_s"`
	Lasts   float64 `json:"lasts_s"`
	Stretch float64 `json:"stretch_s,omitempty"`
}

// OfRush returns the document of a rush.
func OfRush(r rush.Rush) Rush {
	d := Rush{V: Version, Holds: float64(r.Kettle.Holds), Fill: float64(r.Kettle.Fill), Heat: r.Kettle.Heat, Filled: float64(r.Filled), Started: r.Started, Ended: r.Ended}
	for _, o := range r.Orders {
		x := Order{Brew: o.Brew, Name: o.Name, Brewer: o.Brewer, On: o.On, Water: float64(o.Water), Drains: float64(o.Drains), Planned: float64(o.Planned)}
		for _, t := range o.Tasks {
			x.Tasks = append(x.Tasks, Task{t.Say, float64(t.Start), float64(t.Lasts), float64(t.Stretch)})
		}
		d.Orders = append(d.Orders, x)
	}
	return d
}

// Core returns the rush of a document.
func (d Rush) Core() rush.Rush {
	r := rush.Rush{Started: d.Started, Ended: d.Ended, Filled: units.Grams(d.Filled), Kettle: rush.Kettle{Holds: units.Grams(d.Holds), Left: units.Grams(d.Holds), Fill: units.Seconds(d.Fill), Heat: d.Heat}}
	for _, x := range d.Orders {
		o := rush.Ordered{Brew: x.Brew, On: x.On, Planned: units.Seconds(x.Planned)}
		o.Name, o.Brewer, o.Water, o.Drains = x.Name, x.Brewer, units.Grams(x.Water), units.Seconds(x.Drains)
		for _, t := range x.Tasks {
			o.Tasks = append(o.Tasks, rush.Task{Say: t.Say, Start: units.Seconds(t.Start), Lasts: units.Seconds(t.Lasts), Stretch: units.Seconds(t.Stretch)})
		}
		r.Orders = append(r.Orders, o)
	}
	return r
}

// Script is a stage.Script on disk.
type Script struct {
	V          int         `json:"v"`
	Name       string      `json:"name"`
	Recipe     string      `json:"recipe"`
	Cups       int         `json:"cups"`
	Words      int         `json:"words_per_minute"`
	Limit      float64     `json:"limit_s"`
	Lines      string      `json:"lines"` // one a line, its moment in front where it has one
	Rehearsals []Rehearsal `json:"rehearsals,omitempty"`
}

// Rehearsal is a stage.Rehearsal on disk.
type Rehearsal struct {
	Started time.Time `json:"started"`
	Said    []float64 `json:"said_s,omitempty"`
	Ended   float64   `json:"ended_s,omitempty"`
}

// OfScript returns the document of a script.
func OfScript(s stage.Script) Script {
	d := Script{V: Version, Name: s.Name, Recipe: s.RecipeID, Cups: s.Cups, Words: s.Words, Limit: float64(s.Limit), Lines: stage.Text(s.Lines)}
	for _, r := range s.Rehearsals {
		x := Rehearsal{Started: r.Started, Ended: float64(r.Ended)}
		for _, at := range r.Said {
			x.Said = append(x.Said, float64(at))
		}
		d.Rehearsals = append(d.Rehearsals, x)
	}
	return d
}

// Core returns the script of a document.
func (d Script) Core() stage.Script {
	s := stage.Script{Name: d.Name, RecipeID: d.Recipe, Cups: d.Cups, Words: d.Words, Limit: units.Seconds(d.Limit), Lines: stage.Parse(d.Lines)}
	for _, x := range d.Rehearsals {
		r := stage.Rehearsal{Started: x.Started, Ended: units.Seconds(x.Ended)}
		for _, at := range x.Said {
			r.Said = append(r.Said, units.Seconds(at))
		}
		s.Rehearsals = append(s.Rehearsals, r)
	}
	return s
}

// Exercise is a practice.Try on disk.
type Exercise struct {
	V        int     `json:"v"`
	Lesson   string  `json:"lesson"`
	Rate     float64 `json:"rate_g_s"`
	Wanted   float64 `json:"wanted_g"`
	Readings Trace   `json:"readings,omitempty"`
	Began    float64 `json:"began_s,omitempty"`
	Ended    float64 `json:"ended_s,omitempty"`
	Water    float64 `json:"water_g,omitempty"`
}

// OfTry returns the document of a try.
func OfTry(t practice.Try) Exercise {
	return Exercise{V: Version, Lesson: t.Lesson.ID, Rate: t.Lesson.Rate, Wanted: float64(t.Lesson.Water), Readings: OfTrace(t.Readings), Began: float64(t.Began), Ended: float64(t.Ended), Water: float64(t.Water)}
}

// Core returns the try of a document.
func (d Exercise) Core() practice.Try {
	l, _ := practice.Of(d.Lesson)
	l.ID, l.Rate, l.Water = d.Lesson, d.Rate, units.Grams(d.Wanted)
	return practice.Try{Lesson: l, Readings: d.Readings.Core(), Began: units.Seconds(d.Began), Ended: units.Seconds(d.Ended), Water: units.Grams(d.Water)}
}
