package document

import (
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/trial"
)

// Trial is the stored form of a trial.Trial.
type Trial struct {
	V       int        `json:"v"`
	Name    string     `json:"name"`
	BagID   string     `json:"bag_id"`
	Recipe  Recipe     `json:"recipe"`
	Coffee  Bag        `json:"coffee"`
	Gear    Gear       `json:"gear"`
	Created time.Time  `json:"created_at"`
	Turned  string     `json:"turned"`
	Levels  []float64  `json:"levels"`
	Waters  []*Water   `json:"waters,omitempty"`
	Options []Option   `json:"options,omitempty"`
	Second  *Factor    `json:"second,omitempty"`
	Repeats int        `json:"repeats"`
	Measure string     `json:"measure"`
	Seed    uint64     `json:"seed"`
	Runs    []TrialRun `json:"runs"`
}

// TrialRun is the stored form of a trial.Run.
type TrialRun struct {
	Block   int     `json:"block"`
	Level   int     `json:"level"`
	Other   int     `json:"other,omitempty"`
	Code    string  `json:"code"`
	Brew    string  `json:"brew,omitempty"`
	By      string  `json:"by,omitempty"`
	Value   float64 `json:"value,omitempty"`
	Done    bool    `json:"done,omitempty"`
	Skipped bool    `json:"left_out,omitempty"`
}

// Factor is the stored form of a trial.Factor. A trial holds the fields of its first one.
type Factor struct {
	Turned  string    `json:"turned"`
	Levels  []float64 `json:"levels"`
	Waters  []*Water  `json:"waters,omitempty"`
	Options []Option  `json:"options,omitempty"`
}

// Option is the stored form of a trial.Option that is not a water.
type Option struct {
	Name    string   `json:"name"`
	Filter  string   `json:"filter,omitempty"`
	Brewer  *Brewer  `json:"brewer,omitempty"`
	Grinder *Grinder `json:"grinder,omitempty"`
	Recipe  *Recipe  `json:"recipe,omitempty"`
}

// ofOptions returns the options of a factor: waters, or others.
func ofOptions(f trial.Factor) (waters []*Water, others []Option) {
	for _, o := range f.Options {
		switch f.Knob {
		case trial.ByWater:
			waters = append(waters, OfWater(o.Water))
			continue
		case trial.ByBrewer:
			b := ofBrewer(o.Brewer)
			others = append(others, Option{Name: o.Name, Brewer: &b})
		case trial.ByGrinder:
			g := ofGrinder(o.Grinder)
			others = append(others, Option{Name: o.Name, Grinder: &g})
		case trial.ByStyle:
			r := OfRecipe(o.Recipe)
			others = append(others, Option{Name: o.Name, Recipe: &r})
		default:
			others = append(others, Option{Name: o.Name, Filter: string(o.Filter)})
		}
	}
	return waters, others
}

func (f Factor) core() trial.Factor {
	out := trial.Factor{Knob: recipe.Knob(f.Turned), Levels: f.Levels}
	for _, w := range f.Waters {
		water := w.Core()
		out.Options = append(out.Options, trial.Option{Name: water.Name, Water: water})
	}
	for _, o := range f.Options {
		option := trial.Option{Name: o.Name, Filter: gear.FilterKind(o.Filter)}
		if o.Brewer != nil {
			option.Brewer = o.Brewer.core()
		}
		if o.Grinder != nil {
			option.Grinder = o.Grinder.core()
		}
		if o.Recipe != nil {
			option.Recipe = o.Recipe.Core()
		}
		out.Options = append(out.Options, option)
	}
	return out
}

// OfTrial returns the document of a trial.
func OfTrial(t trial.Trial) Trial {
	d := Trial{V: Version, Name: t.Name, BagID: t.Sheet.BagID, Recipe: OfRecipe(t.Sheet.Recipe), Coffee: OfBag(t.Sheet.Bag),
		Gear: OfGear(t.Sheet.Gear), Created: t.Sheet.Created,
		Turned: string(t.Knob), Levels: t.Levels, Repeats: t.Repeats, Measure: string(t.Measure), Seed: t.Seed}
	d.Waters, d.Options = ofOptions(t.Factor)
	if t.Second != nil {
		d.Second = &Factor{Turned: string(t.Second.Knob), Levels: t.Second.Levels}
		d.Second.Waters, d.Second.Options = ofOptions(*t.Second)
	}
	for _, r := range t.Runs {
		d.Runs = append(d.Runs, TrialRun(r))
	}
	return d
}

// Core returns the trial of a document.
func (d Trial) Core() trial.Trial {
	t := trial.Trial{Name: d.Name, Sheet: brew.Sheet{BagID: d.BagID, Recipe: d.Recipe.Core(), Bag: d.Coffee.Core(), Gear: d.Gear.Core(),
		Created: d.Created},
		Factor:  Factor{d.Turned, d.Levels, d.Waters, d.Options}.core(),
		Repeats: d.Repeats, Measure: trial.Measure(d.Measure), Seed: d.Seed}
	if d.Second != nil {
		second := d.Second.core()
		t.Second = &second
	}
	for _, r := range d.Runs {
		t.Runs = append(t.Runs, trial.Run(r))
	}
	return t
}
