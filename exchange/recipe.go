// Package exchange reads and writes the product's open formats.
package exchange

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"strings"

	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// The format and the version that this package writes, and the newest it reads.
const (
	RecipeFormat  = "yardbloom-recipe"
	RecipeVersion = 3
)

// Recipe is a recipe with what it is brewed of and with, as
// schema/recipe.v3.schema.json describes it. Quantities carry their unit in the name.
type Recipe struct {
	Format   string         `json:"format"`
	Version  int            `json:"version"`
	Name     string         `json:"name,omitempty"`
	Coffee   Coffee         `json:"coffee"`
	Brewer   Brewer         `json:"brewer"`
	Grinder  Grinder        `json:"grinder"`
	Kettle   *Kettle        `json:"kettle,omitempty"` // one with a thermostat where left out
	Style    string         `json:"style,omitempty"`
	DoseG    float64        `json:"dose_g"`
	WaterG   float64        `json:"water_g"` // all pours together
	GrindUM  float64        `json:"grind_um"`
	Rinse    bool           `json:"rinse"`
	Bed      float64        `json:"bed,omitempty"`    // how uneven the dry bed lies: 0 levelled, 1 heaped
	RoomC    *units.Celsius `json:"room_c,omitempty"` // 21 where left out
	Pours    []Pour         `json:"pours"`
	First    string         `json:"first,omitempty"` // coffee, or water where that goes in before it
	CrustS   float64        `json:"crust_s,omitempty"`
	ReleaseS float64        `json:"release_s,omitempty"`
	AimS     float64        `json:"aim_s,omitempty"`
	Carafe   *Carafe        `json:"carafe,omitempty"`
	Ice      *Ice           `json:"ice,omitempty"`
	Dilution *Dilution      `json:"dilution,omitempty"`

	// unknown are the fields of a read document that this version does not know:
	// they are written back as they were.
	unknown map[string]any
}

