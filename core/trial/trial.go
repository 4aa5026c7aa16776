// Package trial varies one thing over chosen levels, or two things at two levels each. Each level is brewed several times in an order
// randomized within blocks, and the answer carries its error.
package trial

import (
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"

	"yardbloom/core/brew"
	"yardbloom/core/units"
)

// A Measure is the quantity that a trial compares.
type Measure string

// The measures.
const (
	ByMark     Measure = "mark"
	ByYield    Measure = "extraction yield"
	ByStrength Measure = "TDS"
	ByTime     Measure = "drawdown"
	ByHeat     Measure = "temperature of the drink"
)

// Measures lists the measures.
func Measures() []Measure { return []Measure{ByMark, ByYield, ByStrength, ByTime, ByHeat} }

// A Run is one brew of a trial.
type Run struct {
	Block   int // from 0: each block has every level, or pair of levels, once
	Level   int // index into Levels
	Other   int // index into the Levels of the second factor
	Code    string
	Brew    string // id of its brew; empty until brewed
	By      string // id of the person who entered the value; empty: the yard
	Value   float64
	Done    bool
	Skipped bool // skipped: the bag ran out, or the brew failed
}

// A Trial is a plan with its results. The sheet is the recipe whose other values stay fixed.
type Trial struct {
	ID    string
	By    string // id of the person who made it; empty: the yard
	Name  string
	Sheet brew.Sheet
	Factor
	Second  *Factor // varied at once, both at two levels; nil: none
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
	ErrPairs   = errors.New("two things at once are varied at two levels each")
	ErrSame    = errors.New("the two things are the same")
	ErrKnob    = errors.New("this recipe does not have that setting")
	ErrCode    = errors.New("no brew of this trial has the code")
	ErrRuns    = errors.New("its brews are not those of its levels")
)

// New plans a trial of one factor, or of two at once. Every block has each level, or pair of levels, once, in an order that the seed
// determines, so that changes over a morning affect all levels alike. Every run has its own code for blind tasting. Errors are those
// above and a *units.ValueError for a level outside its range.
func New(id, name string, sheet brew.Sheet, factor Factor, second *Factor, repeats int, measure Measure, seed uint64) (Trial, error) {
	t := Trial{ID: id, Name: name, Sheet: sheet, Factor: factor, Second: second, Repeats: repeats, Measure: measure, Seed: seed}
	if err := t.check(); err != nil {
		return t, err
	}
	t.plan()
	return t, nil
}

// check returns an error if the runs of a trial cannot be planned.
func (t Trial) check() error {
	if err := t.Factor.check(t.Sheet); err != nil {
		return err
	}
	if t.Second != nil {
		if err := t.Second.check(t.Sheet); err != nil {
			return err
		}
		switch {
		case t.Second.Knob == t.Knob:
			return ErrSame
		case len(t.Levels) != 2 || len(t.Second.Levels) != 2:
			return ErrPairs
		}
	}
	if t.Repeats < 1 || t.Repeats > MostRepeats {
		return ErrRepeats
	}
	return nil
}

// Valid returns an error if New and the changes of a trial cannot have made it: one of the errors above, an error of its recipe, or
// ErrRuns.
func (t Trial) Valid() error {
	if err := t.Sheet.Recipe.Valid(); err != nil {
		return err
	}
	if err := t.check(); err != nil {
		return err
	}
	if !slices.Contains(Measures(), t.Measure) || len(t.Runs) != t.cells()*t.Repeats {
		return ErrRuns
	}
	for _, r := range t.Runs {
		if r.Level < 0 || r.Level >= len(t.Levels) || r.Other < 0 || t.cell(r) >= t.cells() || r.Code == "" {
			return ErrRuns
		}
	}
	return nil
}

// cells returns the number of levels, or of pairs of levels.
func (t Trial) cells() int {
	if t.Second == nil {
		return len(t.Levels)
	}
	return len(t.Levels) * len(t.Second.Levels)
}

// cell returns the number of the cell of a run. The levels of the first factor change fastest.
func (t Trial) cell(r Run) int { return r.Level + r.Other*len(t.Levels) }

// plan sets the runs: blocks of all cells in random order, with random codes.
func (t *Trial) plan() {
	rng := rand.New(rand.NewPCG(t.Seed, 1))
	code := rng.Perm(26 * 10)
	for block := range t.Repeats {
		for _, cell := range rng.Perm(t.cells()) {
			c := code[len(t.Runs)]
			t.Runs = append(t.Runs, Run{Block: block, Level: cell % len(t.Levels), Other: cell / len(t.Levels),
				Code: fmt.Sprintf("%c%d", 'A'+rune(c/10), c%10)})
		}
	}
}

// SheetOf returns the sheet of a run.
func (t Trial) SheetOf(r Run) brew.Sheet { return t.sheetAt(t.cell(r)) }

// sheetAt returns the sheet of a cell.
func (t Trial) sheetAt(cell int) brew.Sheet {
	if len(t.Levels) == 0 {
		return t.Sheet
	}
	s := t.Factor.apply(t.Sheet, t.Levels[cell%len(t.Levels)])
	if t.Second != nil {
		s = t.Second.apply(s, t.Second.Levels[cell/len(t.Levels)])
	}
	return s
}

// NameOf names the level of a run, or its two levels, in the person's units.
func (t Trial) NameOf(r Run, prefs units.Prefs) string { return t.cellName(t.cell(r), prefs) }

func (t Trial) cellName(cell int, prefs units.Prefs) string {
	if len(t.Levels) == 0 {
		return ""
	}
	name := t.LevelName(t.Levels[cell%len(t.Levels)], prefs)
	if t.Second != nil {
		name += ", " + t.Second.LevelName(t.Second.Levels[cell/len(t.Levels)], prefs)
	}
	return name
}

// NameAt names the level, or the two levels, of an answer.
func (t Trial) NameAt(l Level, prefs units.Prefs) string { return t.cellName(l.cell, prefs) }

// Varies names the variables of the trial within a sentence.
func (t Trial) Varies() string {
	if t.Second == nil {
		return t.Variable()
	}
	return t.Variable() + " and " + t.Second.Variable()
}

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

// with returns the trial with a run changed; unchanged without such a run.
func (t Trial) with(run int, change func(*Run)) Trial {
	if run < 0 || run >= len(t.Runs) {
		return t
	}
	t.Runs = slices.Clone(t.Runs)
	change(&t.Runs[run])
	return t
}
