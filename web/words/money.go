package words

import "fmt"

// MinorPerMajor is the number of minor units of a currency in a major one.
const MinorPerMajor = 100.0

// Money formats an amount in minor units of a currency.
func Money(minor float64, currency string) string {
	return fmt.Sprintf("%.2f %s", minor/MinorPerMajor, currency)
}
