package stage

import (
	"strings"
	"testing"

	"yardbloom/core/units"
)

// Lines keep their order and avoid pours where there is room; a line over a pour is marked.
func TestLinesAreScheduledBetweenPours(t *testing.T) {
	busy := []Busy{{From: 0, To: 12}, {From: 45, To: 62}, {From: 85, To: 101}, {From: 150, To: 290}}
	lines := []Line{{Text: words(20)}, {Text: words(40)}, {Text: words(10), At: 50}, {Text: words(200)}}
	got := Place(lines, 120, busy) // two words a second
	for i, s := range got {
		if i > 0 && s.From < got[i-1].To {
			t.Errorf("line %d begins before the one before it ends: %+v", i, got)
		}
		if s.From < s.At || s.To-s.From != Duration(s.Text, 120) {
			t.Errorf("line %d: %+v", i, s)
		}
		for _, b := range busy {
			if !s.OverPour && s.From < b.To && b.From < s.To {
				t.Errorf("line %d is spoken during a pour: %+v", i, s)
			}
		}
	}
	// The last one is longer than any gap within reach and is spoken over a pour.
	if got[0].From != 12 || got[1].From != 23 || got[2].From != 62 || got[1].OverPour || got[3].From != 68 || !got[3].OverPour {
		t.Errorf("placed at %v %v %v %v", got[0].From, got[1].From, got[2].From, got[3].From)
	}
	r := Rehearsal{LineStarts: []units.Seconds{14, 23}}
	if late := r.Delays(got); len(late) != 2 || late[0] != 2 || late[1] != 0 {
		t.Errorf("against the plan: %v", late)
	}
}

func TestMessageRoundTrip(t *testing.T) {
	text := "Good morning\n1:30 While it blooms: a word on the coffee\n7 grams of it"
	lines := Parse(strings.ReplaceAll(text, "\n", "\r\n\r\n"))
	if len(lines) != 3 || lines[1].At != 90 || lines[2].At != 0 || Text(lines) != text {
		t.Errorf("%+v", lines)
	}
}

func words(n int) string { return strings.TrimSpace(strings.Repeat("word ", n)) }
