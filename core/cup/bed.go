package cup

// Bed is the appearance of the spent bed.
type Bed string

// The shapes of a spent bed.
const (
	FlatBed   Bed = "flat"
	Domed     Bed = "domed"
	Cratered  Bed = "cratered"
	Sloped    Bed = "sloped"
	HighWalls Bed = "grounds high on the wall"
	Mud       Bed = "mud on top"
	DryPocket Bed = "dry pockets"
)

// Beds lists the shapes of a spent bed, the ideal one first.
func Beds() []Bed { return []Bed{FlatBed, Domed, Cratered, Sloped, HighWalls, Mud, DryPocket} }

// A Place is a region of a spent bed, seen from above with the pouring hand at the bottom.
type Place string

// The places.
const (
	Middle Place = "middle"
	Far    Place = "far"
	Right  Place = "right"
	Near   Place = "near"
	Left   Place = "left"
	Wall   Place = "wall"
)

// Places lists the regions, from the centre outwards.
func Places() []Place { return []Place{Middle, Far, Right, Near, Left, Wall} }

// A Look is a defect of a region of the bed.
type Look string

// The looks.
const (
	High  Look = "high"
	Low   Look = "low"
	Dry   Look = "dry"
	Muddy Look = "muddy"
)

// Looks lists the defects in the order in which taps cycle through them.
func Looks() []Look { return []Look{High, Low, Dry, Muddy} }

// ShapeOf returns the shape of a bed from its marked regions, the worst defect first; empty if none is
// marked.
func ShapeOf(spots map[Place]Look) Bed {
	count := func(l Look, places ...Place) (n int) {
		for _, p := range places {
			if spots[p] == l {
				n++
			}
		}
		return n
	}
	sides := []Place{Far, Right, Near, Left}
	switch {
	case count(Dry, Places()...) > 0:
		return DryPocket
	case count(Muddy, Places()...) > 0:
		return Mud
	case spots[Wall] == High, count(High, sides...) >= 3:
		return HighWalls
	case spots[Middle] == Low:
		return Cratered
	case count(High, sides...) > 0, count(Low, sides...) > 0:
		return Sloped
	case spots[Middle] == High:
		return Domed
	}
	return ""
}
