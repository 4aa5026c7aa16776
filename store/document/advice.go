package document

import (
	"yardbloom/core/coach"
	"yardbloom/core/cup"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// Advice is the stored form of a coach.Advice, with its original words.
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
	// Missing in documents from before causes had probabilities.
	Do      string    `json:"do,omitempty"`
	Chance  float64   `json:"chance,omitempty"`
	Settles string    `json:"settles,omitempty"`
	Also    string    `json:"also,omitempty"`
	Third   *Proposal `json:"third,omitempty"`
	Signs   []Sign    `json:"signs,omitempty"`
	Map     *Map      `json:"map,omitempty"`
	Earlier []string  `json:"earlier,omitempty"`
	Tongue  *Tongue   `json:"tongue,omitempty"`
	Good    float64   `json:"good,omitempty"`
}

// Tongue is the stored form of a coach.Tongue.
type Tongue struct {
	Tasters []float64        `json:"tasters"`
	Words   map[string]Usage `json:"words,omitempty"` // by sense
}

// Usage is the stored form of a coach.Usage.
type Usage struct {
	N  float64 `json:"n"`
	X  float64 `json:"x"`
	R  float64 `json:"r"`
	XX float64 `json:"xx"`
	XR float64 `json:"xr"`
}

// Sign is the stored form of a coach.Sign.
type Sign struct {
	Say     string  `json:"say"`
	Moved   []Moved `json:"moved,omitempty"`
	Without string  `json:"without,omitempty"` // the answer without it
}

// Moved is the stored form of a coach.Moved.
type Moved struct {
	Cause string  `json:"cause"`
	By    float64 `json:"by"`
	To    float64 `json:"to"`
}

// Map is the stored form of a coach.Map.
type Map struct {
	Aim           Patch   `json:"aim"`
	Cups          []Point `json:"cups"`
	YieldError    float64 `json:"ey_error"`
	StrengthError float64 `json:"tds_error"`
	Then          *Point  `json:"then,omitempty"`
	Measured      bool    `json:"measured,omitempty"`
}

// Patch is the stored form of a coach.Patch, in %.
type Patch struct {
	Yield          float64 `json:"ey"`
	Strength       float64 `json:"tds"`
	YieldSpread    float64 `json:"ey_spread"`
	StrengthSpread float64 `json:"tds_spread"`
	Together       float64 `json:"together"`
}

// Point is the stored form of a coach.Point, in %.
type Point struct {
	Yield    float64 `json:"ey"`
	Strength float64 `json:"tds"`
	Brew     string  `json:"brew,omitempty"`
}

// Line is the stored form of a coach.Line.
type Line struct {
	Say string  `json:"say"`
	By  float64 `json:"by"`
}

// Proposal is the stored form of a coach.Proposal.
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
	// Missing in documents from before differences had errors.
	YieldError float64 `json:"expected_ey_error,omitempty"`
	TimeError  float64 `json:"expected_time_error_s,omitempty"`
	// Missing in documents from before changes had an expected mark.
	Strength float64 `json:"expected_tds_points,omitempty"`
	Mark     float64 `json:"expected_mark,omitempty"`
	Help     float64 `json:"help,omitempty"`
	Lines    []Line  `json:"lines,omitempty"`
	Watch    string  `json:"watch,omitempty"`
	Lost     string  `json:"lost,omitempty"`
	For      string  `json:"for,omitempty"`
}

// OfProposal returns the document of a proposal, or nil for none.
func OfProposal(p *coach.Proposal) *Proposal {
	if p == nil {
		return nil
	}
	d := &Proposal{V: Version, At: p.Address.String(), From: p.From, To: p.To, Say: p.Say, LeadsTo: p.LeadsTo, Reason: p.Reason,
		Yield: p.Effect.Yield, Time: float64(p.Effect.Time), YieldError: p.Effect.YieldError, TimeError: float64(p.Effect.TimeError),
		Strength: p.Effect.Strength, Mark: p.Effect.Mark, Help: p.Help, Watch: p.Watch, Lost: p.Lost, For: p.For}
	for _, l := range p.Lines {
		d.Lines = append(d.Lines, Line(l))
	}
	return d
}

