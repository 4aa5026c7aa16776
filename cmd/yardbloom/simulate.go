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
	"yardbloom/core/recipe"
	"yardbloom/core/sim"
	"yardbloom/core/units"
	"yardbloom/exchange"
)

// summary is the output of simulate: the figures of a brew, rounded to their precision.
type summary struct {
	DrawdownS    float64              `json:"drawdown_s"`
	DrawdownErr  float64              `json:"drawdown_standard_error"`
	Drained      bool                 `json:"drained"`
	FirstDripS   float64              `json:"first_drip_s"`
	BedDryS      float64              `json:"bed_dry_s"`
	OverflowS    *float64             `json:"overflow_s"`
	Pours        []pour               `json:"pours"`
	BeverageG    float64              `json:"beverage_g"`
	BrewedG      float64              `json:"brewed_g"`
	IceLeftG     float64              `json:"ice_left_g"`
	IceForG      *float64             `json:"ice_for_wanted_g,omitempty"`
	RetainedGG   float64              `json:"retained_g_per_g"`
	TDSPercent   float64              `json:"tds_percent"`
	BrewedTDS    float64              `json:"brewed_tds_percent"`
	EYPercent    float64              `json:"ey_percent"`
	EYError      float64              `json:"ey_standard_error"`
	BelowShare   float64              `json:"share_below_band"`
	AboveShare   float64              `json:"share_above_band"`
	Balance      map[string]float64   `json:"balance_least_certain"`
	TopLevelMM   float64              `json:"top_level_mm"`
	RimMM        float64              `json:"rim_mm"`
	BedMM        float64              `json:"bed_mm"`
	SlurryMeanC  float64              `json:"slurry_mean_c"`
	SlurryPeakC  float64              `json:"slurry_peak_c"`
	CupC         float64              `json:"cup_c"`
	Warnings     []string             `json:"warnings"`
	CurvesEveryS float64              `json:"curves_every_s,omitempty"`
	Curves       map[string][]float64 `json:"curves,omitempty"`
}

// pour is the result of one pour.
type pour struct {
	StartS       float64 `json:"start_s"`
	EndS         float64 `json:"end_s"`
	TemperatureC float64 `json:"kettle_c"`
	AboveMM      float64 `json:"water_over_bed_mm"`
	DryS         float64 `json:"bed_dry_for_s"`
}

// anyDay is the date of the simulation. It only dates the coffee, whose age is in the file.
var anyDay = time.Date(2000, 1, 1, 0, 0, 0, 0, time.UTC)

func simulateCommand() *cobra.Command {
	var curves, beliefs string
	c := &cobra.Command{
		Use:   "simulate RECIPE.json",
		Short: "Predict a brew from a recipe file (- for standard input) and print a JSON summary",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			in, done, err := openInput(cmd, args[0])
			if err != nil {
				return err
			}
			defer done()
			doc, err := exchange.ReadRecipe(in)
			if err != nil {
				return inputError(err)
			}
			q := doc.Question(anyDay)
			if beliefs != "" {
				file, err := os.Open(beliefs)
				if err != nil {
					return err
				}
				defer file.Close()
				if q.Beliefs, err = exchange.ReadBeliefs(file); err != nil {
					return inputError(err)
				}
			}
			f, err := forecast.Predict(q)
			if err != nil {
				return inputError(exchange.WithPath(err))
			}
			switch curves {
			case "", "json":
				return printSummary(cmd.OutOrStdout(), summarise(doc, q, f), f, curves == "json")
			case "csv":
				return printCurves(cmd.OutOrStdout(), f)
			default:
				return badInput{fmt.Errorf("--curves must be csv or json, not %q", curves)}
			}
		},
	}
	c.Flags().StringVar(&beliefs, "beliefs", "", "file of beliefs (yardbloom learn --write)")
	c.Flags().StringVar(&curves, "curves", "", "print the curves: json within the summary, csv instead of it")
	return c
}

// openInput returns a file to read, or standard input for -. The caller calls done afterwards.
func openInput(cmd *cobra.Command, name string) (in io.Reader, done func() error, err error) {
	if name == "-" {
		return cmd.InOrStdin(), func() error { return nil }, nil
	}
	f, err := os.Open(name)
	if err != nil {
		return nil, nil, err
	}
	return f, f.Close, nil
}

// badInput is an error of the input: exit status 2.
type badInput struct{ error }

func (e badInput) Unwrap() error { return e.error }

func inputError(err error) error {
	var wrong *units.ValueError
	if errors.As(err, &wrong) {
		return badInput{err}
	}
	return err
}

func summarise(doc exchange.Recipe, q forecast.Question, f forecast.Forecast) summary {
	to := func(decimals int) func(float64) float64 {
		return func(v float64) float64 { return units.Round(v, decimals) }
	}
	whole, tenth, hundredth, thousandth := to(0), to(1), to(2), to(3)
	s := summary{DrawdownS: tenth(float64(f.Drawdown)), DrawdownErr: whole(float64(f.DrawdownError)), Drained: f.Drained,
		FirstDripS: tenth(float64(f.FirstDrip)), BedDryS: tenth(float64(f.Dry)),
		BeverageG: tenth(float64(f.Beverage)), BrewedG: tenth(float64(f.Brewed)), IceLeftG: tenth(float64(f.IceLeft)),
		RetainedGG: hundredth(f.Retained),
		TDSPercent: thousandth(f.TDS), BrewedTDS: thousandth(f.BrewedTDS), EYPercent: hundredth(f.Yield.Value),
		EYError:    hundredth(f.Yield.Error),
		BelowShare: hundredth(f.Below), AboveShare: hundredth(f.Above),
		Balance: map[string]float64{"bright": hundredth(f.Balance.Bright), "sweet": hundredth(f.Balance.Sweet),
			"bitter": hundredth(f.Balance.Bitter)},
		TopLevelMM: whole(f.TopLevel), RimMM: whole(f.Rim), BedMM: whole(f.BedHeight), SlurryMeanC: tenth(float64(f.SlurryMean)),
		SlurryPeakC: tenth(float64(f.SlurryPeak)), CupC: tenth(float64(f.CupTemp)), Warnings: []string{}}
	if f.Overflow >= 0 {
		over := tenth(float64(f.Overflow))
		s.OverflowS = &over
	}
	for _, p := range f.Pours {
		s.Pours = append(s.Pours, pour{tenth(float64(p.Start)), tenth(float64(p.End)), tenth(float64(p.Temperature)), tenth(p.Above),
			tenth(float64(p.Dry))})
	}
	for _, w := range append(recipe.Check(q.Recipe, q.Gear, units.Prefs{}), forecast.Check(q, f, units.Prefs{})...) {
		s.Warnings = append(s.Warnings, w.Text)
	}
	if doc.Ice != nil && doc.Ice.WantedC != nil {
		ice := whole(float64(q.Brew().Below.MeltingIce(f.Brewed, f.BrewedTemp, units.Celsius(*doc.Ice.WantedC))))
		s.IceForG = &ice
	}
	return s
}

func printSummary(w io.Writer, s summary, f forecast.Forecast, withCurves bool) error {
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
		{"slurry_c", f.Slurry}, {"kettle_c", f.Kettle}, {"cup_c", f.Cup}, {"tds_percent", f.Curves.TDS}, {"ey_percent", f.Curves.EY}}
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
