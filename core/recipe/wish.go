package recipe

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"yardbloom/core/coffee"
	"yardbloom/core/gear"
	"yardbloom/core/units"
)

// A Wish describes the wanted cup, each quality from −1 to 1, with 0 for no preference: full or clear,
// sweet or bright, slow or quick; and whether it is served cold.
type Wish struct {
	Clear, Bright, Quick float64
	Cold                 bool
	InCup                units.Grams // wanted amount; 0: as much as the brewer usually makes
}

// UsualWish returns how a coffee is usually brewed where nothing else is wanted, with its reason. It is a start, not a rule: the
// person's own wish decides.
func UsualWish(b coffee.Bag) (Wish, string) {
	switch {
	case b.Roast == coffee.Light || b.Roast == coffee.MediumLight && b.Process == coffee.Washed:
		return Wish{Clear: 0.5, Bright: 0.5}, fmt.Sprintf("a %s coffee is usually brewed clear and bright", b.Roast)
	case b.Roast >= coffee.MediumDark:
		return Wish{Clear: -0.5, Bright: -0.5}, fmt.Sprintf("a %s coffee is usually brewed full and sweet", b.Roast)
	case b.Process == coffee.Natural || b.Process == coffee.Anaerobic:
		return Wish{Clear: 0.5, Bright: -0.5}, fmt.Sprintf("a%s coffee is usually brewed clear, so that its fruit is not heavy",
			map[coffee.Process]string{coffee.Natural: " natural", coffee.Anaerobic: "n anaerobic"}[b.Process])
	}
	return Wish{}, "this coffee suits any of them"
}

// Taste describes the cup that a brewer with its filter leans to, in words of taste.
func Taste(b gear.Brewer) string {
	l, f := ofBrewer[b.Kind], ofFilter[b.Filter]
	var out []string
	for _, s := range []struct {
		by         float64
		more, less string
	}{{l.clear + f.clear, "clear", "full"}, {l.bright + f.bright, "bright", "sweet"}, {l.quick + f.quick, "quick", "slow"}} {
		switch {
		case s.by > 0.15:
			out = append(out, s.more)
		case s.by < -0.15:
			out = append(out, s.less)
		}
	}
	if len(out) == 0 {
		return "even, without a leaning"
	}
	return strings.Join(out, ", ")
}

// A leaning is the effect of one choice on the cup, on the same scales, with its reason.
type leaning struct {
	clear, bright, quick float64
	why                  string
}

// The leanings of filters, brewers, burrs and styles, as taught by trainers. A value of 1 is the whole
// range from neutral to one end. Practitioners disagree about some of them.
var (
	ofFilter = map[gear.FilterKind]leaning{
		gear.StandardPaper:   {0.3, 0.1, 0.1, "paper holds back oils and fines"},
		gear.ThickPaper:      {0.8, 0, -0.3, "thick paper holds nearly all oils and fines back: the clearest cup"},
		gear.FastPaper:       {0.2, 0.2, 0.4, "its fast paper hardly slows the flow"},
		gear.CorrugatedPaper: {0.2, 0, 0.1, "corrugated paper drains evenly"},
		gear.Cloth:           {-0.4, -0.1, 0, "cloth lets oils through and keeps the grit: a round, full cup"},
		gear.Mesh:            {-0.9, 0, 0.3, "metal mesh lets oils and fines through: the fullest cup"},
	}
	ofBrewer = map[gear.BrewerKind]leaning{
		gear.OpenCone:     {0.3, 0.4, 0.1, "an open cone drains fast and shows the acids"},
		gear.FlatBed:      {0, -0.3, 0.1, "a flat bed is even and leans to sweetness"},
		gear.HeavyCone:    {0.4, 0.1, -0.4, "all of the water passes its bed, slowly"},
		gear.ValveSteeper: {-0.4, -0.3, 0.2, "a steep needs no pouring skill and gives body"},
	}
	ofBurrs = map[gear.Burrs]leaning{
		gear.FlatBurr:    {0.4, 0.2, 0.1, "flat burrs make few fines: clear"},
		gear.ConicalBurr: {-0.2, -0.1, 0.1, "conical burrs make more fines: rounder"},
		gear.HandMill:    {0, 0, -0.2, "a hand mill takes a minute"},
		gear.Blade:       {-0.6, 0, 0.2, "a blade makes many fines and cannot repeat"},
		gear.Bought:      {-0.3, 0, 0.4, "bought ground coffee needs no grinding, and its size is fixed"},
	}
	ofStyle = map[StyleID]leaning{
		ThreeRounds:     {0.1, 0, 0, "three rounds are even and forgiving"},
		OneLongPour:     {0.4, 0.1, 0.3, "one long pour agitates least: clean and light"},
		TwoCentredPours: {0.2, 0.6, 0.3, "two centred pours drain fast and bright"},
		Pulses:          {-0.4, -0.5, -0.3, "pulses keep the bed stirred: sweetness and body"},
		Split:           {0.3, -0.2, 0, "its first two pours can be set sweet against bright"},
		LongBloom:       {-0.1, 0, -0.4, "a long bloom extracts a lot without clogging"},
		BloomByEye:      {0.1, 0.1, 0, "a bloom by eye leaves few channels"},
		Falling:         {0.1, -0.4, -0.1, "cool last pours reduce late bitterness"},
		SteepAndRelease: {-0.5, -0.3, 0.3, "a steep gives body and leaves the hands free"},
		IceHotAndSlow:   {0.2, 0.5, 0, "hot and slow onto ice keeps the brightness"},
		IcePulsed:       {0, -0.5, -0.2, "cooler pulses onto ice are sweet and soft"},
		Concentrate:     {0.6, 0.1, 0.3, "dilution makes it clear and the pour short"},
	}
)

