package exchange

import (
	"errors"
	"fmt"
	"math"
	"strings"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/coffee"
	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/sim"
	"yardbloom/core/units"
)

// FromBrew is the recipe of a brew, with the gear it is made with.
func FromBrew(b brew.Brew, now time.Time) Recipe {
	d := Recipe{Format: RecipeFormat, Version: RecipeVersion, Name: b.Bag.Name, DoseG: float64(b.Recipe.Dose), GrindUM: float64(b.Recipe.Grind), Rinse: b.Recipe.Rinse,
		Coffee:  Coffee{Roast: b.Bag.Roast.String(), Process: string(b.Bag.Process)},
		Brewer:  Brewer{b.Gear.Brewer.Kind, b.Gear.Brewer.Material, b.Gear.Brewer.Filter, float64(b.Gear.Brewer.Holds)},
		Grinder: Grinder{b.Gear.Grinder.Burrs}, Kettle: fromKettle(b.Gear.Kettle)}
	if days, known := b.Bag.Age(now); known {
		d.Coffee.AgeDays = &days
	}
	for _, s := range forecast.Schedule(b, now).Steps {
		step := Step{Do: s.Act, AtS: float64(s.Start), WaterG: float64(s.Water), RateGS: s.Rate, Pattern: s.Pattern, Then: s.Then}
		if s.Act == recipe.Pour {
			step.Height, step.TemperatureC = s.Height.String(), float64(s.Temperature)
		}
		if s.WhenDrained {
			step.When = ByDrained
		}
		d.Steps = append(d.Steps, step)
	}
	return d
}

func fromKettle(k gear.Kettle) *Kettle {
	out := &Kettle{Thermostat: k.Thermostat, HoldsG: float64(k.Capacity)}
	if k.Taken() {
		out.Readings = &Readings{float64(k.Readings.Water), float64(k.First), float64(k.Second), float64(k.Apart)}
	}
	return out
}

func (k *Kettle) gear() gear.Kettle {
	if k == nil {
		return gear.Kettle{Thermostat: true}
	}
	out := gear.Kettle{Thermostat: k.Thermostat, Capacity: units.Grams(k.HoldsG), Name: "the kettle"}
	if r := k.Readings; r != nil {
		out.Readings = gear.Readings{Water: units.Grams(r.WaterG), First: units.Celsius(r.FirstC), Second: units.Celsius(r.SecondC), Apart: units.Seconds(r.ApartS)}
	}
	return out
}

// check finds a size that no brewer has; a usual one where none is given.
func (b Brewer) check() error {
	if r := gear.HoldsRange; b.HoldsG != 0 && (b.HoldsG < r.Lo || b.HoldsG > r.Hi) {
		return &FieldError{"brewer.holds_g", fmt.Sprintf("it is %s; a brewer can hold %.0f to %.0f g.", units.Trim(b.HoldsG, 3), r.Lo, r.Hi)}
	}
	return nil
}

func (k *Kettle) check() error {
	if k == nil || k.Thermostat {
		return nil
	}
	if least := gear.HoldsRange.Lo; k.HoldsG < least {
		return &FieldError{"kettle.holds_g", fmt.Sprintf("a kettle without a thermostat cools by what is in it: give what it holds, at least %.0f g.", least)}
	}
	if k.Readings == nil {
		return nil
	}
	if k.Readings.WaterG <= 0 || k.Readings.ApartS <= 0 {
		return &FieldError{"kettle.readings", "two readings need the water in it and the time between them."}
	}
	if err := k.gear().Readings.Check(); err != nil {
		return &FieldError{"kettle.readings", err.Error()}
	}
	return nil
}

func (b *Below) sim(room units.Celsius) *sim.Below {
	if b == nil {
		return nil
	}
	out := sim.Carafes[b.Carafe]
	out.Warm = room
	if b.CarafeC != nil {
		out.Warm = *b.CarafeC
	}
	out.Ice = sim.Ice{Mass: units.Grams(b.IceG), Celsius: units.Celsius(b.IceC), Wet: b.IceWet}
	out.Dilution, out.Added = units.Grams(b.DilutionG), units.Celsius(b.DilutionC)
	return &out
}

