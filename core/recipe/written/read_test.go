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
	{"23 g, 380 ml at 94, bloom 65 for 50 s, then 150 at 0:50, 1:45, rest at 2:20, medium-fine, swirl",
		"23/380 @94 600um b65(50) 150@50 150@105+swirl end140", "add up to 365 g", ""},
	{"19g coffee, 314g water, 93C", "19/314 @93", "", ""},
	{"19 g coffee 1:16.5 93 °C", "19/0 1:16.5 @93", "", ""},
	{"Dose 19 g. Water 314 g. Temperature 93 °C. Bloom 63 g for 50 s. Pour to 188 g at 0:50, to 314 g at 1:40. Done at 3:06.",
		"19/314 @93 b63(50) 125@50 126@100 end186", "", ""},
	{"13g/215g, 96°C, medium", "13/215 @96 700um", "", ""},
	{"23 g of coffee and 368 g of water at 200°F", "23/368 @93", "", ""},
	{"23g in, 368ml water, 203F, medium fine, bloom 2.5x for 40 seconds", "23/368 @95 600um b2.5x(40)", "", ""},
	{"1:16, 23 g, 94 C", "23/0 1:16 @94", "ratio or a time", ""},
	{"ratio 1:16, 23 g, 94 C", "23/0 1:16 @94", "", ""},
	{"23 g at 1 : 15.5 with 92 degrees, coarse", "23/0 1:15.5 @92 1000um", "", ""},
	{"23 g, 1:16, 94 C", "23/0 1:16 @94", "ratio or a time", ""},
	{"13 g coffee, 215 g water, bloom 44 g 50 s, three pours of 57 g", "13/215 b44(50) 57 57 57", "", ""},
	{"13 g coffee, 215 g water, bloom 44 g 50 s, three pours of 41 g", "13/215 b44(50) 41 41 41", "add up to 167 g", ""},
	{"17 g, 281 g, bloom 58 g, 0:50 to 169 g, 1:40 to 281 g, finish 3:04", "17/281 b58 111@50 112@100 end184", "", ""},
	{"17 g, 281 g, bloom 58 g, 0:50 pour to 169 g, 1:40 pour to 281 g", "17/281 b58 111@50 112@100", "", ""},
	{"17 g; 281 g; 0:00 58 g bloom; 0:50 111 g; 1:40 112 g", "17/281 b58 111@50 112@100", "", ""},
	{"17 g coffee\n281 g water\nbloom with 58 g for 50 s\nadd 111 g at 0:50\nadd 112 g at 1:40\nswirl", "17/281 b58(50) 111@50 112@100+swirl", "", ""},
	{"19 g coffee, 314 g water just off the boil, medium coarse, bloom 63 g and swirl, 50 s bloom, pour 125 g at 50 s, pour 126 g at 1:40",
		"19/314 850um b63(50)+swirl 125@50 126@100", "", ""},
	{"19 g, 314 ml, bloom 63 g for 50 s, pour to 250 by 1:40", "19/314 b63(50) 187@100", "add up to 250 g", ""},
	{"Steep 19 g with 304 g at 96 C, stir, release at 2:45, done 4:00", "19/304 @96 steep165 end240", "", "stir"},
	{"steeper: 13 g coffee, 208 g water, 95 °C, steep for 2:50", "13/208 @95 steep170", "", "steeper"},
	{"19 g coffee over 120 g ice, 165 g hot water, medium-fine", "19/165 ice120 600um", "", ""},
	{"19 g coffee, 120 g of ice, 165 g water, bloom 57 g 60 s, pour 54 g at 1:00, 54 g at 1:40", "19/165 ice120 b57(60) 54@60 54@100", "", ""},
	{"19 g coffee, 1 : 15, 120 g of ice, 165 g water", "19/165 1:15 ice120", "", ""},
	{"0.6 oz coffee, 9.9 oz water, 205 F", "17/280.7 @96", "", ""},
	{"17 g, 9.9 fl oz water, 94 C", "17/280.7 @94", "", ""},
	{"23 g coffee, 380 g water, then 410 g water", "23/380 410", "add up to 410 g", ""},
	{"23 g coffee, 380 g total water, 368 g total water", "23/368", "Two totals", ""},
	{"23 g coffee, 22 g coffee, 380 g water", "22/380", "Two doses", ""},
	{"23 g coffee, 380 g water, 94 C, 90 C", "23/380 @90", "Two temperatures", ""},
	{"23 g coffee, 380 g water, 1 : 18", "23/380 1:18", "need 414 g", ""},
	{"23 g coffee, 380 g water, ratio 1 : 15, ratio 1 : 16.5", "23/380 1:16.5", "Two ratios", ""},
	{"17 g coffee, 0.28 l water at 94", "17/280 @94", "", ""},
	{"17 g coffee, 281 g water, rinse the filter, medium", "17/281 700um rinse", "", ""},
	{"650 µm, 17 g coffee, 281 g water", "17/281 650um", "", ""},
	{"23 g, 380 g, bloom 76, 0:55 pour 152, 1:50 pour 152", "23/380 b76 152@55 152@110", "", ""},
	{"23 g, 380 g, bloom 76 g until 0:50, then 152 g at 0:50, then 152 g at 1:45", "23/380 b76(50) 152@50 152@105", "", ""},
	{"23 g, 380 g, 76 g bloom, 152 g, 152 g", "23/380 b76 152 152", "", ""},
	{"23 g, 380 g, 76 g bloom for 50 s, two pours of 152 g, swirl after each", "23/380 b76(50)+swirl 152+swirl 152+swirl", "", ""},
	{"17 g, 280 g in 4 pours", "17/280 70 70 70 70", "", ""},
	{"23 g, 380 g, bloom 76 g, then in 2 pours", "23/380 b76 152 152", "", ""},
	{"23 g, 380 g, bloom 76 g 50 s at 96, then 304 g at 0:50 with 88 °C", "23/380 @96 b76(50) 304@50°88", "", ""},
	{"23 g, 380 g, bloom 76 g, 0:50 152 g, 0:35 152 g", "23/380 b76 152@50 152@35", "cannot follow one at", ""},
	{"23 g, 380 g, bloom 76 g, to 40 g at 0:50", "23/380 b76 40@50", "cannot follow 76 g", ""},
	{"23 g, 380 g, bloom 76 g, 304 g at 0:50, done at 0:40", "23/380 b76 304@50 end40", "before the last pour", ""},
	{"23 g, 380 g, bloom 76 g, 304 g at 50 s, drains by 3 min", "23/380 b76 304@50 end180", "", ""},
	{"23 g, 380 g, bloom 76 g, 304 g at 50 s, total time 3 min 26 s", "23/380 b76 304@50 end206", "", ""},
	{"23 g, 380 g, 1 min bloom with 76 g, 304 g at 1:00", "23/380 b76(60) 304@60", "", ""},
	{"23 g, 380 g, tap after the bloom 76 g, 304 g at 1:05", "23/380 b76+tap 304@65", "", ""},
	{"200 g coffee, 3000 g water", "200/3000", "out of range", ""},
	{"17 g coffee, 281 g water at 40 °C", "17/281 @40", "out of range", ""},
	{"281 g water at 94, ratio 1 : 16.5", "0/281 1:16.5 @94", "", ""},
	{"281 g water at 94 °C, bloom 58 g", "0/281 @94 b58", "How much coffee", ""},
	{"17 g coffee at 94 °C", "17/0 @94", "How much water", ""},
	{"☕ 17 g 💧 281 g 🌡 94°C", "17/281 @94", "", "☕ 💧 🌡"},
	{"17 g, 281 ml and 11 oz, 94 C", "17/311.9 @94", "Two totals", ""},
	{"20,5 g coffee, 328 g water, 93,5 °C", "20.5/328 @94", "", ""},
	{"17 g coffee, 281 g water, grind like caster sugar", "17/281", "", "like caster sugar"},
	{"17 g, 281 g, bloom: 58 g / 50 s, 1st pour: 111 g @ 0:50, 2nd pour: 112 g @ 1:40", "17/281 b58(50) 111@50 112@100", "", ""},
	{"19 g; 304 ml; 92 °C; bloom 2.5x, 40 s; then 162 at 0:40; 94 at 1:30; finished 2:48", "19/304 @92 b2.5x(40) 162@40 94@90 end168", "", ""},
	{"use 17 grams of coffee and 281 grams of water at 94 degrees celsius with a medium grind", "17/281 @94 700um", "", ""},
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
		strings.Repeat("17 g coffee ", 1000): ErrTooLong,
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
