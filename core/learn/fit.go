package learn

import (
	"cmp"
	"maps"
	"math"
	"slices"
	"strconv"

	"gonum.org/v1/gonum/mat"

	"yardbloom/core/forecast"
	"yardbloom/core/sim"
)

// Most is how many brews are learned from, the latest ones: gear changes, and older
// ones would only make up for that.
const Most = 300

// most is how many standard errors off a brew must be for its measurement to be asked
// about. Of brews that are well, one in some ten thousand is.
const most = 4

// Fit learns from measured brews, in the order in which they were made. The order in
// which they are given does not matter.
func Fit(samples []Sample) *Yard {
	samples = inOrder(samples)
	y := &Yard{}
	for _, s := range samples {
		y.learn(s)
	}
	for i, s := range samples {
		y.Seen[i].Slow = y.slow(s)
	}
	return y
}

// inOrder are the latest samples in the order in which they were made.
func inOrder(samples []Sample) []Sample {
	samples = slices.Clone(samples)
	slices.SortStableFunc(samples, func(a, b Sample) int { return cmp.Or(a.At.Compare(b.At), cmp.Compare(a.ID, b.ID)) })
	return samples[max(0, len(samples)-Most):]
}

// Follow is Fit for a yard that has learned from all but the last of the samples: it
// learns from these alone. Where anything earlier was measured anew, left out or
// taken after all, it fits from the beginning. The yard itself stays as it is.
func (y *Yard) Follow(samples []Sample) *Yard {
	samples = inOrder(samples)
	if y == nil || len(samples) == 0 {
		return Fit(samples)
	}
	known := y.Seen
	for len(known) > 0 && known[0].ID != samples[0].ID { // older than what is still learned from
		known = known[1:]
	}
	if len(known) == 0 || len(known) > len(samples) {
		return Fit(samples)
	}
	for i, seen := range known {
		if s := samples[i]; seen.ID != s.ID || seen.Drawdown != s.Drawdown || seen.Beverage != s.Beverage || seen.TDS != s.TDS || seen.SaidOut != s.Out || seen.SaidIn != s.In {
			return Fit(samples)
		}
	}
	next := &Yard{index: maps.Clone(y.index), mean: slices.Clone(y.mean), cov: mat.NewSymDense(len(y.mean), nil), Seen: slices.Clone(known)}
	next.cov.CopySym(y.cov)
	for _, s := range samples[len(known):] {
		next.learn(s)
		next.Seen[len(next.Seen)-1].Slow = next.slow(s)
	}
	return next
}

// slow is ln of a sample's drawdown against what everything that was learned expects of
// it but the grains' size of its own time: 0 where it was not measured.
func (y *Yard) slow(s Sample) float64 {
	var r sim.Result
	got, there := s.measured()
	at, _, ran := s.at(y.theta(s.keys(), y.mean), sim.RunCoarse, &r)
	if !ran || !there[inTime] {
		return 0
	}
	return got[inTime] - at[inTime]
}

// Odd says whether a brew's measurement is to be asked about, and by how many standard
// errors it is off: as it was judged when it was learned from or, before that, against
// what the yard believes now.
func (y *Yard) Odd(s Sample) (off float64, odd bool) {
	if y == nil {
		return 0, false
	}
	for _, seen := range y.Seen {
		if seen.ID == s.ID && seen.Drawdown == s.Drawdown && seen.Beverage == s.Beverage && seen.TDS == s.TDS {
			return seen.Off, seen.Odd
		}
	}
	q := s.Question
	q.Beliefs = y.Beliefs(s)
	f, err := forecast.Of(q)
	if err != nil || !f.Drained {
		return 0, false
	}
	for _, m := range []struct{ got, want, sd float64 }{
		{s.Drawdown, float64(f.Drawdown), float64(f.DrawdownError)}, {s.Beverage, float64(f.Beverage), math.Hypot(float64(f.BeverageError), ofScale)}, {s.TDS, f.Strength.Value, math.Hypot(f.Strength.Error, ofRefractometer)},
	} {
		if m.got > 0 {
			off = max(off, math.Abs(m.got-m.want)/m.sd)
		}
	}
	return off, off > most
}

// The figures that a brew is learned from: ln of its free drawdown, ln of its TDS, and
// its beverage in grams.
const (
	inTime = iota
	inStrength
	inWeight
	figures
)

// instruments are the standard errors of what people measure with: a thumb on a clock,
// as a share of a usual drawdown; a refractometer, points; a scale under a full carafe, g.
const (
	ofClock         = 0.01
	ofRefractometer = 0.03
	ofScale         = 1.0
)

