// Package trial varies one knob over chosen levels. Each level is brewed several times in an order
// randomized within blocks, and the answer carries its error.
package trial

import (
	"errors"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"

	"yardbloom/core/brew"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/core/water"
)

// A Measure is the quantity that a trial compares.
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
	Block   int // from 0: each block has every level once
	Level   int // index into Levels
	Code    string
	Brew    string // id of its brew; empty until brewed
	By      string // id of the person who entered the value; empty: the yard
	Value   float64
	Done    bool
	Skipped bool // skipped: the bag ran out, or the brew failed
}

// A Trial is a plan with its results. The sheet is the recipe whose other knobs stay fixed.
type Trial struct {
	ID      string
	By      string // id of the person who made it; empty: the yard
	Name    string
	Sheet   brew.Sheet
	Knob    recipe.Knob
	Levels  []float64     // canonical, ascending
	Waters  []water.Water // of a trial ByWater
	Repeats int
	Measure Measure
	Seed    uint64
	Runs    []Run // in brewing order
	Version int64
}

// The number of levels and repeats of a trial.
const (
	FewestLevels, MostLevels = 2, 6
	MostRepeats              = 6
)

// The errors of a plan.
var (
	ErrLevels  = errors.New("a trial has two to six levels")
	ErrRepeats = errors.New("each level is brewed one to six times")
	ErrKnob    = errors.New("this recipe does not have that setting")
	ErrCode    = errors.New("no brew of this trial has the code")
)

// New plans a trial. Every block has each level once, in an order that the seed determines, so that changes
// over a morning affect all levels alike. Every run has its own code for blind tasting.
func New(id, name string, sheet brew.Sheet, turned recipe.Knob, levels []float64, repeats int, measure Measure, seed uint64) (Trial,
	error) {
	t := Trial{ID: id, Name: name, Sheet: sheet, Knob: turned, Levels: slices.Clone(levels), Repeats: repeats, Measure: measure,
		Seed: seed}
	slices.Sort(t.Levels)
	t.Levels = slices.Compact(t.Levels)
	at := recipe.AddressOf(turned)
	if !sheet.Recipe.Has(at) {
		return t, ErrKnob
	}
	if err := t.checkSize(); err != nil {
		return t, err
	}
	for _, v := range t.Levels {
		if err := at.Range().Check(at, v); err != nil {
			return t, err
		}
	}
	t.plan()
	return t, nil
}

// checkSize returns ErrLevels or ErrRepeats for a trial of the wrong size.
func (t Trial) checkSize() error {
	switch {
	case len(t.Levels) < FewestLevels || len(t.Levels) > MostLevels:
		return ErrLevels
	case t.Repeats < 1 || t.Repeats > MostRepeats:
		return ErrRepeats
	}
	return nil
}

// plan sets the runs: blocks of all levels in random order, with random codes.
func (t *Trial) plan() {
	rng := rand.New(rand.NewPCG(t.Seed, 1))
	code := rng.Perm(26 * 10)
	for block := range t.Repeats {
		for _, level := range rng.Perm(len(t.Levels)) {
			c := code[len(t.Runs)]
			t.Runs = append(t.Runs, Run{Block: block, Level: level, Code: fmt.Sprintf("%c%d", 'A'+rune(c/10), c%10)})
		}
	}
}

// SheetOf returns the sheet of a run.
func (t Trial) SheetOf(r Run) brew.Sheet { return t.SheetAt(t.Levels[r.Level]) }

// Uses returns the coffee needed for the remaining runs, g, grinder loss included.
func (t Trial) Uses() (sum units.Grams) {
	for _, r := range t.Runs {
		if !r.Done && !r.Skipped {
			sum += t.SheetOf(r).Recipe.Dose + t.Sheet.Gear.Grinder.Loss
		}
	}
	return sum
}

// perBrew is the time between two brews in addition to pouring: rinse, grind, taste, clean, s.
const perBrew units.Seconds = 300

// Duration returns the duration of the remaining runs in sequence.
func (t Trial) Duration() (sum units.Seconds) {
	for _, r := range t.Runs {
		if !r.Done && !r.Skipped {
			sum += t.SheetOf(r).Recipe.Plan().Finish + perBrew
		}
	}
	return sum
}

// Fits returns the number of repeats that fit into an amount of coffee and a time, at most the planned
// number.
func (t Trial) Fits(left units.Grams, time units.Seconds) int {
	perBlock, blockLasts := t.Uses()/units.Grams(t.Repeats), t.Duration()/units.Seconds(t.Repeats)
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

// SetResult records the result of a run, entered by a person or the yard.
func (t Trial) SetResult(run int, value float64, by string) Trial {
	return t.with(run, func(r *Run) { r.Value, r.By, r.Done, r.Skipped = value, by, true, false })
}

// Skip marks a run as skipped.
func (t Trial) Skip(run int) Trial {
	return t.with(run, func(r *Run) { r.Done, r.Skipped = false, true })
}

// SetBrew records the brew of a run.
func (t Trial) SetBrew(run int, brew string) Trial {
	return t.with(run, func(r *Run) { r.Brew = brew })
}

func (t Trial) with(run int, change func(*Run)) Trial {
	t.Runs = slices.Clone(t.Runs)
	change(&t.Runs[run])
	return t
}

// A Study is a predefined trial: the knob and its levels relative to a recipe.
type Study struct {
	ID, Name, About string
	Knob            recipe.Knob
	Levels          func(recipe.Recipe) []float64
	Repeats         int
	Measure         Measure
}

// Studies lists the predefined trials.
func Studies() []Study { return studies }

var studies = []Study{
	{ID: "water", Name: "How much water is enough", About: "The same dose with increasing water: from where does more add no yield?",
		Knob: recipe.Ratio, Repeats: 3, Measure: ByYield,
		Levels: func(recipe.Recipe) []float64 { return []float64{12, 14, 16, 18} }},
	{ID: "stir", Name: "What stirring does", About: "None, a swirl, and a spoon through the bloom: does stirring matter?",
		Knob: recipe.HandAfter, Repeats: 3, Measure: ByYield,
		Levels: func(recipe.Recipe) []float64 {
			return []float64{0, float64(slices.Index(recipe.Hands(), recipe.Swirl)), float64(slices.Index(recipe.Hands(), recipe.StirBed))}
		}},
	{ID: "grind", Name: "One step of the grinder", About: "Three settings side by side: how much one step matters to you on this grinder.",
		Knob: recipe.Grind, Repeats: 3, Measure: ByMark,
		Levels: func(r recipe.Recipe) []float64 {
			g := float64(r.Grind)
			return []float64{g - 50, g, g + 50}
		}},
	{ID: "end", Name: "Does the end of the brew belong in the cup", About: "The same brew, lifted off at three moments up to the end.",
		Knob: recipe.CutAt, Repeats: 3, Measure: ByMark,
		Levels: func(r recipe.Recipe) []float64 {
			end := math.Round(float64(r.Amounts(gear.DefaultRetained).Cup)/5) * 5
			return []float64{end - 60, end - 30, end}
		}},
}
