package coach

import (
	"fmt"
	"math"

	"yardbloom/core/cup"
	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// A lever is one way to turn one knob: by how much, how far it may go, and when
// it must be left alone.
type lever struct {
	knob   recipe.Knob
	by     float64     // in the knob's unit
	within units.Range // what the knob may be after it
	unless []sign
	only   cup.Method // empty: both
	reason string
}

var (
	finer = lever{knob: recipe.KnobGrind, by: -35, within: units.Range{Lo: 380, Hi: 1600}, unless: []sign{slow, stalled, clogging},
		reason: "Finer grounds have more surface and hold the water longer."}
	coarser = lever{knob: recipe.KnobGrind, by: +40, within: units.Range{Lo: 200, Hi: 1150}, unless: []sign{fast},
		reason: "Coarser grounds let the water through sooner and give less away."}
	hotter = lever{knob: recipe.KnobTemperature, by: +2, within: units.Range{Lo: 70, Hi: 100},
		reason: "Hotter water takes more along in the same time."}
	cooler = lever{knob: recipe.KnobTemperature, by: -2, within: units.Range{Lo: 82, Hi: 100},
		reason: "Cooler water takes less of the bitter end along; the flow stays as it is."}
	lessWater = lever{knob: recipe.KnobRatio, by: -1, within: units.Range{Lo: 13, Hi: 25},
		reason: "Less water on the same dose is stronger."}
	moreWater = lever{knob: recipe.KnobRatio, by: +1, within: units.Range{Lo: 6, Hi: 18},
		reason: "More water on the same dose is lighter, and clearer."}
	moreBloom = lever{knob: recipe.KnobBloom, by: +0.5, within: units.Range{Lo: 2, Hi: 4}, only: cup.Percolation,
		reason: "More water in the bloom reaches grounds that would stay dry."}
	longerBloom = lever{knob: recipe.KnobBloomTime, by: +15, within: units.Range{Lo: 20, Hi: 90}, only: cup.Percolation,
		reason: "A longer bloom wets the core of each grain before the flow begins."}
	swirl = lever{knob: recipe.KnobSwirl, by: +1, within: units.Range{Lo: 0, Hi: 1}, only: cup.Percolation,
		reason: "A swirl after the bloom and after the last pour levels the bed and wets all of it."}
	noSwirl = lever{knob: recipe.KnobSwirl, by: -1, within: units.Range{Lo: 0, Hi: 1}, only: cup.Percolation,
		reason: "Without the swirl the fines stay where they are."}
	fewerPours = lever{knob: recipe.KnobPours, by: -1, within: units.Range{Lo: 1, Hi: 8}, only: cup.Percolation,
		reason: "Fewer pours stir the bed less, so fewer fines settle in it."}
	lowerPour = lever{knob: recipe.KnobHeight, by: -1, within: units.Range{Lo: 0, Hi: 2},
		reason: "A lower stream digs less into the bed."}
	longerSteep = lever{knob: recipe.KnobSteep, by: +30, within: units.Range{Lo: 60, Hi: 300}, only: cup.Immersion,
		reason: "A longer steep takes more along, slowly."}
	shorterSteep = lever{knob: recipe.KnobSteep, by: -30, within: units.Range{Lo: 90, Hi: 600}, only: cup.Immersion,
		reason: "A shorter steep leaves the late, bitter part behind."}
	breakLater = lever{knob: recipe.KnobSteep, by: +15, within: units.Range{Lo: 60, Hi: 300}, only: cup.Immersion,
		reason: "The crust is broken 45 s before the valve opens: a little more time lets every grain sink and get wet."}
	rinse = lever{knob: recipe.KnobRinse, by: +1, within: units.Range{Lo: 0, Hi: 1},
		reason: "The rinse goes down the sink, and the taste of paper with it."}
)

// An Effect is what a change is expected to do, by the brew model.
type Effect struct {
	Yield float64       `json:"yield"` // percentage points of EY
	Time  units.Seconds `json:"time"`  // of drawdown
}

// expect asks the model what the two choices do to this brew. Where the model
// cannot speak for the recipe, nothing is expected.
func (b Brew) expect(first, second *Proposal) {
	if first == nil {
		return
	}
	q := forecast.Question{Recipe: b.Recipe, Bag: b.Bag, Now: b.Now, Gear: b.Gear}
	now, err := forecast.Of(q)
	if err != nil {
		return
	}
	for _, p := range []*Proposal{first, second} {
		if p == nil {
			continue
		}
		if d := forecast.Steps(q, now, []forecast.Move{{Knob: p.Knob, To: p.Change.To}})[0]; d != nil {
			p.Effect = Effect{Yield: d.Yield, Time: d.Time}
		}
	}
}

// A Proposal is one change to a recipe, in the person's own terms.
type Proposal struct {
	recipe.Change
	Say    string // "2 clicks finer"
	To     string // "20 clicks (614 µm)"
	Reason string
	Effect Effect
}

// pull turns a lever on a brew, or says that its limits do not allow it.
func (l lever) pull(b Brew) (Proposal, bool) {
	if l.only != "" && l.only != b.Method() {
		return Proposal{}, false
	}
	for _, s := range l.unless {
		if s(b) != "" {
			return Proposal{}, false
		}
	}
	from := b.Recipe.Value(l.knob)
	to := l.reach(b, from)
	if l.by > 0 && to <= from || l.by < 0 && to >= from {
		return Proposal{}, false
	}
	c := recipe.Change{Knob: l.knob, From: from, To: to}
	p := Proposal{Change: c, Reason: l.reason}
	p.Say, p.To = Describe(b, c)
	return p, true
}

// reach is where the knob ends up: as far as the lever wants and its limits let it.
func (l lever) reach(b Brew, from float64) float64 {
	if l.knob == recipe.KnobGrind {
		m := b.Grinder.Nudge(units.Micrometres(from), units.Micrometres(l.by))
		if float64(m.Size) < l.within.Lo || float64(m.Size) > l.within.Hi {
			return from
		}
		return float64(m.Size)
	}
	hi := l.within.Hi
	if l.knob == recipe.KnobTemperature {
		hi = min(hi, float64(gear.Hottest(b.Boiling)))
	}
	return max(l.within.Lo, min(hi, from+l.by))
}

// Describe says a change in the person's own terms: what to do, and where it leads.
func Describe(b Brew, c recipe.Change) (say, to string) {
	more := func(up, down string) string {
		if c.To > c.From {
			return up
		}
		return down
	}
	switch c.Knob {
	case recipe.KnobGrind:
		from, size := units.Micrometres(c.From), units.Micrometres(c.To)
		move := b.Grinder.Nudge(from, size-from)
		return b.Grinder.Say(move, from), fmt.Sprintf("%s (%s)", b.Grinder.Setting(size), b.Prefs.Unit(units.Grind).Format(c.To))
	case recipe.KnobTemperature:
		u := b.Prefs.Unit(units.Temperature)
		return u.Size(c.To-c.From) + more(" hotter", " cooler"), u.Format(c.To)
	case recipe.KnobRatio:
		water := b.Recipe.With(recipe.KnobRatio, c.To).Water
		u := b.Prefs.Unit(units.Water)
		return fmt.Sprintf("%s %s water on the same dose", u.Format(math.Abs(float64(water-b.Recipe.With(recipe.KnobRatio, c.From).Water))), more("more", "less")),
			fmt.Sprintf("1 : %s, %s", units.Trim(c.To, 1), u.Format(float64(water)))
	case recipe.KnobBloom:
		return more("a larger bloom", "a smaller bloom"), fmt.Sprintf("%s× the dose", units.Trim(c.To, 1))
	case recipe.KnobBloomTime:
		return fmt.Sprintf("bloom %.0f s %s", math.Abs(c.To-c.From), more("longer", "shorter")), units.Seconds(c.To).String()
	case recipe.KnobSwirl:
		hand := b.Recipe.Hand
		if hand == recipe.NoHand {
			hand = recipe.Swirl
		}
		return more(fmt.Sprintf("%s after the bloom and after the last pour", hand), fmt.Sprintf("drop the %s", hand)), more(fmt.Sprintf("with a %s", hand), fmt.Sprintf("no %s", hand))
	case recipe.KnobPours:
		return more("one pour more", "one pour less"), fmt.Sprintf("%.0f after the bloom", c.To)
	case recipe.KnobRate:
		return more("pour faster", "pour slower"), units.Trim(c.To, 1) + " g/s"
	case recipe.KnobGap:
		return fmt.Sprintf("pours %.0f s %s", math.Abs(c.To-c.From), more("further apart", "closer together")), fmt.Sprintf("every %.0f s", c.To)
	case recipe.KnobDrained:
		return more("pour when the water has reached the bed", "pour by the clock"), more("by the bed", "by the clock")
	case recipe.KnobPattern:
		pattern := string(b.Recipe.With(c.Knob, c.To).PourPattern())
		return "pour in " + map[bool]string{true: "small circles", false: "a " + pattern}[pattern == "small circles"], pattern
	case recipe.KnobHeight:
		return more("pour from higher", "pour lower"), recipe.Height(c.To).String()
	case recipe.KnobSteep:
		return fmt.Sprintf("steep %.0f s %s", math.Abs(c.To-c.From), more("longer", "shorter")), units.Seconds(c.To).String()
	default: // KnobRinse
		return more("rinse the filter", "leave the rinse out"), more("rinsed", "not rinsed")
	}
}
