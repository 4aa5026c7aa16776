package trace

import (
	"math"
	"slices"

	"yardbloom/core/units"
)

// What counts as what. Weights in g, times in s, rates in g/s.
const (
	window   = 8.0  // how far back readings are kept
	quickest = 0.02 // readings that come faster are passed over
	usual    = 0.1  // between two readings
	heaviest = 20000.0

	levelOver  = 1.5 // the level is the median over it
	levelUntil = 0.6 // and does not count what may be a pour already
	rises      = 1.2 // above the level: no noise
	risesFor   = 0.5
	swings     = 0.6  // of how far the weight swung just before: above it nothing swings
	climbs     = 0.6  // at least this steep, to be a pour
	atLevel    = 0.6  // above the level at the most: not pouring yet
	getsGoing  = 0.25 // what a hand and a scale take to get going

	much     = 20.0 // of a pour that is no drop more
	stops    = 0.5  // less steep than that: not pouring any more
	stopsFor = 0.8
	nearEnd  = 0.5 // below where the weight rests: still pouring
	restsFor = 1.0 // within calm, to be weighed
	calm     = 0.8
	longGap  = 2.5 // without readings
)

type state int

const (
	still state = iota
	pouring
	away
	moved
)

// A Reader understands readings as they come. The zero Reader has seen none.
type Reader struct {
	state  state
	raw    units.Grams // what the scale itself showed last
	recent []Reading   // of the last seconds
	level  float64     // that the weight rested at
	from   float64     // the level at which the running pour, or the last one, began
	began  float64     // of the running pour, of the lift, or of the move
	ended  float64     // of the last pour
	grown  bool        // it was said that the running pour is no drop more
	unsaid bool        // the last pour has not been weighed at rest
	before float64     // the level before the brewer was lifted or something was put down
	offset float64     // of tares and of what was put on the scale in mid-brew
	lowest float64     // that the scale showed while the brewer was away
	off    bool
	empty  bool // it was said that it came back without its water
	seen   []Seen
}

// Pouring says that water runs.
func (r *Reader) Pouring() bool { return r.state == pouring }

// Away says that the brewer does not stand on the scale.
func (r *Reader) Away() bool { return r.state == away }

// Weight is the newest weight, without what a tare in mid-brew took away.
func (r *Reader) Weight() (Reading, bool) {
	if len(r.recent) == 0 {
		return Reading{}, false
	}
	return r.recent[len(r.recent)-1], true
}

// Total is what was poured so far: what the scale shows, or showed before the brewer was lifted.
func (r *Reader) Total() units.Grams {
	last, any := r.Weight()
	switch {
	case !any:
		return 0
	case r.state == away, r.state == moved:
		return units.Grams(r.before)
	case r.state == still:
		return units.Grams(r.level)
	}
	return last.Grams
}

// Rate is how fast the weight grows, over the last second, g/s; 0 where no water runs.
func (r *Reader) Rate() float64 {
	slope, ok := r.slope(1)
	if !ok || r.state != pouring {
		return 0
	}
	return max(0, slope)
}

// Takes says whether a reading can be one of a kitchen scale at all.
func Takes(x Reading) bool {
	at := float64(x.At)
	return !math.IsNaN(at) && !math.IsInf(at, 0) && x.Grams >= -heaviest && x.Grams <= heaviest
}

// Read takes the next reading and returns what it makes clear. A reading that no scale
// gives, or that does not come after the one before, changes nothing. The returned
// slice is used again by the next call.
func (r *Reader) Read(x Reading) []Seen {
	r.seen = r.seen[:0]
	if !Takes(x) {
		return nil
	}
	last, any := r.Weight()
	if !any {
		r.level = float64(x.Grams)
	}
	gap := float64(x.At - last.At)
	switch {
	case any && gap < quickest:
		return nil
	case any && gap > longGap:
		x.Grams += units.Grams(r.offset)
		r.bridge(x)
		r.raw = x.Grams - units.Grams(r.offset)
		return r.seen
	}
	// A slow scale, or one whose readings come late, is filled in with a straight line, so that
	// all that follows counts on ten readings a second.
	if from := r.raw; any {
		for i := 1; float64(i)*usual < gap-usual/2; i++ {
			share := units.Grams(float64(i) * usual / gap)
			r.take(Reading{last.At + units.Seconds(float64(i)*usual), from + (x.Grams-from)*share})
		}
	}
	r.take(x)
	return r.seen
}

