package trial

import (
	"fmt"
	"math"
	"slices"

	"gonum.org/v1/gonum/mat"
	"gonum.org/v1/gonum/stat/distuv"

	"yardbloom/core/forecast"
	"yardbloom/core/units"
)

// A Level is the result of one level.
type Level struct {
	At    float64 // the level, canonical; the number of the pair of levels in a trial of two factors
	cell  int
	N     int     // number of brews
	Mean  float64 // adjusted for the differences between blocks
	Error float64 // one standard error; 0 if unknown
	// Expected is the model's prediction for the level (see Expect); 0 if there is none.
	Expected float64
}

// An Answer is the result of a trial with its errors.
type Answer struct {
	Levels []Level
	// Scatter is the standard deviation between brews of one level within a block, Freedom its degrees of
	// freedom.
	Scatter float64
	Freedom int
	// Steps compares each level with the one below it.
	Steps []Step
	// Pair is the result of two factors at once; nil in a trial of one.
	Pair *Pair
	// Bend is the level at which a rise ends, if the levels show one beyond their errors; otherwise nil.
	Bend *float64
}

// A Step is the difference between two neighbouring levels.
type Step struct {
	From, To    float64
	By, Error   float64
	Significant bool // significant at the 95 % level
}

// Answer evaluates the runs so far. It fits a mean for each level, or pair of levels, and each block by least squares, so that
// a block with a missing run still counts. It returns false if fewer than two of them have been brewed.
func (t Trial) Answer() (Answer, bool) {
	var done []Run
	brewed := map[int]int{}
	blocks := map[int]int{} // block number → column
	for _, r := range t.Runs {
		if r.Done {
			done = append(done, r)
			brewed[t.cell(r)]++
			if _, known := blocks[r.Block]; !known {
				blocks[r.Block] = len(blocks)
			}
		}
	}
	if len(brewed) < 2 {
		return Answer{}, false
	}
	column := map[int]int{} // cell → column
	for cell := range t.cells() {
		if brewed[cell] > 0 {
			column[cell] = len(column)
		}
	}
	levels, columns := len(column), len(column)+len(blocks)-1
	design, found := mat.NewDense(len(done), columns, nil), mat.NewVecDense(len(done), nil)
	for i, r := range done {
		design.Set(i, column[t.cell(r)], 1)
		if b := blocks[r.Block]; b > 0 {
			design.Set(i, levels+b-1, 1)
		}
		found.SetVec(i, r.Value)
	}
	var normal, inverse mat.Dense
	normal.Mul(design.T(), design)
	if inverse.Inverse(&normal) != nil { // blocks and levels are not separable: ignore the blocks
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
	// The mean of a level refers to an average block.
	for cell := range t.cells() {
		col, ok := column[cell]
		if !ok {
			continue
		}
		weights := mat.NewVecDense(columns, nil)
		weights.SetVec(col, 1)
		for b := 1; b < len(blocks); b++ {
			weights.SetVec(levels+b-1, 1/float64(len(blocks)))
		}
		a.Levels = append(a.Levels, Level{At: t.at(cell), cell: cell, N: brewed[cell], Mean: mat.Dot(weights, &fit),
			Error: a.Scatter * math.Sqrt(mat.Inner(weights, &inverse, weights))})
	}
	if t.Second != nil {
		a.Pair = a.pair(func(weights [4]float64) (by, err float64) {
			w := mat.NewVecDense(columns, nil)
			for cell, v := range weights {
				if col, ok := column[cell]; ok {
					w.SetVec(col, v)
				}
			}
			return mat.Dot(w, &fit), a.Scatter * math.Sqrt(mat.Inner(w, &inverse, w))
		})
		return a, true
	}
	for level := 1; level < len(a.Levels); level++ {
		lo, hi := a.Levels[level-1], a.Levels[level]
		between := mat.NewVecDense(columns, nil)
		between.SetVec(level, 1)
		between.SetVec(level-1, -1)
		a.Steps = append(a.Steps, a.step(lo, hi, a.Scatter*math.Sqrt(mat.Inner(between, &inverse, between))))
	}
	if t.ordered() {
		a.Bend = a.bend()
	}
	return a, true
}

// at returns the value of a cell: its level or, of a pair, its number.
func (t Trial) at(cell int) float64 {
	if t.Second != nil {
		return float64(cell)
	}
	return t.Levels[cell]
}

// plain returns the answer without block effects.
func (t Trial) plain(done []Run) (Answer, bool) {
	var a Answer
	sums, squares := make([]float64, t.cells()), 0.0
	counts := make([]int, t.cells())
	for _, r := range done {
		sums[t.cell(r)] += r.Value
		counts[t.cell(r)]++
	}
	for _, r := range done {
		off := r.Value - sums[t.cell(r)]/float64(counts[t.cell(r)])
		squares += off * off
	}
	for cell, n := range counts {
		if n > 0 {
			a.Levels = append(a.Levels, Level{At: t.at(cell), cell: cell, N: n, Mean: sums[cell] / float64(n)})
		}
	}
	if a.Freedom = len(done) - len(a.Levels); a.Freedom > 0 {
		a.Scatter = math.Sqrt(squares / float64(a.Freedom))
	}
	for i := range a.Levels {
		a.Levels[i].Error = a.Scatter / math.Sqrt(float64(a.Levels[i].N))
		if i > 0 && t.Second == nil {
			a.Steps = append(a.Steps, a.step(a.Levels[i-1], a.Levels[i], math.Hypot(a.Levels[i-1].Error, a.Levels[i].Error)))
		}
	}
	if t.Second != nil {
		a.Pair = a.pair(func(weights [4]float64) (by, err float64) {
			variance := 0.0
			for _, l := range a.Levels {
				by, variance = by+weights[l.cell]*l.Mean, variance+math.Pow(weights[l.cell]*l.Error, 2)
			}
			return by, math.Sqrt(variance)
		})
	} else if t.ordered() {
		a.Bend = a.bend()
	}
	return a, true
}

// confidence is the two-sided confidence level of a significant difference.
const confidence = 0.95

// criticalValue returns the critical value of Student's t: the smallest significant difference in standard errors.
func (a Answer) criticalValue() float64 {
	if a.Freedom < 1 {
		return math.Inf(1)
	}
	return distuv.StudentsT{Mu: 0, Sigma: 1, Nu: float64(a.Freedom)}.Quantile((1 + confidence) / 2)
}

func (a Answer) step(lo, hi Level, err float64) Step {
	s := Step{From: lo.At, To: hi.At, By: hi.Mean - lo.Mean, Error: err}
	s.Significant = err > 0 && math.Abs(s.By) > a.criticalValue()*err
	return s
}

// bend returns the level at which a broken line through the levels breaks: the steps after it together are
// not significant, and those before it together are.
func (a Answer) bend() *float64 {
	if len(a.Levels) < 3 || a.Freedom < 1 {
		return nil
	}
	last := a.Levels[len(a.Levels)-1]
	for i := 1; i < len(a.Levels)-1; i++ {
		at, first := a.Levels[i], a.Levels[0]
		before, beforeError := at.Mean-first.Mean, math.Hypot(at.Error, first.Error)
		after, afterError := last.Mean-at.Mean, math.Hypot(last.Error, at.Error)
		if math.Abs(before) > a.criticalValue()*beforeError && math.Abs(after) < a.criticalValue()*afterError {
			return &a.Levels[i].At
		}
	}
	return nil
}

// Expect returns the answer with the model's predictions, if the model predicts the measured quantity.
func (t Trial) Expect(a Answer) Answer {
	a.Levels = slices.Clone(a.Levels)
	if t.Knob == ByName || t.Second != nil && t.Second.Knob == ByName {
		return a
	}
	for i, l := range a.Levels {
		q := t.sheetAt(l.cell).Question(t.Sheet.Created)
		var f forecast.Forecast
		if t.Measure == ByMark || f.Run(q) != nil {
			continue
		}
		a.Levels[i].Expected = map[Measure]float64{ByYield: f.Yield.Value, ByStrength: f.TDS, ByTime: float64(f.Drawdown),
			ByHeat: float64(f.CupTemp)}[t.Measure]
	}
	return a
}

// decimals is the number of decimals of each measure.
var decimals = map[Measure]int{ByMark: 1, ByYield: 1, ByStrength: 2, ByTime: 0, ByHeat: 1}

// unitOf is the unit of a difference of each measure.
var unitOf = map[Measure]string{ByMark: "marks", ByYield: "points of yield", ByStrength: "points of TDS", ByTime: "s", ByHeat: "K"}

// Describe describes the answer in sentences, in the person's units.
func (t Trial) Describe(a Answer, prefs units.Prefs) string {
	if t.Second != nil {
		return t.describePair(a, prefs)
	}
	if len(a.Levels) == 0 {
		return "No brew has a result yet."
	}
	name := func(v float64) string { return t.LevelName(v, prefs) }
	with := func(by, err float64) string {
		if a.Freedom < 1 {
			return fmt.Sprintf("%s %s, from too few brews to say how sure that is", units.Points(by, decimals[t.Measure]),
				unitOf[t.Measure])
		}
		return fmt.Sprintf("%s ± %.*f %s", units.Points(by, decimals[t.Measure]), decimals[t.Measure], LeastError(err, decimals[t.Measure]),
			unitOf[t.Measure])
	}
	first, last := a.Levels[0], a.Levels[len(a.Levels)-1]
	if a.Bend != nil {
		for _, l := range a.Levels {
			if l.At == *a.Bend {
				return fmt.Sprintf("Up to %s it adds %s; past %s more adds %s: not distinguishable.", name(l.At),
					with(l.Mean-first.Mean, math.Hypot(l.Error, first.Error)), name(l.At),
					with(last.Mean-l.Mean, math.Hypot(last.Error, l.Error)))
			}
		}
	}
	err := math.Hypot(first.Error, last.Error)
	whole := a.step(first, last, err)
	out := fmt.Sprintf("From %s to %s it adds %s", name(first.At), name(last.At), with(whole.By, err))
	switch {
	case a.Freedom < 1:
		return out + ". Brew each level again."
	case whole.Significant:
		return out + "."
	}
	return out + ": not distinguishable."
}

// LeastError returns the error to display: at least one unit of the last decimal shown.
func LeastError(err float64, decimals int) float64 { return max(err, math.Pow10(-decimals)) }
