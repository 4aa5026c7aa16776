package store

import (
	"bytes"
	"encoding/json"
	"flag"
	"os"
	"path/filepath"
	"reflect"
	"testing"

	"yardbloom/core/coach"
	"yardbloom/core/coffee"
	"yardbloom/core/cup"
	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/core/learn"
	"yardbloom/core/practice"
	"yardbloom/core/recipe"
	"yardbloom/core/rush"
	"yardbloom/core/stage"
	"yardbloom/core/trace"
	"yardbloom/core/units"
	"yardbloom/store/document"
)

var update = flag.Bool("update", false, "write the golden files anew: only for a new version of the documents")

// sampleRecipe has a value in every field.
func sampleRecipe() recipe.Recipe {
	return recipe.Recipe{Style: recipe.SteepAndRelease, Dose: 18.5, Grind: 652, Rinse: true, Crust: 120, Release: 165, Aim: 240,
		Ice: recipe.Ice{Mass: 120, Temperature: -18, Wet: 0.1}, Dilution: recipe.Dilution{Water: 60, Temperature: 90},
		Pours: []recipe.Pour{
			{Bloom: true, Water: 55.5, Rate: 4.5, Height: recipe.Mid, Pattern: recipe.Circles, Temperature: 94, Then: recipe.Swirl},
			{Water: 249.5, Start: 45, Cue: recipe.ForBed, Rate: 5, Height: recipe.Low, Pattern: recipe.Spiral, Temperature: 92.5},
		}}
}

func sampleAdvice() *coach.Advice {
	p := coach.Proposal{Change: recipe.Change{Address: recipe.Address{Knob: recipe.Water, Pour: 2}, From: 80, To: 95},
		Say: "pour 2: 15 g more", LeadsTo: "95 g", Reason: "Because.", Effect: coach.Effect{Yield: 0.4, Time: -5}}
	return &coach.Advice{Rule: "sour", Verdict: "Too little came out", Because: "Sweetness comes after acidity.",
		Evidence: []string{"The acidity is sour."}, Against: []string{"The yield, 22.9 ± 0.4 %, is high."},
		Sure: coach.Perhaps, Instead: "Keep the recipe", First: &p, Exhausted: true}
}

// weighedAdvice has a value in every field.
func weighedAdvice() *coach.Advice {
	a := *sampleAdvice()
	a.Do, a.Chance, a.Settles, a.Exhausted = coach.Change, 0.62, "Whether it was the pour.", false
	p := *a.First
	p.Effect.Strength, p.Effect.Mark, p.Effect.YieldError, p.Effect.TimeError = 0.04, 0.8, 0.2, 9
	p.Help, p.Watch, p.Lost, p.Lines = 0.84, "More sweetness.", "It comes later.", []coach.Line{{Say: "the clock", By: -0.2}}
	a.Third = &p
	a.Signs = []coach.Sign{{Say: "Acidity: sour.", Moved: []coach.Moved{{Cause: "too little", By: 0.2, To: 0.6}}}}
	a.Map = &coach.Map{Aim: coach.Patch{Yield: 20.9, Strength: 1.42, YieldSpread: 0.8, StrengthSpread: 0.09, Together: -0.2},
		Cups:       []coach.Point{{Yield: 19.1, Strength: 1.3, Brew: "one"}},
		YieldError: 0.4, StrengthError: 0.03, Then: &coach.Point{Yield: 20.2, Strength: 1.37}, Measured: true}
	a.Earlier = []string{"Too much came out: 1 click coarser"}
	return &a
}

// sampleTry is a practice pour of a lesson whose rate has changed since.
func sampleTry() practice.Try {
	l, _ := practice.LessonByID("circles")
	l.Rate, l.Water = 4.5, 140
	return practice.Try{Lesson: l, Readings: []trace.Reading{{At: -1.5, Grams: 0.1}, {At: 2.25, Grams: 9.8}}, Began: 0.4, Ended: 30,
		Water: 139}
}

