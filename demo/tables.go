package demo

import (
	"fmt"

	"yardbloom/core/flight"
	"yardbloom/core/forecast"
	"yardbloom/core/trial"
)

// tables adds cups side by side, and two trials, one of them with an answer.
func (f *filler) tables() error {
	if err := f.flights(); err != nil {
		return err
	}
	return f.trials()
}

func (f *filler) flights() error {
	waters, err := flight.New("three-waters", "Three waters, one coffee", flight.Ranked, true, 20260418,
		[]flight.Cup{{Name: "Filter jug"}, {Name: "Mixed water"}, {Name: "Spring water"}})
	if err != nil {
		return err
	}
	for _, heat := range []flight.Heat{flight.Hot, flight.Cooled} {
		said, err := f.tasteWaters(waters, heat)
		if err != nil {
			return err
		}
		if waters, err = waters.Taste(heat, said); err != nil {
			return err
		}
	}
	odd, err := flight.New("two-mills", "Can I tell the two mills apart?", flight.OddOne, true, 77,
		[]flight.Cup{{Name: "Bench grinder"}, {Name: "Apron mill"}})
	if err != nil {
		return err
	}
	rng := chanceOf(odd.ID)
	for n := range 6 {
		if odd, err = odd.Next(); err != nil {
			return err
		}
		round := odd.Rounds[n]
		pick, tells := round.Codes[rng.IntN(len(round.Codes))], rng.Float64() < 0.8
		for i := range round.Codes {
			if tells && round.Cups[i] != round.Cups[(i+1)%3] && round.Cups[i] != round.Cups[(i+2)%3] {
				pick = round.Codes[i]
			}
		}
		if odd, err = odd.Pick(pick); err != nil {
			return err
		}
	}
	blind, err := flight.New("window-morning", "This morning's window", flight.Ranked, true, 4,
		[]flight.Cup{{Name: "Slate Terrace"}, {Name: "Orchard Wall"}, {Name: "Winter Stores"}, {Name: "Long Meadow"}})
	if err != nil {
		return err
	}
	for ago, it := range []flight.Flight{blind, odd, waters.Reveal()} {
		if err := f.st.AddFlight(f.ctx, it, f.day(2*ago)); err != nil {
			return err
		}
	}
	return nil
}

// tasteWaters ranks the cups of a table of waters as Marta would by the model: the coffee of the window in each water.
func (f *filler) tasteWaters(table flight.Flight, heat flight.Heat) (flight.Tasting, error) {
	b, err := f.st.Brew(f.ctx, "slate-terrace-4")
	if err != nil {
		return flight.Tasting{}, err
	}
	said := flight.Tasting{Places: make([]int, len(table.Cups)), Comments: make([]string, len(table.Cups))}
	marks := make([]int, len(table.Cups))
	rng := chanceOf(table.ID + string(heat))
	for i, c := range table.Cups {
		q := b.Question(b.Started)
		for _, w := range waters {
			if w.Name == c.Name || w.ID == "mixed-water" && c.Name == "Mixed water" {
				q.Gear.Water = w
			}
		}
		var is forecast.Forecast
		if err := is.Run(q); err != nil {
			return said, err
		}
		t := palates["marta"].tasted(outcome{ey: is.Yield.Value, tds: is.TDS}, b.Bag.Notes, rng)
		marks[i], said.Comments[i] = 100*t.Overall+rng.IntN(100), t.Notes // no ties
	}
	for i, m := range marks {
		said.Places[i] = 1
		for _, other := range marks {
			if other > m {
				said.Places[i]++
			}
		}
	}
	return said, nil
}

func (f *filler) trials() error {
	b, err := f.st.Brew(f.ctx, "slate-terrace-4")
	if err != nil {
		return err
	}
	for _, study := range trial.Studies()[:2] {
		sheet := b.Sheet
		sheet.Created = f.day(3)
		t, err := trial.New("trial-"+study.ID, study.Name, sheet, trial.Of(study.Knob, study.Levels(sheet.Recipe)...), nil, study.Repeats,
			study.Measure, 20260509)
		if err != nil {
			return fmt.Errorf("trial %s: %w", study.ID, err)
		}
		if study.ID == "water" {
			rng := chanceOf(t.ID)
			for i, run := range t.Runs {
				q := sheet.Question(sheet.Created)
				q.Recipe = t.SheetOf(run).Recipe
				var expected forecast.Forecast
				if err := expected.Run(q); err != nil {
					return err
				}
				t = t.SetResult(i, expected.Yield.Value+0.3*rng.NormFloat64(), "")
			}
		}
		if err := f.st.AddTrial(f.ctx, t, f.day(len(study.ID)-3)); err != nil {
			return err
		}
	}
	return nil
}
