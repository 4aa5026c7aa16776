package yard

import "testing"

func TestOneBrewForEachScale(t *testing.T) {
	t.Parallel()
	var p placements
	p.put("left", "a")
	p.put("right", "b")
	p.put("left", "b") // from the right one
	if p.brewOn("left") != "b" || p.brewOn("right") != "" || p.scaleUnder("a") != "" || p.scaleUnder("b") != "left" {
		t.Errorf("%v", p.byScale)
	}
	p.put("", "b")
	if p.scaleUnder("b") != "" || !p.isByTaps("b") || p.isByTaps("a") {
		t.Errorf("%v without %v", p.byScale, p.byTaps)
	}
	passed := ""
	p.put("left", "a")
	p.pass("left", func(id string) { passed = id })
	p.pass("right", func(string) { t.Error("nothing stands on the right scale") })
	if passed != "a" {
		t.Errorf("passed to %q", passed)
	}
}
