package trace

import (
	"math"
	"slices"

	"yardbloom/core/units"
)

// The thresholds of the states. Weights in g, times in s, rates in g/s.
const (
	window   = 8.0  // period for which readings are stored
	quickest = 0.02 // faster readings are ignored
	usual    = 0.1  // interval of readings
	heaviest = 20000.0

	levelOver  = 1.5 // period of the median for the level
	levelUntil = 0.6 // the latest readings, which may belong to a pour, do not count
	rises      = 1.2 // above the level: more than noise
	risesFor   = 0.5
	swings     = 0.6  // share of the preceding swing amplitude that a pour exceeds
	climbs     = 0.6  // minimum slope of a pour
	atLevel    = 0.6  // maximum distance from the level before a pour
	getsGoing  = 0.25 // delay of hand and scale at the start

	much     = 20.0 // of a new pour, in contrast to a few additional drops
	stops    = 0.5  // the slope below which a pour is over
	stopsFor = 0.8
	nearEnd  = 0.5 // distance below the rest weight at which a pour is still running
	restsFor = 1.0 // within calm, before the weight is read
	calm     = 0.8
	longGap  = 2.5 // gap in the readings
)

type state int

const (
	still state = iota
	pouring
	away
	moved
)

// A Reader detects events in a sequence of readings. The zero Reader is ready for use.
type Reader struct {
	state  state
	raw    units.Grams // last reading of the scale
	recent []Reading   // of the window
	level  float64     // last rest weight
	from   float64     // level at the start of the running or last pour
	began  float64     // start of the running pour, the lift, or the move
	ended  float64     // end of the last pour
	grown  bool        // Grown was reported for the running pour
	unsaid bool        // the last pour has no Weighed event yet
	before float64     // level before the brewer was lifted or something was put down
	offset float64     // sum of tares and of objects put on the scale during the brew
	lowest float64     // lowest reading while the brewer was away
	off    bool
	empty  bool // Emptied was reported
	seen   []Seen
}

// Pouring reports whether water runs.
func (r *Reader) Pouring() bool { return r.state == pouring }

// Away reports whether the brewer is off the scale.
func (r *Reader) Away() bool { return r.state == away }

// Weight returns the latest weight, corrected for tares during the brew.
func (r *Reader) Weight() (Reading, bool) {
	if len(r.recent) == 0 {
		return Reading{}, false
	}
	return r.recent[len(r.recent)-1], true
}

// Total returns the poured weight: the present reading, or the one before the brewer was lifted.
func (r *Reader) Total() units.Grams {
	last, ok := r.Weight()
	switch {
	case !ok:
		return 0
	case r.state == away, r.state == moved:
		return units.Grams(r.before)
	case r.state == still:
		return units.Grams(r.level)
	}
	return last.Grams
}

// Rate returns the growth rate of the weight over the last second, g/s; 0 if no water runs.
func (r *Reader) Rate() float64 {
	slope, ok := r.slope(1)
	if !ok || r.state != pouring {
		return 0
	}
	return max(0, slope)
}

// IsPlausible reports whether a reading is plausible for a kitchen scale.
func IsPlausible(x Reading) bool {
	at := float64(x.At)
	return !math.IsNaN(at) && !math.IsInf(at, 0) && x.Grams >= -heaviest && x.Grams <= heaviest
}

// Read processes the next reading and returns the detected events. It ignores implausible readings and
// those that are not later than the one before. The returned slice is reused by the next call.
func (r *Reader) Read(x Reading) []Seen {
	r.seen = r.seen[:0]
	if !IsPlausible(x) {
		return nil
	}
	last, ok := r.Weight()
	if !ok {
		r.level = float64(x.Grams)
	}
	gap := float64(x.At - last.At)
	switch {
	case ok && gap < quickest:
		return nil
	case ok && gap > longGap:
		x.Grams += units.Grams(r.offset)
		r.bridge(x)
		r.raw = x.Grams - units.Grams(r.offset)
		return r.seen
	}
	// Readings of a slow or delayed scale are interpolated, so that the following code can rely on ten
	// readings per second.
	if from := r.raw; ok {
		for i := 1; float64(i)*usual < gap-usual/2; i++ {
			share := units.Grams(float64(i) * usual / gap)
			r.take(Reading{last.At + units.Seconds(float64(i)*usual), from + (x.Grams-from)*share})
		}
	}
	r.take(x)
	return r.seen
}

// take processes one of ten readings per second, corrected for tares.
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

// bridge continues after a gap without readings.
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
	case now < level-falls: // lifted during the gap
		r.lift(float64(x.At), level, false)
		return
	}
	r.state, r.level, r.unsaid = still, now, false
}

// rest detects the start of a pour, and weighs the last one.
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
	if over && !near && slower(r.since(now-levelOver)) { // a higher rest weight without a pour: drift or drops
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

// slower reports whether readings of a second and a half do not climb.
func slower(xs []Reading) bool {
	_, _, slope, ok := fit(xs)
	return ok && math.Abs(slope) < climbs/3
}

// weigh reports the weight of the last pour once.
func (r *Reader) weigh(level float64) {
	if r.unsaid {
		r.unsaid = false
		r.tell(Weighed, r.ended, level, level-r.from)
	}
}

// left returns the time of the water that raised the weight above the level. A slow stream takes longer to
// become visible.
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

// reached returns the time at which the climb reached the level after it.
func (r *Reader) reached(level float64) float64 {
	i := len(r.recent) - 1
	for i > 0 && float64(r.recent[i].Grams) > level-nearEnd {
		i--
	}
	return float64(r.recent[i].At)
}
