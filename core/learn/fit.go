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

// MaxSamples is the number of latest brews that are learned from. Older ones may come from gear that has changed
// since.
const MaxSamples = 300

// most is the number of standard errors from which a measurement is an outlier. About one good brew in ten
// thousand exceeds it.
const most = 4

// Fit learns from measured brews in chronological order. The order of the argument does not matter.
func Fit(samples []Sample) *Knowledge { return fit(samples, nil) }

func fit(samples []Sample, done <-chan struct{}) *Knowledge {
	samples = inOrder(samples)
	y := &Knowledge{}
	for _, s := range samples {
		if isClosed(done) {
			return y
		}
		y.learn(s)
	}
	for i, s := range samples {
		y.Seen[i].Slow = y.slow(s)
	}
	return y
}

func isClosed(done <-chan struct{}) bool {
	select {
	case <-done:
		return true
	default:
		return false
	}
}

// inOrder returns the latest samples in chronological order.
func inOrder(samples []Sample) []Sample {
	samples = slices.Clone(samples)
	slices.SortStableFunc(samples, func(a, b Sample) int { return cmp.Or(a.At.Compare(b.At), cmp.Compare(a.ID, b.ID)) })
	return samples[max(0, len(samples)-MaxSamples):]
}

// Follow returns the result of Fit, but learns only from the last samples if the earlier ones are
// unchanged. If an earlier sample was measured again, excluded or included, it fits from the beginning. The
// receiver is not modified. If done is closed meanwhile, the result is incomplete.
func (y *Knowledge) Follow(samples []Sample, done <-chan struct{}) *Knowledge {
	samples = inOrder(samples)
	if y == nil || len(samples) == 0 {
		return fit(samples, done)
	}
	known := y.Seen
	for len(known) > 0 && known[0].ID != samples[0].ID { // older than the samples in use
		known = known[1:]
	}
	if len(known) == 0 || len(known) > len(samples) {
		return fit(samples, done)
	}
	for i, seen := range known {
		if s := samples[i]; !seen.of(s) || seen.SaidOut != s.Out || seen.SaidIn != s.In {
			return fit(samples, done)
		}
	}
	next := y.clone()
	next.Seen = slices.Clone(known)
	for _, s := range samples[len(known):] {
		if isClosed(done) {
			break
		}
		next.learn(s)
		next.Seen[len(next.Seen)-1].Slow = next.slow(s)
	}
	return next
}

// clone returns a deep copy.
func (y *Knowledge) clone() *Knowledge {
	c := &Knowledge{index: maps.Clone(y.index), mean: slices.Clone(y.mean), cov: mat.NewSymDense(len(y.mean), nil), Seen: slices.Clone(y.Seen)}
	c.cov.CopySym(y.cov)
	return c
}

// slow returns ln of a sample's drawdown relative to the one expected for an ordinary bag; 0 if it was not measured.
func (y *Knowledge) slow(s Sample) float64 {
	var r sim.Result
	got, there := s.measured()
	theta := y.theta(s.keys(), y.mean)
	theta[forecast.Flow] -= y.mean[y.index[key{forecast.Flow, bagsFlow(s)}]]
	at, _, ran := s.at(theta, sim.RunCoarse, &r)
	if !ran || !there[inTime] {
		return 0
	}
	return got[inTime] - at[inTime]
}

// Odd reports whether a brew's measurement is an outlier, and by how many standard errors: as judged when
// it was learned, or against the present beliefs if it was not learned yet.
func (y *Knowledge) Odd(s Sample) (off float64, odd bool) {
	if y == nil {
		return 0, false
	}
	for _, seen := range y.Seen {
		if seen.of(s) {
			return seen.Off, seen.Odd
		}
	}
	if len(y.mean) == 0 {
		return 0, false
	}
	seen, _, _ := y.clone().look(s)
	return seen.Off, seen.Odd
}

// of reports whether b was the sample with its present measurements.
func (b Seen) of(s Sample) bool {
	return b.ID == s.ID && b.Drawdown == s.Drawdown && b.Beverage == s.Beverage && b.TDS == s.TDS
}

// The figures that a brew teaches: ln of its free drawdown, ln of its TDS, and its beverage in grams.
const (
	inTime = iota
	inStrength
	inWeight
	figures
)

