package document

import (
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
)

// Draft is what a recipe in the making has beside its recipe: what is held, half
// typed and ticked.
type Draft struct {
	V       int                  `json:"v"`
	Held    []string             `json:"held"` // the two amounts that were set last
	Ratio   float64              `json:"ratio,omitempty"`
	Typed   map[string]string    `json:"typed,omitempty"` // by address
	Tab     string               `json:"tab,omitempty"`
	Checked []string             `json:"checked,omitempty"`
	Timers  map[string]time.Time `json:"timers,omitempty"` // begun at
	Past    []Turn               `json:"past,omitempty"`   // what can be taken back, the oldest first
	Future  []Turn               `json:"future,omitempty"`
}

// Turn is a brew.Turn on disk.
type Turn struct {
	Recipe  Recipe   `json:"recipe"`
	Held    []string `json:"held"`
	Ratio   float64  `json:"ratio,omitempty"`
	Brewer  string   `json:"brewer"`
	Grinder string   `json:"grinder"`
	Kettle  string   `json:"kettle"`
	Water   string   `json:"water,omitempty"`
}

// OfTurns returns the documents of turns.
func OfTurns(turns []brew.Turn) []Turn {
	var out []Turn
	for _, t := range turns {
		out = append(out, Turn{OfRecipe(t.Recipe), []string{string(t.Held[0]), string(t.Held[1])}, t.SetRatio, t.Gear.Brewer, t.Gear.Grinder, t.Gear.Kettle, t.Gear.Water})
	}
	return out
}

// Turns returns the turns of documents.
func Turns(docs []Turn) []brew.Turn {
	var out []brew.Turn
	for _, d := range docs {
		out = append(out, brew.Turn{Recipe: d.Recipe.Core(), Held: Held(d.Held), SetRatio: d.Ratio, Gear: gear.IDs{Brewer: d.Brewer, Grinder: d.Grinder, Kettle: d.Kettle, Water: d.Water}})
	}
	return out
}

// Held are the two amounts that are held by their names; what a new draft holds where
// there are not two.
func Held(names []string) [2]recipe.Knob {
	if len(names) != 2 {
		return brew.StartHeld
	}
	return [2]recipe.Knob{recipe.Knob(names[0]), recipe.Knob(names[1])}
}
