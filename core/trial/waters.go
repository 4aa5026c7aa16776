package trial

import (
	"yardbloom/core/brew"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/core/water"
)

// ByWater is the variable of a trial that compares waters instead of values of a knob. Its levels are indices into the
// trial's Waters.
const ByWater recipe.Knob = "waters"

// NewOfWaters plans a trial of waters, like New. The order of the waters is that of the levels.
func NewOfWaters(id, name string, sheet brew.Sheet, waters []water.Water, repeats int, measure Measure, seed uint64) (Trial, error) {
	t := Trial{ID: id, Name: name, Sheet: sheet, Knob: ByWater, Waters: waters, Repeats: repeats, Measure: measure, Seed: seed}
	for i := range waters {
		t.Levels = append(t.Levels, float64(i))
	}
	if err := t.checkSize(); err != nil {
		return t, err
	}
	t.plan()
	return t, nil
}

// SheetAt returns the sheet of a brew at a level.
func (t Trial) SheetAt(level float64) brew.Sheet {
	s := t.Sheet
	if t.Knob == ByWater {
		if i := int(level); i >= 0 && i < len(t.Waters) {
			s.Gear.Water = t.Waters[i]
		}
		return s
	}
	s.Recipe = s.Recipe.With(recipe.AddressOf(t.Knob), level)
	return s
}

// Label returns the heading of the variable.
func (t Trial) Label() string {
	if t.Knob == ByWater {
		return "Water"
	}
	return t.Knob.Label()
}

// Variable names the variable within a sentence.
func (t Trial) Variable() string {
	if t.Knob == ByWater {
		return "the brew water"
	}
	return t.Knob.Name()
}

// LevelName formats a level in the person's units.
func (t Trial) LevelName(v float64, prefs units.Prefs) string {
	if t.Knob == ByWater {
		if i := int(v); i >= 0 && i < len(t.Waters) {
			return t.Waters[i].Name
		}
		return "another water"
	}
	if choices := t.Knob.Choices(); choices != nil {
		return choices[int(v)]
	}
	return prefs.Unit(t.Knob.Kind()).Format(v)
}

// ordered reports whether the levels are amounts, so that a bend can exist between them.
func (t Trial) ordered() bool { return t.Knob != ByWater }
