package sim

// An uneven bed is modelled as two beds side by side: most of it, and a lane that takes more than its share
// of the water. The lane extracts more than the mean, the rest less, and the whole drains faster: weak and
// sour with a fast drawdown. The lane is a fixed share of the dose; its extra permeability grows with the
// present unevenness.
//
// None of these figures is measured. They are set so that a heaped bed lets half of its water through the
// lane and the worst one seven tenths.
const (
	laneShare = 0.2  // of the dose
	laneEase  = 8.6  // extra permeability of the lane per unit of unevenness
	grooving  = 160. // s of the usual stream from 10 cm at the wall that form most of a groove
	heaped    = 0.36 // initial unevenness of a heaped or cratered bed
)

const (
	mostOfBed = iota
	lane
	columns
)

// dig forms a groove where a stream falls onto the bed close to the wall.
func (r *runner) dig(dt float64, s stream, above float64) {
	const from = 0.10 // m: reference height of grooving
	r.groove += (1 - r.groove) * min(1, s.wall*(1-s.soft)*s.rate/streamRate*s.fall/from/(1+above/deepWater)*dt/grooving)
}

// ease returns the extra permeability of the lane relative to the rest: 0 in an even bed, negative where the way out below it
// is blocked.
func (r *runner) ease() float64 { return (1+laneEase*r.groove)*(1-r.brew.Brewer.Blocked) - 1 }

// laneFlow is the lane's share of the flow through the bed.
func (r *runner) laneFlow() float64 {
	return laneShare * (1 + r.ease()) / (1 + laneShare*r.ease())
}

// conductance of the bed relative to an even and fully wet one: two conductances in parallel, reduced by
// the area of dry pockets and bubbles.
func (r *runner) conductance() float64 {
	return (1 + laneShare*r.ease()) * (1 - pocketBlock*(1-r.wetted)) * (1 - gasBlocks(r.brew.Coffee.Gas, r.reached))
}
