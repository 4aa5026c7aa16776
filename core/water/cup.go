package water

import "math"

// perMilliequivalent is the alkalinity that neutralizes a milliequivalent of acid in a litre, mg/l as CaCO₃: half its molar mass.
const perMilliequivalent = 100.09 / 2

// Buffered returns the share of a cup's acids that the water neutralizes, from the acid in it in meq/l: each milliequivalent of
// alkalinity takes one of acid, as in a titration.
func (w Water) Buffered(acid float64) float64 {
	if acid <= 0 {
		return 0
	}
	alkalinity, _ := w.Alkalinity()
	return math.Min(1, alkalinity/perMilliequivalent/acid)
}

// Hastens returns the extraction rate in this water relative to one of 100 mg/l of hardness. Calcium and magnesium bind to
// acids and help them out of the grain; reports differ, so the effect is small: 3 % for 100 mg/l, up to 250 mg/l.
func (w Water) Hastens() float64 {
	hardness, _ := w.Hardness()
	return 1 + 0.0003*(math.Min(hardness, 250)-100)
}
