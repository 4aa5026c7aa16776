package gear

import "yardbloom/core/units"

// A Set is what one brew is made with, and where: its brewer, grinder and kettle,
// and the boiling point of the place.
type Set struct {
	Brewer  Brewer
	Grinder Grinder
	Kettle  Kettle
	Boiling units.Celsius
}
