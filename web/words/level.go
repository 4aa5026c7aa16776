package words

import (
	"fmt"
	"math"
)

// Level describes a share of the height from outlet to rim, such as "three quarters of the height"; empty for 0.
func Level(share float64) string {
	if share == 0 {
		return ""
	}
	for name, of := range map[string]float64{"a quarter": 0.25, "a third": 1. / 3, "half": 0.5, "two thirds": 2. / 3, "three quarters": 0.75} {
		if math.Abs(share-of) < 0.005 {
			return name + " of the height"
		}
	}
	return fmt.Sprintf("%.0f\u00a0%% of the height", 100*share)
}
