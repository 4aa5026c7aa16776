package main

import (
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"strconv"
	"time"

	"github.com/spf13/cobra"

	"yardbloom/core/forecast"
	"yardbloom/core/sim"
	"yardbloom/core/units"
	"yardbloom/exchange"
)

// summary is what simulate prints: the figures of a brew, rounded to what they mean.
type summary struct {
	DrawdownS    float64              `json:"drawdown_s"`
	Drained      bool                 `json:"drained"`
	FirstDripS   float64              `json:"first_drip_s"`
	BedDryS      float64              `json:"bed_dry_s"`
	OverflowS    *float64             `json:"overflow_s"`
	BeverageG    float64              `json:"beverage_g"`
	RetainedGG   float64              `json:"retained_g_per_g"`
	TDSPercent   float64              `json:"tds_percent"`
	EYPercent    float64              `json:"ey_percent"`
	EYError      float64              `json:"ey_standard_error"`
	BelowShare   float64              `json:"share_below_band"`
	AboveShare   float64              `json:"share_above_band"`
	Balance      map[string]float64   `json:"balance_least_certain"`
	TopLevelMM   float64              `json:"top_level_mm"`
	RimMM        float64              `json:"rim_mm"`
	SlurryMeanC  float64              `json:"slurry_mean_c"`
	SlurryPeakC  float64              `json:"slurry_peak_c"`
	CupC         float64              `json:"cup_c"`
	CurvesEveryS float64              `json:"curves_every_s,omitempty"`
	Curves       map[string][]float64 `json:"curves,omitempty"`
}

func simulateCommand() *cobra.Command {
	var curves string
	c := &cobra.Command{
		Use:   "simulate RECIPE.json",
		Short: "Predict a brew from a recipe file (- for standard input) and print a JSON summary",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			in := cmd.InOrStdin()
			if args[0] != "-" {
				f, err := os.Open(args[0])
				if err != nil {
					return err
				}
				defer f.Close()
				in = f
			}
			doc, err := exchange.ReadRecipe(in)
			if err != nil {
				return inputError(err)
			}
			// The clock only dates the coffee, whose age is in the file: any day will do.
			f, err := forecast.Of(doc.Question(time.Date(2000, 1, 1, 0, 0, 0, 0, time.UTC)))
			if err != nil {
				return inputError(err)
			}
			switch curves {
			case "", "json":
				return printSummary(cmd.OutOrStdout(), f, curves == "json")
			case "csv":
				return printCurves(cmd.OutOrStdout(), f)
			default:
				return badInput{fmt.Errorf("--curves is csv or json, not %q", curves)}
			}
		},
	}
	c.Flags().StringVar(&curves, "curves", "", "add the curves: json in the summary, csv instead of it")
	return c
}

// badInput is an error of what was given, not of the program: exit status 2.
type badInput struct{ error }

func (e badInput) Unwrap() error { return e.error }

func inputError(err error) error {
	var field *exchange.FieldError
	var model *sim.FieldError
	if errors.As(err, &field) || errors.As(err, &model) {
		return badInput{err}
	}
	return err
}

func printSummary(w io.Writer, f forecast.Forecast, withCurves bool) error {
	at := func(s units.Seconds) float64 { return units.Round(float64(s), 1) }
	s := summary{DrawdownS: at(f.Drawdown), Drained: f.Drained, FirstDripS: at(f.FirstDrip), BedDryS: at(f.Dry),
		BeverageG: units.Round(float64(f.Beverage), 1), RetainedGG: units.Round(f.Retained, 2), TDSPercent: units.Round(f.TDS, 3),
		EYPercent: units.Round(f.Yield.Value, 2), EYError: f.Yield.Error, BelowShare: units.Round(f.Below, 2), AboveShare: units.Round(f.Above, 2),
		Balance:    map[string]float64{"bright": units.Round(f.Balance.Bright, 2), "sweet": units.Round(f.Balance.Sweet, 2), "bitter": units.Round(f.Balance.Bitter, 2)},
		TopLevelMM: units.Round(f.TopLevel, 0), RimMM: f.Rim, SlurryMeanC: units.Round(float64(f.SlurryMean), 1),
		SlurryPeakC: units.Round(float64(f.SlurryPeak), 1), CupC: units.Round(float64(f.CupTemp), 1)}
	if f.Overflow >= 0 {
		over := at(f.Overflow)
		s.OverflowS = &over
	}
	if withCurves {
		s.CurvesEveryS, s.Curves = sim.Every, map[string][]float64{}
		for _, c := range curvesOf(f) {
			s.Curves[c.name] = c.values
		}
	}
	enc := json.NewEncoder(w)
	enc.SetIndent("", "  ")
	return enc.Encode(s)
}

type curve struct {
	name   string
	values []float64
}

func curvesOf(f forecast.Forecast) []curve {
	return []curve{{"poured_g", f.Poured}, {"level_mm", f.Level}, {"outflow_g_s", f.Outflow}, {"beverage_g", f.Curves.Beverage},
		{"slurry_c", f.Slurry}, {"cup_c", f.Cup}, {"tds_percent", f.Curves.TDS}, {"ey_percent", f.Curves.EY}}
}

func printCurves(w io.Writer, f forecast.Forecast) error {
	out := csv.NewWriter(w)
	row := []string{"t_s"}
	for _, c := range curvesOf(f) {
		row = append(row, c.name)
	}
	if err := out.Write(row); err != nil {
		return err
	}
	for i := range f.Poured {
		row = append(row[:0], strconv.FormatFloat(float64(i)*sim.Every, 'f', -1, 64))
		for _, c := range curvesOf(f) {
			row = append(row, strconv.FormatFloat(c.values[i], 'f', 4, 64))
		}
		if err := out.Write(row); err != nil {
			return err
		}
	}
	out.Flush()
	return out.Error()
}
