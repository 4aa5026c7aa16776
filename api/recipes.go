package api

import (
	"bytes"
	"errors"
	"net/http"
	"reflect"

	"github.com/danielgtaylor/huma/v2"

	"yardbloom/core/forecast"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/exchange"
)

// KeptRecipe is a recipe of the book.
type KeptRecipe struct {
	ID     string `json:"id"`
	Name   string `json:"name"`
	Coffee string `json:"coffee"`
	BagID  string `json:"bag_id"`
}

// Recipes is the recipe book.
type Recipes struct {
	Items []KeptRecipe `json:"items"`
}

// Forecast is the prediction of a recipe. Every figure is calculated by the brew model.
type Forecast struct {
	Predicted
	Drained  bool     `json:"drained" doc:"Whether the bed drains within the time that the model simulates."`
	DryAtS   float64  `json:"bed_dry_s"`
	CupC     float64  `json:"cup_c"`
	RimMM    float64  `json:"rim_mm"`
	TopMM    float64  `json:"top_level_mm" doc:"The highest level of the slurry; above rim_mm it overflows."`
	IceLeftG float64  `json:"ice_left_g,omitempty"`
	Warnings []string `json:"warnings"`
}

type forecastInput struct {
	RawBody []byte
}

func (s *Server) recipeOperations() {
	get(s, "/recipes", "recipes", "The recipe book", func(c *call, _ *none) (*body[Recipes], error) {
		kept, err := c.Store.Book(c)
		out := Recipes{Items: []KeptRecipe{}}
		for _, k := range kept {
			out.Items = append(out.Items, KeptRecipe{k.ID, k.Name, k.Coffee, k.BagID})
		}
		return &body[Recipes]{out}, err
	})
	get(s, "/recipes/{id}", "recipe", "A recipe in the open format", func(c *call, in *ByID) (*body[exchange.Recipe], error) {
		d, _, err := c.Store.Draft(c, in.ID)
		if err != nil {
			return nil, err
		}
		doc := exchange.FromSheet(d.Sheet, c.Now())
		if d.Name != "" {
			doc.Name = d.Name
		}
		return &body[exchange.Recipe]{doc}, nil
	})
	schema := s.api.OpenAPI().Components.Schemas.Schema(reflect.TypeFor[exchange.Recipe](), true, "Recipe")
	huma.Register(s.api, huma.Operation{OperationID: "forecast", Method: http.MethodPost, Path: "/forecast", Summary: "Predict a recipe in the open format",
		MaxBodyBytes: 64 << 10, RequestBody: &huma.RequestBody{Required: true, Content: map[string]*huma.MediaType{"application/json": {Schema: schema}}},
		Errors: []int{http.StatusUnauthorized, http.StatusUnprocessableEntity}}, func(c ctx, in *forecastInput) (*body[Forecast], error) {
		out, err := s.forecast(in)
		return out, s.problem(err)
	})
}

// forecast predicts a recipe. It uses one processor for some milliseconds.
func (s *Server) forecast(in *forecastInput) (*body[Forecast], error) {
	doc, err := exchange.ReadRecipe(bytes.NewReader(in.RawBody))
	if err != nil {
		return nil, fieldProblem(err)
	}
	q := doc.Question(s.yard.Now())
	f, err := forecast.Predict(q)
	if err != nil {
		return nil, fieldProblem(exchange.WithPath(err))
	}
	out := Forecast{Predicted: Predicted{DrawdownS: tenth(float64(f.Drawdown)), DrawdownError: tenth(float64(f.DrawdownError)),
		BeverageG: tenth(float64(f.Beverage)), TDSPercent: thousandth(f.Strength.Value), TDSError: thousandth(f.Strength.Error),
		EYPercent: hundredth(f.Yield.Value), EYError: hundredth(f.Yield.Error)},
		Drained: f.Drained, DryAtS: tenth(float64(f.Dry)), CupC: tenth(float64(f.CupTemp)), RimMM: units.Round(f.Rim, 0), TopMM: units.Round(f.TopLevel, 0),
		IceLeftG: tenth(float64(f.IceLeft)), Warnings: []string{}}
	for _, w := range append(recipe.Check(q.Recipe, q.Gear, units.Prefs{}), forecast.Check(q, f, units.Prefs{})...) {
		out.Warnings = append(out.Warnings, w.Text)
	}
	return &body[Forecast]{out}, nil
}

// fieldProblem converts an error of a document into problem details with the path of the field.
func fieldProblem(err error) error {
	var wrong *units.ValueError
	if errors.As(err, &wrong) {
		return huma.Error422UnprocessableEntity("The recipe has an invalid value.", &huma.ErrorDetail{Message: err.Error(), Location: place(wrong)})
	}
	return err
}

// place returns the path of a wrong value; empty if it is not known.
func place(e *units.ValueError) string {
	if e.At == nil {
		return ""
	}
	return e.At.String()
}