// The standard errors of measurements: a thumb on a clock, relative to a usual drawdown; a refractometer,
// percentage points; a scale under a full carafe, g.
const (
	ofClock         = 0.01
	ofRefractometer = 0.03
	ofScale         = 1.0
)

// at returns the model's figures for a sample with its parameters at theta, and whether the model ran.
func (s Sample) at(theta [forecast.Parameters]float64, run func(*sim.Result, sim.Brew) error, r *sim.Result) (f [figures]float64,
	o forecast.Outcome, ok bool) {
	b := forecast.WithParameters(s.Question.Brew(), theta)
	if run(r, b) != nil || !r.Drained {
		return f, o, false
	}
	o = s.Question.Outcome(r)
	f = [figures]float64{inTime: math.Log(max(1, o.Drawdown-float64(b.Release))), inStrength: math.Log(max(0.01, o.Strength)),
		inWeight: o.Beverage}
	return f, o, true
}

// measured returns the measured figures of a sample.
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

// theta returns a sample's parameters at a state of the yard.
func (y *Knowledge) theta(keys map[forecast.Parameter][]key, state []float64) (theta [forecast.Parameters]float64) {
	for p, ks := range keys {
		for _, k := range ks {
			theta[p] += state[y.index[k]]
		}
	}
	return theta
}

// slopes returns the derivatives of the figures with respect to a sample's parameters, by central
// differences of 0.15 prior standard deviations. A drawdown has kinks, and much smaller steps would see
// only one side of them.
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

// line returns the linearization of a sample's figures at a state, and the model's figures there; ok is
// false if the model does not run.
func (y *Knowledge) line(s Sample, state []float64) (m linear, o forecast.Outcome, perSize float64, ok bool) {
	var r sim.Result
	keys := s.keys()
	got, there := s.measured()
	theta := y.theta(keys, state)
	at, o, ran := s.at(theta, sim.RunInto, &r)
	slope, sloped := s.slopes(theta, &r)
	if !ran || !sloped {
		return m, o, 0, false
	}
	m = y.linear(s, keys, slope, there, o)
	for i, f := range m.of { // the difference between measurement and linearization
		rest := got[f] - at[f]
		for j := range state {
			rest -= m.by.At(i, j) * (y.mean[j] - state[j])
		}
		m.rest.SetVec(i, rest)
	}
	return m, o, slope[inTime][forecast.Size], true
}

// look compares a sample with its expectation and adds its parameters to the state. learns reports whether
// to learn from it, with the linearization m.
func (y *Knowledge) look(s Sample) (seen Seen, m linear, learns bool) {
	seen = Seen{ID: s.ID, Name: s.Name, Bag: s.Bag, Grinder: s.Grinder, At: s.At, Drawdown: s.Drawdown, Beverage: s.Beverage, TDS: s.TDS,
		SaidOut: s.Out, SaidIn: s.In}
	y.grow(s)
	y.walk(s)
	m, o, perSize, ok := y.line(s, y.mean)
	if ok {
		seen.Expected, seen.Error, seen.PerSize = o, m.errors(o, float64(s.Question.Brew().Release)), perSize
		seen.Off = m.off()
		seen.Odd = seen.Off > most && !s.In
	}
	seen.Out = s.Out || seen.Odd || !ok || len(m.of) == 0
	return seen, m, !seen.Out
}

// learn updates the state with one brew: the maximum a posteriori by a few Gauss-Newton steps, of which the
// last gives the covariance.
func (y *Knowledge) learn(s Sample) {
	seen, m, ok := y.look(s)
	state := y.mean
	var cov *mat.SymDense
	const rounds, near = 4, 0.02 // near: in prior standard deviations
	for round := 0; ok && round < rounds; round++ {
		if round > 0 {
			if m, _, _, ok = y.line(s, state); !ok { // the step leads outside the model's range
				seen.Out, cov = true, nil
				break
			}
		}
		moved, narrowed := m.update(y)
		if moved == nil {
			break
		}
		far := 0.0
		for j := range state {
			far = max(far, math.Abs(moved[j]-state[j])/math.Sqrt(y.cov.At(j, j)+1e-12))
		}
		if state, cov = moved, narrowed; far < near {
			break
		}
	}
	if cov != nil {
		y.mean, y.cov = state, cov
	}
	y.Seen = append(y.Seen, seen)
}

func digits(v float64) string { return strconv.FormatFloat(v, 'g', 6, 64) }
