package gear

import (
	"yardbloom/core/units"
	"yardbloom/core/water"
)

// A Set is the equipment of one brew: brewer, grinder, kettle and water, and the boiling point of the
// place. The zero Water means an unknown water, the zero Second that there is one kettle.
type Set struct {
	Brewer  Brewer
	Grinder Grinder
	Kettle  Kettle
	Second  Kettle // another kettle, for the pours that name it
	Water   water.Water
	Boiling units.Celsius
}

// IDs holds the ids of a Set; an empty Water or Second means none.
type IDs struct{ Brewer, Grinder, Kettle, Water, Second string }

// Of returns the kettle of a pour: the second one, if there is one, or the first.
func (s Set) Of(second bool) Kettle {
	if second && s.Second.ID != "" {
		return s.Second
	}
	return s.Kettle
}

// IDs returns the ids of the set.
func (s Set) IDs() IDs { return IDs{s.Brewer.ID, s.Grinder.ID, s.Kettle.ID, s.Water.ID, s.Second.ID} }