// at is what the model gives for a sample with its parameters at theta: the figures,
// and whether it runs.
func (s Sample) at(theta [forecast.Parameters]float64, run func(*sim.Result, sim.Brew) error, r *sim.Result) (f [figures]float64, o forecast.Outcome, ok bool) {
	b := forecast.Turned(s.Question.Brew(), theta)
	if run(r, b) != nil || !r.Drained {
		return f, o, false
	}
	o = forecast.Outcome{Drawdown: float64(r.Drawdown), Drained: true, Beverage: float64(r.Beverage), Yield: r.EY, Strength: r.TDS}
	f = [figures]float64{inTime: math.Log(max(1, o.Drawdown-float64(b.Release))), inStrength: math.Log(max(0.01, o.Strength)), inWeight: o.Beverage}
	return f, o, true
}

// measured are the figures of a sample that were measured.
func (s Sample) measured() (f [figures]float64, there [figures]bool) {
	free := s.Drawdown - float64(s.Question.Brew().Release)
	if there[inTime] = s.Drawdown > 0 && free > 1; there[inTime] {
		f[inTime] = math.Log(free)
	}
	if there[inStrength] = s.TDS > 0; there[inStrength] {
		f[inStrength] = math.Log(s.TDS)
	}
	f[inWeight], there[inWeight] = s.Beverage, s.Beverage > 0
	return f, there
}

// theta is a sample's parameters at a state of the yard.
func (y *Yard) theta(keys map[forecast.Parameter][]key, state []float64) (theta [forecast.Parameters]float64) {
	for p, ks := range keys {
		for _, k := range ks {
			theta[p] += state[y.index[k]]
		}
	}
	return theta
}

// slopes are the derivatives of the figures by a sample's parameters, by central
// differences of 0.15 prior standard deviations: a drawdown has kinks, and steps much
// smaller see one side of them only.
func (s Sample) slopes(theta [forecast.Parameters]float64, r *sim.Result) (out [figures][forecast.Parameters]float64, ok bool) {
	const step = 0.15
	for p := range forecast.Parameters {
		h := step * forecast.Priors[p]
		up, down := theta, theta
		up[p] += h
		down[p] -= h
		a, _, ok1 := s.at(up, sim.RunCoarse, r)
		b, _, ok2 := s.at(down, sim.RunCoarse, r)
		if !ok1 || !ok2 {
			return out, false
		}
		for f := range figures {
			out[f][p] = (a[f] - b[f]) / (2 * h)
		}
	}
	return out, true
}

// learn moves a yard by one brew: the maximum a posteriori of what was believed and
// what was measured, by a few steps of Gauss and Newton, of which the last gives the
// covariance.
func (y *Yard) learn(s Sample) {
	seen := Seen{ID: s.ID, Name: s.Name, Bag: s.Bag, Grinder: s.Grinder, At: s.At, Drawdown: s.Drawdown, Beverage: s.Beverage, TDS: s.TDS, Out: s.Out, SaidOut: s.Out, SaidIn: s.In}
	y.grow(s)
	var r sim.Result
	keys := s.keys()
	got, there := s.measured()
	before := mat.NewVecDense(len(y.mean), slices.Clone(y.mean))
	state := slices.Clone(y.mean)
	var cov *mat.SymDense
	const rounds = 4
	for round := range rounds {
		theta := y.theta(keys, state)
		at, o, ran := s.at(theta, sim.RunInto, &r)
		slope, ok := s.slopes(theta, &r)
		if !ran || !ok { // the model cannot make this brew: nothing to learn from it
			seen.Out = true
			y.Seen = append(y.Seen, seen)
			return
		}
		m := y.linear(s, keys, slope, there, o)
		for i, f := range m.of { // what is left between the measurement and the line through the state
			rest := got[f] - at[f]
			for j := range state {
				rest -= m.by.At(i, j) * (before.AtVec(j) - state[j])
			}
			m.rest.SetVec(i, rest)
		}
		if round == 0 {
			seen.Expected, seen.Error = o, m.errors(y, o, float64(s.Question.Brew().Release))
			seen.Off = m.off(y)
			seen.Odd = seen.Off > most && !s.In
			seen.PerSize = slope[inTime][forecast.Size]
			if seen.Odd || s.Out || len(m.of) == 0 {
				seen.Out = true
				y.Seen = append(y.Seen, seen)
				return
			}
		}
		var moved []float64
		if moved, cov = m.update(y, before); moved == nil {
			break
		}
		far := 0.0
		for j := range state {
			far = max(far, math.Abs(moved[j]-state[j])/math.Sqrt(y.cov.At(j, j)+1e-12))
		}
		state = moved
		if far < 0.02 {
			break
		}
	}
	if cov != nil {
		y.mean, y.cov = state, cov
	}
	y.Seen = append(y.Seen, seen)
}

func digits(v float64) string { return strconv.FormatFloat(v, 'g', 6, 64) }
