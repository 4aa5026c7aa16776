package recipe

import (
	"fmt"
	"math"

	"yardbloom/core/gear"
	"yardbloom/core/units"
)

// A knob is one row of the table: the definition of a Knob.
type knob struct {
	label   string
	name    string // within a sentence: "the bloom time"
	kind    units.Kind
	limits  units.Range
	usual   units.Range // range of advice, if narrower
	step    float64     // step of predictions
	choices []string
	file    string // field in a recipe file

	get     func(Recipe) float64
	set     func(Recipe, float64) Recipe
	getPour func(Pour) float64
	setPour func(r Recipe, i int, v float64) Recipe // i from 0
	pour    units.Range                             // valid range for a single pour, if different
}

// temperatures is the valid range of a whole recipe's temperature, °C.
var temperatures = units.Range{Lo: 70, Hi: 100}

// table defines all knobs.
var table = map[Knob]knob{
	Dose: {label: "Dose", name: "the dose", kind: units.Dose, limits: units.Range{Lo: 5, Hi: 120}, step: 0.5, file: "dose_g",
		get: func(r Recipe) float64 { return float64(r.Dose) },
		set: func(r Recipe, v float64) Recipe { return r.ResizeRounded(units.Grams(v), units.Grams(v*r.Ratio())) }},
	Water: {label: "Water", name: "the water", kind: units.Water, limits: units.Range{Lo: 60, Hi: 2000}, step: 10, file: "water_g",
		get:     func(r Recipe) float64 { return float64(r.Water()) },
		set:     func(r Recipe, v float64) Recipe { return r.ResizeRounded(units.Grams(v/r.Ratio()), units.Grams(v)) },
		getPour: func(p Pour) float64 { return float64(p.Water) },
		setPour: func(r Recipe, i int, v float64) Recipe { return r.pourWater(i, units.Grams(v)) }, pour: units.Range{Lo: 1, Hi: 2000}},
	Ratio: {label: "Ratio", name: "the ratio", kind: units.Ratio, limits: units.Range{Lo: 6, Hi: 25}, usual: units.Range{Lo: 12, Hi: 20},
		step: 0.5, file: "water_g",
		get: Recipe.Ratio,
		set: func(r Recipe, v float64) Recipe { return r.ResizeRounded(r.Dose, r.Dose*units.Grams(v)) }},
	Cup: {label: "In the cup", name: "the cup", kind: units.Cup, limits: units.Range{Lo: 40, Hi: 1800}, step: 10},
	Coffee: {label: "Coffee in the same water", name: "the coffee in the same water", kind: units.Dose, limits: units.Range{Lo: 5, Hi: 120},
		step: 0.5, file: "dose_g",
		get: func(r Recipe) float64 { return float64(r.Dose) },
		set: func(r Recipe, v float64) Recipe { return r.ResizeRounded(units.Grams(v), r.Total()) }},
	SameCup: {label: "Ratio for the same cup", name: "the ratio for the same cup", kind: units.Ratio, limits: units.Range{Lo: 6, Hi: 25},
		usual: units.Range{Lo: 12, Hi: 20}, step: 0.5, file: "dose_g", get: Recipe.Ratio, set: setSameCup},
	FinerCooler: {label: "Grind and temperature", name: "grind and temperature", kind: units.Grind, limits: units.Range{Lo: 200, Hi: 1600},
		usual: units.Range{Lo: 380, Hi: 1200}, step: 25, file: "grind_um",
		get: func(r Recipe) float64 { return float64(r.Grind) }, set: setFinerCooler},
	Grind: {label: "Grind", name: "the grind", kind: units.Grind, limits: units.Range{Lo: 200, Hi: 1600},
		usual: units.Range{Lo: 380, Hi: 1200}, step: 25, file: "grind_um",
		get: func(r Recipe) float64 { return float64(r.Grind) },
		set: func(r Recipe, v float64) Recipe { r.Grind = units.Micrometres(v); return r }},
	Temperature: {label: "Temperature", name: "the temperature", kind: units.Temperature, limits: temperatures,
		usual: units.Range{Lo: 80, Hi: 100}, step: 1, file: "temperature_c",
		get: func(r Recipe) float64 { return float64(r.Temperature()) }, set: setTemperature,
		getPour: func(p Pour) float64 { return float64(p.Temperature) },
		setPour: onPour(func(p *Pour, v float64) { p.Temperature = units.Celsius(v) }), pour: units.Range{Lo: 1, Hi: 100}},
	Bloom: {label: "Bloom", name: "the bloom", kind: units.PerDose, limits: units.Range{Lo: 0, Hi: 5}, usual: units.Range{Lo: 2, Hi: 4},
		step: 0.5, file: "pours[0].water_g",
		get: getBloom, set: Recipe.withBloom},
	BloomTime: {label: "Bloom time", name: "the bloom time", kind: units.Span, limits: units.Range{Lo: 15, Hi: 180},
		usual: units.Range{Lo: 20, Hi: 90}, step: 15, file: "pours[1].start_s",
		get: getBloomTime, set: setBloomTime},
	HandAfter: {label: "Hand action", name: "the hand", kind: units.Count, limits: places(handNames), choices: handNames, file: "then",
		get: getHand, set: setHand,
		getPour: handOf,
		setPour: onPour(func(p *Pour, v float64) { p.Then = Hands()[int(v)] })},
	Pours: {label: "Pours after the bloom", name: "the number of pours", kind: units.Count, limits: units.Range{Lo: 1, Hi: 8}, step: 1,
		file: "pours",
		get:  func(r Recipe) float64 { return float64(len(r.mainPours())) },
		set:  func(r Recipe, v float64) Recipe { return r.Divide(int(math.Round(v))) }},
	Rate: {label: "Pour rate", name: "the pour rate", kind: units.Rate, limits: units.Range{Lo: 1, Hi: 20}, step: 1, file: "rate_g_s",
		get: first(func(p Pour) float64 { return p.Rate }), set: setRate,
		getPour: func(p Pour) float64 { return p.Rate },
		setPour: onPour(func(p *Pour, v float64) { p.Rate = v }), pour: PourRates},
	Gap: {label: "Gap between pours", name: "the gap", kind: units.Span, limits: units.Range{Lo: 5, Hi: 140}, step: 5, file: "pours",
		get: getGap, set: setGap},
	Wait: {label: "Next pour", name: "the next pour", kind: units.Count, limits: places(waitNames), choices: waitNames, file: "when",
		get: getWait, set: setWait,
		getPour: func(p Pour) float64 { return places(waitNames).Clamp(float64(p.Cue)) },
		setPour: onPour(func(p *Pour, v float64) { p.Cue = Cue(v) })},
	PourPattern: {label: "Pour pattern", name: "the pattern", kind: units.Count, limits: places(patternNames), choices: patternNames,
		file: "pattern",
		get:  first(patternOf), set: setAfter(func(p *Pour, v float64) { p.Pattern = Patterns()[int(v)] }), getPour: patternOf,
		setPour: onPour(func(p *Pour, v float64) { p.Pattern = Patterns()[int(v)] })},
	PourHeight: {label: "Pour height", name: "the height", kind: units.Count, limits: places(heightNames), choices: heightNames,
		file: "height",
		get:  first(heightOf), set: setHeight, getPour: heightOf,
		setPour: onPour(func(p *Pour, v float64) { p.Height = Height(v) })},
	Release: {label: "Steep time", name: "the steep", kind: units.Time, limits: units.Range{Lo: 60, Hi: 600},
		usual: units.Range{Lo: 60, Hi: 300}, step: 15, file: "release_s",
		get: func(r Recipe) float64 { return float64(r.Release) }, set: setRelease},
	Rinse: {label: "Rinse the filter", name: "the rinse", kind: units.Count, limits: units.Range{Lo: 0, Hi: 1}, file: "rinse",
		get: func(r Recipe) float64 { return flag(r.Rinse) },
		set: func(r Recipe, v float64) Recipe { r.Rinse = v > 0; return r }},
	Start: {label: "Starts at", name: "the start", kind: units.Time, limits: units.Range{Lo: 0, Hi: 1200}, step: 5, file: "start_s",
		getPour: func(p Pour) float64 { return float64(p.Start) },
		setPour: func(r Recipe, i int, v float64) Recipe { return r.startAt(i, units.Seconds(v)) }},
	Lasts: {label: "Duration", name: "the time", kind: units.Span, limits: units.Range{Lo: 1, Hi: 600}, step: 5, file: "rate_g_s",
		getPour: func(p Pour) float64 { return float64(p.Lasts()) },
		setPour: func(r Recipe, i int, v float64) Recipe { return r.pourFor(i, units.Seconds(v)) }},
	Level: {label: "To a level", name: "the level", kind: units.Share, limits: units.Range{Lo: 0, Hi: 1}, step: 0.05, file: "level",
		getPour: func(p Pour) float64 { return p.Level },
		setPour: onPour(func(p *Pour, v float64) { p.Level = v })},
	Source: {label: "From", name: "the kettle", kind: units.Count, limits: places(kettleNames), choices: kettleNames, file: "kettle",
		getPour: func(p Pour) float64 { return flag(p.Second) },
		setPour: onPour(func(p *Pour, v float64) { p.Second = v > 0 })},

	Served: {label: "Served", name: "the serving", kind: units.Count, limits: places(servingNames), choices: servingNames, file: "ice",
		get: getServing, set: func(r Recipe, v float64) Recipe { return r.serve(Servings()[int(v)]) }},
	IcePart: {label: "Ice", name: "the share of ice", kind: units.Share, limits: units.Range{Lo: 0.1, Hi: 0.6},
		usual: units.Range{Lo: 0.25, Hi: 0.5}, step: 0.05, file: "ice.mass_g",
		get: Recipe.IceShare, set: func(r Recipe, v float64) Recipe { return r.servedWith(v, 0) }},
	IceFrom: {label: "Ice from", name: "where the ice is from", kind: units.Count, limits: places(iceNames), choices: iceNames,
		file: "ice.temperature_c",
		get:  getIceKind, set: setIceKind},
	IceAt: {label: "Ice at", name: "the temperature of the ice", kind: units.Temperature, limits: units.Range{Lo: -40, Hi: 0}, step: 3,
		file: "ice.temperature_c",
		get:  func(r Recipe) float64 { return float64(r.Ice.Temperature) }, set: setIceAt},
	GlassIce: {label: "Large ice in the glass", name: "the ice in the glass", kind: units.Water, limits: units.Range{Lo: 0, Hi: 300}, step: 10,
		file: "glass_ice_g",
		get:  func(r Recipe) float64 { return float64(r.GlassIce) },
		set:  func(r Recipe, v float64) Recipe { r.GlassIce = units.Grams(v); return r }},
	CarafeOf: {label: "Carafe", name: "the carafe", kind: units.Count, limits: places(carafeNames), choices: carafeNames,
		file: "carafe.material",
		get:  getCarafe, set: func(r Recipe, v float64) Recipe { r.Carafe = gear.Materials()[int(v)]; return r }},
	Dilute: {label: "Dilution", name: "the dilution", kind: units.Share, limits: units.Range{Lo: 0.05, Hi: 0.6},
		usual: units.Range{Lo: 0.1, Hi: 0.45}, step: 0.05, file: "dilution.water_g",
		get: Recipe.DiluteShare, set: func(r Recipe, v float64) Recipe { return r.servedWith(0, v) }},
	DiluteBy: {label: "Dilution with", name: "the water for dilution", kind: units.Count, limits: places(diluteNames), choices: diluteNames,
		file: "dilution.temperature_c",
		get:  getDiluteWith, set: setDiluteWith},
	Balance: {label: "Sweet to bright", name: "the balance", kind: units.Share, limits: units.Range{Lo: 0.3, Hi: 0.7}, step: 0.05,
		file: "pours",
		get:  getBalance, set: setBalance},
	LastPours: {label: "Pours for strength", name: "the number of last pours", kind: units.Count, limits: units.Range{Lo: 1, Hi: 4},
		step: 1, file: "pours",
		get: func(r Recipe) float64 { return float64(len(r.mainPours()) - r.Style.Style().opening) },
		set: func(r Recipe, v float64) Recipe { return r.Divide(r.Style.Style().opening + int(math.Round(v))) }},
	First: {label: "Goes in first", name: "what goes in first", kind: units.Count, limits: places(firstNames), choices: firstNames,
		step: 1, file: "first",
		get: func(r Recipe) float64 { return flag(r.WaterFirst) },
		set: func(r Recipe, v float64) Recipe { r.WaterFirst = v > 0; return r }},
	CrustAt: {label: "Break the crust at", name: "the crust", kind: units.Time, limits: units.Range{Lo: 0, Hi: 590}, step: 15,
		file: "crust_s",
		get:  func(r Recipe) float64 { return float64(r.Crust) },
		set:  func(r Recipe, v float64) Recipe { r.Crust = units.Seconds(v); return r }},
	Screen: {label: "Dispersing screen", name: "the screen", kind: units.Count, limits: places(screenNames), choices: screenNames,
		step: 1, file: "screen",
		get: func(r Recipe) float64 { return flag(r.Screen) },
		set: func(r Recipe, v float64) Recipe { r.Screen = v > 0; return r }},
	Between: {label: "Kettle between the pours", name: "the kettle between the pours", kind: units.Count, limits: places(betweenNames),
		choices: betweenNames, step: 1, file: "reheat",
		get: func(r Recipe) float64 { return flag(r.Reheat) },
		set: func(r Recipe, v float64) Recipe { r.Reheat = v > 0; return r }},
	Discard: {label: "Discard first", name: "the discarded part", kind: units.Water, limits: units.Range{Lo: 0, Hi: 200},
		usual: units.Range{Lo: 0, Hi: 30}, step: 10, file: "discard_g",
		get: func(r Recipe) float64 { return float64(r.Discard) },
		set: func(r Recipe, v float64) Recipe { r.Discard = units.Grams(v); return r }},
	CutAt: {label: "Lift off at", name: "the cut", kind: units.Water, limits: units.Range{Lo: 0, Hi: 1800}, step: 20, file: "cut_at_g",
		get: func(r Recipe) float64 { return float64(r.CutAt) },
		set: func(r Recipe, v float64) Recipe { r.CutAt = units.Grams(v); return r }},
}

// The choices of Wait.
const (
	ByClock = "by the clock"
	ByBed   = "when the water has reached the bed"
	ByDrips = "when the stream turns to drips"
)

// The choices of Source.
const FirstKettle, SecondKettle = "the kettle", "the second kettle"

var (
	waitNames    = []string{ByClock, ByBed, ByDrips}
	handNames    = names(Hands())
	patternNames = names(Patterns())
	servingNames = names(Servings())
	firstNames   = []string{"coffee", "water"}
	screenNames  = []string{"none", "on the bed"}
	betweenNames = []string{"off the heat", "back on the heat"}
	kettleNames  = []string{FirstKettle, SecondKettle}
	carafeNames  = texts(gear.Materials())
)

func names[T fmt.Stringer](all []T) []string {
	out := make([]string, len(all))
	for i, v := range all {
		out[i] = v.String()
	}
	return out
}

func texts[T ~string](all []T) []string {
	out := make([]string, len(all))
	for i, v := range all {
		out[i] = string(v)
	}
	return out
}

func (p Pattern) String() string { return string(p) }

func places(choices []string) units.Range { return units.Range{Hi: float64(len(choices) - 1)} }

func flag(b bool) float64 {
	if b {
		return 1
	}
	return 0
}
