// Package words formats errors, results and times as sentences for people. It knows neither requests nor
// templates.
package words

import (
	"errors"
	"fmt"
	"strings"

	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// InvalidValue returns the sentence for an invalid value in a unit. label starts the sentence: "The dose".
func InvalidValue(err error, label string, u units.Unit) string {
	var wrong *units.ValueError
	if !errors.As(err, &wrong) {
		return Sentence(err)
	}
	switch {
	case errors.Is(err, units.ErrRange):
		return fmt.Sprintf("%s can be %s to %s; %s is outside that.", label, u.Number(wrong.Range.Lo), u.Format(wrong.Range.Hi),
			u.Format(wrong.Value))
	case errors.Is(err, units.ErrMissing) && u.Notation == units.Clock:
		return "Type a time, such as 3:10."
	case errors.Is(err, units.ErrMissing):
		return "Type a number here."
	case errors.Is(err, units.ErrAmbiguous):
		return fmt.Sprintf("Is “%s” %s or %s? Type it without a separator.", units.Shorten(wrong.Typed), u.Format(wrong.Other),
			u.Format(wrong.Value))
	case errors.Is(err, units.ErrUnit):
		return wrongUnit(wrong, label, u)
	case errors.Is(err, units.ErrUnknown):
		return fmt.Sprintf("Choose one for %s.", strings.ToLower(strings.TrimPrefix(label, "The ")))
	case u.Notation == units.Clock:
		return fmt.Sprintf("“%s” is not a time. Type minutes and seconds, such as 3:18.", units.Shorten(wrong.Typed))
	case u.Notation == units.OneTo && strings.Contains(wrong.Typed, ":"):
		return fmt.Sprintf("A ratio starts with 1, such as 1 : 16.5; “%s” does not.", units.Shorten(wrong.Typed))
	}
	return fmt.Sprintf("“%s” is not a number. Use figures, such as 18 or 18.5.", units.Shorten(wrong.Typed))
}

// wrongUnit returns the sentence for a unit of another quantity or an unknown unit.
func wrongUnit(wrong *units.ValueError, label string, u units.Unit) string {
	in := ""
	if u.Symbol != "" {
		in = fmt.Sprintf(" Type %s in %s.", strings.Replace(label, "The ", "the ", 1), u.Symbol)
	}
	if wrong.Measures != "" {
		return fmt.Sprintf("“%s” is %s, which is not valid here.%s", units.Shorten(wrong.Typed), wrong.Measures, in)
	}
	return fmt.Sprintf("“%s” is not a number. The unit “%s” is unknown.%s", units.Shorten(wrong.Typed), units.Shorten(wrong.Unit),
		in)
}

// InvalidAddress returns the sentence for an invalid value at an address of a recipe.
func InvalidAddress(err error, prefs units.Prefs) string {
	var wrong *units.ValueError
	if errors.As(err, &wrong) {
		if at, ok := wrong.At.(recipe.Address); ok {
			return InvalidValue(err, Label(at), prefs.Unit(at.Knob.Kind()))
		}
	}
	return Sentence(err)
}

// Label returns the name of an address for the start of a sentence: "The dose", "The water of pour 2".
func Label(at recipe.Address) string {
	label := "The " + strings.TrimPrefix(at.Knob.Name(), "the ")
	if at.Pour > 0 {
		label += fmt.Sprintf(" of pour %d", at.Pour)
	}
	return label
}

var sentences = map[error]string{
	gear.ErrNotCooler:      "The second reading must be cooler than the first: keep the kettle off the heat between them.",
	gear.ErrNearRoom:       "The second reading is too close to room temperature: read sooner.",
	gear.ErrPace:           "No kettle cools at that rate: check the two readings, the time between them and the water.",
	forecast.ErrUnsolvable: "No setting can be solved for that.",
}

// unreachable holds the sentence for each knob that does not reach a goal.
var unreachable = map[recipe.Knob]string{
	recipe.Grind:       "No grind reaches it: the model predicts %s to %s from the coarsest to where the bed nearly clogs.",
	recipe.Temperature: "No temperature reaches it: the model predicts %s to %s.",
	recipe.Ratio:       "No ratio reaches it: the model predicts %s to %s.",
}

// GoalUnits maps goals to the quantities of their figures.
var GoalUnits = map[forecast.Goal]units.Kind{forecast.DrainIn: units.Time, forecast.YieldOf: units.Yield,
	forecast.StrengthOf: units.Strength}

// Sentence returns the sentence for an error of the core, or a general one.
func Sentence(err error) string {
	var far *forecast.UnreachableError
	if errors.As(err, &far) {
		u := units.Prefs{}.Unit(GoalUnits[far.Goal])
		return fmt.Sprintf(unreachable[far.Knob], u.Format(far.Seen.Lo), u.Format(far.Seen.Hi))
	}
	for known, sentence := range sentences {
		if errors.Is(err, known) {
			return sentence
		}
	}
	var wrong *units.ValueError
	if errors.As(err, &wrong) {
		return wrong.Error() + "."
	}
	return "That cannot be used here."
}
