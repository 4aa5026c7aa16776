package gear

import (
	"context"
	"errors"
	"fmt"
	"net/http"

	"yardbloom/core/units"
	"yardbloom/core/water"
	"yardbloom/web/form"
	"yardbloom/web/page"
	"yardbloom/web/words"
)

var (
	milligrams = units.Unit{Symbol: "mg/l", Scale: 1, Decimals: 0, Step: 10, Fine: 1}
	hundredths = units.Unit{Symbol: "g", Scale: 1, Decimals: 2, Step: 50, Fine: 5}
)

func listWaters(s *Screens, ctx context.Context, _ units.Prefs) ([]gearItem, error) {
	all, err := s.yard.Store.Waters(ctx)
	var out []gearItem
	for _, w := range all {
		out = append(out, gearItem{w.ID, w.Name, describeWater(w)})
	}
	return out, err
}

// describeWater describes a water's hardness and alkalinity, and their effect.
func describeWater(w water.Water) string {
	about := func(mg float64, known bool) string {
		if !known {
			return "about " + milligrams.Format(units.Round(mg, -1))
		}
		return milligrams.Format(mg)
	}
	return fmt.Sprintf("%s; hardness %s, alkalinity %s as CaCO₃%s. %s", w.Source, about(w.Hardness()), about(w.Alkalinity()), minerals(w),
		w.Describe())
}

// minerals describes the ratio of calcium to magnesium and the dissolved minerals.
func minerals(w water.Water) string {
	out := ""
	if ratio, known := w.Ratio(); known {
		out = fmt.Sprintf("; Ca : Mg %.1f : 1", ratio)
	}
	return out + fmt.Sprintf("; about %.0f ppm on a meter", units.Round(w.Dissolved(), -1))
}

func fillWater(s *Screens, ctx context.Context, n string, _ units.Prefs) (*form.Form, error) {
	w := water.Water{Source: water.Tap}
	var err error
	if n != "" {
		w, err = s.yard.Store.Water(ctx, n)
	}
	f := form.New()
	f.Values = map[string]string{"name": w.Name, "source": string(w.Source)}
	for name, mg := range map[string]float64{"hardness": w.TypedHardness, "alkalinity": w.TypedAlkalinity, "calcium": w.Calcium,
		"magnesium": w.Magnesium, "bicarbonate": w.Bicarbonate} {
		if mg > 0 || w.Known && (name == "hardness" || name == "alkalinity") {
			f.Values[name] = units.Trim(mg, 1)
		}
	}
	return f, err
}

func waterFields(f *form.Form, _ units.Prefs) []form.Field {
	source := form.Select(f, "source", "It is", water.Sources(), form.Plain)
	source.Hint = "Used as a guess if nothing else is filled in."
	hardness, alkalinity := f.Stepper("hardness", "Hardness, as CaCO₃", milligrams),
		f.Stepper("alkalinity", "Alkalinity, as CaCO₃", milligrams)
	hardness.Hint, alkalinity.Hint = "From a test strip or the supplier. One German degree is 17.8.",
		"Also called carbonate hardness or buffer."
	calcium := f.Stepper("calcium", "or calcium", milligrams)
	calcium.Hint = "Values from a label take priority over the two above."
	return []form.Field{f.Entry("name", "Name"), source, hardness, alkalinity, calcium, f.Stepper("magnesium", "magnesium", milligrams),
		f.Stepper("bicarbonate", "bicarbonate", milligrams)}
}

func saveWater(s *Screens, ctx context.Context, n string, f *form.Form, _ units.Prefs, version int64) error {
	mg := func(name, label string) float64 {
		return f.Quantity(name, label, milligrams, water.ContentRange, false)
	}
	w := water.Water{ID: n, Name: f.Text("name", "The name", 60, true), Source: form.Choice(f, "source", "what it is", water.Sources()),
		TypedHardness: mg("hardness", "The hardness"), TypedAlkalinity: mg("alkalinity", "The alkalinity"),
		Calcium: mg("calcium", "The calcium"), Magnesium: mg("magnesium", "The magnesium"),
		Bicarbonate: mg("bicarbonate", "The bicarbonate")}
	w.Known = f.Values["hardness"] != "" && f.Values["alkalinity"] != ""
	if !f.OK() {
		return nil
	}
	return s.yard.Store.SaveWater(ctx, w, version)
}

