package figure

import (
	"strings"
	"testing"

	"yardbloom/core/trace"
	"yardbloom/core/units"
)

// Aligned by time a moment is at its own place; aligned by pour, equal pours begin together after the longest wait, and everything
// after them keeps its distance. Mutations caught: a shift of one pour too many, waits that are added up over brews.
func TestOverlayAlignsPours(t *testing.T) {
	t.Parallel()
	slow := Course{Letter: "A", Pours: []CoursePour{{0, 10, 0, 50}, {45, 65, 50, 150}, {100, 120, 150, 250}}, Ends: 200}
	fast := Course{Letter: "B", Pours: []CoursePour{{0, 12, 0, 60}, {30, 50, 60, 160}, {90, 110, 160, 260}}, Ends: 180}
	for _, c := range []struct {
		byPour bool
		course Course
		t      units.Seconds
		want   float64
	}{
		{false, fast, 30, 30}, {true, fast, 0, 0}, {true, fast, 30, 45}, {true, slow, 45, 45}, {true, fast, 90, 105}, {true, slow, 100, 105},
		{true, fast, 180, 195}, {true, fast, 20, 20},
	} {
		o := Overlay{Courses: []Course{slow, fast}, ByPour: c.byPour}
		if got := o.place(c.course, c.t); got != c.want {
			t.Errorf("by pour %v, %s at %v: %v, want %v", c.byPour, c.course.Letter, c.t, got, c.want)
		}
	}
	lifted := Course{Trace: []trace.Reading{{At: 1, Grams: 50}, {At: 2, Grams: 100}, {At: 3, Grams: -150}, {At: 4, Grams: 101}, {At: 9, Grams: 90}}, Ends: 5}
	if got := (Overlay{}).points(lifted); len(got) != 3 || got[2][1] != 101 {
		t.Errorf("lifted off the scale at 3 s, drained at 5 s: %v", got)
	}
	svg := string(Overlay{Courses: []Course{slow, fast}, ByPour: true}.SVG())
	for _, says := range []string{"pour 3", ">A<", ">B<", `overlay-2"`, ">200<"} {
		if !strings.Contains(svg, says) {
			t.Errorf("the overlay does not show %q", says)
		}
	}
}
