package cup

import (
	"math"
	"testing"
	"time"
)

func TestAverageExcludesAnOutlier(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		readings      []float64
		mean, outlier float64
	}{
		{nil, 0, 0}, {[]float64{1.38}, 1.38, 0}, {[]float64{1.38, 1.70}, 1.54, 0}, // with two readings the outlier is undecidable
		{[]float64{1.38, 1.40, 1.39}, 1.39, 0}, {[]float64{1.38, 1.72, 1.40}, 1.39, 1.72}, {[]float64{1.10, 1.38, 1.40, 1.39}, 1.39, 1.10},
	} {
		if mean, outlier := Average(c.readings); math.Abs(mean-c.mean) > 5e-4 || outlier != c.outlier {
			t.Errorf("%v: %.3f without %v, want %.3f without %v", c.readings, mean, outlier, c.mean, c.outlier)
		}
	}
}

// 200 g at 70 °C in a room of 21 °C: a mug reaches 52 °C after about a quarter of an hour, and half the
// coffee cools faster.
func TestCupCoolsToItsStages(t *testing.T) {
	t.Parallel()
	mug := Cooling{Volume: 200, From: 70, Room: 21}
	warm, ok := mug.TimeTo(Warm)
	if !ok || warm < 8*time.Minute || warm > 20*time.Minute {
		t.Errorf("warm after %v", warm)
	}
	if at := mug.At(warm); math.Abs(float64(at-52)) > 0.01 {
		t.Errorf("it is %.2f °C then", float64(at))
	}
	cool, _ := mug.TimeTo(Cool)
	small, _ := Cooling{Volume: 100, From: 70, Room: 21}.TimeTo(Cool)
	if cool <= warm || small >= cool {
		t.Errorf("cool after %v, half of it after %v", cool, small)
	}
	if _, ok := (Cooling{Volume: 200, From: 70, Room: 40}).TimeTo(Cool); ok {
		t.Error("a cup gets cooler than its room")
	}
	if at, ok := (Cooling{Volume: 200, From: 45, Room: 21}).TimeTo(Warm); !ok || at != 0 {
		t.Errorf("a cup that is cooler from the start: %v", at)
	}
}

func TestCoolerSipsCountTwice(t *testing.T) {
	t.Parallel()
	steps, likes := Combine(map[Stage]Sip{
		Hot:  {Steps: map[Sense]int{Acidity: 5, Body: 2}, Likes: map[Sense]Like{Acidity: Disliked}},
		Cool: {Steps: map[Sense]int{Acidity: 2}, Likes: map[Sense]Like{Acidity: Liked}},
	})
	if steps[Acidity] != 3 || steps[Body] != 2 || likes[Acidity] != Liked { // (5 + 2×2)/3
		t.Errorf("%v, %v", steps, likes)
	}
}

func TestBedShapeFromItsRegions(t *testing.T) {
	t.Parallel()
	for _, c := range []struct {
		spots map[Place]Look
		want  Bed
	}{
		{nil, ""}, {map[Place]Look{Middle: Low}, Cratered}, {map[Place]Look{Middle: High}, Domed}, {map[Place]Look{Left: High}, Sloped},
		{map[Place]Look{Wall: High, Middle: Low}, HighWalls},
		{map[Place]Look{Middle: Muddy, Left: High}, Mud}, {map[Place]Look{Near: Dry, Middle: Muddy}, DryPocket},
	} {
		if got := ShapeOf(c.spots); got != c.want {
			t.Errorf("%v: %q, want %q", c.spots, got, c.want)
		}
	}
}

// With four readings the median lies between the middle two. Mutations caught: the upper one as median, a
// word of another sense.
func TestMedianOfFourReadings(t *testing.T) {
	if mean, outlier := Average([]float64{1.30, 1.57, 1.32, 1.40}); outlier != 1.57 || mean != 1.34 {
		t.Errorf("mean %g without %g", mean, outlier)
	}
	for _, s := range Scales() {
		for i, word := range s.Words {
			if got := Word(s.Sense, i+1); got != word {
				t.Errorf("step %d of %s is %q, want %q", i+1, s.Sense, got, word)
			}
		}
	}
}
