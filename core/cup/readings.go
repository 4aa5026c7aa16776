package cup

import (
	"math"
	"slices"

	"yardbloom/core/units"
)

// Average returns the mean of repeated readings of one sample, %, and the outlier that was excluded, or 0.
// An outlier is further from the median of the others than six times the repeatability (0.03). Bubbles, a
// warm lens and bad samples cause outliers.
func Average(readings []float64) (mean, outlier float64) {
	const far = 6 * 0.03
	kept := slices.Clone(readings)
	if len(kept) >= 3 {
		sorted := slices.Sorted(slices.Values(kept))
		middle := sorted[len(sorted)/2]
		if len(sorted)%2 == 0 {
			middle = (middle + sorted[len(sorted)/2-1]) / 2
		}
		worst := 0
		for i, r := range kept {
			if math.Abs(r-middle) > math.Abs(kept[worst]-middle) {
				worst = i
			}
		}
		if math.Abs(kept[worst]-middle) > far {
			outlier = kept[worst]
			kept = slices.Delete(kept, worst, worst+1)
		}
	}
	if len(kept) == 0 {
		return 0, 0
	}
	sum := 0.0
	for _, r := range kept {
		sum += r
	}
	return units.Round(sum/float64(len(kept)), 3), outlier
}