// take takes the next reading of ten in a second, without what was tared away.
func (r *Reader) take(x Reading) {
	r.raw = x.Grams
	x.Grams += units.Grams(r.offset)
	now := float64(x.At)
	r.keep(x)
	switch {
	case r.state == away:
		r.wait(now)
	case r.state == moved:
		r.settle(now)
	case r.fell(now), r.jumped(now):
	case r.state == still:
		r.rest(now)
	default:
		r.climb(now)
	}
}

func (r *Reader) keep(x Reading) {
	r.recent = append(r.recent, x)
	if old := x.At - window; r.recent[0].At < old {
		i := slices.IndexFunc(r.recent, func(y Reading) bool { return y.At >= old })
		r.recent = append(r.recent[:0], r.recent[i:]...)
	}
}

func (r *Reader) tell(k Kind, at, total, water float64) {
	r.seen = append(r.seen, Seen{k, units.Seconds(at), units.Grams(total), units.Grams(water)})
}

// bridge goes on after a time without readings.
func (r *Reader) bridge(x Reading) {
	last, _ := r.Weight()
	r.recent = append(r.recent[:0], x)
	now, level := float64(x.Grams), r.level
	switch {
	case r.state == away || r.state == moved:
		return
	case r.state == pouring:
		r.tell(Ended, float64(last.At), now, now-r.from)
	case now > level+2*rises:
		r.from = level
		r.tell(Began, float64(last.At), level, 0)
		r.tell(Ended, float64(x.At), now, now-level)
	case now < level-falls: // lifted meanwhile
		r.lift(float64(x.At), level, false)
		return
	}
	r.state, r.level, r.unsaid = still, now, false
}

// rest looks for the beginning of a pour, and weighs the last one.
func (r *Reader) rest(now float64) {
	up := r.since(now - risesFor)
	over := len(up) >= 3 && float64(up[0].At) < now-risesFor+0.25
	near := false
	for _, x := range up {
		over = over && float64(x.Grams) > r.level+rises
		near = near || math.Abs(float64(x.Grams)-r.level) < rises
	}
	swing := max(0, spread(r.between(max(now-3, r.ended), now-1)))
	if slope, ok := r.slope(0.7); over && ok && slope >= climbs && median(up) > r.level+swings*swing {
		r.weigh(r.level)
		r.state, r.from, r.began = pouring, r.level, r.left(slope)
		r.grown = false
		r.tell(Began, r.began, r.level, 0)
		return
	}
	if over && !near && slower(r.since(now-levelOver)) { // it rests higher, without having been poured: drift, a drop
		r.level = median(up)
		return
	}
	if before := r.between(max(now-levelOver-levelUntil, r.ended+0.1), now-levelUntil); near && len(before) > 0 {
		r.level = median(before)
	}
	if last := r.since(now - restsFor); r.unsaid && len(last) >= 5 && float64(last[0].At) < now-restsFor+0.3 && spread(last) < calm {
		r.level = median(last)
		r.weigh(r.level)
	}
}

// slower says that readings of a second and a half do not climb.
func slower(xs []Reading) bool {
	_, _, slope, ok := fit(xs)
	return ok && math.Abs(slope) < climbs/3
}

// weigh says what the last pour weighed, once.
func (r *Reader) weigh(level float64) {
	if r.unsaid {
		r.unsaid = false
		r.tell(Weighed, r.ended, level, level-r.from)
	}
}

// left is when the water came that made the weight leave the level: a slow stream takes
// longer to show.
func (r *Reader) left(slope float64) float64 {
	i := len(r.recent) - 1
	for i > 0 && float64(r.recent[i].Grams) > r.level+atLevel {
		i--
	}
	return float64(r.recent[i].At) - min(getsGoing+atLevel/slope, 2*getsGoing)
}

// climb follows a pour to its end.
func (r *Reader) climb(now float64) {
	if total := float64(r.recent[len(r.recent)-1].Grams); !r.grown && total-r.from > much {
		r.grown = true
		r.tell(Grown, now, total, total-r.from)
	}
	slope, ok := r.slope(stopsFor)
	was := r.between(now-1.4, now-0.9)
	if !ok || slope > stops || len(was) > 0 && median(r.since(now-0.5))-median(was) > stops {
		return
	}
	rests := median(r.since(now - 0.5))
	r.end(r.reached(rests), rests)
}

// end ends the running pour.
func (r *Reader) end(at, level float64) {
	r.state, r.level, r.unsaid = still, level, true
	r.ended = max(at, r.began+0.1)
	r.tell(Ended, r.ended, level, level-r.from)
}

// reached is when the climb came up to the level that followed it.
func (r *Reader) reached(level float64) float64 {
	i := len(r.recent) - 1
	for i > 0 && float64(r.recent[i].Grams) > level-nearEnd {
		i--
	}
	return float64(r.recent[i].At)
}
