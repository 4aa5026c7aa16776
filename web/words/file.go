package words

import (
	"errors"
	"fmt"

	"yardbloom/core/units"
	"yardbloom/exchange"
)

// RefusedFile returns the sentence about an invalid recipe file; empty for nil and for other errors. An
// error with a method Sentence provides its own.
func RefusedFile(err error) string {
	var wrong *units.ValueError
	var spoken interface{ Sentence() string }
	switch {
	case errors.As(err, &spoken):
		return spoken.Sentence()
	case errors.Is(err, exchange.ErrNotJSON) && errors.As(err, &wrong) && wrong.Typed != "":
		return fmt.Sprintf("This is not a recipe file. Recipe files are JSON and begin with “{”; this begins with “%s”.", wrong.Typed)
	case errors.Is(err, exchange.ErrPacked):
		return "This code of a recipe is incomplete or damaged, or comes from a newer version. Copy all of it once more."
	case errors.As(err, &wrong):
		return "This file cannot be used. " + wrong.Error() + "."
	}
	return ""
}
