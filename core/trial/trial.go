// Package trial is one thing turned through chosen levels, each brewed several times in an order
// that chance decides within blocks, with an answer that knows its error.
package trial

import (
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"

	"yardbloom/core/brew"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// A Measure is what a trial asks of each cup.
type Measure string

// The measures.
const (
	ByMark     Measure = "mark"
	ByYield    Measure = "extraction yield"
	ByStrength Measure = "TDS"
	ByTime     Measure = "drawdown"
)

// Measures lists the measures.
func Measures() []Measure { return []Measure{ByMark, ByYield, ByStrength, ByTime} }

// A Run is one brew of a trial.
type Run struct {
	Block int // from 0: each block has every level once
	Level int // its place in Levels
	Code  string
	Brew  string // the id of the brew that it became; empty until then
	Value float64
	Done  bool
	Left  bool // left out: the bag ran out, or the brew went wrong
}

// A Trial is a plan and what came of it. The sheet is the recipe that all else is kept of.
type Trial struct {
	ID      string
	Name    string
	Sheet   brew.Sheet
	Turned  recipe.Knob
	Levels  []float64 // canonical, from low to high
	Repeats int
	Measure Measure
	Seed    uint64
	Runs    []Run // in the order in which they are brewed
	Version int64
}

// How many levels and repeats a trial can have.
const (
	FewestLevels, MostLevels = 2, 6
	MostRepeats              = 6
)

// What can be wrong with a plan.
var (
	ErrLevels  = errors.New("a trial has two to six levels")
	ErrRepeats = errors.New("each level is brewed one to six times")
	ErrKnob    = errors.New("this recipe has nothing of the kind to turn")
	ErrCode    = errors.New("no brew of this trial has the code")
)

// New plans a trial: every block has each level once, in an order that the seed decides, so that
// what changes from morning to morning falls on all levels alike. Every run has a code of
// its own, for a taster who is not to know.
func New(id, name string, sheet brew.Sheet, turned recipe.Knob, levels []float64, repeats int, measure Measure, seed uint64) (Trial, error) {
	t := Trial{ID: id, Name: name, Sheet: sheet, Turned: turned, Levels: slices.Clone(levels), Repeats: repeats, Measure: measure, Seed: seed}
	slices.Sort(t.Levels)
	t.Levels = slices.Compact(t.Levels)
	at := recipe.Of(turned)
	switch {
	case !sheet.Recipe.Has(at):
		return t, ErrKnob
	case len(t.Levels) < FewestLevels || len(t.Levels) > MostLevels:
		return t, ErrLevels
	case repeats < 1 || repeats > MostRepeats:
		return t, ErrRepeats
	}
	for _, v := range t.Levels {
		if err := at.Range().Check(at, v); err != nil {
			return t, err
		}
	}
	rng := rand.New(rand.NewPCG(seed, 1))
	code := rng.Perm(26 * 10)
	for block := range repeats {
		for _, level := range rng.Perm(len(t.Levels)) {
			c := code[len(t.Runs)]
			t.Runs = append(t.Runs, Run{Block: block, Level: level, Code: fmt.Sprintf("%c%d", 'A'+rune(c/10), c%10)})
		}
	}
	return t, nil
}

// Recipe is the recipe of a run.
func (t Trial) Recipe(r Run) recipe.Recipe {
	return t.Sheet.Recipe.With(recipe.Of(t.Turned), t.Levels[r.Level])
}

// Uses is the coffee that the runs still to be brewed take out of the bag, g, with what the
// grinder keeps.
func (t Trial) Uses() (sum units.Grams) {
	for _, r := range t.Runs {
		if !r.Done && !r.Left {
			sum += t.Recipe(r).Dose + t.Sheet.Gear.Grinder.Loss
		}
	}
	return sum
}

// perBrew is the time between two brews besides pouring: rinse, grind, taste, rinse again, s.
const perBrew units.Seconds = 300

// Lasts is how long the runs still to be brewed take one after the other.
func (t Trial) Lasts() (sum units.Seconds) {
	for _, r := range t.Runs {
		if !r.Done && !r.Left {
			sum += t.Recipe(r).Plan().Finish + perBrew
		}
	}
	return sum
}

// Fits is how many repeats so many grams and so much time are enough for; no more than are planned.
func (t Trial) Fits(left units.Grams, time units.Seconds) int {
	perBlock, blockLasts := t.Uses()/units.Grams(t.Repeats), t.Lasts()/units.Seconds(t.Repeats)
	n := t.Repeats
	if left > 0 {
		n = min(n, int(left/perBlock))
	}
	if time > 0 {
		n = min(n, int(time/blockLasts))
	}
	return n
}

// ByCode finds a run by its code, or ErrCode.
func (t Trial) ByCode(code string) (int, error) {
	for i, r := range t.Runs {
		if r.Code == code {
			return i, nil
		}
	}
	return 0, fmt.Errorf("%q: %w", code, ErrCode)
}

// Found keeps what a run came to.
func (t Trial) Found(run int, value float64) Trial {
	return t.with(run, func(r *Run) { r.Value, r.Done, r.Left = value, true, false })
}

// LeaveOut leaves a run out, where it was not brewed or went wrong.
func (t Trial) LeaveOut(run int) Trial {
	return t.with(run, func(r *Run) { r.Done, r.Left = false, true })
}

// Began keeps which brew a run became.
func (t Trial) Began(run int, brew string) Trial {
	return t.with(run, func(r *Run) { r.Brew = brew })
}

func (t Trial) with(run int, change func(*Run)) Trial {
	t.Runs = slices.Clone(t.Runs)
	change(&t.Runs[run])
	return t
}

// A Study is a question that is ready to start: what is turned, and how far, of a recipe.
type Study struct {
	ID, Name, About string
	Turned          recipe.Knob
	Levels          func(recipe.Recipe) []float64
	Repeats         int
	Measure         Measure
}

// Studies are the questions that are ready to start.
func Studies() []Study { return studies }

var studies = []Study{
	{ID: "water", Name: "How much water is enough", About: "The same dose with more and more water: where does more stop adding yield?", Turned: recipe.Ratio, Repeats: 3, Measure: ByYield,
		Levels: func(recipe.Recipe) []float64 { return []float64{12, 14, 16, 18} }},
	{ID: "stir", Name: "What stirring does", About: "Nothing, a swirl, and a spoon through the bloom: is it the stirring, or the day?", Turned: recipe.HandAfter, Repeats: 3, Measure: ByYield,
		Levels: func(recipe.Recipe) []float64 {
			return []float64{0, float64(slices.Index(recipe.Hands(), recipe.Swirl)), float64(slices.Index(recipe.Hands(), recipe.StirBed))}
		}},
	{ID: "grind", Name: "One step of the mill", About: "Three settings side by side: what one step is worth to you, on this mill.", Turned: recipe.Grind, Repeats: 3, Measure: ByMark,
		Levels: func(r recipe.Recipe) []float64 {
			g := float64(r.Grind)
			return []float64{g - 50, g, g + 50}
		}},
}
