// Package exchange reads and writes the product's open formats.
package exchange

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"

	"yardbloom/core/coffee"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// The format and the version that this package writes, and the newest it reads.
const (
	RecipeFormat  = "yardbloom-recipe"
	RecipeVersion = 2
)

// Recipe is a recipe with what it is brewed of and with, as recipe.schema.json
// describes it. Quantities carry their unit in the name.
type Recipe struct {
	Format  string         `json:"format"`
	Version int            `json:"version"`
	Name    string         `json:"name,omitempty"`
	Coffee  Coffee         `json:"coffee"`
	Brewer  Brewer         `json:"brewer"`
	Grinder Grinder        `json:"grinder"`
	DoseG   float64        `json:"dose_g"`
	GrindUM float64        `json:"grind_um"`
	Rinse   bool           `json:"rinse"`
	Bed     float64        `json:"bed,omitempty"`    // how uneven the dry bed lies: 0 levelled, 1 heaped
	RoomC   *units.Celsius `json:"room_c,omitempty"` // 21 where left out
	Kettle  *Kettle        `json:"kettle,omitempty"` // one with a thermostat where left out
	Below   *Below         `json:"below,omitempty"`  // a glass carafe that the rinse has warmed where left out
	Steps   []Step         `json:"steps"`

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

// Kettle is what the water comes from. Without a thermostat it cools from the
// first pour on, and the temperatures of later pours are not heard.
type Kettle struct {
	Thermostat bool      `json:"thermostat"`
	HoldsG     float64   `json:"holds_g"`
	Readings   *Readings `json:"readings,omitempty"`
}

// Readings are two temperatures of a kettle as it cools; a rule of thumb where left out.
type Readings struct {
	WaterG  float64 `json:"water_g"`
	FirstC  float64 `json:"first_c"`
	SecondC float64 `json:"second_c"`
	ApartS  float64 `json:"apart_s"`
}

// Below is what the brew runs into, and the water added to the cup at the end.
type Below struct {
	Carafe    gear.Material  `json:"carafe"`
	CarafeC   *units.Celsius `json:"carafe_c,omitempty"` // the room's where left out
	IceG      float64        `json:"ice_g,omitempty"`
	IceC      float64        `json:"ice_c,omitempty"`
	IceWet    float64        `json:"ice_wet,omitempty"` // share of the ice that is water already
	DilutionG float64        `json:"dilution_g,omitempty"`
	DilutionC float64        `json:"dilution_c,omitempty"`
	WantedC   *float64       `json:"wanted_c,omitempty"` // asks how much ice just melts on the way to this
}

// When a step begins.
const (
	ByClock   = "clock"
	ByDrained = "drained" // when the water of the pour before has reached the bed
)

// Step is one thing to do: pour, stir or release.
type Step struct {
	Do           recipe.Act     `json:"do"`
	When         string         `json:"when,omitempty"` // the clock where left out
	AtS          float64        `json:"at_s"`           // where it waits for the bed: when that is expected
	WaterG       float64        `json:"water_g,omitempty"`
	RateGS       float64        `json:"rate_g_s,omitempty"`
	TemperatureC float64        `json:"temperature_c,omitempty"`
	Height       string         `json:"height,omitempty"` // low, mid, high
	Pattern      recipe.Pattern `json:"pattern,omitempty"`
	Then         recipe.Hand    `json:"then,omitempty"` // what the hand does when it is done
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
	if err := json.Unmarshal(b, &doc.unknown); err != nil {
		return doc, jsonError(err)
	}
	if head.Version == 1 {
		fromVersion1(doc.unknown)
		if b, err = json.Marshal(doc.unknown); err != nil {
			return doc, err
		}
	}
	if err := json.Unmarshal(b, &doc); err != nil {
		return doc, jsonError(err)
	}
	return doc, doc.check()
}

// fromVersion1 turns a document of version 1 into one of version 2: there a step
// could end with a swirl or with nothing.
func fromVersion1(doc map[string]any) {
	doc["version"] = 2
	steps, _ := doc["steps"].([]any)
	for _, s := range steps {
		step, _ := s.(map[string]any)
		if swirl, _ := step["swirl"].(bool); swirl {
			step["then"] = string(recipe.Swirl)
		}
		delete(step, "swirl")
	}
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
	if err := d.Brewer.check(); err != nil {
		return err
	}
	if err := d.Kettle.check(); err != nil {
		return err
	}
	if d.Below != nil {
		if err := oneOf("below.carafe", d.Below.Carafe, gear.Materials()); err != nil {
			return err
		}
	}
	if len(d.Steps) == 0 {
		return &FieldError{"steps", "a brew has at least one pour."}
	}
	for i, s := range d.Steps {
		for _, err := range []error{
			oneOf(fmt.Sprintf("steps[%d].do", i), s.Do, []recipe.Act{recipe.Pour, recipe.Stir, recipe.Release}),
			oneOf(fmt.Sprintf("steps[%d].when", i), s.When, []string{"", ByClock, ByDrained}),
			oneOf(fmt.Sprintf("steps[%d].pattern", i), s.Pattern, append(recipe.Patterns(), "")),
			oneOf(fmt.Sprintf("steps[%d].then", i), s.Then, recipe.Hands()),
			oneOf(fmt.Sprintf("steps[%d].height", i), s.Height, []string{"", recipe.Low.String(), recipe.Mid.String(), recipe.High.String()}),
		} {
			if err != nil {
				return err
			}
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