// golden holds one document of each kind. Reading the file gives the sample, and writing the sample gives
// the file.
var golden = []struct {
	name   string
	sample any
	doc    func(any) any // of a core value
	read   func([]byte) (any, error)
}{
	{"recipe", sampleRecipe(), func(v any) any { return document.OfRecipe(v.(recipe.Recipe)) }, read(document.Recipe.Core)},
	{"plan", sampleRecipe().Plan(), func(v any) any { return document.OfPlan(v.(recipe.Plan)) }, read(document.Plan.Core)},
	{"gear", gear.Set{Boiling: 99.2,
		Brewer: gear.Brewer{ID: "b", Name: "Cone", Kind: gear.OpenCone, Material: gear.Glass, Filter: gear.ThickPaper, Holds: 480,
			Retained: 2.05},
		Grinder: gear.Grinder{ID: "g", Name: "Mill", Burrs: gear.HandMill,
			Dial: gear.Dial{Kind: gear.Turns, Zero: 50, Step: -20, Mark: 0.5, PerTurn: 30}, Loss: 0.4},
		Kettle: gear.Kettle{ID: "k", Name: "Kettle", Thermostat: true, Capacity: 900, Spout: 9,
			CoolingReadings: gear.CoolingReadings{Water: 600, First: 97, Second: 86.5, Apart: 240}}},
		func(v any) any { return document.OfGear(v.(gear.Set)) }, read(document.Gear.Core)},
	{"coffee", coffee.Bag{ID: "c", Name: "Slate Terrace", Roaster: "Three Sheds", Process: coffee.Washed, Roast: coffee.Light,
		Altitude: 1950, RoastedOn: "2026-04-20", OpenedOn: "2026-04-28",
		Weight: 250, Price: 1450, Currency: "EUR", Notes: "redcurrant", Window: coffee.Window{From: 170, To: 200}},
		func(v any) any { return document.OfBag(v.(coffee.Bag)) }, read(document.Bag.Core)},
	{"cup", cup.Cup{Beverage: 261, TDS: 1.38, Drawdown: 200, Bed: cup.FlatBed,
		Taste: cup.Taste{Steps: map[cup.Sense]int{cup.Acidity: 4, cup.Body: 2},
			Faults: map[cup.Fault]bool{cup.Papery: true, cup.Hollow: true}, Overall: 6, Serve: "no", Notes: "Sharp."}},
		func(v any) any { return document.OfCup(v.(cup.Cup)) }, read(document.Cup.Core)},
	{"cup-by-stages", cup.Cup{Dose: 18.2, Water: 301, Beverage: 262, Carafe: 310, TDS: 1.39, Readings: []float64{1.38, 1.40}, Drawdown: 201,
		Bed: cup.Cratered, Spots: map[cup.Place]cup.Look{cup.Middle: cup.Low}, Sights: map[cup.Sight]bool{cup.OneSided: true},
		Taste: cup.Taste{Steps: map[cup.Sense]int{cup.Acidity: 4}, Likes: map[cup.Sense]cup.Like{cup.Acidity: cup.Liked},
			Faults: map[cup.Fault]bool{}, Flavours: []string{"pear", "shed roof"}, Overall: 7,
			Sips: map[cup.Stage]cup.Sip{cup.Warm: {Steps: map[cup.Sense]int{cup.Acidity: 4},
				Likes: map[cup.Sense]cup.Like{cup.Acidity: cup.Liked}}}},
		Wants: map[cup.Want]bool{cup.Lighter: true}, BadPour: true, SkippedChange: true},
		func(v any) any { return document.OfCup(v.(cup.Cup)) }, read(document.Cup.Core)},
	{"advice-weighed", weighedAdvice(), func(v any) any { return document.OfAdvice(v.(*coach.Advice)) }, read((*document.Advice).Core)},
	{"learned", learn.State{Parameters: []learn.Known{{Name: "size_ln", Of: "mill/clicks/50/20", Mean: 0.03},
		{Name: "flow_ln", Mean: -0.1}}, Covariance: [][]float64{{0.002, -0.001}, {-0.001, 0.04}},
		Seen: []learn.Seen{{ID: "one", Name: "Slate Terrace", Bag: "slate", Grinder: "mill/clicks/50/20", At: noon.UTC(),
			Expected: forecast.Outcome{Drawdown: 217, Drained: true, Beverage: 261, Yield: 20.9, Strength: 1.44},
			Error:    forecast.Outcome{Drawdown: 48, Beverage: 3, Yield: 1.3, Strength: 0.1}, Drawdown: 198, Beverage: 262, TDS: 1.38,
			Off: 1.2, Odd: true, Out: true, Slow: -0.02, PerSize: -1.3}}},
		func(v any) any { return document.OfLearned(v.(learn.State)) }, read(document.Learned.Core)},
	{"forecast", &forecast.Figures{Drawdown: 198, DrawdownError: 26, Drained: true, Beverage: 260.5, BeverageError: 4,
		Strength: cup.Figure{Value: 1.38, Error: 0.15}, Yield: cup.Figure{Value: 20.1, Error: 1.6}},
		func(v any) any { return document.OfForecast(v.(*forecast.Figures)) }, read((*document.Forecast).Core)},
	{"rush", rush.Rush{Orders: []rush.Ordered{{Order: rush.Order{Name: "Terrace", Brewer: "cone/1", Water: 297, Drains: 5,
		Tasks: []rush.Task{{Say: "Bloom", Lasts: 12}, {Say: "Pour", Start: 45, Lasts: 17, Stretch: 8}}}, Brew: "one", BrewerName: "Cone",
		Planned: 20}},
		Kettle: rush.Kettle{Holds: 800, Left: 800, Fill: 20, Heat: 0.25}, Started: noon.UTC(), Ended: true},
		func(v any) any { return document.OfRush(v.(rush.Rush)) }, read(document.Rush.Core)},
	{"script", stage.Script{Name: "Heat", RecipeID: "kept", Cups: 3, Words: 130, Limit: 390,
		Lines:      []stage.Line{{Text: "Good morning."}, {Text: "Let it drain.", At: 165}},
		Rehearsals: []stage.Rehearsal{{Started: noon.UTC(), LineStarts: []units.Seconds{13, 168.5}, Ended: 240}}},
		func(v any) any { return document.OfScript(v.(stage.Script)) }, read(document.Script.Core)},
	{"exercise", sampleTry(), func(v any) any { return document.OfTry(v.(practice.Try)) }, read(document.Exercise.Core)},
	{"advice", sampleAdvice(), func(v any) any { return document.OfAdvice(v.(*coach.Advice)) }, read((*document.Advice).Core)},
}

// read returns a function that reads a document and returns its core value.
func read[D, C any](core func(D) C) func([]byte) (any, error) {
	return func(b []byte) (any, error) {
		var d D
		err := json.Unmarshal(b, &d)
		return core(d), err
	}
}

func TestGoldenDocumentsRoundTrip(t *testing.T) {
	t.Parallel()
	for _, g := range golden {
		path := filepath.Join("testdata", "golden", g.name+".v3.json")
		wrote, err := json.MarshalIndent(g.doc(g.sample), "", "  ")
		must(t, err)
		wrote = append(wrote, '\n')
		if *update {
			must(t, os.WriteFile(path, wrote, 0o644))
		}
		file, err := os.ReadFile(path)
		must(t, err)
		if !bytes.Equal(wrote, file) {
			t.Errorf("%s is written as\n%s\nand was\n%s", g.name, wrote, file)
		}
		got, err := g.read(file)
		if err != nil || !reflect.DeepEqual(got, g.sample) {
			t.Errorf("%s is read as %+v, want %+v (%v)", g.name, got, g.sample, err)
		}
	}
}
