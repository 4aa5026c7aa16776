// Package root finds the zeros of functions.
package root

import (
	"math"

	"yardbloom/core/units"
)

// A NoneError is returned if a function has the same sign at both ends of a range. It holds the values
// there.
type NoneError struct{ AtLo, AtHi float64 }

func (NoneError) Error() string { return "no root" }

// A Func is a function whose evaluation may fail.
type Func func(x float64) (float64, error)

// A Point is an argument with the value of a function there.
type Point struct{ X, Y float64 }

// Find returns where a monotonic function is zero in a range, to within near in its value. From a
// start inside the range it steps outwards until the sign changes, then calls Between: about seven
// evaluations, most of them near the start. Errors are a NoneError and those of f.
func Find(f Func, within units.Range, start, near float64) (float64, error) {
	start = max(within.Lo, min(within.Hi, start))
	v, err := f(start)
	if err != nil || math.Abs(v) <= near {
		return start, err
	}
	stride := (within.Hi - within.Lo) / 12
	if start+stride > within.Hi {
		stride = -stride
	}
	next, err := f(start + stride)
	if err != nil {
		return 0, err
	}
	a, b := Point{start, v}, Point{start + stride, next}
	if (b.Y-a.Y)*a.Y > 0 { // wrong direction: step the other way
		a, b, stride = b, a, -stride
	}
	for a.Y*b.Y > 0 {
		if b.X <= within.Lo || b.X >= within.Hi {
			return 0, none(f, within)
		}
		stride *= 1.7
		a = b
		b.X = max(within.Lo, min(within.Hi, b.X+stride))
		if b.Y, err = f(b.X); err != nil {
			return 0, err
		}
	}
	return FindBetween(f, a, b, near)
}

// FindBetween returns the zero of a function between two points of different sign, to within near in its value,
// by false position with the Illinois rule (Dowell and Jarratt 1971).
func FindBetween(f Func, a, b Point, near float64) (float64, error) {
	const most = 30 // evaluations
	for range most {
		x := (a.X*b.Y - b.X*a.Y) / (b.Y - a.Y)
		y, err := f(x)
		if err != nil || math.Abs(y) <= near || math.Abs(b.X-a.X) < 1e-6 {
			return x, err
		}
		if y*b.Y < 0 {
			a = b
		} else {
			a.Y /= 2
		}
		b = Point{x, y}
	}
	return b.X, nil
}

// none returns a NoneError with the values at the ends of a range.
func none(f Func, within units.Range) error {
	lo, err := f(within.Lo)
	if err != nil {
		return err
	}
	hi, err := f(within.Hi)
	if err != nil {
		return err
	}
	return NoneError{lo, hi}
}
