package document

import (
	"time"

	"yardbloom/core/brew"
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
	Repeats int        `json:"repeats"`
	Measure string     `json:"measure"`
	Seed    uint64     `json:"seed"`
	Runs    []TrialRun `json:"runs"`
}

// TrialRun is the stored form of a trial.Run.
type TrialRun struct {
	Block   int     `json:"block"`
	Level   int     `json:"level"`
	Code    string  `json:"code"`
	Brew    string  `json:"brew,omitempty"`
	By      string  `json:"by,omitempty"`
	Value   float64 `json:"value,omitempty"`
	Done    bool    `json:"done,omitempty"`
	Skipped bool    `json:"left_out,omitempty"`
}

// OfTrial returns the document of a trial.
func OfTrial(t trial.Trial) Trial {
	d := Trial{V: Version, Name: t.Name, BagID: t.Sheet.BagID, Recipe: OfRecipe(t.Sheet.Recipe), Coffee: OfBag(t.Sheet.Bag),
		Gear: OfGear(t.Sheet.Gear), Created: t.Sheet.Created,
		Turned: string(t.Knob), Levels: t.Levels, Repeats: t.Repeats, Measure: string(t.Measure), Seed: t.Seed}
	for _, w := range t.Waters {
		d.Waters = append(d.Waters, OfWater(w))
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
		Knob: recipe.Knob(d.Turned), Levels: d.Levels, Repeats: d.Repeats, Measure: trial.Measure(d.Measure), Seed: d.Seed}
	for _, w := range d.Waters {
		t.Waters = append(t.Waters, w.Core())
	}
	for _, r := range d.Runs {
		t.Runs = append(t.Runs, trial.Run(r))
	}
	return t
}
