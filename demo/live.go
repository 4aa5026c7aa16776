package demo

import (
	"math"

	"yardbloom/core/practice"
	"yardbloom/core/stage"
	"yardbloom/core/trace"
	"yardbloom/core/units"
	"yardbloom/device"
)

// live adds practice pours and a presentation in rehearsal.
func (f *filler) live() error {
	for i, p := range practised {
		l, _ := practice.LessonByID(p.lesson)
		if err := f.st.AddTry(f.ctx, practice.Try{Lesson: l, Readings: poured(l, p.wander, p.late, uint64(i))}, f.day(p.days)); err != nil {
			return err
		}
	}
	heat := stage.Script{ID: "regional-heat", Name: "Potting shed heat", RecipeID: "slate-terrace-3-kept", Cups: 3, Words: 130, Limit: 390,
		Lines: stage.Parse(heatLines),
		Rehearsals: []stage.Rehearsal{{Started: f.day(2), LineStarts: []units.Seconds{15, 41, 171, 236, 270, 300, 316}, Ended: 381},
			{Started: f.day(1), LineStarts: []units.Seconds{13, 34, 160, 219, 258, 291, 301}, Ended: 365}}}
	return f.st.AddScript(f.ctx, heat, f.day(4))
}

// practised lists practice pours of the nursery's people with growing steadiness.
var practised = []struct {
	lesson       string
	days         int
	wander, late float64
}{
	{"slow-and-steady", 9, 0.32, 2.1}, {"slow-and-steady", 9, 0.24, 0.9}, {"circles", 7, 0.28, 1.2}, {"slow-and-steady", 6, 0.15, 0.6},
	{"circles", 4, 0.17, 0.4}, {"low-and-gentle", 3, 0.2, 0.7}, {"high-and-breaking", 2, 0.26, 1.5}, {"slow-and-steady", 1, 0.08, 0.4},
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
