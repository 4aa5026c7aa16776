// Package exchange reads and writes the product's open formats.
package exchange

import (
	"bytes"
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

// The format and version that this package reads and writes.
const (
	RecipeFormat  = "yardbloom-recipe"
	RecipeVersion = 3
)

// Recipe is the document of a recipe with its coffee and gear, described by schema/recipe.v3.schema.json.
// Field names carry the unit.
type Recipe struct {
	Format   string         `json:"format"`
	Version  int            `json:"version"`
	Name     string         `json:"name,omitempty"`
	Coffee   Coffee         `json:"coffee"`
	Brewer   Brewer         `json:"brewer"`
	Grinder  Grinder        `json:"grinder"`
	Kettle   *Kettle        `json:"kettle,omitempty"` // default: one with a thermostat
	Second   *Kettle        `json:"second_kettle,omitempty"`
	Style    string         `json:"style,omitempty"`
	DoseG    float64        `json:"dose_g"`
	WaterG   float64        `json:"water_g"` // all pours together
	GrindUM  float64        `json:"grind_um"`
	Rinse    bool           `json:"rinse"`
	Bed      float64        `json:"bed,omitempty"`    // unevenness of the dry bed: 0 levelled, 1 heaped
	RoomC    *units.Celsius `json:"room_c,omitempty"` // default: 21
	Pours    []Pour         `json:"pours"`
	First    string         `json:"first,omitempty"` // what goes in first: coffee (the default) or water
	CrustS   float64        `json:"crust_s,omitempty"`
	ReleaseS float64        `json:"release_s,omitempty"`
	AimS     float64        `json:"aim_s,omitempty"`
	Carafe   *Carafe        `json:"carafe,omitempty"`
	Ice      *Ice           `json:"ice,omitempty"`
	Dilution *Dilution      `json:"dilution,omitempty"`
	Screen   bool           `json:"screen,omitempty"`    // a dispersing screen on the bed
	Reheat   bool           `json:"reheat,omitempty"`    // a kettle without a thermostat is put back on the heat between the pours
	DiscardG float64        `json:"discard_g,omitempty"` // first part of the brew, which does not go into the cup
	CutAtG   float64        `json:"cut_at_g,omitempty"`  // brew in the carafe at which the brewer is lifted off
	GlassIce float64        `json:"glass_ice_g,omitempty"`

	// unknown holds the fields of a read document that this version does not know. Write includes them
	// unchanged.
	unknown map[string]any
}

// Coffee holds the properties of a bag that the model uses.
type Coffee struct {
	Name    string `json:"name,omitempty"`
	Roast   string `json:"roast,omitempty"` // light, medium-light, medium, medium-dark, dark
	Process string `json:"process,omitempty"`
	AgeDays *int   `json:"age_days,omitempty"` // since roast; unknown if missing
}

// Brewer is a brewer by kind, material and size.
type Brewer struct {
	Kind     gear.BrewerKind `json:"kind"`
	Material gear.Material   `json:"material"`
	Filter   gear.FilterKind `json:"filter"`
	HoldsG   float64         `json:"holds_g"`
	Ribs     gear.Ribs       `json:"ribs,omitempty"`
	Outlets  gear.Outlets    `json:"outlets,omitempty"`
}

// Grinder is a grinder by its burrs and dial.
type Grinder struct {
	Burrs gear.Burrs `json:"burrs"`
	Dial  *Dial      `json:"dial,omitempty"`
	LossG float64    `json:"loss_g,omitempty"`
}

// Dial is a grinder's dial.
type Dial struct {
	Kind    gear.DialKind `json:"kind"`
	ZeroUM  float64       `json:"zero_um"`
	StepUM  float64       `json:"step_um,omitempty"` // 0 or missing: no dial
	Mark    float64       `json:"mark,omitempty"`
	PerTurn int           `json:"per_turn,omitempty"`
}

// Kettle is the kettle. Without a thermostat it cools from the first pour on, and the temperatures of later
// pours are ignored.
type Kettle struct {
	Thermostat bool      `json:"thermostat"`
	HoldsG     float64   `json:"holds_g,omitempty"`
	Readings   *Readings `json:"readings,omitempty"`
}

// Readings are two temperatures of a cooling kettle; a rule of thumb is used without them.
type Readings struct {
	WaterG  float64 `json:"water_g"`
	FirstC  float64 `json:"first_c"`
	SecondC float64 `json:"second_c"`
	ApartS  float64 `json:"apart_s"`
}

// Carafe is the carafe; the default is a glass one warmed by the rinse.
type Carafe struct {
	Material gear.Material  `json:"material"`
	Celsius  *units.Celsius `json:"celsius,omitempty"` // default: the room's
}

// Ice is the ice in the carafe.
type Ice struct {
	MassG        float64  `json:"mass_g"`
	TemperatureC float64  `json:"temperature_c"`
	Wet          float64  `json:"wet,omitempty"`      // share of the ice that is already water
	WantedC      *float64 `json:"wanted_c,omitempty"` // asks for the amount of ice that just melts when the brew cools to this
}

// Dilution is water added to the cup.
type Dilution struct {
	WaterG       float64 `json:"water_g"`
	TemperatureC float64 `json:"temperature_c"`
}

// How a pour starts.
const (
	ByClock   = "clock"
	ByDrained = "drained" // when the water of the previous pour has reached the bed
	ByDrips   = "drips"   // when the stream of the previous pour has turned to drips
)

// Pour is one pour.
type Pour struct {
	Bloom        bool              `json:"bloom,omitempty"`
	WaterG       float64           `json:"water_g"`
	StartS       float64           `json:"start_s"`
	When         string            `json:"when,omitempty"` // default: by the clock
	RateGS       float64           `json:"rate_g_s"`
	TemperatureC float64           `json:"temperature_c"`
	Height       string            `json:"height,omitempty"`  // low, mid, high
	Pattern      recipe.Pattern    `json:"pattern,omitempty"` // default: a spiral
	Then         recipe.HandAction `json:"then,omitempty"`    // hand action after the pour
	Level        float64           `json:"level,omitempty"`   // share of the height from outlet to rim to which water_g fills it
	Kettle       int               `json:"kettle,omitempty"`  // 2: the second kettle
}

// The errors of a document, other than those of single values.
var (
	ErrNotJSON = errors.New("it is not JSON")
	ErrFormat  = errors.New("it is another kind of file")
	ErrVersion = errors.New("is not a known version of the format")
	ErrOrder   = errors.New("it comes before the pour above it")
	ErrTotal   = errors.New("the pours do not add up to it")
	ErrValue   = errors.New("is not a valid value")
	ErrSize    = errors.New("it is larger than a megabyte")
	ErrSecond  = errors.New("there is no second kettle")
	ErrIce     = errors.New("there is more ice than poured water")
)

// ReadRecipe reads a recipe. The error of an invalid document is a *units.ValueError at the path of the
// first invalid field.
func ReadRecipe(r io.Reader) (Recipe, error) {
	var doc Recipe
	b, err := readHead(r, RecipeFormat, RecipeVersion)
	if err != nil {
		return doc, err
	}
	if err := json.Unmarshal(b, &doc.unknown); err != nil {
		return doc, &units.ValueError{At: Path("document"), Err: ErrNotJSON}
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

// maxBytes is the maximum size of a document.
const maxBytes = 1 << 20

// byteOrderMark begins the files of some editors.
var byteOrderMark = []byte("\xef\xbb\xbf")

// readHead reads a document of at most a megabyte and checks that it is JSON of a format and
// version.
func readHead(r io.Reader, format string, version int) (text []byte, err error) {
	if text, err = io.ReadAll(io.LimitReader(r, maxBytes+1)); err != nil {
		return nil, fmt.Errorf("read %s: %w", format, err)
	}
	if len(text) > maxBytes {
		return nil, &units.ValueError{At: Path("document"), Err: ErrSize}
	}
	text = Current(bytes.TrimPrefix(text, byteOrderMark))
	var head struct {
		Format  string `json:"format"`
		Version any    `json:"version"`
	}
	if err := json.Unmarshal(text, &head); err != nil {
		return nil, &units.ValueError{At: Path("document"), Typed: units.Shorten(firstLine(text)), Err: ErrNotJSON}
	}
	v, _ := head.Version.(float64)
	switch {
	case head.Format != format:
		return nil, &units.ValueError{At: Path("format"), Typed: head.Format, Err: ErrFormat}
	case v != float64(version):
		return nil, &units.ValueError{At: Path("version"), Typed: fmt.Sprint(head.Version), Err: ErrVersion}
	}
	return text, nil
}

// firstLine returns the beginning of a text, for an error message.
func firstLine(text []byte) string {
	line, _, _ := strings.Cut(strings.TrimSpace(string(text)), "\n")
	return strings.ToValidUTF8(strings.TrimSpace(line), "")
}

// check returns the first inconsistency between fields, which the schema cannot express.
func (d Recipe) check() error {
	sum := 0.0
	for i, p := range d.Pours {
		sum += p.WaterG
		if i > 0 && p.StartS < d.Pours[i-1].StartS {
			return &units.ValueError{At: Path(fmt.Sprintf("pours[%d].start_s", i)), Err: ErrOrder}
		}
		if p.Kettle == secondKettle && d.Second == nil {
			return &units.ValueError{At: Path(fmt.Sprintf("pours[%d].kettle", i)), Err: ErrSecond}
		}
	}
	const slack = 0.5 // g
	if math.Abs(sum-d.WaterG) > slack {
		return &units.ValueError{At: Path("water_g"), Err: fmt.Errorf("%w: it is %s g, they give %s g", ErrTotal, units.Trim(d.WaterG, 1),
			units.Trim(sum, 1))}
	}
	for name, k := range map[string]*Kettle{"kettle": d.Kettle, "second_kettle": d.Second} {
		if k == nil || k.Readings == nil {
			continue
		}
		if err := k.gear().CoolingReadings.Check(); err != nil {
			return &units.ValueError{At: Path(name + ".readings"), Err: err}
		}
	}
	return nil
}

// CheckIce returns a *units.ValueError if there is more ice than poured water. The model can brew that, but
// it makes no sensible drink.
func (d Recipe) CheckIce() error {
	if d.Ice != nil && d.Ice.MassG > d.WaterG {
		return &units.ValueError{At: Path("ice.mass_g"), Err: fmt.Errorf("%w: %s g onto %s g", ErrIce, units.Trim(d.Ice.MassG, 0),
			units.Trim(d.WaterG, 0))}
	}
	return nil
}

// Write writes a recipe as indented JSON, including the unknown fields of a read document.
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

// merge returns read with the values of known, recursively.
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
