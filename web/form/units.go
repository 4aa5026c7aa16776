package form

import "yardbloom/core/units"

// Units of fields that do not depend on a person's preferences.
var (
	Clock    = units.Prefs{}.Unit(units.Time)
	Count    = units.Prefs{}.Unit(units.Count)
	Strength = units.Prefs{}.Unit(units.Strength)
)
