package demo

import (
	"fmt"
	"math"
	"time"

	"yardbloom/core/practice"
	"yardbloom/core/rush"
	"yardbloom/core/stage"
	"yardbloom/core/trace"
	"yardbloom/core/units"
	"yardbloom/device"
)

// live adds practice pours and a presentation in rehearsal.
func (f *filler) live() error {
	for i, p := range practised {
		l, _ := practice.LessonByID(p.lesson)
		wander, late := unsteady(i, p.lesson)
		if err := f.st.AddTry(f.ctx, practice.Try{Lesson: l, Readings: poured(l, wander, late, uint64(i))}, f.day(p.days)); err != nil {
			return err
		}
	}
	heat := stage.Script{ID: "regional-heat", Name: "Potting shed heat", RecipeID: "slate-terrace-3-kept", Cups: 3, Words: 130, Limit: 390,
		Lines: stage.Parse(heatLines)}
	kept, _, err := f.st.Draft(f.ctx, heat.RecipeID)
	if err != nil {
		return err
	}
	o, err := rush.OrderOf(kept.Name, kept.Question(f.now))
	if err != nil {
		return err
	}
	plan, err := rush.MakeCups(o, heat.Cups)
	if err != nil {
		return err
	}
	planned := stage.Place(heat.Lines, heat.Words, stage.Hands(o, plan))
	for n, days := range rehearsed {
		heat.Rehearsals = append(heat.Rehearsals, rehearse(planned, plan.Ready(), n, f.day(days)))
	}
	return f.st.AddScript(f.ctx, heat, f.day(4))
}

// practised lists practice pours of the nursery's people.
var practised = []struct {
	lesson string
	days   int // ago
}{
	{"slow-and-steady", 9}, {"slow-and-steady", 9}, {"circles", 7}, {"slow-and-steady", 6}, {"circles", 4}, {"low-and-gentle", 3},
	{"high-and-breaking", 2}, {"slow-and-steady", 1},
}

// hard holds the difficulty of the lessons: a factor of the share by which the rate wanders.
var hard = map[string]float64{"slow-and-steady": 1, "circles": 1.25, "low-and-gentle": 1.5, "high-and-breaking": 2}

// unsteady returns by which share of the rate the n-th practice pour wanders, and how late it begins, s: both shrink with practice.
func unsteady(n int, lesson string) (wander, late float64) {
	rng, left := chanceOf(fmt.Sprintf("practice %d", n)), math.Pow(0.83, float64(n))
	return 0.3 * left * hard[lesson] * math.Exp(0.1*rng.NormFloat64()), 1.6 * left * math.Abs(rng.NormFloat64())
}

// rehearsed lists the days ago of the rehearsals.
var rehearsed = []int{2, 1}

// rehearse returns the n-th rehearsal of planned lines with cups that are ready at a time. Each line begins at its time, or after the one
// before it, with a hesitation; the first rehearsal is spoken a fifth too slowly, and each later one is nearer to the plan.
func rehearse(planned []stage.Spoken, ready units.Seconds, n int, at time.Time) stage.Rehearsal {
	rng, left := chanceOf(fmt.Sprintf("rehearsal %d", n)), units.Seconds(math.Pow(0.4, float64(n)))
	r := stage.Rehearsal{Started: at}
	free := units.Seconds(0)
	for _, l := range planned {
		start := max(l.From, free) + left*units.Seconds(4*math.Abs(rng.NormFloat64()))
		free = start + (l.To-l.From)*(1+0.2*left)
		r.LineStarts = append(r.LineStarts, units.Seconds(math.Round(float64(start))))
	}
	r.Ended = units.Seconds(math.Round(float64(max(ready, free) + 6*left)))
	return r
}

// poured returns the readings of a simulated scale for a lesson poured with a given unsteadiness.
func poured(l practice.Lesson, wander, late float64, seed uint64) (out []trace.Reading) {
	scale := device.NewScaleStandIn(seed, 1)
	total, t := 0.0, -2.0
	for ; t < late+float64(l.Duration())+3; t += device.Every {
		rate := 0.0
		if t >= late && total < float64(l.Water) {
			rate = l.Rate * (1 + wander*math.Sin(1.1*t+float64(seed)))
		}
		total += rate * device.Every
		out = append(out, trace.Reading{At: units.Seconds(t), Grams: scale.Step(device.Load{Grams: units.Grams(total), Stream: rate})})
	}
	return out
}

const heatLines = `Good morning. Three cups, one coffee: it grew on the slate terrace behind the quarry.
I bloom all three first, and you may look: it domes, since it was roasted nine days ago.
What I want you to find is redcurrant, then bergamot as it cools.
The water is soft and the grind is coarse for a coffee this dense, so that nothing clogs.
I pour low and in spirals; the last pour is the lowest, and the bed comes to rest flat.
2:45 Let it drain with me. The end is the last steady stream, not the last drop.
Please wait a minute before the first sip: it is still hotter than sixty degrees.`
