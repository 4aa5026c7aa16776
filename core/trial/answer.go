package trial

import (
	"fmt"
	"math"
	"slices"

	"gonum.org/v1/gonum/mat"
	"gonum.org/v1/gonum/stat/distuv"

	"yardbloom/core/forecast"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// A Level is what one level came to.
type Level struct {
	At    float64 // the level, canonical
	N     int     // brews
	Mean  float64 // with what the blocks differ by taken out
	Error float64 // one standard error; 0 where nothing says how large it is
	// Expected is what the model expected of the level (Expect); 0 where it expects nothing of the kind.
	Expected float64
}

// An Answer is what a trial says, with its error.
type Answer struct {
	Levels []Level
	// Scatter is how far two brews of one level lie apart within a block, one standard
	// deviation, and Freedom on how many differences it stands.
	Scatter float64
	Freedom int
	// Steps compare each level with the one below it.
	Steps []Step
	// Bend is where a rise ends, where the levels show that beyond the error; nil where they do not.
	Bend *float64
}

// A Step is what going from one level to the next adds.
type Step struct {
	From, To  float64
	By, Error float64
	Told      bool // larger than what can be told
}

// Answer works out what the runs so far say. It fits a mean for each level and each block by
// least squares, so that a block with a run missing counts for what it has. It returns
// false where fewer than two levels have been brewed.
func (t Trial) Answer() (Answer, bool) {
	var done []Run
	brewed := map[int]int{}
	blocks := map[int]int{} // block → its column
	for _, r := range t.Runs {
		if r.Done {
			done = append(done, r)
			brewed[r.Level]++
			if _, known := blocks[r.Block]; !known {
				blocks[r.Block] = len(blocks)
			}
		}
	}
	if len(brewed) < 2 {
		return Answer{}, false
	}
	column := map[int]int{} // level → its column
	for level := range t.Levels {
		if brewed[level] > 0 {
			column[level] = len(column)
		}
	}
	levels, columns := len(column), len(column)+len(blocks)-1
	design, found := mat.NewDense(len(done), columns, nil), mat.NewVecDense(len(done), nil)
	for i, r := range done {
		design.Set(i, column[r.Level], 1)
		if b := blocks[r.Block]; b > 0 {
			design.Set(i, levels+b-1, 1)
		}
		found.SetVec(i, r.Value)
	}
	var normal, inverse mat.Dense
	normal.Mul(design.T(), design)
	if inverse.Inverse(&normal) != nil { // blocks and levels cannot be told apart: leave the blocks out
		return t.plain(done)
	}
	var right, fit, left mat.VecDense
	right.MulVec(design.T(), found)
	fit.MulVec(&inverse, &right)
	left.MulVec(design, &fit)
	left.SubVec(found, &left)
	a := Answer{Freedom: len(done) - columns}
	if a.Freedom > 0 {
		a.Scatter = math.Sqrt(mat.Dot(&left, &left) / float64(a.Freedom))
	}
	// A level's mean is that of an average block.
	for level, at := range t.Levels {
		col, ok := column[level]
		if !ok {
			continue
		}
		weights := mat.NewVecDense(columns, nil)
		weights.SetVec(col, 1)
		for b := 1; b < len(blocks); b++ {
			weights.SetVec(levels+b-1, 1/float64(len(blocks)))
		}
		a.Levels = append(a.Levels, Level{At: at, N: brewed[level], Mean: mat.Dot(weights, &fit), Error: a.Scatter * math.Sqrt(mat.Inner(weights, &inverse, weights))})
	}
	for level := 1; level < len(a.Levels); level++ {
		lo, hi := a.Levels[level-1], a.Levels[level]
		between := mat.NewVecDense(columns, nil)
		between.SetVec(level, 1)
		between.SetVec(level-1, -1)
		a.Steps = append(a.Steps, a.step(lo, hi, a.Scatter*math.Sqrt(mat.Inner(between, &inverse, between))))
	}
	a.Bend = a.bend()
	return a, true
}

// plain is an answer that leaves out the blocks.
func (t Trial) plain(done []Run) (Answer, bool) {
	var a Answer
	sums, squares := make([]float64, len(t.Levels)), 0.0
	counts := make([]int, len(t.Levels))
	for _, r := range done {
		sums[r.Level] += r.Value
		counts[r.Level]++
	}
	for _, r := range done {
		off := r.Value - sums[r.Level]/float64(counts[r.Level])
		squares += off * off
	}
	for level, at := range t.Levels {
		if counts[level] > 0 {
			a.Levels = append(a.Levels, Level{At: at, N: counts[level], Mean: sums[level] / float64(counts[level])})
		}
	}
	if a.Freedom = len(done) - len(a.Levels); a.Freedom > 0 {
		a.Scatter = math.Sqrt(squares / float64(a.Freedom))
	}
	for i := range a.Levels {
		a.Levels[i].Error = a.Scatter / math.Sqrt(float64(a.Levels[i].N))
		if i > 0 {
			a.Steps = append(a.Steps, a.step(a.Levels[i-1], a.Levels[i], math.Hypot(a.Levels[i-1].Error, a.Levels[i].Error)))
		}
	}
	a.Bend = a.bend()
	return a, true
}

// sureOf is how sure a difference must be to be told, both sides together.
const sureOf = 0.95

// reach is how many standard errors a difference must be, by Student's t.
func (a Answer) reach() float64 {
	if a.Freedom < 1 {
		return math.Inf(1)
	}
	return distuv.StudentsT{Mu: 0, Sigma: 1, Nu: float64(a.Freedom)}.Quantile((1 + sureOf) / 2)
}

func (a Answer) step(lo, hi Level, err float64) Step {
	s := Step{From: lo.At, To: hi.At, By: hi.Mean - lo.Mean, Error: err}
	s.Told = err > 0 && math.Abs(s.By) > a.reach()*err
	return s
}

// bend is where a line through the levels breaks: the level after which all steps together
// add less than can be told, where those before it together add more.
func (a Answer) bend() *float64 {
	if len(a.Levels) < 3 || a.Freedom < 1 {
		return nil
	}
	last := a.Levels[len(a.Levels)-1]
	for i := 1; i < len(a.Levels)-1; i++ {
		at, first := a.Levels[i], a.Levels[0]
		before, beforeError := at.Mean-first.Mean, math.Hypot(at.Error, first.Error)
		after, afterError := last.Mean-at.Mean, math.Hypot(last.Error, at.Error)
		if math.Abs(before) > a.reach()*beforeError && math.Abs(after) < a.reach()*afterError {
			return &a.Levels[i].At
		}
	}
	return nil
}

// Expect returns the answer with what the model expects of each level, where it knows what is
// measured.
func (t Trial) Expect(a Answer) Answer {
	a.Levels = slices.Clone(a.Levels)
	q := t.Sheet.Question(t.Sheet.Created)
	for i, l := range a.Levels {
		q.Recipe = t.Sheet.Recipe.With(recipe.Of(t.Turned), l.At)
		var f forecast.Forecast
		if t.Measure == ByMark || f.Ask(q) != nil {
			continue
		}
		a.Levels[i].Expected = map[Measure]float64{ByYield: f.Yield.Value, ByStrength: f.TDS, ByTime: float64(f.Drawdown)}[t.Measure]
	}
	return a
}

// decimals are how finely a measure is said.
var decimals = map[Measure]int{ByMark: 1, ByYield: 1, ByStrength: 2, ByTime: 0}

// unitOf is what a difference of a measure is counted in.
var unitOf = map[Measure]string{ByMark: "marks", ByYield: "points of yield", ByStrength: "points of TDS", ByTime: "s"}

// Says is the answer in sentences, in the person's own units.
func (t Trial) Says(a Answer, prefs units.Prefs) string {
	name := func(v float64) string { return LevelName(t.Turned, v, prefs) }
	with := func(by, err float64) string {
		if a.Freedom < 1 {
			return fmt.Sprintf("%s %s, from too few brews to say how sure that is", units.Points(by, decimals[t.Measure]), unitOf[t.Measure])
		}
		return fmt.Sprintf("%s ± %.*f %s", units.Points(by, decimals[t.Measure]), decimals[t.Measure], LeastError(err, decimals[t.Measure]), unitOf[t.Measure])
	}
	first, last := a.Levels[0], a.Levels[len(a.Levels)-1]
	if a.Bend != nil {
		for _, l := range a.Levels {
			if l.At == *a.Bend {
				return fmt.Sprintf("Up to %s it adds %s; past %s more adds %s: less than can be told.", name(l.At), with(l.Mean-first.Mean, math.Hypot(l.Error, first.Error)), name(l.At), with(last.Mean-l.Mean, math.Hypot(last.Error, l.Error)))
			}
		}
	}
	err := math.Hypot(first.Error, last.Error)
	whole := a.step(first, last, err)
	out := fmt.Sprintf("From %s to %s it adds %s", name(first.At), name(last.At), with(whole.By, err))
	switch {
	case a.Freedom < 1:
		return out + ". Brew each level again."
	case whole.Told:
		return out + "."
	}
	return out + ": less than can be told."
}

// LeastError returns the error to display: at least one unit of the last decimal shown.
func LeastError(err float64, decimals int) float64 { return max(err, math.Pow10(-decimals)) }

// LevelName is a level in the person's own terms.
func LevelName(k recipe.Knob, v float64, prefs units.Prefs) string {
	if choices := k.Choices(); choices != nil {
		return choices[int(v)]
	}
	return prefs.Unit(k.Kind()).Format(v)
}
