package document

import (
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
)

// Draft holds the fields of a draft other than its recipe.
type Draft struct {
	V       int                  `json:"v"`
	Held    []string             `json:"held"` // the two amounts that were set last
	Ratio   float64              `json:"ratio,omitempty"`
	Typed   map[string]string    `json:"typed,omitempty"` // by address
	Tab     string               `json:"tab,omitempty"`
	Checked []string             `json:"checked,omitempty"`
	Timers  map[string]time.Time `json:"timers,omitempty"` // start times
	Past    []UndoStep           `json:"past,omitempty"`   // undo steps, oldest first
	Future  []UndoStep           `json:"future,omitempty"`
	Aimed   *Liking              `json:"aimed,omitempty"`
	Second  string               `json:"second,omitempty"` // id of the second kettle
}

// Liking is the stored form of a forecast.Liking, in %.
type Liking struct {
	Yield    float64 `json:"ey"`
	Strength float64 `json:"tds"`
}

// UndoStep is the stored form of a brew.UndoStep.
type UndoStep struct {
	Recipe  Recipe   `json:"recipe"`
	Held    []string `json:"held"`
	Ratio   float64  `json:"ratio,omitempty"`
	Brewer  string   `json:"brewer"`
	Grinder string   `json:"grinder"`
	Kettle  string   `json:"kettle"`
	Water   string   `json:"water,omitempty"`
	Second  string   `json:"second,omitempty"`
}

// OfUndoSteps returns the documents of undo steps.
func OfUndoSteps(turns []brew.UndoStep) []UndoStep {
	var out []UndoStep
	for _, t := range turns {
		out = append(out, UndoStep{OfRecipe(t.Recipe), []string{string(t.Held[0]), string(t.Held[1])}, t.SetRatio, t.Gear.Brewer,
			t.Gear.Grinder, t.Gear.Kettle, t.Gear.Water, t.Gear.Second})
	}
	return out
}

// UndoSteps returns the undo steps of documents.
func UndoSteps(docs []UndoStep) []brew.UndoStep {
	var out []brew.UndoStep
	for _, d := range docs {
		out = append(out, brew.UndoStep{Recipe: d.Recipe.Core(), Held: Held(d.Held), SetRatio: d.Ratio,
			Gear: gear.IDs{Brewer: d.Brewer, Grinder: d.Grinder, Kettle: d.Kettle, Water: d.Water, Second: d.Second}})
	}
	return out
}

// Held parses the names of the two held amounts. It returns the default for an invalid list.
func Held(names []string) [2]recipe.Knob {
	if len(names) != 2 {
		return brew.DefaultHeld
	}
	return [2]recipe.Knob{recipe.Knob(names[0]), recipe.Knob(names[1])}
}
