package exchange

import (
	"encoding/json"
	"io"

	"yardbloom/core/coach"
	"yardbloom/core/units"
)

// The format and version of an advice written by this package.
const (
	AdviceFormat  = "yardbloom-advice"
	AdviceVersion = 1
)

// An Advice is the document of a coach's advice with its reasoning. Probabilities are from 0 to 1; expected
// effects are predictions of the brew model, in the units of their names.
type Advice struct {
	Format      string       `json:"format"`
	Version     int          `json:"version"`
	Do          string       `json:"do"`
	Cause       string       `json:"cause"`
	Probability float64      `json:"probability"`
	Verdict     string       `json:"verdict"`
	Because     string       `json:"because"`
	For         []string     `json:"for"`
	Against     []string     `json:"against"`
	Change      *change      `json:"change,omitempty"`
	Instead     string       `json:"instead,omitempty"`
	Settles     string       `json:"settles,omitempty"`
	RunnersUp   []change     `json:"runners_up"`
	GoodNext    float64      `json:"probability_next_good"`
	Signs       []adviceSign `json:"signs"`
	Map         *adviceMap   `json:"map,omitempty"`
}

type change struct {
	Knob      string  `json:"knob"`
	From      float64 `json:"from"`
	To        float64 `json:"to"`
	Say       string  `json:"say"`
	LeadsTo   string  `json:"leads_to"`
	Reason    string  `json:"reason"`
	EYPoints  float64 `json:"expected_ey_points"`
	EYError   float64 `json:"expected_ey_standard_error,omitempty"`
	TDSPoints float64 `json:"expected_tds_points"`
	DrawdownS float64 `json:"expected_drawdown_s"`
	Mark      float64 `json:"expected_mark"`
	Helps     float64 `json:"probability_liked_more"`
	Watch     string  `json:"watch,omitempty"`
	Lost      string  `json:"lost,omitempty"`
	Good      []line  `json:"in_chance_of_a_good_cup"`
}

type line struct {
	Say string  `json:"say"`
	By  float64 `json:"by"`
}

type adviceSign struct {
	Say     string        `json:"say"`
	Moved   []adviceMoved `json:"moved"`
	Without string        `json:"without,omitempty"` // the answer without it; the same if it is missing
}

type adviceMoved struct {
	Cause string  `json:"cause"`
	By    float64 `json:"by"`
	To    float64 `json:"to"`
}

type adviceMap struct {
	AimEY    float64 `json:"aim_ey_percent"`
	AimEYSd  float64 `json:"aim_ey_spread"`
	AimTDS   float64 `json:"aim_tds_percent"`
	AimTDSSd float64 `json:"aim_tds_spread"`
	Cups     []place `json:"cups"`
	LeadsTo  *place  `json:"leads_to,omitempty"`
	Measured bool    `json:"measured"`
	EYError  float64 `json:"ey_standard_error"`
	TDSError float64 `json:"tds_standard_error"`
}

type place struct {
	EY  float64 `json:"ey_percent"`
	TDS float64 `json:"tds_percent"`
}

// FromAdvice returns the document of the coach's advice.
func FromAdvice(a coach.Advice) Advice {
	out := Advice{Format: AdviceFormat, Version: AdviceVersion, Do: string(a.Do), Cause: a.Rule, Probability: units.Round(a.Chance, 2),
		GoodNext: units.Round(a.Good, 2),
		Verdict:  a.Verdict, Because: a.Because,
		For: orEmpty(a.Evidence), Against: orEmpty(a.Against), Settles: a.Settles, RunnersUp: []change{}, Signs: []adviceSign{}}
	if a.First == nil {
		out.Instead = a.Instead
	}
	out.Change = changeOf(a.First)
	for _, p := range []*coach.Proposal{a.Second, a.Third} {
		if p != nil {
			out.RunnersUp = append(out.RunnersUp, *changeOf(p))
		}
	}
	for _, s := range a.Signs {
		sign := adviceSign{Say: s.Say, Moved: []adviceMoved{}, Without: s.Without}
		for _, m := range s.Moved {
			sign.Moved = append(sign.Moved, adviceMoved{m.Cause, units.Round(m.By, 3), units.Round(m.To, 3)})
		}
		out.Signs = append(out.Signs, sign)
	}
	if m := a.Map; m != nil {
		at := func(p coach.Point) place { return place{units.Round(p.Yield, 2), units.Round(p.Strength, 3)} }
		out.Map = &adviceMap{AimEY: units.Round(m.Aim.Yield, 2), AimEYSd: units.Round(m.Aim.YieldSpread, 2),
			AimTDS: units.Round(m.Aim.Strength, 3), AimTDSSd: units.Round(m.Aim.StrengthSpread, 3),
			Measured: m.Measured, EYError: units.Round(m.YieldError, 2), TDSError: units.Round(m.StrengthError, 3)}
		for _, p := range m.Cups {
			out.Map.Cups = append(out.Map.Cups, at(p))
		}
		if m.Then != nil {
			to := at(*m.Then)
			out.Map.LeadsTo = &to
		}
	}
	return out
}

// WriteAdvice writes the coach's advice as indented JSON.
func WriteAdvice(w io.Writer, a coach.Advice) error {
	enc := json.NewEncoder(w)
	enc.SetIndent("", "  ")
	return enc.Encode(FromAdvice(a))
}

// orEmpty returns a list that is encoded as [] if it is empty.
func orEmpty(of []string) []string { return append([]string{}, of...) }

func changeOf(p *coach.Proposal) *change {
	if p == nil {
		return nil
	}
	e := p.Effect
	c := &change{Knob: p.Address.String(), From: p.From, To: p.To, Say: p.Say, LeadsTo: p.LeadsTo, Reason: p.Reason,
		EYPoints: units.Round(e.Yield, 2), EYError: units.Round(e.YieldError, 2),
		TDSPoints: units.Round(e.Strength, 3), DrawdownS: units.Round(float64(e.Time), 0), Mark: units.Round(e.Mark, 2),
		Helps: units.Round(p.Help, 2), Watch: p.Watch, Lost: p.Lost, Good: []line{}}
	for _, l := range p.Lines {
		c.Good = append(c.Good, line{l.Say, units.Round(l.By, 3)})
	}
	return c
}
