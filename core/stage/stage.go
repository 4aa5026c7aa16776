// Package stage schedules a brewing presentation: spoken lines between pours, their durations and the time
// left.
package stage

import (
	"cmp"
	"slices"
	"strings"
	"time"

	"yardbloom/core/rush"
	"yardbloom/core/units"
)

// A Script is a brew as a timed presentation.
type Script struct {
	ID         string
	By         string // id of the person who made it; empty: the yard
	Name       string
	RecipeID   string // the recipe; each run brews a copy of it
	Cups       int    // poured in parallel
	Words      int    // words spoken per minute
	Limit      units.Seconds
	Lines      []Line
	Rehearsals []Rehearsal // oldest first
	Version    int64
}

// A Line is a spoken line.
type Line struct {
	Text string
	At   units.Seconds // earliest time; 0: as soon as there is a gap
}

// A Rehearsal is one run through a script: the start of each line, and the end.
type Rehearsal struct {
	Started    time.Time
	LineStarts []units.Seconds // start of each line, in order
	Ended      units.Seconds   // 0 while it runs
}

// Running returns the rehearsal in progress, or nil.
func (s *Script) Running() *Rehearsal {
	if n := len(s.Rehearsals); n > 0 && s.Rehearsals[n-1].Ended == 0 {
		return &s.Rehearsals[n-1]
	}
	return nil
}

// The ranges of the settings.
var (
	CupsRange  = units.Range{Lo: 1, Hi: 4}
	WordsRange = units.Range{Lo: 80, Hi: 220}
	LimitRange = units.Range{Lo: 60, Hi: 1800}
)

// A Busy stretch is a period in which the hands are occupied.
type Busy struct {
	From, To units.Seconds
	Say      string
	Cup      int // from 1
}

// Hands returns when the cups of a plan, all of one order, occupy the hands, in order of time.
func Hands(o rush.Order, plan rush.Plan) (out []Busy) {
	for cup, slot := range plan.Slots {
		for k, at := range slot.Tasks {
			out = append(out, Busy{From: at, To: at + o.Tasks[k].Lasts, Say: o.Tasks[k].Say, Cup: cup + 1})
		}
	}
	slices.SortFunc(out, func(a, b Busy) int { return cmp.Compare(a.From, b.From) })
	return out
}

// A Spoken line is a scheduled line.
type Spoken struct {
	Line
	From, To units.Seconds
	OverPour bool // no gap was long enough: spoken during a pour
}

// minPause is the minimum pause between two lines, s.
const minPause units.Seconds = 1

// Duration returns the duration of a text at a number of words per minute.
func Duration(text string, words int) units.Seconds {
	return units.Seconds(60 * float64(len(strings.Fields(text))) / float64(max(1, words)))
}

// Place schedules the lines: in order, not before their own time, in the first gap between pours that is
// long enough, or otherwise during a pour.
func Place(lines []Line, words int, busy []Busy) []Spoken {
	out := make([]Spoken, 0, len(lines))
	at := units.Seconds(0)
	for _, l := range lines {
		s := Spoken{Line: l, From: max(at, l.At)}
		lasts := Duration(l.Text, words)
		s.From, s.OverPour = findGap(s.From, lasts, busy)
		s.To = s.From + lasts
		at = s.To + minPause
		out = append(out, s)
	}
	return out
}

// maxWait is the maximum time for which a line waits for a gap, s.
const maxWait units.Seconds = 120

// findGap returns the first time, at or after from, at which the hands are free for long enough. over is true
// if no gap is long enough.
func findGap(from, lasts units.Seconds, busy []Busy) (at units.Seconds, over bool) {
	at = from
	for moved := true; moved; {
		moved = false
		for _, b := range busy {
			if at < b.To && b.From < at+lasts {
				at, moved = b.To, true
			}
		}
		if at > from+maxWait {
			return from, true
		}
	}
	return at, false
}

// Delays returns the delay of each line against the plan.
func (r Rehearsal) Delays(planned []Spoken) []units.Seconds {
	out := make([]units.Seconds, 0, len(r.LineStarts))
	for i, at := range r.LineStarts {
		if i < len(planned) {
			out = append(out, at-planned[i].From)
		}
	}
	return out
}

// Parse parses lines from a text, one per paragraph, with an optional start time such as "1:30 While it
// blooms".
func Parse(text string) (out []Line) {
	for _, p := range strings.Split(strings.ReplaceAll(text, "\r\n", "\n"), "\n") {
		p = strings.TrimSpace(p)
		if p == "" {
			continue
		}
		l := Line{Text: p}
		if first, rest, ok := strings.Cut(p, " "); ok {
			if at, err := units.ParseClock(first); err == nil && strings.Contains(first, ":") {
				l = Line{Text: strings.TrimSpace(rest), At: at}
			}
		}
		out = append(out, l)
	}
	return out
}

// Text formats lines so that Parse can read them.
func Text(lines []Line) string {
	out := make([]string, len(lines))
	for i, l := range lines {
		out[i] = l.Text
		if l.At > 0 {
			out[i] = l.At.String() + " " + l.Text
		}
	}
	return strings.Join(out, "\n")
}