// Coffee is what the model needs to know of a bag.
type Coffee struct {
	Name    string `json:"name,omitempty"`
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

// Grinder is a grinder by what it cuts with, and how it shows its setting.
type Grinder struct {
	Burrs gear.Burrs `json:"burrs"`
	Dial  *Dial      `json:"dial,omitempty"`
	LossG float64    `json:"loss_g,omitempty"`
}

// Dial is a grinder's dial.
type Dial struct {
	Kind    gear.DialKind `json:"kind"`
	ZeroUM  float64       `json:"zero_um"`
	StepUM  float64       `json:"step_um,omitempty"` // 0, or left out: it has none
	Mark    float64       `json:"mark,omitempty"`
	PerTurn int           `json:"per_turn,omitempty"`
}

// Kettle is what the water comes from. Without a thermostat it cools from the
// first pour on, whatever temperatures the later pours name.
type Kettle struct {
	Thermostat bool      `json:"thermostat"`
	HoldsG     float64   `json:"holds_g,omitempty"`
	Readings   *Readings `json:"readings,omitempty"`
}

// Readings are two temperatures of a kettle as it cools; a rule of thumb where left out.
type Readings struct {
	WaterG  float64 `json:"water_g"`
	FirstC  float64 `json:"first_c"`
	SecondC float64 `json:"second_c"`
	ApartS  float64 `json:"apart_s"`
}

// Carafe is what the brew runs into: a glass one that the rinse has warmed where left out.
type Carafe struct {
	Material gear.Material  `json:"material"`
	Celsius  *units.Celsius `json:"celsius,omitempty"` // the room's where left out
}

// Ice lies in the carafe.
type Ice struct {
	MassG        float64  `json:"mass_g"`
	TemperatureC float64  `json:"temperature_c"`
	Wet          float64  `json:"wet,omitempty"`      // share of the ice that is water already
	WantedC      *float64 `json:"wanted_c,omitempty"` // asks how much ice just melts on the way to this
}

// Dilution is water that the cup gets afterwards.
type Dilution struct {
	WaterG       float64 `json:"water_g"`
	TemperatureC float64 `json:"temperature_c"`
}

// When a pour begins.
const (
	ByClock   = "clock"
	ByDrained = "drained" // when the water of the pour before has reached the bed
)

// Pour is one pour.
type Pour struct {
	Bloom        bool           `json:"bloom,omitempty"`
	WaterG       float64        `json:"water_g"`
	StartS       float64        `json:"start_s"`
	When         string         `json:"when,omitempty"` // the clock where left out
	RateGS       float64        `json:"rate_g_s"`
	TemperatureC float64        `json:"temperature_c"`
	Height       string         `json:"height,omitempty"`  // low, mid, high
	Pattern      recipe.Pattern `json:"pattern,omitempty"` // a spiral where left out
	Then         recipe.Hand    `json:"then,omitempty"`    // what the hand does when the water is in
}

// What can be wrong with a document beside a single value.
var (
	ErrNotJSON = errors.New("it is not JSON")
	ErrFormat  = errors.New("it is another kind of file")
	ErrVersion = errors.New("this version of the format is not known here")
	ErrOrder   = errors.New("it comes before the pour above it")
	ErrTotal   = errors.New("the pours do not add up to it")
	ErrValue   = errors.New("it cannot be this value")
	ErrSize    = errors.New("it is larger than a megabyte")
	ErrIce     = errors.New("there is more ice than water is poured")
)

// ReadRecipe reads a recipe of this version or of an older one. A document that
// cannot be used is a *units.ValueError at the path of the first field that is wrong.
func ReadRecipe(r io.Reader) (Recipe, error) {
	var doc Recipe
	b, version, err := readHead(r, RecipeFormat, RecipeVersion)
	if err != nil {
		return doc, err
	}
	if err := json.Unmarshal(b, &doc.unknown); err != nil {
		return doc, &units.ValueError{At: Path("document"), Err: ErrNotJSON}
	}
	if version < RecipeVersion {
		if err := schema2.check(doc.unknown); err != nil {
			return doc, err
		}
		doc.unknown = fromVersion2(doc.unknown)
	}
	if err := schema3.check(doc.unknown); err != nil {
		return doc, err
	}
	if b, err = json.Marshal(doc.unknown); err != nil {
		return doc, err
	}
	if err := json.Unmarshal(b, &doc); err != nil {
		return doc, &units.ValueError{At: Path("document"), Err: err}
	}
	return doc, doc.check()
}

// mostBytes is the largest document that is read.
const mostBytes = 1 << 20

// readHead reads a document of at most a megabyte and checks that it is JSON, of a
// format, and of a version that this package reads: 1 to newest.
func readHead(r io.Reader, format string, newest int) (text []byte, version int, err error) {
	if text, err = io.ReadAll(io.LimitReader(r, mostBytes+1)); err != nil {
		return nil, 0, fmt.Errorf("read %s: %w", format, err)
	}
	if len(text) > mostBytes {
		return nil, 0, &units.ValueError{At: Path("document"), Err: ErrSize}
	}
	var head struct {
		Format  string `json:"format"`
		Version any    `json:"version"`
	}
	if err := json.Unmarshal(text, &head); err != nil {
		return nil, 0, &units.ValueError{At: Path("document"), Typed: units.Shorten(firstLine(text)), Err: ErrNotJSON}
	}
	v, _ := head.Version.(float64)
	switch {
	case head.Format != format:
		return nil, 0, &units.ValueError{At: Path("format"), Typed: head.Format, Err: ErrFormat}
	case v < 1 || v > float64(newest) || v != math.Trunc(v):
		return nil, 0, &units.ValueError{At: Path("version"), Typed: fmt.Sprint(head.Version), Err: ErrVersion}
	}
	return text, int(v), nil
}

// firstLine is how a text begins, to tell a person what was read in place of a document.
func firstLine(text []byte) string {
	line, _, _ := strings.Cut(strings.TrimSpace(string(text)), "\n")
	return strings.ToValidUTF8(strings.TrimSpace(line), "")
}

// check finds what no schema can say: what two fields say of each other.
func (d Recipe) check() error {
	sum := 0.0
	for i, p := range d.Pours {
		sum += p.WaterG
		if i > 0 && p.StartS < d.Pours[i-1].StartS {
			return &units.ValueError{At: Path(fmt.Sprintf("pours[%d].start_s", i)), Err: ErrOrder}
		}
	}
	const slack = 0.5 // g
	if math.Abs(sum-d.WaterG) > slack {
		return &units.ValueError{At: Path("water_g"), Err: fmt.Errorf("%w: it is %s g, they give %s g", ErrTotal, units.Trim(d.WaterG, 1), units.Trim(sum, 1))}
	}
	if d.Kettle != nil && d.Kettle.Readings != nil {
		if err := d.Kettle.gear().Readings.Check(); err != nil {
			return &units.ValueError{At: Path("kettle.readings"), Err: err}
		}
	}
	return nil
}

// Served returns a *units.ValueError where there is more ice than water is poured onto it:
// the model can brew that, and nobody drinks it.
func (d Recipe) Served() error {
	if d.Ice != nil && d.Ice.MassG > d.WaterG {
		return &units.ValueError{At: Path("ice.mass_g"), Err: fmt.Errorf("%w: %s g onto %s g", ErrIce, units.Trim(d.Ice.MassG, 0), units.Trim(d.WaterG, 0))}
	}
	return nil
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
		out := append([]any(nil), k...)
		for i := range min(len(r), len(out)) {
			out[i] = merge(r[i], out[i])
		}
		return out
	default:
		return known
	}
}
