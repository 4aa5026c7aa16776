package document

import (
	"time"

	"yardbloom/core/forecast"
	"yardbloom/core/learn"
)

// Learned is the stored form of a learn.State.
type Learned struct {
	V          int         `json:"v"`
	Parameters []Known     `json:"parameters"`
	Covariance [][]float64 `json:"covariance"`
	Seen       []Seen      `json:"brews"`
}

// Known is one parameter of one thing.
type Known struct {
	Name string  `json:"name"`
	Of   string  `json:"of"`
	Mean float64 `json:"mean"`
}

// Seen is a brew with its expectation.
type Seen struct {
	ID       string    `json:"id"`
	Name     string    `json:"name"`
	Bag      string    `json:"bag"`
	Grinder  string    `json:"grinder"`
	At       time.Time `json:"at"`
	Expected Outcome   `json:"expected"`
	Error    Outcome   `json:"error"`
	Drawdown float64   `json:"drawdown_s"`
	Beverage float64   `json:"beverage_g"`
	TDS      float64   `json:"tds_percent"`
	Off      float64   `json:"off_sd"`
	Odd      bool      `json:"odd"`
	Out      bool      `json:"out"`
	SaidOut  bool      `json:"said_out,omitempty"`
	SaidIn   bool      `json:"said_in,omitempty"`
	Slow     float64   `json:"slow_ln"`
	PerSize  float64   `json:"per_size_ln"`
}

// Outcome is the stored form of a forecast.Outcome.
type Outcome struct {
	Drawdown float64 `json:"drawdown_s"`
	Drained  bool    `json:"drained"`
	Beverage float64 `json:"beverage_g"`
	Yield    float64 `json:"ey_percent"`
	Strength float64 `json:"tds_percent"`
}

// OfLearned returns the document of a yard's knowledge.
func OfLearned(s learn.State) Learned {
	d := Learned{V: Version, Covariance: s.Covariance}
	for _, k := range s.Parameters {
		d.Parameters = append(d.Parameters, Known(k))
	}
	for _, b := range s.Seen {
		d.Seen = append(d.Seen, Seen{b.ID, b.Name, b.Bag, b.Grinder, b.At, Outcome(b.Expected), Outcome(b.Error), b.Drawdown, b.Beverage,
			b.TDS, b.Off, b.Odd, b.Out, b.SaidOut, b.SaidIn, b.Slow, b.PerSize})
	}
	return d
}

// Core returns the knowledge of a document.
func (d Learned) Core() learn.State {
	s := learn.State{Covariance: d.Covariance}
	for _, k := range d.Parameters {
		s.Parameters = append(s.Parameters, learn.Known(k))
	}
	for _, b := range d.Seen {
		s.Seen = append(s.Seen, learn.Seen{ID: b.ID, Name: b.Name, Bag: b.Bag, Grinder: b.Grinder, At: b.At,
			Expected: forecast.Outcome(b.Expected), Error: forecast.Outcome(b.Error),
			Drawdown: b.Drawdown, Beverage: b.Beverage, TDS: b.TDS, Off: b.Off, Odd: b.Odd, Out: b.Out, SaidOut: b.SaidOut,
			SaidIn: b.SaidIn, Slow: b.Slow, PerSize: b.PerSize})
	}
	return s
}
