package trial

import (
	"errors"
	"slices"

	"yardbloom/core/brew"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/core/water"
)

// The variables that are not knobs of a recipe. Their levels are indices into the Options of a Factor.
const (
	ByWater   recipe.Knob = "waters"
	ByPaper   recipe.Knob = "filters"
	ByBrewer  recipe.Knob = "brewers"
	ByGrinder recipe.Knob = "grinders"
	ByStyle   recipe.Knob = "styles"
	ByName    recipe.Knob = "named" // anything that the person names: the model knows nothing about it
)

// variables holds the heading of each of them, and its name within a sentence.
var variables = map[recipe.Knob]struct{ label, name string }{
	ByWater: {"Water", "the brew water"}, ByPaper: {"Paper or filter", "the filter"}, ByBrewer: {"Brewer", "the brewer"},
	ByGrinder: {"Grinder", "the grinder"}, ByStyle: {"School of pouring", "the school"},
	ByName: {"Something else, in your words", "what you named"},
}

// An Option is one level of such a variable: its name and its change to a sheet.
type Option struct {
	Name    string
	Water   water.Water
	Filter  gear.FilterKind
	Brewer  gear.Brewer
	Grinder gear.Grinder
	Recipe  recipe.Recipe
}

// A Factor is one variable of a trial with its levels.
type Factor struct {
	Knob    recipe.Knob
	Levels  []float64 // canonical, ascending; or indices into Options
	Options []Option
}

// Of returns the factor of a knob at some levels.
func Of(k recipe.Knob, levels ...float64) Factor {
	levels = slices.Clone(levels)
	slices.Sort(levels)
	return Factor{Knob: k, Levels: slices.Compact(levels)}
}

// OfOptions returns the factor of a variable that is not a knob. The order of the options is that of the levels.
func OfOptions(k recipe.Knob, options []Option) Factor {
	f := Factor{Knob: k, Options: options}
	for i := range options {
		f.Levels = append(f.Levels, float64(i))
	}
	return f
}

// Chosen reports whether the levels of a variable are options, not values of a knob.
func Chosen(k recipe.Knob) bool { return variables[k].label != "" }

// ErrValve is returned for brewers of which only some have a valve.
var ErrValve = errors.New("one recipe does not suit both a steeper and a brewer without a valve")

// check returns the first reason why a sheet cannot be brewed at the levels.
func (f Factor) check(s brew.Sheet) error {
	if len(f.Levels) < FewestLevels || len(f.Levels) > MostLevels {
		return ErrLevels
	}
	if Chosen(f.Knob) {
		for _, v := range f.Levels {
			if v < 0 || int(v) >= len(f.Options) {
				return ErrLevels
			}
		}
		for _, o := range f.Options {
			if f.Knob == ByStyle {
				if err := o.Recipe.Valid(); err != nil {
					return err
				}
			}
			if f.Knob == ByBrewer && o.Brewer.Kind.Form().Immersion != s.Recipe.Steeps() {
				return ErrValve
			}
		}
		return nil
	}
	at := recipe.AddressOf(f.Knob)
	if !s.Recipe.Has(at) {
		return ErrKnob
	}
	for _, v := range f.Levels {
		if err := at.Range().Check(at, v); err != nil {
			return err
		}
	}
	return nil
}

// apply returns the sheet with the factor at a level.
func (f Factor) apply(s brew.Sheet, level float64) brew.Sheet {
	if !Chosen(f.Knob) {
		s.Recipe = s.Recipe.With(recipe.AddressOf(f.Knob), level)
		return s
	}
	i := int(level)
	if i < 0 || i >= len(f.Options) {
		return s
	}
	switch o := f.Options[i]; f.Knob {
	case ByWater:
		s.Gear.Water = o.Water
	case ByPaper:
		s.Gear.Brewer.Filter = o.Filter
	case ByBrewer:
		s.Gear.Brewer = o.Brewer
	case ByGrinder:
		s.Gear.Grinder = o.Grinder
	case ByStyle:
		s.Recipe = o.Recipe
	}
	return s
}

// Label returns the heading of the variable.
func (f Factor) Label() string {
	if v := variables[f.Knob]; v.label != "" {
		return v.label
	}
	return f.Knob.Label()
}

// Variable names the variable within a sentence.
func (f Factor) Variable() string {
	if v := variables[f.Knob]; v.name != "" {
		return v.name
	}
	return f.Knob.Name()
}

// LevelName formats a level in the person's units.
func (f Factor) LevelName(v float64, prefs units.Prefs) string {
	if Chosen(f.Knob) {
		if i := int(v); i >= 0 && i < len(f.Options) {
			return f.Options[i].Name
		}
		return "another one"
	}
	if f.Knob == recipe.Rinse {
		return map[bool]string{true: "rinsed", false: "not rinsed"}[v > 0]
	}
	if choices := f.Knob.Choices(); choices != nil {
		return choices[int(v)]
	}
	return prefs.Unit(f.Knob.Kind()).Format(v)
}

// ordered reports whether the levels are amounts, so that a bend can exist between them.
func (f Factor) ordered() bool { return !Chosen(f.Knob) }
