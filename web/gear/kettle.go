package gear

import (
	"context"
	"fmt"

	"yardbloom/core/gear"
	"yardbloom/core/units"
	"yardbloom/web/form"
	"yardbloom/web/words"
)

var (
	spoutRange   = units.Range{Lo: 2, Hi: 40}
	readingRange = units.Range{Lo: 20, Hi: 100}
	apartRange   = units.Range{Lo: 20, Hi: 3600}
)

func listKettles(s *Screens, ctx context.Context, p units.Prefs) ([]gearItem, error) {
	all, err := s.yard.Store.Kettles(ctx)
	var out []gearItem
	for _, k := range all {
		about := "holds " + p.Unit(units.Water).Format(float64(k.Capacity))
		if k.Thermostat {
			about = "thermostat, " + about
		} else {
			by := "by a rule of thumb"
			if k.Taken() {
				by = "by its own two readings"
			}
			loses := p.Unit(units.Temperature).Size(float64(k.NearBoil()))
			about = fmt.Sprintf("no thermostat, %s, loses about %s a minute near the boil with half a litre in it (%s)", about, loses, by)
		}
		if k.Spout > 0 {
			about += ", pours up to " + p.Unit(units.Rate).Format(k.Spout)
		}
		out = append(out, gearItem{k.ID, k.Name, about})
	}
	return out, err
}

func fillKettle(s *Screens, ctx context.Context, n string, p units.Prefs) (*form.Form, error) {
	k := gear.Kettle{Thermostat: true, Capacity: 900}
	var err error
	if n != "" {
		k, err = s.yard.Store.Kettle(ctx, n)
	}
	f, t := form.New(), p.Unit(units.Temperature)
	f.Values = map[string]string{"name": k.Name, "capacity": p.Unit(units.Water).Number(float64(k.Capacity)),
		"thermostat": map[bool]string{true: "yes", false: "no"}[k.Thermostat]}
	if k.Spout > 0 {
		f.Values["spout"] = p.Unit(units.Rate).Number(k.Spout)
	}
	if k.Taken() {
		f.Values["read_water"], f.Values["read_apart"] = p.Unit(units.Water).Number(float64(k.CoolingReadings.Water)), k.Apart.String()
		f.Values["read_first"], f.Values["read_second"] = t.Number(float64(k.First)), t.Number(float64(k.Second))
	}
	return f, err
}

func kettleFields(f *form.Form, p units.Prefs) []form.Field {
	water, t := p.Unit(units.Water), p.Unit(units.Temperature)
	spout := f.Stepper("spout", "Pours up to", p.Unit(units.Rate))
	spout.Hint = "Pour as fast as you can onto a scale for 10 s, and divide by ten. Leave it empty if unknown."
	first := f.Stepper("read_first", "First reading", t)
	first.Hint = "Only without a thermostat: boil it, open the lid, take it off the heat, and read it twice, some minutes apart. " +
		"Boiling water and steam burn."
	apart := f.Stepper("read_apart", "Time between them", form.Clock)
	apart.Hint = "Five minutes are enough. The wait off the boil and the temperature of each pour are calculated from these."
	return []form.Field{f.Entry("name", "Name"), form.Select(f, "thermostat", "Thermostat", []string{"yes", "no"}, form.Plain),
		f.Stepper("capacity", "Holds", water), spout,
		first, f.Stepper("read_second", "Second reading", t), apart, f.Stepper("read_water", "Water in it at that time", water)}
}

func saveKettle(s *Screens, ctx context.Context, n string, f *form.Form, p units.Prefs, version int64) error {
	k := gear.Kettle{ID: n, Name: f.Text("name", "The name", 60, true),
		Thermostat: form.Choice(f, "thermostat", "Thermostat", []string{"yes", "no"}) == "yes",
		Capacity:   units.Grams(f.Quantity("capacity", "The kettle", p.Unit(units.Water), gear.HoldsRange, true)),
		Spout:      f.Quantity("spout", "The stream", p.Unit(units.Rate), spoutRange, false)}
	k.CoolingReadings = readReadings(f, p)
	if !f.OK() {
		return nil
	}
	return s.yard.Store.SaveKettle(ctx, k, version)
}

// readReadings parses the two readings of a kettle: all four figures or none.
func readReadings(f *form.Form, p units.Prefs) gear.CoolingReadings {
	names := []string{"read_first", "read_second", "read_apart", "read_water"}
	given := 0
	for _, name := range names {
		if f.Values[name] != "" {
			given++
		}
	}
	if given == 0 {
		return gear.CoolingReadings{}
	}
	for _, name := range names {
		if f.Values[name] == "" {
			f.Fail(name, "Two readings need both temperatures, the time between them and the water. Fill this in, or empty the other three.")
		}
	}
	water, t := p.Unit(units.Water), p.Unit(units.Temperature)
	r := gear.CoolingReadings{First: units.Celsius(f.Quantity("read_first", "A reading", t, readingRange, false)),
		Second: units.Celsius(f.Quantity("read_second", "A reading", t, readingRange, false)),
		Apart:  units.Seconds(f.Quantity("read_apart", "The time between them", form.Clock, apartRange, false)),
		Water:  units.Grams(f.Quantity("read_water", "The water", water, gear.HoldsRange, false))}
	if !f.OK() {
		return r
	}
	if err := r.Check(); err != nil {
		f.Fail("read_second", "%s", words.Sentence(err))
	}
	return r
}
