package sim

// An uneven bed is two beds side by side: most of it, and a lane through which
// more than its share of the water runs. The lane gives more than the mean and
// then little more, the rest gives less, and the whole drains faster: weak and
// sour with a fast drawdown. The lane is a share of the dose; how much easier
// water finds its way through it grows with the unevenness of the moment.
//
// None of these figures is measured. They are set so that a heaped bed lets half of
// its water through the lane and the worst one seven tenths.
const (
	laneShare = 0.2  // of the dose
	laneEase  = 8.3  // extra permeability of the lane per unit of unevenness
	grooving  = 160. // s of the usual stream from 10 cm at the wall that dig most of a groove
	heaped    = 0.36 // unevenness of a bed that was heaped or cratered to begin with
)

const (
	mostOfBed = iota
	lane
	columns
)

// groove digs where a stream falls onto the bed close to the wall, from a height.
func (r *runner) dig(dt, rate, fall, wall, above float64) {
	const from = 0.10 // m: the height at which grooving is stated
	r.groove += (1 - r.groove) * min(1, wall*rate/streamRate*fall/from/(1+above/deepWater)*dt/grooving)
}

// ease is how much more permeable the lane is than the rest: 0 in an even bed.
func (r *runner) ease() float64 { return laneEase * r.groove }

// laneFlow is the lane's share of the flow through the bed.
func (r *runner) laneFlow() float64 {
	return laneShare * (1 + r.ease()) / (1 + laneShare*r.ease())
}

// conductance of the bed against that of an even one that is wet throughout: two
// conductances side by side, of which dry pockets and bubbles take their area.
func (r *runner) conductance() float64 {
	return (1 + laneShare*r.ease()) * (1 - pocketBlock*(1-r.wetted)) * (1 - gasBlocks(r.brew.Coffee.Gas, r.reached))
}
