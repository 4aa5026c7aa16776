package gear

import (
	"yardbloom/core/units"
	"yardbloom/core/water"
)

// A Set is the equipment of one brew: brewer, grinder, kettle and water, and the boiling point of the
// place. The zero Water means an unknown water.
type Set struct {
	Brewer  Brewer
	Grinder Grinder
	Kettle  Kettle
	Water   water.Water
	Boiling units.Celsius
}

// IDs holds the ids of a Set; an empty Water means none.
type IDs struct{ Brewer, Grinder, Kettle, Water string }

// IDs returns the ids of the set.
func (s Set) IDs() IDs { return IDs{s.Brewer.ID, s.Grinder.ID, s.Kettle.ID, s.Water.ID} }
