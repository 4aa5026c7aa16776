// Package exchange reads and writes the product's open formats.
package exchange

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"slices"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/coffee"
	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// The format and the version that this package writes, and the newest it reads.
const (
	RecipeFormat  = "yardbloom-recipe"
	RecipeVersion = 1
)

// Recipe is a recipe with what it is brewed of and with, as recipe.schema.json
// describes it. Quantities carry their unit in the name.
type Recipe struct {
	Format  string  `json:"format"`
	Version int     `json:"version"`
	Name    string  `json:"name,omitempty"`
	Coffee  Coffee  `json:"coffee"`
	Brewer  Brewer  `json:"brewer"`
	Grinder Grinder `json:"grinder"`
	DoseG   float64 `json:"dose_g"`
	GrindUM float64 `json:"grind_um"`
	Rinse   bool    `json:"rinse"`
	RoomC   float64 `json:"room_c,omitempty"` // 21 where left out
	Steps   []Step  `json:"steps"`

	// unknown are the fields of a read document that this version does not know:
	// they are written back as they were.
	unknown map[string]any
}

// Coffee is what the model needs to know of a bag.
type Coffee struct {
	Roast   string `json:"roast"` // light, medium-light, medium, medium-dark, dark
	Process string `json:"process,omitempty"`
	AgeDays *int   `json:"age_days,omitempty"` // since roast; unknown where left out
}

// Brewer is a brewer by kind, material and size.
type Brewer struct {
	Kind     gear.BrewerKind `json:"kind"`
	Material gear.Material   `json:"material"`
	Filter   gear.FilterKind `json:"filter"`
	HoldsG   float64         `json:"holds_g"`
}

// Grinder is a grinder by what it cuts with.
type Grinder struct {
	Burrs gear.Burrs `json:"burrs"`
}

// Step is one thing to do: pour, stir or release.
type Step struct {
	Do           recipe.Act     `json:"do"`
	AtS          float64        `json:"at_s"`
	WaterG       float64        `json:"water_g,omitempty"`
	RateGS       float64        `json:"rate_g_s,omitempty"`
	TemperatureC float64        `json:"temperature_c,omitempty"`
	Height       string         `json:"height,omitempty"` // low, mid, high
	Pattern      recipe.Pattern `json:"pattern,omitempty"`
	Swirl        bool           `json:"swirl,omitempty"` // when it is done
}

// A FieldError names the field of a document that cannot be used, and why.
type FieldError struct{ Field, Reason string }

func (e *FieldError) Error() string { return e.Field + ": " + e.Reason }

// ReadRecipe reads a recipe. A document of another format or a newer version,
// and a field that cannot be used, is a *FieldError.
func ReadRecipe(r io.Reader) (Recipe, error) {
	const most = 1 << 20
	var doc Recipe
	b, err := io.ReadAll(io.LimitReader(r, most))
	if err != nil {
		return doc, fmt.Errorf("read recipe: %w", err)
	}
	var head struct {
		Format  string `json:"format"`
		Version int    `json:"version"`
	}
	if err := json.Unmarshal(b, &head); err != nil {
		return doc, jsonError(err)
	}
	switch {
	case head.Format != RecipeFormat:
		return doc, &FieldError{"format", fmt.Sprintf("this is %q, not %q.", head.Format, RecipeFormat)}
	case head.Version < 1 || head.Version > RecipeVersion:
		return doc, &FieldError{"version", fmt.Sprintf("version %d is not known here; this program reads versions 1 to %d.", head.Version, RecipeVersion)}
	}
	if err := json.Unmarshal(b, &doc); err != nil {
		return doc, jsonError(err)
	}
	if err := json.Unmarshal(b, &doc.unknown); err != nil {
		return doc, jsonError(err)
	}
	return doc, doc.check()
}

func jsonError(err error) error {
	var wrong *json.UnmarshalTypeError
	if errors.As(err, &wrong) {
		return &FieldError{wrong.Field, fmt.Sprintf("a %s does not fit here.", wrong.Value)}
	}
	return &FieldError{"document", "it is not JSON: " + err.Error() + "."}
}

// check finds the names that are not known; the model checks the figures.
func (d Recipe) check() error {
	kinds := make([]gear.BrewerKind, 0, 3)
	for _, f := range gear.BrewerForms() {
		kinds = append(kinds, f.Kind)
	}
	_, roastErr := d.roast()
	for _, c := range []error{roastErr, oneOf("brewer.kind", d.Brewer.Kind, kinds), oneOf("brewer.filter", d.Brewer.Filter, gear.Filters()),
		oneOf("brewer.material", d.Brewer.Material, gear.Materials()), oneOf("grinder.burrs", d.Grinder.Burrs, gear.BurrKinds())} {
		if c != nil {
			return c
		}
	}
	if len(d.Steps) == 0 {
		return &FieldError{"steps", "a brew has at least one pour."}
	}
	for i, s := range d.Steps {
		if err := oneOf(fmt.Sprintf("steps[%d].do", i), s.Do, []recipe.Act{recipe.Pour, recipe.Stir, recipe.Release}); err != nil {
			return err
		}
		if i > 0 && s.AtS < d.Steps[i-1].AtS {
			return &FieldError{fmt.Sprintf("steps[%d].at_s", i), "it comes before the step above it."}
		}
	}
	return nil
}

