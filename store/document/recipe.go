package document

import (
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// Recipe is the stored form of a recipe.Recipe.
type Recipe struct {
	V        int       `json:"v"`
	Style    string    `json:"style"`
	Dose     float64   `json:"dose_g"`
	Grind    float64   `json:"grind_um"`
	Rinse    bool      `json:"rinse"`
	Pours    []Pour    `json:"pours"`
	First    string    `json:"first,omitempty"` // "water" if it goes in before the coffee
	Crust    float64   `json:"crust_s,omitempty"`
	Release  float64   `json:"release_s,omitempty"`
	Aim      float64   `json:"aim_s,omitempty"`
	Carafe   string    `json:"carafe,omitempty"` // material; default glass
	Ice      *Ice      `json:"ice,omitempty"`
	Dilution *Dilution `json:"dilution,omitempty"`
	Screen   bool      `json:"screen,omitempty"`
	Reheat   bool      `json:"reheat,omitempty"`
	Discard  float64   `json:"discard_g,omitempty"`
	CutAt    float64   `json:"cut_at_g,omitempty"`
	GlassIce float64   `json:"glass_ice_g,omitempty"`
}

// Pour is the stored form of a recipe.Pour.
type Pour struct {
	Bloom       bool    `json:"bloom,omitempty"`
	Water       float64 `json:"water_g"`
	Start       float64 `json:"start_s"`
	WhenDrained bool    `json:"when_drained,omitempty"`
	ToDrips     bool    `json:"to_drips,omitempty"` // with WhenDrained: when the stream has turned to drips
	Rate        float64 `json:"rate_g_s"`
	Height      string  `json:"height"`
	Pattern     string  `json:"pattern"`
	Temperature float64 `json:"temperature_c"`
	Then        string  `json:"then,omitempty"`
	Pinned      bool    `json:"pinned,omitempty"`
	Level       float64 `json:"level,omitempty"`  // share of the height from outlet to rim
	Second      bool    `json:"second,omitempty"` // from the second kettle
}

// Ice is the stored form of a recipe.Ice.
type Ice struct {
	Mass        float64 `json:"mass_g"`
	Temperature float64 `json:"temperature_c"`
	Wet         float64 `json:"wet"`
}

// Dilution is the stored form of a recipe.Dilution.
type Dilution struct {
	Water       float64 `json:"water_g"`
	Temperature float64 `json:"temperature_c"`
}

const waterFirst = "water"

// OfRecipe returns the document of a recipe.
func OfRecipe(r recipe.Recipe) Recipe {
	d := Recipe{V: Version, Style: string(r.Style), Dose: float64(r.Dose), Grind: float64(r.Grind), Rinse: r.Rinse,
		Crust: float64(r.Crust), Release: float64(r.Release), Aim: float64(r.Aim), Carafe: string(r.Carafe),
		Pours: make([]Pour, len(r.Pours)), Screen: r.Screen, Reheat: r.Reheat, Discard: float64(r.Discard), CutAt: float64(r.CutAt),
		GlassIce: float64(r.GlassIce)}
	for i, p := range r.Pours {
		d.Pours[i] = Pour{p.Bloom, float64(p.Water), float64(p.Start), p.Cue.ByEye(), p.Cue == recipe.ForDrips, p.Rate, p.Height.String(), string(p.Pattern),
			float64(p.Temperature), string(p.Then), p.Pinned, p.Level, p.Second}
	}
	if r.WaterFirst {
		d.First = waterFirst
	}
	if r.Ice != (recipe.Ice{}) {
		d.Ice = &Ice{float64(r.Ice.Mass), float64(r.Ice.Temperature), r.Ice.Wet}
	}
	if r.Dilution != (recipe.Dilution{}) {
		d.Dilution = &Dilution{float64(r.Dilution.Water), float64(r.Dilution.Temperature)}
	}
	return d
}

// Core returns the recipe of a document.
func (d Recipe) Core() recipe.Recipe {
	r := recipe.Recipe{Style: recipe.StyleID(d.Style), Dose: units.Grams(d.Dose), Grind: units.Micrometres(d.Grind), Rinse: d.Rinse,
		WaterFirst: d.First == waterFirst, Crust: units.Seconds(d.Crust), Release: units.Seconds(d.Release), Aim: units.Seconds(d.Aim),
		Carafe: gear.Material(d.Carafe), Screen: d.Screen, Reheat: d.Reheat, Discard: units.Grams(d.Discard), CutAt: units.Grams(d.CutAt),
		GlassIce: units.Grams(d.GlassIce)}
	for _, p := range d.Pours {
		r.Pours = append(r.Pours, recipe.Pour{Bloom: p.Bloom, Water: units.Grams(p.Water), Start: units.Seconds(p.Start),
			Cue: cue(p.WhenDrained, p.ToDrips), Rate: p.Rate,
			Height: height(p.Height), Pattern: recipe.Pattern(p.Pattern), Temperature: units.Celsius(p.Temperature),
			Then: recipe.HandAction(p.Then), Pinned: p.Pinned, Level: p.Level, Second: p.Second})
	}
	if d.Ice != nil {
		r.Ice = recipe.Ice{Mass: units.Grams(d.Ice.Mass), Temperature: units.Celsius(d.Ice.Temperature), Wet: d.Ice.Wet}
	}
	if d.Dilution != nil {
		r.Dilution = recipe.Dilution{Water: units.Grams(d.Dilution.Water), Temperature: units.Celsius(d.Dilution.Temperature)}
	}
	return r
}

// cue returns the cue of two stored fields: every wait for the drips is one for the bed too, so that a version that does not know
// the second still starts by eye.
func cue(drained, drips bool) recipe.Cue {
	switch {
	case drips:
		return recipe.ForDrips
	case drained:
		return recipe.ForBed
	}
	return recipe.ForTime
}

// height parses a height; unknown ones become mid.
func height(name string) recipe.Height {
	if h, ok := recipe.ParseHeight(name); ok {
		return h
	}
	return recipe.Mid
}
