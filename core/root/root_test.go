package root

import (
	"errors"
	"math"
	"testing"

	"yardbloom/core/units"
)

func TestFindAccuracy(t *testing.T) {
	t.Parallel()
	within := units.Range{Lo: 0, Hi: 10}
	for name, f := range map[string]func(x float64) float64{
		"rising": func(x float64) float64 { return x*x - 7 }, "falling": func(x float64) float64 { return math.Exp(-x) - 0.01 },
		"a step": func(x float64) float64 { return math.Atan(50 * (x - 6)) },
	} {
		for _, start := range []float64{-3, 0, 2.5, 5, 9, 10, 40} {
			calls := 0
			x, err := Find(func(x float64) (float64, error) { calls++; return f(x), nil }, within, start, 1e-4)
			if err != nil || math.Abs(f(x)) > 1e-4 || calls > 20 {
				t.Errorf("%s from %v: %v after %d evaluations, %v", name, start, f(x), calls, err)
			}
		}
	}
}

// Mutation caught: returning an end of the range as the zero.
func TestFindWithoutARoot(t *testing.T) {
	t.Parallel()
	_, err := Find(func(x float64) (float64, error) { return x + 1, nil }, units.Range{Lo: 0, Hi: 10}, 4, 1e-3)
	var none NoneError
	if !errors.As(err, &none) || none.AtLo != 1 || none.AtHi != 11 {
		t.Errorf("%v", err)
	}
	failed := errors.New("failed")
	if _, err := Find(func(float64) (float64, error) { return 0, failed }, units.Range{Hi: 1}, 0, 1); !errors.Is(err, failed) {
		t.Errorf("%v", err)
	}
}
