package forecast

import (
	"errors"
	"fmt"
	"math"

	"yardbloom/core/recipe"
	"yardbloom/core/root"
	"yardbloom/core/units"
)

// A LevelError is a level to which a pour cannot be poured. All are shares of the height from outlet to rim.
type LevelError struct {
	Wanted, Bed float64
	Most        float64 // with all the water that the pour can have
}

func (e *LevelError) Error() string {
	percent := func(share float64) string { return fmt.Sprintf("%.0f %%", 100*share) }
	if e.Wanted <= e.Bed {
		return fmt.Sprintf("The coffee alone stands at %s of the height: choose more.", percent(e.Bed))
	}
	return fmt.Sprintf("All the water that this pour can have reaches %s of the height.", percent(e.Most))
}

// levelOf returns the level at the end of pour i, from 0, as a share of the height to the rim.
func (f *Forecast) levelOf(i int) float64 { return f.Pours[i].Level / f.Rim }

// ToLevel returns the recipe with pour i, from 0, poured to a share of the height from outlet to rim, in the whole grams that the
// model finds for it. The other pours make up for the difference. It returns a *LevelError if no amount reaches it.
func ToLevel(q Question, i int, share float64) (recipe.Recipe, error) {
	at := recipe.Address{Knob: recipe.Water, Pour: i + 1}
	limits := q.Recipe.RangeAt(at)
	limits.Hi = min(limits.Hi, float64(q.Recipe.Water()))
	var f Forecast
	off := func(water float64) (float64, error) {
		next := q
		next.Recipe = q.Recipe.With(at, water)
		if err := f.RunFlow(next); err != nil {
			return 0, err
		}
		if i >= len(f.Pours) {
			return 0, ErrUnsolvable
		}
		return f.levelOf(i) - share, nil
	}
	const near = 0.002 // of the height: less than a millimetre
	water, err := root.Find(off, limits, q.Recipe.Value(at), near)
	var none root.NoneError
	switch {
	case errors.As(err, &none):
		return q.Recipe, &LevelError{share, f.BedHeight / f.Rim, share + max(none.AtLo, none.AtHi)}
	case err != nil:
		return q.Recipe, err
	}
	return q.Recipe.ToLevel(i, share, units.Grams(math.Round(water))), nil
}

// missesLevel: a pour to a level ends clearly above or below it, because something else was changed since.
func missesLevel(q inquiry) (recipe.Knob, string) {
	const much = 0.05 // of the height
	for i, p := range q.Recipe.Pours {
		if p.Level == 0 || i >= len(q.Pours) || math.Abs(q.levelOf(i)-p.Level) < much {
			continue
		}
		return recipe.Water, fmt.Sprintf("Predicted: pour %d ends at %.0f %% of the height, not at %.0f %%.", i+1, 100*q.levelOf(i), 100*p.Level)
	}
	return "", ""
}

// refill proposes the water that reaches the level of the first pour that misses it.
func refill(q inquiry) []recipe.Fix {
	for i, p := range q.Recipe.Pours {
		if p.Level == 0 || i >= len(q.Pours) {
			continue
		}
		if r, err := ToLevel(q.Question, i, p.Level); err == nil && r.Pours[i].Water != p.Water {
			return []recipe.Fix{{Address: recipe.Address{Knob: recipe.Level, Pour: i + 1}, Value: p.Level}}
		}
	}
	return nil
}