// Question is what the brew model is to be asked for the recipe. now only dates the coffee's age.
func (d Recipe) Question(now time.Time) forecast.Question {
	roast, _ := d.roast() // checked when it was read
	q := forecast.Question{Now: now, Room: d.RoomC, Bed: d.Bed,
		Recipe: recipe.Recipe{Dose: units.Grams(d.DoseG), Grind: units.Micrometres(d.GrindUM), Rinse: d.Rinse},
		Bag:    coffee.Bag{Roast: roast, Process: coffee.Process(d.Coffee.Process)},
		Gear: brew.Gear{Brewer: gear.Brewer{Kind: d.Brewer.Kind, Material: d.Brewer.Material, Filter: d.Brewer.Filter, Holds: units.Grams(d.Brewer.HoldsG)},
			Grinder: gear.Grinder{Burrs: d.Grinder.Burrs}, Kettle: d.Kettle.gear()}}
	if d.Coffee.AgeDays != nil {
		q.Bag.RoastedOn = now.AddDate(0, 0, -*d.Coffee.AgeDays).Format(coffee.Day)
	}
	for _, s := range d.Steps {
		step := recipe.Step{Act: s.Do, Start: units.Seconds(s.AtS), Water: units.Grams(s.WaterG), Rate: s.RateGS, Temperature: units.Celsius(s.TemperatureC),
			Pattern: s.Pattern, Then: s.Then, Height: recipe.Mid, WhenDrained: s.When == ByDrained}
		if s.RateGS > 0 {
			step.Lasts = units.Seconds(math.Ceil(s.WaterG / s.RateGS))
		}
		if h, ok := recipe.ParseHeight(s.Height); ok {
			step.Height = h
		}
		if step.Act == recipe.Pour && q.Recipe.Temperature == 0 {
			q.Recipe.Temperature = step.Temperature
		}
		q.Recipe.Water += step.Water
		q.Steps = append(q.Steps, step)
	}
	q.Below = d.Below.sim(q.Air())
	return q
}

// fileNames are the names in a file of what the model refuses under names of its own.
var fileNames = map[string]string{
	"dose": "dose_g", "grind.median": "grind_um", "ambient": "room_c", "bed": "bed", "pours": "steps", "release": "steps", "water": "steps",
	"kettle.water": "kettle.holds_g", "kettle.rate": "kettle.readings", "below.warm": "below.carafe_c", "below.ice.mass": "below.ice_g",
	"below.ice.celsius": "below.ice_c", "below.ice.wet": "below.ice_wet", "below.dilution": "below.dilution_g", "below.added": "below.dilution_c",
}

var stepNames = map[string]string{"water": "water_g", "start": "at_s", "at": "at_s", "rate": "rate_g_s", "temperature": "temperature_c", "height": "height"}

// stepLists are what the model keeps apart and a file has in one list of steps.
var stepLists = map[string]recipe.Act{"pours": recipe.Pour, "hands": recipe.Stir}

// Explain turns what the model refuses into a *FieldError in the file's own
// terms. Other errors stay as they are.
func (d Recipe) Explain(err error) error {
	var refused *sim.FieldError
	if !errors.As(err, &refused) {
		return err
	}
	reason := fmt.Sprintf("it is %s; the model can speak for %s to %s.", units.Trim(refused.Value, 3), units.Trim(refused.Range.Lo, 3), units.Trim(refused.Range.Hi, 3))
	field := refused.Field
	for list, act := range stepLists {
		var n int
		if _, err := fmt.Sscanf(field, list+"[%d].", &n); err == nil {
			name := field[strings.Index(field, ".")+1:]
			return &FieldError{fmt.Sprintf("steps[%d].%s", d.step(act, n), stepNames[name]), reason}
		}
	}
	if name, ok := fileNames[field]; ok {
		field = name
	}
	if refused.Field == "water" {
		reason = "all pours together: " + reason
	}
	return &FieldError{field, reason}
}

// step is where the file has the act numbered n from nought.
func (d Recipe) step(act recipe.Act, n int) int {
	for i, s := range d.Steps {
		if s.Do != act {
			continue
		}
		if n == 0 {
			return i
		}
		n--
	}
	return 0
}
