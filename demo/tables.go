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
	for heat, said := range map[flight.Heat]flight.Tasting{
		flight.Hot:    {Places: []int{2, 1, 3}, Comments: []string{"round", "clear, long", "flat"}},
		flight.Cooled: {Places: []int{2, 1, 3}, Comments: []string{"", "redcurrant", "chalk"}},
	} {
		if waters, err = waters.Taste(heat, said); err != nil {
			return err
		}
	}
	odd, err := flight.New("two-mills", "Can I tell the two mills apart?", flight.OddOne, true, 77,
		[]flight.Cup{{Name: "Bench grinder"}, {Name: "Apron mill"}})
	if err != nil {
		return err
	}
	for n := range 6 {
		if odd, err = odd.Next(); err != nil {
			return err
		}
		round := odd.Rounds[n]
		pick := round.Codes[0]
		for i := range round.Codes {
			if n != 2 && round.Cups[i] != round.Cups[(i+1)%3] && round.Cups[i] != round.Cups[(i+2)%3] {
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

// trialNoise holds the deviations of the trial's brews from the model, points.
var trialNoise = []float64{0.2, -0.4, 0.3, -0.1, 0.5, -0.2, 0.0, 0.3, -0.4, 0.1, -0.3, 0.2}

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
			for i, run := range t.Runs {
				q := sheet.Question(sheet.Created)
				q.Recipe = t.SheetOf(run).Recipe
				var expected forecast.Forecast
				if err := expected.Run(q); err != nil {
					return err
				}
				t = t.SetResult(i, expected.Yield.Value+trialNoise[i], "")
			}
		}
		if err := f.st.AddTrial(f.ctx, t, f.day(len(study.ID)-3)); err != nil {
			return err
		}
	}
	return nil
}
