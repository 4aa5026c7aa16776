package coach

import (
	"cmp"
	"maps"
	"math"
	"slices"

	"yardbloom/core/cup"
	"yardbloom/core/forecast"
	"yardbloom/core/units"
)

// Each observation is explained by the answer without it.

// A Sign is an observation with its effect.
type Sign struct {
	Say   string
	Moved []Moved
	// Without is the answer without the observation; empty if it is the same.
	Without string
	fact    bool // a fact of the gear, not an observation of the cup
}

// Moved is the change of a cause's probability by a sign, -1 to 1, and the probability with it.
type Moved struct {
	Cause  string
	By, To float64
}

// An observation is a thing seen, tasted or measured, with the case without it.
type observation struct {
	say  string
	drop func(*Case)
	fact bool // of the gear
}

// observations lists the observations of a brew.
func (c Case) observations() (out []observation) {
	add := func(say string, drop func(*Case)) {
		if say != "" {
			out = append(out, observation{say: say, drop: drop})
		}
	}
	for _, sc := range cup.Scales() {
		if step := c.step(sc.Sense); step > 0 {
			add(c.sensed(sc, step).say, func(c *Case) {
				c.Cup.Steps, c.Cup.Likes = maps.Clone(c.Cup.Steps), maps.Clone(c.Cup.Likes)
				delete(c.Cup.Steps, sc.Sense)
				delete(c.Cup.Likes, sc.Sense)
			})
		}
	}
	for _, fault := range cup.Faults() {
		if c.Cup.Faults[fault] {
			add(faulty(fault), func(c *Case) { c.Cup.Faults = maps.Clone(c.Cup.Faults); delete(c.Cup.Faults, fault) })
		}
	}
	for _, verdict := range c.marked() {
		add(verdict.say, func(c *Case) { c.Cup.Overall, c.Cup.Serve = 0, "" })
	}
	for _, want := range cup.Wants() {
		add(wanted(want)(c), func(c *Case) { c.Cup.Wants = maps.Clone(c.Cup.Wants); delete(c.Cup.Wants, want) })
	}
	if c.Cup.Bed != "" {
		add(seenBed(c.Cup.Bed)(c), func(c *Case) { c.Cup.Bed = "" })
	}
	for _, m := range slices.Compact(slices.Sorted(slices.Values(c.Marks))) {
		add(markedAs(m)(c), func(c *Case) {
			c.Marks = slices.DeleteFunc(slices.Clone(c.Marks), func(other cup.Mark) bool { return other == m })
		})
	}
	for _, s := range cup.Sights() {
		add(seen(s)(c), func(c *Case) { c.Cup.Sights = maps.Clone(c.Cup.Sights); delete(c.Cup.Sights, s) })
	}
	add(badPour(c), func(c *Case) { c.Cup.BadPour = false })
	add(standing(c), func(c *Case) { c.Laters = 0 })
	if c.Cup.Drawdown > 0 {
		add(cmp.Or(muchLater(c), muchSooner(c), runsSlow(c), runsFast(c), "The drawdown, "+c.Cup.Drawdown.String()+"."),
			func(c *Case) { c.Cup.Drawdown, c.lag, c.late = 0, lag{}, 0 })
	}
	if y, ok := c.Yield(); ok {
		add("Measured: "+y.String()+", "+units.Trim(c.Cup.TDS, 2)+" % TDS.", func(c *Case) { c.Cup.TDS = 0 })
	}
	add(cmp.Or(veryOld(c), old(c), veryFresh(c)), func(c *Case) { c.Bag.RoastedOn = "" })
	for _, fact := range []sign{unrinsed, coldBrewer, noThermostat, hotForRoast, dulls, bare} {
		if said := fact(c); said != "" {
			out = append(out, observation{said, func(c *Case) { c.ignored = said }, true})
		}
	}
	return out
}

// omit infers once more without each observation of this cup, several at a time, and keeps those that changed a cause by at least a
// point. The model is not run again.
func (w *weighing) omit() {
	all := w.observations()
	without := make([]*weighing, len(all))
	forecast.Parallel(len(all), func(mine forecast.Indices) {
		for i := range mine {
			c := w.Case
			all[i].drop(&c)
			without[i] = w.reconsidered(c, w.judged.before)
		}
	})
	if len(w.Path) > 0 {
		all, without = append(all, observation{say: "The earlier cups of this bag."}), append(without, w.reconsidered(w.Case, w.fresh))
	}
	for i, o := range all {
		if moved := w.chances.since(without[i].chances); len(moved) > 0 {
			w.lines = append(w.lines, Sign{Say: o.say, Moved: moved, fact: o.fact})
			w.without = append(w.without, without[i])
		}
	}
}

// alone returns the observations each of which raises the probability of a cause if it is the only one: those that repeat each other, so
// that none of them is missed.
func (w *weighing) alone(cause Cause) (out []string) {
	const least = 0.05
	all := w.observations()
	base := newJudgement(w.judged.before, w.cup).chances().of(cause)
	for i := range all {
		c := w.Case
		for k := range all {
			if k != i {
				all[k].drop(&c)
			}
		}
		if !all[i].fact && w.reconsidered(c, w.judged.before).chances.of(cause) > base+least {
			out = append(out, all[i].say)
		}
	}
	return out
}

// reconsidered returns the inference about this cup for another case and another aim before it.
func (w *weighing) reconsidered(c Case, before *aim) *weighing {
	out := *w
	out.Case = c
	at := w.cup
	if c.Cup.TDS == 0 {
		at = w.at
	}
	out.judged = newJudgement(before, at)
	out.judged.addAll(c.readings())
	out.chances = out.judged.chances()
	return &out
}

// since returns the changes of at least a point from other probabilities, the largest first.
func (p chances) since(before chances) (out []Moved) {
	const least, most = 0.01, 4
	for i, c := range causes {
		if by := p[i] - before[i]; math.Abs(by) >= least {
			out = append(out, Moved{string(c.Cause), by, p[i]})
		}
	}
	slices.SortStableFunc(out, func(a, b Moved) int { return cmp.Compare(math.Abs(b.By), math.Abs(a.By)) })
	return out[:min(len(out), most)]
}

// nearest is the number of best options that are ranked again without an observation.
const nearest = 8

// answersWithout adds to each sign the answer without it, if it differs.
func (w *weighing) answersWithout(given Advice) {
	forecast.Parallel(len(w.lines), func(mine forecast.Indices) {
		for i := range mine {
			o := w.without[i]
			aim, _ := o.judged.learned()
			o.believe(aim)
			o.options = slices.Clone(w.options[:min(len(w.options), nearest)])
			o.lines, o.quick = nil, true
			for k := range o.options {
				x := &o.options[k]
				x.practice = o.benefit(x.Change)
			}
			o.rank()
			if a := o.decide(); !a.same(given) {
				w.lines[i].Without = a.short()
			}
		}
	})
}

// same reports whether two advices call for the same thing: the same knob in the same direction, or the same kind of advice.
func (a Advice) same(b Advice) bool {
	if a.First == nil || b.First == nil {
		return a.First == nil && b.First == nil && a.Do == b.Do
	}
	return sameDecision(a.First.Knob, b.First.Knob) && a.First.Pour == b.First.Pour && (a.First.To > a.First.From) == (b.First.To > b.First.From)
}

// short returns the action of an advice.
func (a Advice) short() string {
	if a.First != nil {
		return a.First.Say
	}
	return a.Instead
}
