package words

import (
	"fmt"

	"yardbloom/core/coffee"
)

// Money formats an amount in minor units of a currency.
func Money(minor float64, currency string) string {
	return fmt.Sprintf("%.2f %s", minor/coffee.MinorPerMajor, currency)
}
