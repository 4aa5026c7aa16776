package cup

import (
	"math"
	"testing"
)

// Calculated by hand. 234 g at 8 °C hold 234 × 4.186 × 8 = 7836 J above 0 °C. 150 g of ice at −18 °C take
// 150 × 2.1 × 18 = 5670 J to reach 0 °C; the remaining 2166 J melt 6.5 g. 200 g at 80 °C hold 66,976 J; 100
// g of ice at 0 °C take 33,400 J to melt, and the rest warms 300 g by 26.7 K.
func TestDrinkOnFreshIce(t *testing.T) {
	near := func(got, want, within float64) bool { return math.Abs(got-want) <= within }
	cold := Drink{Mass: 234, Heat: 8, TDS: 1.47}.OnIce(150, -18)
	if !near(float64(cold.Mass), 240.5, 0.05) || !near(float64(cold.Ice), 143.5, 0.05) || cold.Heat != 0 || !near(cold.TDS, 1.43, 0.005) {
		t.Errorf("cold on ice: %+v", cold)
	}
	hot := Drink{Mass: 200, Heat: 80, TDS: 2.1}.OnIce(100, 0)
	if !near(float64(hot.Mass), 300, 1e-9) || hot.Ice != 0 || !near(float64(hot.Heat), 26.74, 0.05) || !near(hot.TDS, 1.4, 1e-9) {
		t.Errorf("hot on ice: %+v", hot)
	}
	if none := (Drink{Mass: 100, Heat: 1, TDS: 1.3}).OnIce(500, -18); none.Mass != 100 || none.TDS != 1.3 || none.Ice != 500 {
		t.Errorf("so much cold ice melts nothing: %+v", none)
	}
}
