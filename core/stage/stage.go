// Package stage places what somebody says while they brew for an audience: lines between
// pours, with the time that they take and the time that is left.
package stage

import (
	"strings"
	"time"

	"yardbloom/core/units"
)

// A Script is a brew as a timed presentation.
type Script struct {
	ID         string
	Name       string
	RecipeID   string // that is brewed; each run is a copy of it
	Cups       int    // that are poured in parallel
	Words      int    // spoken in a minute
	Limit      units.Seconds
	Lines      []Line
	Rehearsals []Rehearsal // the latest last
	Version    int64
}

// A Line is something to say.
type Line struct {
	Text string
	At   units.Seconds // not before; 0: as soon as there is room
}

// A Rehearsal is one time through a script: when each line was begun, and when it ended.
type Rehearsal struct {
	Started time.Time
	Said    []units.Seconds // of the lines, in order
	Ended   units.Seconds   // 0 while it runs
}

// Running is the rehearsal that runs; nil for none.
func (s *Script) Running() *Rehearsal {
	if n := len(s.Rehearsals); n > 0 && s.Rehearsals[n-1].Ended == 0 {
		return &s.Rehearsals[n-1]
	}
	return nil
}

// Ranges of what can be set.
var (
	CupsRange  = units.Range{Lo: 1, Hi: 4}
	WordsRange = units.Range{Lo: 80, Hi: 220}
	LimitRange = units.Range{Lo: 60, Hi: 1800}
)

// A Busy stretch is one in which the hands are busy, with what.
type Busy struct {
	From, To units.Seconds
	Say      string
	Cup      int // from 1
}

// A Spoken line is one with its place in time.
type Spoken struct {
	Line
	From, To units.Seconds
	OverPour bool // there was no gap long enough: it is said while pouring
}

// breath is what lies at least between two lines, s.
const breath units.Seconds = 1

// Takes is how long a text takes at so many words a minute.
func Takes(text string, words int) units.Seconds {
	return units.Seconds(60 * float64(len(strings.Fields(text))) / float64(max(1, words)))
}

// Place gives each line its time: in order, not before its own moment, in the first gap
// between pours that is long enough, and while pouring where there is none.
func Place(lines []Line, words int, busy []Busy) []Spoken {
	out := make([]Spoken, 0, len(lines))
	at := units.Seconds(0)
	for _, l := range lines {
		s := Spoken{Line: l, From: max(at, l.At)}
		lasts := Takes(l.Text, words)
		s.From, s.OverPour = room(s.From, lasts, busy)
		s.To = s.From + lasts
		at = s.To + breath
		out = append(out, s)
	}
	return out
}

// patience is how long a line waits for a gap that is long enough, s.
const patience units.Seconds = 120

// room finds the first moment from one on at which the hands are free for so long.
func room(from, lasts units.Seconds, busy []Busy) (at units.Seconds, over bool) {
	at = from
	for moved := true; moved; {
		moved = false
		for _, b := range busy {
			if at < b.To && b.From < at+lasts {
				at, moved = b.To, true
			}
		}
		if at > from+patience {
			return from, true
		}
	}
	return at, false
}

// Against is a rehearsal against its plan: how much later each line was begun.
func (r Rehearsal) Against(planned []Spoken) []units.Seconds {
	out := make([]units.Seconds, 0, len(r.Said))
	for i, at := range r.Said {
		if i < len(planned) {
			out = append(out, at-planned[i].From)
		}
	}
	return out
}

// Parse reads lines out of a text: one for each paragraph, with its moment in front where it
// has one, such as "1:30 While it blooms".
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

// Text writes lines as Parse reads them.
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