// waterBody is the page for mixing a water.
type waterBody struct {
	Fields   []form.Field
	Mix      []page.Fact
	Bottles  []page.Fact
	Says     string
	Cautions []string
}

// An alkalineSalt is a choice of salt for the alkaline concentrate, by its name in the form.
type alkalineSalt struct {
	name string
	salt water.Salt
}

var alkalineSalts = []alkalineSalt{{"soda", water.Soda}, {"potassium", water.Potassium}}

// mixWater computes a water from distilled water and two concentrates.
func (s *Screens) mixWater(w http.ResponseWriter, r *http.Request) error {
	f := form.New()
	for name, usual := range map[string]string{"hardness": "70", "alkalinity": "40", "amount": "2000", "salt": "soda"} {
		f.Values[name] = usual
		if q := r.URL.Query(); q.Has(name) {
			f.Values[name] = q.Get(name)
		}
	}
	hardness := f.Quantity("hardness", "The hardness", milligrams, water.MixHardness, true)
	alkalinity := f.Quantity("alkalinity", "The alkalinity", milligrams, water.MixAlkalinity, true)
	amount := f.Quantity("amount", "The water", hundredths, water.MixAmount, true)
	salt := alkalineSalts[0].salt
	for _, a := range alkalineSalts {
		if a.name == f.Values["salt"] {
			salt = a.salt
		}
	}
	body := waterBody{Cautions: water.Cautions}
	status := http.StatusUnprocessableEntity
	if f.OK() {
		status = http.StatusOK
		m, err := water.MixOf(hardness, alkalinity, units.Grams(amount), salt)
		var wrong *units.ValueError
		if errors.As(err, &wrong) {
			f.Fail(wrong.At.String(), "%s", words.InvalidValue(err, "It", milligrams))
		} else if err != nil {
			return err
		}
		grams := func(g units.Grams) string { return fmt.Sprintf("%.2f g", float64(g)) }
		body.Mix = []page.Fact{{Name: "Distilled water", Value: grams(m.Distilled)}, {Name: "Hard concentrate", Value: grams(m.Hard)},
			{Name: "Alkaline concentrate", Value: grams(m.Alkaline)}}
		for i, name := range []string{"Hard concentrate", "Alkaline concentrate"} {
			b := m.Bottles[i]
			body.Bottles = append(body.Bottles, page.Fact{Name: name,
				Value: fmt.Sprintf("%s of %s in %s of distilled water", grams(b.Weigh), b.Salt.Name, grams(b.Into))})
		}
		mixed := water.Water{Source: water.Mixed, TypedHardness: hardness, TypedAlkalinity: alkalinity, Known: true}
		body.Mix = append(body.Mix, page.Fact{Name: "Hardness and alkalinity", Value: fmt.Sprintf("%.0f and %.0f mg/l as CaCO₃", hardness, alkalinity)},
			page.Fact{Name: "Ca : Mg", Value: "magnesium only"},
			page.Fact{Name: "On a meter", Value: fmt.Sprintf("about %.0f ppm", units.Round(mixed.Dissolved(), -1))})
		body.Says = mixed.Describe()
	}
	body.Fields = []form.Field{f.Stepper("hardness", "Wanted hardness, as CaCO₃", milligrams),
		f.Stepper("alkalinity", "Wanted alkalinity, as CaCO₃", milligrams), f.Stepper("amount", "Amount of water", hundredths),
		form.Select(f, "salt", "Alkalinity from", alkalineSalts, func(a alkalineSalt) (string, string) { return a.name, a.salt.Name })}
	s.Render(w, r, status, "water", page.Page{Title: "Mix a water", Side: "gear", Line: page.Line(""), Body: body})
	return nil
}