func oneOf[T ~string](field string, v T, known []T) error {
	if slices.Contains(known, v) {
		return nil
	}
	return &FieldError{field, fmt.Sprintf("%q is not one of %q.", v, known)}
}

func (d Recipe) roast() (coffee.Roast, error) {
	var names []string
	for _, r := range coffee.Roasts() {
		if r.String() == d.Coffee.Roast {
			return r, nil
		}
		names = append(names, r.String())
	}
	return 0, oneOf("coffee.roast", d.Coffee.Roast, names)
}

// Write writes a recipe as indented JSON. Fields of a read document that this
// version does not know stay as they were.
func (d Recipe) Write(w io.Writer) error {
	enc := json.NewEncoder(w)
	enc.SetIndent("", "  ")
	if d.unknown == nil { // nothing to merge: in the order of the schema
		return enc.Encode(d)
	}
	b, err := json.Marshal(d)
	if err != nil {
		return err
	}
	var known map[string]any
	if err := json.Unmarshal(b, &known); err != nil {
		return err
	}
	return enc.Encode(merge(d.unknown, known))
}

// merge lays what is known over what was read, into nested objects and lists too.
func merge(read, known any) any {
	switch k := known.(type) {
	case map[string]any:
		r, ok := read.(map[string]any)
		if !ok {
			return known
		}
		out := map[string]any{}
		for name, v := range r {
			out[name] = v
		}
		for name, v := range k {
			out[name] = merge(r[name], v)
		}
		return out
	case []any:
		r, ok := read.([]any)
		if !ok {
			return known
		}
		out := slices.Clone(k)
		for i := range min(len(r), len(out)) {
			out[i] = merge(r[i], out[i])
		}
		return out
	default:
		return known
	}
}

// FromBrew is the recipe of a brew, with the gear it is made with.
func FromBrew(b brew.Brew, now time.Time) Recipe {
	d := Recipe{Format: RecipeFormat, Version: RecipeVersion, Name: b.Bag.Name, DoseG: float64(b.Recipe.Dose), GrindUM: float64(b.Recipe.Grind), Rinse: b.Recipe.Rinse,
		Coffee:  Coffee{Roast: b.Bag.Roast.String(), Process: string(b.Bag.Process)},
		Brewer:  Brewer{b.Gear.Brewer.Kind, b.Gear.Brewer.Material, b.Gear.Brewer.Filter, float64(b.Gear.Brewer.Holds)},
		Grinder: Grinder{b.Gear.Grinder.Burrs}}
	if days, known := b.Bag.Age(now); known {
		d.Coffee.AgeDays = &days
	}
	for _, s := range b.Schedule().Steps {
		step := Step{Do: s.Act, AtS: float64(s.Start), WaterG: float64(s.Water), RateGS: s.Rate, Pattern: s.Pattern, Swirl: s.Swirl}
		if s.Act == recipe.Pour {
			step.Height = s.Height.String()
			step.TemperatureC = units.Round(float64(forecast.PourTemperature(s, b.Recipe, b.Gear.Kettle)), 1)
		}
		d.Steps = append(d.Steps, step)
	}
	return d
}

// Question is what the brew model is to be asked for the recipe. now only dates the coffee's age.
func (d Recipe) Question(now time.Time) forecast.Question {
	roast, _ := d.roast() // checked when it was read
	q := forecast.Question{Now: now, Room: units.Celsius(d.RoomC),
		Recipe: recipe.Recipe{Dose: units.Grams(d.DoseG), Grind: units.Micrometres(d.GrindUM), Rinse: d.Rinse},
		Bag:    coffee.Bag{Roast: roast, Process: coffee.Process(d.Coffee.Process)},
		Gear: brew.Gear{Brewer: gear.Brewer{Kind: d.Brewer.Kind, Material: d.Brewer.Material, Filter: d.Brewer.Filter, Holds: units.Grams(d.Brewer.HoldsG)},
			Grinder: gear.Grinder{Burrs: d.Grinder.Burrs}}}
	if d.Coffee.AgeDays != nil {
		q.Bag.RoastedOn = now.AddDate(0, 0, -*d.Coffee.AgeDays).Format(coffee.Day)
	}
	for _, s := range d.Steps {
		step := recipe.Step{Act: s.Do, Start: units.Seconds(s.AtS), Water: units.Grams(s.WaterG), Rate: s.RateGS, Temperature: units.Celsius(s.TemperatureC),
			Pattern: s.Pattern, Swirl: s.Swirl, Height: recipe.Mid}
		if s.RateGS > 0 {
			step.Lasts = units.Seconds(math.Ceil(s.WaterG / s.RateGS))
		}
		for _, h := range recipe.Heights() {
			if h.String() == s.Height {
				step.Height = h
			}
		}
		q.Recipe.Water += step.Water
		q.Steps = append(q.Steps, step)
	}
	return q
}
