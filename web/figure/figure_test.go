package figure

import (
	"encoding/xml"
	"fmt"
	"io"
	"math"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"yardbloom/core/brew"
	"yardbloom/core/cup"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/sim"
	"yardbloom/core/units"
)

var plan = recipe.ThreeRounds.Style().Generate(18, 297, 94).Plan()

// wellFormed fails the test if a figure is not XML, contains an invalid number, or needs inline styles.
func wellFormed(t *testing.T, svg string) {
	t.Helper()
	for d := xml.NewDecoder(strings.NewReader(svg)); ; {
		_, err := d.Token()
		if err == io.EOF {
			break
		}
		if err != nil {
			t.Fatalf("%v in %s", err, svg)
		}
	}
	if m := regexp.MustCompile(`NaN|Inf| style=`).FindString(svg); m != "" {
		t.Errorf("the figure contains %q", m)
	}
}

// numbers returns the matches of a pattern in a drawing as numbers.
func numbers(svg, pattern string) (out []float64) {
	for _, m := range regexp.MustCompile(pattern).FindAllStringSubmatch(svg, -1) {
		v, _ := strconv.ParseFloat(m[1], 64)
		out = append(out, v)
	}
	return out
}

func TestRibbonTotalsStayInTheBox(t *testing.T) {
	for _, narrow := range []bool{false, true} {
		r := Ribbon{Plan: plan, Narrow: narrow}
		svg := string(r.SVG())
		wellFormed(t, svg)
		for _, want := range []string{">54<", ">135<", ">216<", ">297<", ">94\u00a0°C<", "aim 3:22", "0:45 pour to 135"} {
			if !strings.Contains(svg, want) {
				t.Errorf("narrow %v: no %q", narrow, want)
			}
		}
		width := r.scale().w
		for _, x := range numbers(svg, ` x="(-?[\d.]+)"`) {
			if x < 0 || x > width {
				t.Errorf("narrow %v: something stands at %v of %v", narrow, x, width)
			}
		}
	}
}

func TestRibbonDrawsWhatWasTapped(t *testing.T) {
	late := []brew.Event{{Kind: brew.Advance, At: 13}, {Kind: brew.MarkEvent, Mark: cup.Channel, At: 20}, {Kind: brew.Advance, At: 47}}
	state := brew.At(plan, late, 55)
	r := Ribbon{Plan: plan, Actual: &state, Now: 55}
	svg := string(r.SVG())
	wellFormed(t, svg)
	s := r.scale()
	line := regexp.MustCompile(`<path d="([^"]+)" class="ribbon-real"`).FindStringSubmatch(svg)[1]
	points := regexp.MustCompile(`[ML]([\d.]+) ([\d.]+)`).FindAllStringSubmatch(line, -1)
	end := points[len(points)-1]
	x, _ := strconv.ParseFloat(end[1], 64)
	y, _ := strconv.ParseFloat(end[2], 64)
	// Eight of seventeen seconds into the second pour of 81 g, begun at 0:47.
	if wantX, wantY := s.x(55), s.y(54+81*8/17.); math.Abs(x-wantX) > 0.1 || math.Abs(y-wantY) > 0.1 {
		t.Errorf("the line ends at %.1f, %.1f; want %.1f, %.1f", x, y, wantX, wantY)
	}
	if !strings.Contains(svg, ">channel<") || !strings.Contains(svg, `data-now=""`) {
		t.Error("the mark or the line of now is missing")
	}
	if got := r.From() + 55*r.PerSecond(); math.Abs(got-s.x(55)) > 1e-6 {
		t.Errorf("a script would move now to %v, want %v", got, s.x(55))
	}
}

func TestFlowerPetals(t *testing.T) {
	svg := string(Flower(18, plan.Steps, 202))
	wellFormed(t, svg)
	if n := strings.Count(svg, "flower-petal"); n != 4 {
		t.Errorf("%d petals for four pours", n)
	}
	if !strings.Contains(svg, `aria-label="Brew flower: 4 pours, drawdown 3:22"`) {
		t.Errorf("in words: %s", svg[:160])
	}
	// A larger dose has a larger heart, and a hotter pour another tint.
	heart := func(dose units.Grams) float64 {
		return numbers(string(Flower(dose, plan.Steps, 202)), `r="([\d.]+)" class="flower-heart`)[0]
	}
	if heart(30) <= heart(15) {
		t.Errorf("the heart of 30 g is %v, of 15 g %v", heart(30), heart(15))
	}
	if tint(86) == tint(96) {
		t.Error("86 and 96 °C have the same tint")
	}
	// The ring of a brew longer than one turn closes at most once.
	wellFormed(t, string(Flower(60, plan.Steps, 520)))
	steeped := recipe.SteepAndRelease.Style().Generate(16, 256, 93).Plan()
	if svg := string(Flower(16, steeped.Steps, 0)); strings.Count(svg, "flower-hand") != 2 || strings.Contains(svg, "flower-ring") {
		t.Errorf("a steeped brew not yet poured: %s", svg)
	}
}

