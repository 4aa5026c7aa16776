package document

import (
	"yardbloom/core/coach"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// Advice is a coach.Advice on disk, in the words in which it was given.
type Advice struct {
	V         int       `json:"v"`
	Rule      string    `json:"rule"`
	Verdict   string    `json:"verdict"`
	Because   string    `json:"because"`
	Evidence  []string  `json:"evidence,omitempty"`
	Against   []string  `json:"against,omitempty"`
	Sure      int       `json:"sure"`
	Instead   string    `json:"instead,omitempty"`
	First     *Proposal `json:"first,omitempty"`
	Second    *Proposal `json:"second,omitempty"`
	Exhausted bool      `json:"exhausted,omitempty"`
}

// Proposal is a coach.Proposal on disk.
type Proposal struct {
	V       int     `json:"v"`
	At      string  `json:"at"` // an address, such as "grind" or "pours.2.water"
	From    float64 `json:"from"`
	To      float64 `json:"to"`
	Say     string  `json:"say"`
	LeadsTo string  `json:"leads_to,omitempty"`
	Reason  string  `json:"reason,omitempty"`
	Yield   float64 `json:"expected_ey_points,omitempty"`
	Time    float64 `json:"expected_time_s,omitempty"`
	// Not in documents from before a difference had an error of its own.
	YieldError float64 `json:"expected_ey_error,omitempty"`
	TimeError  float64 `json:"expected_time_error_s,omitempty"`
}

// OfProposal returns the document of a proposal, or nil for none.
func OfProposal(p *coach.Proposal) *Proposal {
	if p == nil {
		return nil
	}
	return &Proposal{Version, p.Address.String(), p.From, p.To, p.Say, p.LeadsTo, p.Reason, p.Effect.Yield, float64(p.Effect.Time), p.Effect.YieldError, float64(p.Effect.TimeError)}
}

// Core returns the proposal of a document, or nil for none and for one whose
// address is not known any more.
func (d *Proposal) Core() *coach.Proposal {
	if d == nil {
		return nil
	}
	at, ok := recipe.ParseAddress(d.At)
	if !ok {
		return nil
	}
	return &coach.Proposal{Change: recipe.Change{Address: at, From: d.From, To: d.To}, Say: d.Say, LeadsTo: d.LeadsTo, Reason: d.Reason, Effect: coach.Effect{Yield: d.Yield, Time: units.Seconds(d.Time), YieldError: d.YieldError, TimeError: units.Seconds(d.TimeError)}}
}

// OfAdvice returns the document of an advice, or nil for none.
func OfAdvice(a *coach.Advice) *Advice {
	if a == nil {
		return nil
	}
	return &Advice{Version, a.Rule, a.Verdict, a.Because, a.Evidence, a.Against, int(a.Sure), a.Instead, OfProposal(a.First), OfProposal(a.Second), a.Exhausted}
}

// Core returns the advice of a document, or nil for none.
func (d *Advice) Core() *coach.Advice {
	if d == nil {
		return nil
	}
	return &coach.Advice{Rule: d.Rule, Verdict: d.Verdict, Because: d.Because, Evidence: d.Evidence, Against: d.Against, Sure: coach.Sureness(max(1, min(d.Sure, int(coach.Likely)))), Instead: d.Instead,
		First: d.First.Core(), Second: d.Second.Core(), Exhausted: d.Exhausted}
}