// A Choice is one way to brew with the available gear.
type Choice struct {
	Brewer  gear.Brewer
	Grinder gear.Grinder
	Style   Style
	Score   float64  // higher is closer to the wish
	Why     []string // parts of the explanation, the most important first
	Fit     gear.Fit // how it makes the wanted amount; zero if none is wanted
	lean    leaning
}

// Explanation explains the choice in a sentence.
func (c Choice) Explanation() string {
	if len(c.Why) == 0 {
		return ""
	}
	why := strings.Join(c.Why[:min(3, len(c.Why))], "; ")
	return strings.ToUpper(why[:1]) + why[1:] + "."
}

// Choose ranks every brewer with every grinder in every suitable style, closest to the wish first. Each
// pair of brewer and style appears once, with its best grinder.
func Choose(w Wish, bag coffee.Bag, brewers []gear.Brewer, grinders []gear.Grinder) []Choice {
	var out []Choice
	for _, b := range brewers {
		for _, style := range Styles(b.Kind) {
			if (style.Serving() == OverIce) != w.Cold || style.Steeps() != b.Kind.Form().Immersion {
				continue
			}
			var best *Choice
			for _, g := range grinders {
				c := scoreChoice(w, bag, b, g, style)
				if best == nil || c.Score > best.Score {
					best = &c
				}
			}
			if best != nil {
				out = append(out, *best)
			}
		}
	}
	slices.SortStableFunc(out, func(a, b Choice) int {
		switch {
		case a.Score > b.Score:
			return -1
		case a.Score < b.Score:
			return 1
		}
		return 0
	})
	return out
}

// scoreChoice returns the choice with its score: the match between its leanings and the wish.
func scoreChoice(w Wish, bag coffee.Bag, b gear.Brewer, g gear.Grinder, style Style) Choice {
	c := Choice{Brewer: b, Grinder: g, Style: style}
	type part struct {
		why  string
		adds float64
	}
	var parts []part
	for _, l := range []leaning{ofFilter[b.Filter], ofBrewer[b.Kind], ofBurrs[g.Burrs], ofStyle[style.ID]} {
		adds := w.Clear*l.clear + w.Bright*l.bright + w.Quick*l.quick
		c.lean.clear, c.lean.bright, c.lean.quick = c.lean.clear+l.clear, c.lean.bright+l.bright, c.lean.quick+l.quick
		c.Score += adds
		parts = append(parts, part{l.why, adds})
	}
	if w.InCup > 0 {
		c.Fit = b.Fit(w.InCup, style.Ratio)
		c.Score -= 0.4 * float64(c.Fit.Brews-1)
		if c.Fit.Thin {
			c.Score -= 0.6
		}
	}
	if dark := bag.Roast >= coffee.MediumDark; dark && (style.ID == TwoCentredPours || style.ID == LongBloom ||
		style.ID == IceHotAndSlow) {
		c.Score -= 0.6 // as the text of the style warns
	}
	if bag.Roast == coffee.Light && (style.ID == Falling || style.ID == Concentrate) {
		c.Score -= 0.6
	}
	if style.ID == ThreeRounds || style.ID == SteepAndRelease {
		c.Score += 0.05 // as a tie-breaker, prefer the forgiving one
	}
	slices.SortStableFunc(parts, func(a, b part) int { return int(math.Copysign(1, b.adds-a.adds)) })
	for _, p := range parts {
		if p.adds > 0.02 || len(c.Why) == 0 {
			c.Why = append(c.Why, p.why)
		}
	}
	return c
}

// Contrast describes how the cup of another choice would differ from this one.
func (c Choice) Contrast(other Choice) string {
	var out []string
	for _, d := range []struct {
		by         float64
		more, less string
	}{{other.lean.clear - c.lean.clear, "clearer", "fuller"}, {other.lean.bright - c.lean.bright, "brighter", "sweeter"},
		{other.lean.quick - c.lean.quick, "done sooner", "slower"}} {
		switch {
		case d.by > 0.15:
			out = append(out, d.more)
		case d.by < -0.15:
			out = append(out, d.less)
		}
	}
	if len(out) == 0 {
		return "much the same cup"
	}
	if n := len(out) - 1; n > 0 {
		return fmt.Sprintf("%s and %s", strings.Join(out[:n], ", "), out[n])
	}
	return out[0]
}