func TestAxisTicksAreRoundFigures(t *testing.T) {
	for v, want := range map[float64]float64{99: 100, 3.5: 5, 220: 200, 18: 20, 0.33: 0.5} {
		if got := round(v); math.Abs(got-want) > 1e-9 {
			t.Errorf("near %v the tick is %v, want %v", v, got, want)
		}
	}
}

func BenchmarkRibbon(b *testing.B) {
	b.ReportAllocs()
	for b.Loop() {
		_ = Ribbon{Plan: plan}.SVG()
	}
}

// The cutaway shows every moment to scale: water within the brewer unless it overflows, coffee within the
// carafe, everything inside the figure.
func TestCutawayIsToScale(t *testing.T) {
	for name, b := range map[string]sim.Brewer{"small cone": sim.OpenConeSmall, "large heavy cone": sim.HeavyConeLarge,
		"flat bed": sim.FlatBedLarge} {
		for _, dose := range []units.Grams{15, 60} {
			brew := sim.Brew{Dose: dose, Coffee: sim.Coffee{Soluble: 0.29, Rate: 1}, Grind: sim.Mills["hand mill"].Grind(750), Brewer: b,
				Filter: sim.Filters["standard paper"], Ambient: 21, Warm: 60,
				Pours: []sim.Pour{{Water: dose * 16, Rate: 6, Temperature: 94, Height: 0.1, Pattern: sim.Spiral}}}
			r, err := sim.Run(brew)
			if err != nil {
				t.Fatal(err)
			}
			c := Cutaway{Brewer: b, Forecast: &r}
			top, poured := 0.0, 0.0
			for i := range c.Frames() {
				f := c.frame(i * FrameEvery)
				if f.Height > carafeTall || f.Top+f.Height > c.floor()+0.11 {
					t.Errorf("%s, %v g: after %d s the coffee stands %.1f mm high in a carafe of %.0f", name, dose, i*FrameEvery, f.Height,
						carafeTall)
				}
				if f.Height < poured-1e-9 {
					t.Errorf("%s, %v g: the carafe empties", name, dose)
				}
				poured, top = f.Height, max(top, r.Level[i*FrameEvery])
			}
			if got := r.Level[c.Highest()*FrameEvery]; got != top {
				t.Errorf("%s, %v g: shows %.0f mm, the highest is %.0f", name, dose, got, top)
			}
			for _, r := range []float64{b.Radius(r.Rim/1000) * 1000, c.carafe()} {
				if r >= c.middle() {
					t.Errorf("%s, %v g: %.0f mm of radius do not fit into a picture of %.0f", name, dose, r, 2*c.middle())
				}
			}
		}
	}
}

// A QR code has three finder patterns, dark on white, and a white border.
func TestQRCodeHasFinderPatterns(t *testing.T) {
	svg, err := QR("http://yard.example:8417/r/abc234")
	if err != nil {
		t.Fatal(err)
	}
	dark := map[string]bool{}
	for _, m := range regexp.MustCompile(`M(\d+) (\d+)\.5h(\d+)`).FindAllStringSubmatch(string(svg), -1) {
		x, y, run := whole(t, m[1]), m[2], whole(t, m[3])
		for i := range run {
			dark[fmt.Sprint(x+i, ",", y)] = true
		}
	}
	side := int(numbers(string(svg), `viewBox="0 0 ([\d.]+) `)[0]) - 8
	for _, corner := range [][2]int{{4, 4}, {4 + side - 7, 4}, {4, 4 + side - 7}} {
		for i := range 7 {
			for j := range 7 {
				ring := max(i, 6-i, j, 6-j) // 6 outside, 5 the white ring, 4 and less the dark centre
				if at := fmt.Sprint(corner[0]+i, ",", corner[1]+j); dark[at] == (ring == 5) {
					t.Fatalf("the finder at %v is wrong at %s", corner, at)
				}
			}
		}
	}
	if share := float64(len(dark)) / float64(side*side); side < 25 || share < 0.35 || share > 0.65 {
		t.Errorf("%d modules a side, %.0f %% of them dark", side, 100*share)
	}
	wellFormed(t, string(svg))
}

func whole(t *testing.T, text string) int {
	t.Helper()
	n, err := strconv.Atoi(text)
	if err != nil {
		t.Fatal(err)
	}
	return n
}

// The dial of a grinder with finer higher numbers also runs from fine to coarse.
func TestDialRunsFromFineToCoarse(t *testing.T) {
	for name, d := range map[string]gear.Dial{"clicks": {Kind: gear.Clicks, Zero: 60, Step: 27},
		"reversed": {Kind: gear.Numbered, Zero: 1400, Step: -25, Mark: 1}} {
		svg := string(Dial(d)[0])
		wellFormed(t, svg)
		settings := numbers(svg, `class="dial-setting"[^>]*>([\d.]+)<`)
		if len(settings) < 5 || (settings[0] < settings[len(settings)-1]) != (d.Step > 0) {
			t.Errorf("%s: %v", name, settings)
		}
	}
}