// Core returns the proposal of a document, or nil for none or for an unknown address.
func (d *Proposal) Core() *coach.Proposal {
	if d == nil {
		return nil
	}
	at, ok := recipe.ParseAddress(d.At)
	if !ok {
		return nil
	}
	p := &coach.Proposal{Change: recipe.Change{Address: at, From: d.From, To: d.To}, Say: d.Say, LeadsTo: d.LeadsTo, Reason: d.Reason,
		Help: d.Help, Watch: d.Watch, Lost: d.Lost, For: d.For,
		Effect: coach.Effect{Yield: d.Yield, Strength: d.Strength, Mark: d.Mark, Time: units.Seconds(d.Time), YieldError: d.YieldError,
			TimeError: units.Seconds(d.TimeError)}}
	for _, l := range d.Lines {
		p.Lines = append(p.Lines, coach.Line(l))
	}
	return p
}

// OfAdvice returns the document of an advice, or nil for none.
func OfAdvice(a *coach.Advice) *Advice {
	if a == nil {
		return nil
	}
	d := &Advice{V: Version, Rule: a.Rule, Verdict: a.Verdict, Because: a.Because, Evidence: a.Evidence, Against: a.Against,
		Sure: int(a.Sure), Instead: a.Instead,
		First: OfProposal(a.First), Second: OfProposal(a.Second), Third: OfProposal(a.Third), Exhausted: a.Exhausted, Do: string(a.Do),
		Chance: a.Chance, Settles: a.Settles, Also: a.Also, Earlier: a.Earlier, Good: a.Good}
	for _, s := range a.Signs {
		sign := Sign{Say: s.Say, Without: s.Without}
		for _, m := range s.Moved {
			sign.Moved = append(sign.Moved, Moved(m))
		}
		d.Signs = append(d.Signs, sign)
	}
	if m := a.Map; m != nil {
		d.Map = &Map{Aim: Patch(m.Aim), YieldError: m.YieldError, StrengthError: m.StrengthError, Then: (*Point)(m.Then),
			Measured: m.Measured}
		for _, p := range m.Cups {
			d.Map.Cups = append(d.Map.Cups, Point(p))
		}
	}
	if t := a.Tongue; t != nil {
		d.Tongue = &Tongue{Tasters: t.Tasters, Words: map[string]Usage{}}
		for sense, u := range t.Words {
			d.Tongue.Words[string(sense)] = Usage(u)
		}
	}
	return d
}

// Core returns the advice of a document, or nil for none.
func (d *Advice) Core() *coach.Advice {
	if d == nil {
		return nil
	}
	a := &coach.Advice{Rule: d.Rule, Verdict: d.Verdict, Because: d.Because, Evidence: d.Evidence, Against: d.Against,
		Sure: coach.Sureness(max(1, min(d.Sure, int(coach.Likely)))), Instead: d.Instead,
		First: d.First.Core(), Second: d.Second.Core(), Third: d.Third.Core(), Exhausted: d.Exhausted, Do: coach.Doing(d.Do),
		Chance: d.Chance, Settles: d.Settles, Also: d.Also, Earlier: d.Earlier, Good: d.Good}
	for _, s := range d.Signs {
		sign := coach.Sign{Say: s.Say, Without: s.Without}
		for _, m := range s.Moved {
			sign.Moved = append(sign.Moved, coach.Moved(m))
		}
		a.Signs = append(a.Signs, sign)
	}
	if m := d.Map; m != nil {
		a.Map = &coach.Map{Aim: coach.Patch(m.Aim), YieldError: m.YieldError, StrengthError: m.StrengthError, Then: (*coach.Point)(m.Then),
			Measured: m.Measured}
		for _, p := range m.Cups {
			a.Map.Cups = append(a.Map.Cups, coach.Point(p))
		}
	}
	if t := d.Tongue; t != nil {
		a.Tongue = &coach.Tongue{Tasters: t.Tasters, Words: map[cup.Sense]coach.Usage{}}
		for sense, u := range t.Words {
			a.Tongue.Words[cup.Sense(sense)] = coach.Usage(u)
		}
	}
	return a
}
