package architecture

import (
	"fmt"
	"reflect"
	"testing"

	"yardbloom/core/brew"
	"yardbloom/core/coach"
	"yardbloom/core/coffee"
	"yardbloom/core/cup"
	"yardbloom/core/flight"
	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/core/learn"
	"yardbloom/core/person"
	"yardbloom/core/practice"
	"yardbloom/core/recipe"
	"yardbloom/core/rush"
	"yardbloom/core/sim"
	"yardbloom/core/stage"
	"yardbloom/core/tally"
	"yardbloom/core/trace"
	"yardbloom/core/trial"
	"yardbloom/core/units"
	"yardbloom/core/water"
)

// Every exported method of the core works on an empty record with empty arguments: none indexes the first element of nothing or
// divides by a count of nothing. Mutations caught: a name whose first letter is read, a plan without pours, an answer without levels.
func TestEmptyRecordsDoNotPanic(t *testing.T) {
	t.Parallel()
	for _, empty := range []any{&brew.Brew{}, &brew.Sheet{}, &brew.Draft{}, &brew.State{}, &brew.Event{}, &coach.Advice{}, &coach.Case{},
		&coffee.Bag{}, &cup.Cup{}, &cup.Measurement{}, &flight.Flight{}, &forecast.Forecast{}, &forecast.Question{}, &forecast.Figures{},
		&gear.Brewer{}, &gear.BrewerForm{}, &gear.Grinder{}, &gear.Kettle{}, &gear.Set{}, &gear.Dial{}, &learn.Sample{}, &person.Person{}, &practice.Try{},
		&practice.Lesson{}, &recipe.Recipe{}, &recipe.Plan{}, &recipe.Style{}, &recipe.Step{}, &recipe.Pour{}, &recipe.Habits{}, &recipe.Situation{},
		&recipe.Choice{}, &rush.Rush{}, &rush.Order{}, &rush.Plan{}, &rush.Slot{}, &sim.Result{}, &sim.Brew{}, &stage.Script{}, &tally.Sample{},
		&trace.Reader{}, &trial.Trial{}, &trial.Factor{}, &trial.Answer{}, &units.Unit{}, &units.Prefs{}, &water.Water{}} {
		v := reflect.ValueOf(empty)
		for i := range v.NumMethod() {
			callEmpty(t, fmt.Sprintf("%T.%s", empty, v.Type().Method(i).Name), v.Method(i))
		}
	}
	for name, f := range map[string]any{"forecast.FirstRecipe": forecast.FirstRecipe, "forecast.Restyle": forecast.Restyle,
		"forecast.Aimed": forecast.Aimed, "forecast.Predict": forecast.Predict, "forecast.Ways": forecast.Ways, "recipe.Suggest": recipe.Suggest,
		"recipe.Choose": recipe.Choose, "recipe.Check": recipe.Check, "recipe.Changes": recipe.Changes, "learn.Fit": learn.Fit,
		"coach.Advise": coach.Advise, "flight.New": flight.New} {
		callEmpty(t, name, reflect.ValueOf(f))
	}
}

// callEmpty calls a function with the zero values of its parameters, unless one of them cannot be empty.
func callEmpty(t *testing.T, name string, f reflect.Value) {
	t.Helper()
	var args []reflect.Value
	for i := range f.Type().NumIn() {
		in := f.Type().In(i)
		if f.Type().IsVariadic() && i == f.Type().NumIn()-1 {
			break
		}
		switch in.Kind() {
		case reflect.Func, reflect.Interface, reflect.Pointer, reflect.Chan:
			return
		}
		args = append(args, reflect.Zero(in))
	}
	defer func() {
		if v := recover(); v != nil {
			t.Errorf("%s: %v", name, v)
		}
	}()
	f.Call(args)
}
