package written

import (
	"errors"
	"fmt"
	"math"
	"strings"
	"testing"

	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// say writes a reading in short: dose/water/ratio/ice @ temperature, grind, the pours as water@start with the bloom first and its span,
// and the end.
func say(r Reading) string {
	var b strings.Builder
	fmt.Fprintf(&b, "%g/%g", float64(r.Dose), float64(r.Water))
	if r.Ratio > 0 {
		fmt.Fprintf(&b, " 1:%g", r.Ratio)
	}
	if r.Ice > 0 {
		fmt.Fprintf(&b, " ice%g", float64(r.Ice))
	}
	if r.Celsius > 0 {
		fmt.Fprintf(&b, " @%g", float64(r.Celsius))
	}
	if r.Grind > 0 {
		fmt.Fprintf(&b, " %gum", float64(r.Grind))
	}
	if r.Rinse {
		b.WriteString(" rinse")
	}
	for _, p := range r.Pours {
		b.WriteString(" ")
		if p.Bloom {
			b.WriteString("b")
		}
		if p.Times > 0 {
			fmt.Fprintf(&b, "%gx", p.Times)
		} else {
			fmt.Fprintf(&b, "%g", math.Round(float64(p.Water)))
		}
		if p.Starts && !p.Bloom {
			fmt.Fprintf(&b, "@%g", float64(p.Start))
		}
		if p.Lasts > 0 {
			fmt.Fprintf(&b, "(%g)", float64(p.Lasts))
		}
		if p.Celsius > 0 {
			fmt.Fprintf(&b, "°%g", float64(p.Celsius))
		}
		if p.Then != recipe.NoHand {
			fmt.Fprintf(&b, "+%s", p.Then)
		}
	}
	if r.Release > 0 {
		fmt.Fprintf(&b, " steep%g", float64(r.Release))
	}
	if r.Finish > 0 {
		fmt.Fprintf(&b, " end%g", float64(r.Finish))
	}
	return b.String()
}

// Recipes as people write them. wrong is a part of a problem, unread the words that are not understood.
var phrasings = []struct{ text, want, wrong, unread string }{
	{"20 g, 300 ml at 94, bloom 50 for 45 s, then 100 at 0:45, 1:30, rest at 2:10, medium-fine, swirl",
		"20/300 @94 600um b50(45) 100@45 100@90+swirl end130", "add up to 250 g", ""},
	{"18g coffee, 300g water, 93C", "18/300 @93", "", ""},
	{"18 g coffee 1:16.5 93 °C", "18/0 1:16.5 @93", "", ""},
	{"Dose 18 g. Water 297 g. Temperature 93 °C. Bloom 54 g for 45 s. Pour to 175 g at 0:45, to 297 g at 1:25. Done at 3:15.",
		"18/297 @93 b54(45) 121@45 122@85 end195", "", ""},
	{"15g/250g, 96°C, medium", "15/250 @96 700um", "", ""},
	{"20 g of coffee and 320 g of water at 200°F", "20/320 @93", "", ""},
	{"20g in, 320ml water, 203F, medium fine, bloom 3x for 40 seconds", "20/320 @95 600um b3x(40)", "", ""},
	{"1:16, 20 g, 94 C", "20/0 1:16 @94", "ratio or a time", ""},
	{"ratio 1:16, 20 g, 94 C", "20/0 1:16 @94", "", ""},
	{"20 g at 1 : 15 with 92 degrees, coarse", "20/0 1:15 @92 1000um", "", ""},
	{"20 g, 1:16, 94 C", "20/0 1:16 @94", "ratio or a time", ""},
	{"12 g coffee, 200 g water, bloom 36 g 30 s, three pours of 55 g", "12/200 b36(30) 55 55 55", "", ""},
	{"12 g coffee, 200 g water, bloom 36 g 30 s, three pours of 40 g", "12/200 b36(30) 40 40 40", "add up to 156 g", ""},
	{"16 g, 256 g, bloom 48 g, 0:45 to 150 g, 1:20 to 256 g, finish 2:50", "16/256 b48 102@45 106@80 end170", "", ""},
	{"16 g, 256 g, bloom 48 g, 0:45 pour to 150 g, 1:20 pour to 256 g", "16/256 b48 102@45 106@80", "", ""},
	{"16 g; 256 g; 0:00 50 g bloom; 0:40 100 g; 1:20 106 g", "16/256 b50 100@40 106@80", "", ""},
	{"16 g coffee\n256 g water\nbloom with 50 g for 40 s\nadd 100 g at 0:40\nadd 106 g at 1:20\nswirl", "16/256 b50(40) 100@40 106@80+swirl", "", ""},
	{"30 g coffee, 500 g water just off the boil, medium coarse, bloom 60 g and swirl, 45 s bloom, pour 240 g at 45 s, pour 200 g at 1:15",
		"30/500 850um b60(45)+swirl 240@45 200@75", "", ""},
	{"30 g, 500 ml, bloom 60 g for 45 s, pour to 300 by 1:15", "30/500 b60(45) 240@75", "add up to 300 g", ""},
	{"Steep 20 g with 320 g at 96 C, stir, release at 2:00, done 3:00", "20/320 @96 steep120 end180", "", "stir"},
	{"steeper: 18 g coffee, 290 g water, 95 °C, steep for 2:30", "18/290 @95 steep150", "", "steeper"},
	{"22 g coffee over 140 g ice, 220 g hot water, medium-fine", "22/220 ice140 600um", "", ""},
	{"22 g coffee, 140 g of ice, 220 g water, bloom 60 g 45 s, pour 80 g at 0:45, 80 g at 1:20", "22/220 ice140 b60(45) 80@45 80@80", "", ""},
	{"22 g coffee, 1 : 16.5, 140 g of ice, 220 g water", "22/220 1:16.5 ice140", "", ""},
	{"0.7 oz coffee, 11 oz water, 205 F", "19.8/311.9 @96", "", ""},
	{"20 g, 10.5 fl oz water, 94 C", "20/297.7 @94", "", ""},
	{"20 g coffee, 300 g water, then 400 g water", "20/300 400", "add up to 400 g", ""},
	{"20 g coffee, 300 g total water, 320 g total water", "20/320", "Two totals", ""},
	{"20 g coffee, 22 g coffee, 300 g water", "22/300", "Two doses", ""},
	{"20 g coffee, 300 g water, 94 C, 90 C", "20/300 @90", "Two temperatures", ""},
	{"20 g coffee, 300 g water, 1 : 17", "20/300 1:17", "need 340 g", ""},
	{"20 g coffee, 300 g water, ratio 1 : 15, ratio 1 : 16", "20/300 1:16", "Two ratios", ""},
	{"20 g coffee, 0.3 l water at 94", "20/300 @94", "", ""},
	{"20 g coffee, 300 g water, rinse the filter, medium", "20/300 700um rinse", "", ""},
	{"650 µm, 20 g coffee, 300 g water", "20/300 650um", "", ""},
	{"20 g, 300 g, bloom 60, 1:00 pour 120, 1:40 pour 120", "20/300 b60 120@60 120@100", "", ""},
	{"20 g, 300 g, bloom 60 g until 0:50, then 120 g at 0:50, then 120 g at 1:30", "20/300 b60(50) 120@50 120@90", "", ""},
	{"20 g, 300 g, 60 g bloom, 120 g, 120 g", "20/300 b60 120 120", "", ""},
	{"20 g, 300 g, 60 g bloom for 45 s, two pours of 120 g, swirl after each", "20/300 b60(45)+swirl 120+swirl 120+swirl", "", ""},
	{"20 g, 300 g in 5 pours", "20/300 60 60 60 60 60", "", ""},
	{"20 g, 300 g, bloom 60 g, then in 2 pours", "20/300 b60 120 120", "", ""},
	{"20 g, 300 g, bloom 60 g 40 s at 96, then 240 g at 0:40 with 88 °C", "20/300 @96 b60(40) 240@40°88", "", ""},
	{"20 g, 300 g, bloom 60 g, 0:30 120 g, 0:20 120 g", "20/300 b60 120@30 120@20", "cannot follow one at", ""},
	{"20 g, 300 g, bloom 60 g, to 40 g at 0:45", "20/300 b60 40@45", "cannot follow 60 g", ""},
	{"20 g, 300 g, bloom 60 g, 240 g at 0:45, done at 0:30", "20/300 b60 240@45 end30", "before the last pour", ""},
	{"20 g, 300 g, bloom 60 g, 240 g at 45 s, drains by 3 min", "20/300 b60 240@45 end180", "", ""},
	{"20 g, 300 g, bloom 60 g, 240 g at 45 s, total time 3 min 10 s", "20/300 b60 240@45 end190", "", ""},
	{"20 g, 300 g, 1 min bloom with 60 g, 240 g at 1:00", "20/300 b60(60) 240@60", "", ""},
	{"20 g, 300 g, tap after the bloom 60 g, 240 g at 1:00", "20/300 b60+tap 240@60", "", ""},
	{"200 g coffee, 3000 g water", "200/3000", "out of range", ""},
	{"20 g coffee, 300 g water at 40 °C", "20/300 @40", "out of range", ""},
	{"300 g water at 94, ratio 1 : 15", "0/300 1:15 @94", "", ""},
	{"300 g water at 94 °C, bloom 50 g", "0/300 @94 b50", "How much coffee", ""},
	{"20 g coffee at 94 °C", "20/0 @94", "How much water", ""},
	{"☕ 20 g 💧 300 g 🌡 94°C", "20/300 @94", "", "☕ 💧 🌡"},
	{"20 g, 300 ml and 10 oz, 94 C", "20/283.5 @94", "Two totals", ""},
	{"20,5 g coffee, 328 g water, 93,5 °C", "20.5/328 @94", "", ""},
	{"20 g coffee, 300 g water, grind like caster sugar", "20/300", "", "like caster sugar"},
	{"18 g, 290 g, bloom: 50 g / 45 s, 1st pour: 120 g @ 0:45, 2nd pour: 120 g @ 1:20", "18/290 b50(45) 120@45 120@80", "", ""},
	{"18 g; 288 ml; 92 °C; bloom 2.5x, 40 s; then 123 at 0:40; 120 at 1:15; finished 2:50", "18/288 @92 b2.5x(40) 123@40 120@75 end170", "", ""},
	{"use 18 grams of coffee and 290 grams of water at 94 degrees celsius with a medium grind", "18/290 @94 700um", "", ""},
}

func TestPhrasings(t *testing.T) {
	if len(phrasings) < 60 {
		t.Errorf("%d phrasings", len(phrasings))
	}
	for _, c := range phrasings {
		r, err := Read(c.text)
		if c.want == "" {
			continue
		}
		problems := strings.NewReplacer("{", "", "}", "").Replace(strings.Join(r.Problems, " "))
		unread := strings.TrimSpace(strings.Join(r.Unread(), " "))
		if err != nil || say(r) != c.want || !strings.Contains(problems, c.wrong) || c.wrong == "" && problems != "" || unread != c.unread {
			t.Errorf("%q\n\tis  %q %v\n\tnot %q %q\n\tproblems %q, unread %q", c.text, say(r), err, c.want, c.wrong, problems, unread)
		}
	}
}

func TestWhatIsNoRecipe(t *testing.T) {
	for text, want := range map[string]error{
		"": ErrNoRecipe, "milk, eggs, bread, two lemons": ErrNoRecipe, "500 g flour": ErrNoRecipe,
		strings.Repeat("20 g coffee ", 1000): ErrTooLong,
	} {
		if _, err := Read(text); !errors.Is(err, want) {
			t.Errorf("%.40q: %v", text, err)
		}
	}
}

// The pieces are the text, and the recipe has the pours as written. Mutations caught: a piece that is lost, a bloom of no water, a pour
// before the one before it.
func TestRecipeAsWritten(t *testing.T) {
	base := recipe.ThreeRounds.Style().Generate(18, 297, 93)
	base.Grind = 650
	for _, c := range phrasings {
		r, err := Read(c.text)
		if err != nil {
			continue
		}
		text := ""
		for _, p := range r.Pieces {
			text += p.Text
		}
		if text != c.text {
			t.Errorf("%q became %q", c.text, text)
		}
		if len(r.Problems) > 0 {
			continue
		}
		out, _ := r.Recipe(base)
		last := units.Seconds(-1)
		for _, p := range out.Pours {
			if p.Water <= 0 || p.Start <= last && last >= 0 {
				t.Errorf("%q: pours %+v", c.text, out.Pours)
			}
			last = p.Start
		}
		if r.Dose > 0 && out.Dose != r.Dose || r.Water > 0 && math.Abs(float64(out.Water()-r.Water)) > 3 && r.poured() == 0 {
			t.Errorf("%q: %v g and %v g", c.text, out.Dose, out.Water())
		}
	}
}

func FuzzRead(f *testing.F) {
	for _, c := range phrasings {
		f.Add(c.text)
	}
	base := recipe.ThreeRounds.Style().Generate(18, 297, 93)
	f.Fuzz(func(_ *testing.T, text string) {
		if r, err := Read(text); err == nil {
			r.Recipe(base)
		}
	})
}
