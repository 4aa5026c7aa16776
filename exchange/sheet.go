package exchange

import (
	"cmp"
	"errors"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/coffee"
	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// FromSheet returns the document of a sheet's recipe, with its coffee and gear.
func FromSheet(s brew.Sheet, now time.Time) Recipe {
	r, g := s.Recipe, s.Gear
	d := Recipe{Format: RecipeFormat, Version: RecipeVersion, Name: s.Bag.Name, Style: string(r.Style), DoseG: float64(r.Dose),
		WaterG: float64(r.Water()), GrindUM: float64(r.Grind), Rinse: r.Rinse,
		CrustS: float64(r.Crust), ReleaseS: float64(r.Release), AimS: float64(r.Aim),
		Screen: r.Screen, Reheat: r.Reheat, DiscardG: float64(r.Discard), CutAtG: float64(r.CutAt), GlassIce: float64(r.GlassIce),
		Coffee: Coffee{Name: s.Bag.Name, Process: string(s.Bag.Process)},
		Brewer: Brewer{g.Brewer.Kind, g.Brewer.Material, g.Brewer.Filter, float64(g.Brewer.Holds),
			g.Brewer.Ribs, g.Brewer.Outlets},
		Grinder: Grinder{Burrs: g.Grinder.Burrs, LossG: float64(g.Grinder.Loss)}, Kettle: fromKettle(g.Kettle)}
	if s.Bag.Roast != coffee.RoastUnknown {
		d.Coffee.Roast = s.Bag.Roast.String()
	}
	if dial := g.Grinder.Dial; dial != (gear.Dial{}) {
		d.Grinder.Dial = &Dial{dial.Kind, float64(dial.Zero), float64(dial.Step), dial.Mark, dial.PerTurn}
	}
	if days, known := s.Bag.Age(now); known && days >= 0 {
		d.Coffee.AgeDays = &days
	}
	if g.Second.ID != "" {
		d.Second = fromKettle(g.Second)
	}
	for _, p := range r.Pours {
		pour := Pour{Bloom: p.Bloom, WaterG: float64(p.Water), StartS: float64(p.Start), RateGS: p.Rate,
			TemperatureC: float64(p.Temperature), Height: p.Height.String(), Pattern: p.Pattern, Then: p.Then}
		pour.When, pour.Level = whens[p.Cue], p.Level
		if p.Second && g.Second.ID != "" {
			pour.Kettle = secondKettle
		}
		d.Pours = append(d.Pours, pour)
	}
	if r.Carafe != "" {
		q := s.Question(now)
		warm := q.Brew().Below.Warm
		d.Carafe = &Carafe{r.Carafe, &warm}
	}
	if r.WaterFirst {
		d.First = waterFirst
	}
	if r.Ice.Mass > 0 {
		d.Ice = &Ice{MassG: float64(r.Ice.Mass), TemperatureC: float64(r.Ice.Temperature), Wet: r.Ice.Wet}
	}
	if r.Dilution.Water > 0 {
		d.Dilution = &Dilution{float64(r.Dilution.Water), float64(r.Dilution.Temperature)}
	}
	return d
}

// secondKettle is the number of the second kettle in a file.
const secondKettle = 2

const waterFirst = "water"

func fromKettle(k gear.Kettle) *Kettle {
	out := &Kettle{Thermostat: k.Thermostat, HoldsG: float64(k.Capacity)}
	if k.Taken() {
		out.Readings = &Readings{float64(k.CoolingReadings.Water), float64(k.First), float64(k.Second), float64(k.Apart)}
	}
	return out
}

func (k *Kettle) gear() gear.Kettle {
	if k == nil {
		return gear.Kettle{Thermostat: true, Name: "the kettle"}
	}
	out := gear.Kettle{Thermostat: k.Thermostat, Capacity: units.Grams(k.HoldsG), Name: "the kettle"}
	if r := k.Readings; r != nil {
		out.CoolingReadings = gear.CoolingReadings{Water: units.Grams(r.WaterG), First: units.Celsius(r.FirstC), Second: units.Celsius(r.SecondC),
			Apart: units.Seconds(r.ApartS)}
	}
	return out
}

// Sheet returns the sheet of a document, with its coffee and gear. now dates the coffee, of which the
// document has the age.
func (d Recipe) Sheet(now time.Time) brew.Sheet {
	s := brew.Sheet{Bag: coffee.Bag{Name: cmp.Or(d.Coffee.Name, d.Name), Process: coffee.Process(d.Coffee.Process)},
		Gear: gear.Set{Boiling: gear.Boiling(0), Kettle: d.Kettle.gear(),
			Brewer: gear.Brewer{Kind: d.Brewer.Kind, Material: d.Brewer.Material, Filter: d.Brewer.Filter,
				Holds: units.Grams(d.Brewer.HoldsG), Ribs: d.Brewer.Ribs, Outlets: d.Brewer.Outlets,
				Retained: gear.DefaultRetained},
			Grinder: gear.Grinder{Burrs: d.Grinder.Burrs, Loss: units.Grams(d.Grinder.LossG)}}}
	if dial := d.Grinder.Dial; dial != nil {
		s.Gear.Grinder.Dial = gear.Dial{Kind: dial.Kind, Zero: units.Micrometres(dial.ZeroUM), Step: units.Micrometres(dial.StepUM),
			Mark: dial.Mark, PerTurn: dial.PerTurn}
	}
	for _, r := range coffee.Roasts() {
		if r.String() == d.Coffee.Roast {
			s.Bag.Roast = r
		}
	}
	if d.Coffee.AgeDays != nil {
		s.Bag.RoastedOn = now.AddDate(0, 0, -*d.Coffee.AgeDays).Format(coffee.Day)
	}
	if d.Second != nil {
		s.Gear.Second = d.Second.gear()
		s.Gear.Second.ID, s.Gear.Second.Name = "second", "the second kettle"
	}
	s.Recipe = d.recipe()
	return s
}

// whens holds the words of a file for the start of a pour.
var whens = map[recipe.Cue]string{recipe.ForBed: ByDrained, recipe.ForDrips: ByDrips}

func cueOf(when string) recipe.Cue {
	for cue, word := range whens {
		if word == when {
			return cue
		}
	}
	return recipe.ForTime
}

func (d Recipe) recipe() recipe.Recipe {
	r := recipe.Recipe{Style: recipe.StyleID(d.Style), Dose: units.Grams(d.DoseG), Grind: units.Micrometres(d.GrindUM), Rinse: d.Rinse,
		WaterFirst: d.First == waterFirst, Crust: units.Seconds(d.CrustS), Release: units.Seconds(d.ReleaseS), Aim: units.Seconds(d.AimS),
		Screen: d.Screen, Reheat: d.Reheat, Discard: units.Grams(d.DiscardG), CutAt: units.Grams(d.CutAtG),
		GlassIce: units.Grams(d.GlassIce)}
	for _, p := range d.Pours {
		pour := recipe.Pour{Bloom: p.Bloom, Water: units.Grams(p.WaterG), Start: units.Seconds(p.StartS), Cue: cueOf(p.When),
			Rate: p.RateGS, Height: recipe.Mid,
			Pattern: p.Pattern, Temperature: units.Celsius(p.TemperatureC), Then: p.Then,
			Level: p.Level, Second: p.Kettle == secondKettle}
		if h, ok := recipe.ParseHeight(p.Height); ok {
			pour.Height = h
		}
		if pour.Pattern == "" {
			pour.Pattern = recipe.Spiral
		}
		r.Pours = append(r.Pours, pour)
	}
	if d.Carafe != nil {
		r.Carafe = d.Carafe.Material
	}
	if d.Ice != nil {
		r.Ice = recipe.Ice{Mass: units.Grams(d.Ice.MassG), Temperature: units.Celsius(d.Ice.TemperatureC), Wet: d.Ice.Wet}
	}
	if d.Dilution != nil {
		r.Dilution = recipe.Dilution{Water: units.Grams(d.Dilution.WaterG), Temperature: units.Celsius(d.Dilution.TemperatureC)}
	}
	return r
}

// Question returns the question to the brew model for the document's recipe.
func (d Recipe) Question(now time.Time) forecast.Question {
	q := d.Sheet(now).Question(now)
	q.Room, q.Bed = d.RoomC, d.Bed
	if d.Carafe != nil {
		q.Carafe, q.CarafeWarm = d.Carafe.Material, d.Carafe.Celsius
		if q.CarafeWarm == nil {
			room := q.Air()
			q.CarafeWarm = &room
		}
	}
	return q
}

// A Path is a place in a file, such as pours[1].water_g.
type Path string

// String returns the path.
func (p Path) String() string { return string(p) }

// paths maps values that the model refuses, and that have no address on a recipe, to paths in a file.
var paths = map[string]Path{
	"ambient": "room_c", "bed": "bed", "kettle.water": "kettle.holds_g", "kettle.rate": "kettle.readings",
	"second.water": "second_kettle.holds_g", "second.rate": "second_kettle.readings", "below.warm": "carafe.celsius",
	"below.ice.mass":    "ice.mass_g",
	"below.ice.celsius": "ice.temperature_c", "below.ice.wet": "ice.wet", "below.dilution": "dilution.water_g",
	"below.discard": "discard_g", "below.cutat": "cut_at_g",
	"below.added": "dilution.temperature_c",
}

// WithPath adds the path in a file to the error of a value that cannot be brewed. It returns other errors
// unchanged.
func WithPath(err error) error {
	var wrong *units.ValueError
	if !errors.As(err, &wrong) {
		return err
	}
	out := *wrong
	switch at := wrong.At.(type) {
	case recipe.Address:
		out.At = Path(at.Path())
	case units.Place:
		if path, ok := paths[at.Name]; ok {
			out.At = path
		}
	}
	return &out
}
