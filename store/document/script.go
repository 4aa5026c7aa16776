package document

import (
	"time"

	"yardbloom/core/stage"
	"yardbloom/core/units"
)

// Script is the stored form of a stage.Script.
type Script struct {
	V          int         `json:"v"`
	Name       string      `json:"name"`
	Recipe     string      `json:"recipe"`
	Cups       int         `json:"cups"`
	Words      int         `json:"words_per_minute"`
	Limit      float64     `json:"limit_s"`
	Lines      string      `json:"lines"` // one per line, with an optional start time
	Rehearsals []Rehearsal `json:"rehearsals,omitempty"`
}

// Rehearsal is the stored form of a stage.Rehearsal.
type Rehearsal struct {
	Started time.Time `json:"started"`
	Said    []float64 `json:"said_s,omitempty"`
	Ended   float64   `json:"ended_s,omitempty"`
}

// OfScript returns the document of a script.
func OfScript(s stage.Script) Script {
	d := Script{V: Version, Name: s.Name, Recipe: s.RecipeID, Cups: s.Cups, Words: s.Words, Limit: float64(s.Limit),
		Lines: stage.Text(s.Lines)}
	for _, r := range s.Rehearsals {
		x := Rehearsal{Started: r.Started, Ended: float64(r.Ended)}
		for _, at := range r.LineStarts {
			x.Said = append(x.Said, float64(at))
		}
		d.Rehearsals = append(d.Rehearsals, x)
	}
	return d
}

// Core returns the script of a document.
func (d Script) Core() stage.Script {
	s := stage.Script{Name: d.Name, RecipeID: d.Recipe, Cups: d.Cups, Words: d.Words, Limit: units.Seconds(d.Limit),
		Lines: stage.Parse(d.Lines)}
	for _, x := range d.Rehearsals {
		r := stage.Rehearsal{Started: x.Started, Ended: units.Seconds(x.Ended)}
		for _, at := range x.Said {
			r.LineStarts = append(r.LineStarts, units.Seconds(at))
		}
		s.Rehearsals = append(s.Rehearsals, r)
	}
	return s
}
