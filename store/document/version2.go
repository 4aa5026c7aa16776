package document

import (
	"math"
	"strconv"

	"yardbloom/core/brew"
	"yardbloom/core/coach"
	"yardbloom/core/coffee"
	"yardbloom/core/cup"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// Brew2 holds the documents of one brew as versions 1 and 2 wrote them, where one
// record went from the recipe to the cup. They are read once, by the migration.
type Brew2 struct {
	Recipe  Recipe2
	Plan    Plan2
	Bag     Bag2
	Gear    Gear2
	Asked   *Asked2
	Draft   DraftDoc2
	Checked []string
	Cup     Cup2
}

// Recipe2 is a recipe of version 2: figures from which a style made its pours.
type Recipe2 struct {
	Style       string  `json:"style"`
	Dose        float64 `json:"dose"`
	Water       float64 `json:"water"`
	Grind       float64 `json:"grind"`
	Temperature float64 `json:"temperature"`
	Bloom       float64 `json:"bloom"`
	BloomTime   float64 `json:"bloomTime"`
	Hand        string  `json:"hand"`
	Height      int     `json:"height"`
	Pours       int     `json:"pours"`
	Rate        float64 `json:"rate"`
	Gap         float64 `json:"gap"`
	WhenDrained bool    `json:"whenDrained"`
	Pattern     string  `json:"pattern"`
	Steep       float64 `json:"steep"`
	Rinse       bool    `json:"rinse"`
}

// Plan2 is a plan of version 2.
type Plan2 struct {
	Steps  []Step2 `json:"steps"`
	Finish float64 `json:"finish"`
	Window struct {
		From float64 `json:"from"`
		To   float64 `json:"to"`
	} `json:"window"`
}

// Step2 is a step of a plan of version 2.
type Step2 struct {
	Act         string  `json:"act"`
	Bloom       bool    `json:"bloom"`
	Start       float64 `json:"start"`
	Lasts       float64 `json:"lasts"`
	Water       float64 `json:"water"`
	Total       float64 `json:"total"`
	Rate        float64 `json:"rate"`
	Height      int     `json:"height"`
	Pattern     string  `json:"pattern"`
	Then        string  `json:"then"`
	WhenDrained bool    `json:"whenDrained"`
	Temperature float64 `json:"temperature"`
}

// Bag2 is a bag of version 2.
type Bag2 struct {
	ID        int64   `json:"id"`
	Name      string  `json:"name"`
	Roaster   string  `json:"roaster"`
	Process   string  `json:"process"`
	Roast     int     `json:"roast"`
	Altitude  int     `json:"altitude"`
	RoastedOn string  `json:"roastedOn"`
	OpenedOn  string  `json:"openedOn"`
	Weight    float64 `json:"weight"`
	Price     int64   `json:"price"`
	Currency  string  `json:"currency"`
	Notes     string  `json:"notes"`
	From      float64 `json:"from"`
	To        float64 `json:"to"`
}

// Gear2 is a set of gear of version 2.
type Gear2 struct {
	Brewer struct {
		ID       int64   `json:"id"`
		Name     string  `json:"name"`
		Kind     string  `json:"kind"`
		Material string  `json:"material"`
		Filter   string  `json:"filter"`
		Holds    float64 `json:"holds"`
		Retained float64 `json:"retained"`
	} `json:"brewer"`
	Grinder struct {
		ID      int64   `json:"id"`
		Name    string  `json:"name"`
		Burrs   string  `json:"burrs"`
		Kind    string  `json:"kind"`
		Zero    float64 `json:"zero"`
		Step    float64 `json:"step"`
		Mark    float64 `json:"mark"`
		PerTurn int     `json:"perTurn"`
		Loss    float64 `json:"loss"`
	} `json:"grinder"`
	Kettle struct {
		ID         int64   `json:"id"`
		Name       string  `json:"name"`
		Thermostat bool    `json:"thermostat"`
		Capacity   float64 `json:"capacity"`
		Spout      float64 `json:"spout"`
		Water      float64 `json:"readWater"`
		First      float64 `json:"readFirst"`
		Second     float64 `json:"readSecond"`
		Apart      float64 `json:"readApart"`
	} `json:"kettle"`
	Boiling float64 `json:"boiling"`
}

// Asked2 is an advised change of version 2.
type Asked2 struct {
	Knob   string  `json:"knob"`
	From   float64 `json:"from"`
	To     float64 `json:"to"`
	Say    string  `json:"say"`
	Reason string  `json:"reason"`
	Yield  float64 `json:"yield"`
	Time   float64 `json:"time"`
}

// DraftDoc2 is what was half typed in version 2.
type DraftDoc2 struct {
	Held  [2]string         `json:"held"`
	Ratio float64           `json:"ratio"`
	Typed map[string]string `json:"typed"`
	Tab   string            `json:"tab"`
}

// Cup2 is a cup of version 2.
type Cup2 struct {
	Beverage float64         `json:"beverage"`
	TDS      float64         `json:"tds"`
	Drawdown float64         `json:"drawdown"`
	Bed      string          `json:"bed"`
	Steps    map[string]int  `json:"steps"`
	Faults   map[string]bool `json:"faults"`
	Overall  int             `json:"overall"`
	Serve    string          `json:"serve"`
	Notes    string          `json:"notes"`
}

// knobs2 are the knobs of version 2 by their names now.
var knobs2 = map[string]recipe.Knob{"ratio": recipe.Ratio, "grind": recipe.Grind, "temperature": recipe.Temperature, "bloom": recipe.Bloom, "bloom time": recipe.BloomTime,
	"swirl": recipe.HandAfter, "pours": recipe.Pours, "pour rate": recipe.Rate, "gap": recipe.Gap, "wait for the bed": recipe.Wait, "pattern": recipe.PourPattern,
	"height": recipe.PourHeight, "steep": recipe.Release, "rinse": recipe.Rinse}

// Sheet returns what went into the brew.
func (o Brew2) Sheet() brew.Sheet {
	steps := o.Plan.Steps
	if len(steps) == 0 {
		steps = o.Recipe.plan()
	}
	return brew.Sheet{Recipe: o.Recipe.core(steps, o.Plan.Finish), Bag: o.Bag.core(), Gear: o.Gear.core(), Asked: o.Asked.core()}
}

// Draft2 returns the recipe in the making on a sheet. What was planned may be
// older than the recipe, so its pours are made anew, as version 2 made them.
func (o Brew2) Draft2(s brew.Sheet) brew.Draft {
	finish := 0.0
	if style, ok := styles2[o.Recipe.Style]; ok {
		finish = o.Recipe.finish(style)
	}
	s.Recipe = o.Recipe.core(o.Recipe.plan(), finish)
	d := brew.Draft{Sheet: s, Held: brew.StartHeld, SetRatio: o.Draft.Ratio, Tab: o.Draft.Tab, Checked: o.Checked}
	if o.Draft.Held[0] != "" && o.Draft.Held[1] != "" {
		d.Held = [2]recipe.Knob{recipe.Knob(o.Draft.Held[0]), recipe.Knob(o.Draft.Held[1])}
	}
	for field, typed := range o.Draft.Typed {
		if d.Typed == nil {
			d.Typed = map[string]string{}
		}
		if field == "steep" {
			field = string(recipe.Release)
		}
		d.Typed[field] = typed
	}
	return d
}

// core returns the recipe with the pours of a plan, with the kettle as it was set.
func (r Recipe2) core(steps []Step2, finish float64) recipe.Recipe {
	out := recipe.Recipe{Style: recipe.StyleID(r.Style), Dose: units.Grams(r.Dose), Grind: units.Micrometres(r.Grind), Rinse: r.Rinse, Aim: units.Seconds(finish)}
	for _, s := range steps {
		switch s.Act {
		case "stir":
			out.Crust = units.Seconds(s.Start)
		case "release":
			out.Release = units.Seconds(s.Start)
		default:
			p := recipe.Pour{Bloom: s.Bloom, Water: units.Grams(s.Water), Start: units.Seconds(s.Start), WhenDrained: s.WhenDrained, Rate: s.Rate, Height: recipe.Height(s.Height),
				Pattern: recipe.Pattern(s.Pattern), Temperature: units.Celsius(r.Temperature), Then: recipe.Hand(s.Then)}
			if p.Rate <= 0 { // version 1 kept how long a pour lasts
				p.Rate = 5
				if s.Lasts > 0 && s.Water > 0 {
					p.Rate = s.Water / s.Lasts
				}
			}
			if p.Temperature == 0 {
				p.Temperature = units.Celsius(s.Temperature)
			}
			out.Pours = append(out.Pours, p)
		}
	}
	return out
}

// Core returns the plan of version 2 as it was.
func (p Plan2) Core() recipe.Plan {
	out := recipe.Plan{Finish: units.Seconds(p.Finish), Window: coffee.Window{From: units.Seconds(p.Window.From), To: units.Seconds(p.Window.To)}}
	for _, s := range p.Steps {
		out.Steps = append(out.Steps, recipe.Step{Act: recipe.Act(s.Act), Bloom: s.Bloom, Start: units.Seconds(s.Start), Lasts: units.Seconds(s.Lasts), Water: units.Grams(s.Water), Total: units.Grams(s.Total),
			Rate: s.Rate, Height: recipe.Height(s.Height), Pattern: recipe.Pattern(s.Pattern), Then: recipe.Hand(s.Then), WhenDrained: s.WhenDrained, Temperature: units.Celsius(s.Temperature)})
	}
	return out
}

func (b Bag2) core() coffee.Bag {
	return coffee.Bag{ID: id2(b.ID), Name: b.Name, Roaster: b.Roaster, Process: coffee.Process(b.Process), Roast: coffee.Roast(b.Roast), Altitude: b.Altitude, RoastedOn: b.RoastedOn, OpenedOn: b.OpenedOn,
		Weight: units.Grams(b.Weight), Price: b.Price, Currency: b.Currency, Notes: b.Notes, Window: coffee.Window{From: units.Seconds(b.From), To: units.Seconds(b.To)}}
}

func (g Gear2) core() gear.Set {
	b, m, k := g.Brewer, g.Grinder, g.Kettle
	return gear.Set{Boiling: units.Celsius(g.Boiling),
		Brewer: gear.Brewer{ID: id2(b.ID), Name: b.Name, Kind: gear.BrewerKind(b.Kind), Material: gear.Material(b.Material), Filter: gear.FilterKind(b.Filter), Holds: units.Grams(b.Holds), Retained: b.Retained},
		Grinder: gear.Grinder{ID: id2(m.ID), Name: m.Name, Burrs: gear.Burrs(m.Burrs), Loss: units.Grams(m.Loss),
			Dial: gear.Dial{Kind: gear.DialKind(m.Kind), Zero: units.Micrometres(m.Zero), Step: units.Micrometres(m.Step), Mark: m.Mark, PerTurn: m.PerTurn}},
		Kettle: gear.Kettle{ID: id2(k.ID), Name: k.Name, Thermostat: k.Thermostat, Capacity: units.Grams(k.Capacity), Spout: k.Spout,
			Readings: gear.Readings{Water: units.Grams(k.Water), First: units.Celsius(k.First), Second: units.Celsius(k.Second), Apart: units.Seconds(k.Apart)}}}
}

func (a *Asked2) core() *coach.Proposal {
	if a == nil || knobs2[a.Knob] == "" {
		return nil
	}
	p := &coach.Proposal{Change: recipe.Change{Address: recipe.Of(knobs2[a.Knob]), From: a.From, To: a.To}, Say: a.Say, Reason: a.Reason, Effect: coach.Effect{Yield: a.Yield, Time: units.Seconds(a.Time)}}
	if a.Knob == "swirl" { // it was on or off; now it is a place in a list
		const swirl = 2
		p.From, p.To = swirl*a.From, swirl*a.To
	}
	return p
}

// Core returns the cup of version 2.
func (c Cup2) Core() cup.Cup {
	d := Cup{Beverage: c.Beverage, TDS: c.TDS, Drawdown: c.Drawdown, Bed: c.Bed, Steps: c.Steps, Overall: c.Overall, Serve: c.Serve, Notes: c.Notes}
	for fault, found := range c.Faults {
		if found {
			d.Faults = append(d.Faults, fault)
		}
	}
	return d.Core()
}

func id2(n int64) string {
	if n == 0 {
		return ""
	}
	return strconv.FormatInt(n, 10)
}

// style2 is a style as version 2 had it.
type style2 struct {
	rate, gap, drain float64
	pours            []share2
}

type share2 struct {
	of      float64
	pattern string
	low     bool
}

var styles2 = map[string]style2{
	"three-rounds":      {5, 40, 60, []share2{{1. / 3, "spiral", false}, {1. / 3, "spiral", false}, {1. / 3, "spiral", true}}},
	"one-long-pour":     {3, 0, 55, []share2{{1, "small circles", false}}},
	"steep-and-release": {8, 0, 70, []share2{{1, "small circles", false}}},
}

// plan makes the steps as version 2 made them. An unknown style pours all at once.
func (r Recipe2) plan() []Step2 {
	style, ok := styles2[r.Style]
	if !ok {
		return []Step2{{Act: "pour", Water: r.Water, Total: r.Water, Rate: 5, Height: 1, Pattern: "spiral", Temperature: r.Temperature}}
	}
	water := math.Round(r.Water)
	bloom := math.Min(math.Round(r.Dose*r.Bloom), math.Floor(water*0.6))
	shares, rate := style.shares(r.Pours), r.rate(style)
	gap := r.gap(style, water-bloom)
	var out []Step2
	at, total := 0.0, 0.0
	pour := func(s Step2) {
		total += s.Water
		s.Act, s.Start, s.Total, s.Temperature = "pour", at, total, r.Temperature
		s.Lasts = math.Ceil(s.Water / s.Rate)
		out = append(out, s)
	}
	if bloom > 0 {
		gentle := 4.5
		if r.Rate > 0 {
			gentle = math.Min(gentle, r.Rate)
		}
		pour(Step2{Bloom: true, Water: bloom, Rate: gentle, Height: r.Height, Pattern: "small circles", Then: r.Hand})
		at = r.BloomTime
	}
	poured, upTo := 0.0, 0.0
	for i, s := range shares {
		upTo += s.of
		sum := math.Round((water - bloom) * upTo)
		step := Step2{Water: sum - poured, Rate: rate, Height: r.Height, Pattern: s.pattern, WhenDrained: r.WhenDrained && i > 0}
		if r.Pattern != "" {
			step.Pattern = r.Pattern
		}
		if s.low {
			step.Height = 0
		}
		if i == len(shares)-1 && r.Steep == 0 {
			step.Then = r.Hand
		}
		pour(step)
		poured = sum
		at += gap
	}
	if r.Steep > 0 {
		last := out[len(out)-1]
		at = math.Max(r.Steep-45, last.Start+last.Lasts+10)
		out = append(out, Step2{Act: "stir", Start: at, Lasts: 10, Total: total, Temperature: r.Temperature})
		out = append(out, Step2{Act: "release", Start: math.Max(r.Steep, at+20), Lasts: 5, Total: total, Temperature: r.Temperature})
	}
	return out
}

// finish is the drawdown that version 2 aimed at: that of the style's own pours.
func (r Recipe2) finish(s style2) float64 {
	r.Pours, r.Rate, r.Gap, r.Pattern = 0, 0, 0, ""
	steps := r.plan()
	last := steps[len(steps)-1]
	return last.Start + last.Lasts + fives(s.drain*math.Sqrt(r.Dose/18))
}

func (s style2) shares(n int) []share2 {
	if n == 0 || n == len(s.pours) {
		return s.pours
	}
	out := make([]share2, n)
	for i := range out {
		out[i] = share2{1 / float64(n), s.pours[0].pattern, s.pours[0].low}
	}
	out[n-1].low = s.pours[len(s.pours)-1].low
	return out
}

func (r Recipe2) rate(s style2) float64 {
	if r.Rate > 0 {
		return r.Rate
	}
	return s.rate
}

func (r Recipe2) gap(s style2, rest float64) float64 {
	n := len(s.shares(r.Pours))
	if r.Gap != 0 || n < 2 {
		return r.Gap
	}
	lasts := func(n int) float64 { return rest / float64(n) / r.rate(s) }
	pause := s.gap*math.Sqrt(r.Dose/18) - lasts(len(s.pours))
	return math.Max(fives(pause+lasts(n)), math.Ceil((lasts(n)+1)/5)*5+10)
}

func fives(s float64) float64 { return math.Max(5, math.Round(s/5)*5) }
