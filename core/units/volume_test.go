package units

import (
	"errors"
	"math"
	"testing"
)

func TestAmountsAsPeopleSayThem(t *testing.T) {
	for typed, want := range map[string]float64{"300 ml": 300, "300": 300, "12 fl oz": 354.9, "12 fl. oz": 354.9, "2 x 250": 500, "2×250 ml": 500, "Two mugs of 250 ml": 500, "three cups": 750, "1,5 dl": 150, "a mug": 250,
		"two cups of 8 fl oz": 473.2, "0.5 l": 500, "half a": 0, "two dogs": 0, "2 x": 500, "2 x x 250": 0, "": 0, "1e9": 0, "-3": 0} {
		got, err := ParseVolume(typed)
		if want == 0 {
			if !errors.Is(err, ErrSyntax) {
				t.Errorf("%q is %v, %v", typed, got, err)
			}
		} else if err != nil || math.Abs(got-want) > 0.1 {
			t.Errorf("%q is %.1f ml, %v; want %.1f", typed, got, err, want)
		}
	}
}
