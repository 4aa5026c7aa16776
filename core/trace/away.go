package trace

import (
	"math"

	"yardbloom/core/units"
)

// The thresholds for lifting, putting down, taring and rinsing. Weights in g, times in s.
const (
	falls    = 15.0 // less than any brewer weighs
	fallsIn  = 0.55
	stays    = 0.35 // minimum duration of a fall
	offAfter = 6.0
	stands   = 1.2  // readings within this range are at rest
	rinses   = 20.0 // minimum water of a rinse
	wet      = 12.0 // maximum water left in filter and brewer by a rinse
	jumps    = 18.0 // within jumpsIn: faster than any pour
	jumpsIn  = 0.45
	nothing  = 1.0 // maximum reading after a tare
	tares    = 6.0 // minimum weight whose tare is detected
)

// fell detects that the brewer was lifted, or that the scale was tared.
func (r *Reader) fell(now float64) bool {
	old := r.between(now-fallsIn-0.5, now-fallsIn+0.1)
	fresh := r.since(now - stays)
	if len(old) < 3 || len(fresh) < 3 {
		return false
	}
	high, low := median(old), math.Inf(-1)
	for _, x := range fresh {
		low = max(low, float64(x.Grams))
	}
	rested := r.level
	if r.state == pouring {
		rested = high
	}
	if raw := median(fresh) - r.offset; math.Abs(raw) <= nothing && rested > tares && high-low > tares {
		r.offset += rested - median(fresh)
		r.flat(rested)
		r.tell(Tared, now, rested, 0)
		return true
	}
	if high-low < falls {
		return false
	}
	at := now
	for i := len(r.recent) - 1; i >= 0 && float64(r.recent[i].Grams) < high-falls/2; i-- {
		at = float64(r.recent[i].At)
	}
	if r.state == pouring {
		r.end(at, high)
	}
	r.lift(at, rested, true)
	return true
}

func (r *Reader) lift(at, rested float64, seen bool) {
	r.state, r.began, r.before, r.lowest, r.off, r.empty = away, at, rested, rested, false, false
	if seen {
		r.tell(Lifted, at, rested, 0)
	}
}

// flat replaces all stored readings by a level, because earlier ones are no longer comparable.
func (r *Reader) flat(level float64) {
	for i := range r.recent {
		r.recent[i].Grams = units.Grams(level)
	}
	r.state, r.level = still, level
}

// jumped detects that something was put on the scale.
func (r *Reader) jumped(now float64) bool {
	old := r.between(now-jumpsIn-0.3, now-jumpsIn+0.05)
	if len(old) < 2 || float64(r.recent[len(r.recent)-1].Grams)-median(old) < jumps {
		return false
	}
	r.before = r.level
	if r.state == pouring {
		r.before = median(old)
		r.end(now-jumpsIn, r.before)
	}
	r.state, r.began = moved, now
	return true
}

// settle waits until an object put on the scale is at rest, and subtracts its weight.
func (r *Reader) settle(now float64) {
	last := r.since(now - 0.6)
	if now-r.began < 0.6 || len(last) < 4 || spread(last) > stands {
		return
	}
	rests := median(last)
	r.offset += r.before - rests
	r.flat(r.before)
}

// wait detects that the brewer is back.
func (r *Reader) wait(now float64) {
	last := r.since(now - 0.5)
	rests := len(last) >= 4 && spread(last) < stands
	if rests && median(last) > r.before-falls {
		r.recent = append(r.recent[:0], last...)
		r.state, r.level, r.off = still, median(last), false
		r.tell(Back, float64(last[0].At), r.level, 0)
		return
	}
	if rests {
		r.lowest = min(r.lowest, median(last))
		if left := median(last); !r.empty && r.before > rinses && left > -falls && left < wet && left > r.lowest+falls {
			r.empty = true
			r.tell(Emptied, float64(last[0].At), left, r.before-left)
		}
	}
	if !r.off && now-r.began >= offAfter {
		r.off = true
		r.tell(Off, r.began, median(r.since(now-2)), 0)
	}
}
