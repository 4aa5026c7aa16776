// Package wish picks, from what a yard has, the brewer, grinder and style that come
// nearest to what somebody wants of a cup, and says why.
package wish

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"yardbloom/core/coffee"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
)

// A Wish is what is wanted of a cup, each from −1 to 1, with 0 for no wish: full or
// clear, sweet or bright, unhurried or quick, and whether it is to be cold.
type Wish struct {
	Clear, Bright, Quick float64
	Cold                 bool
}

// A leaning is how far something moves a cup, on the same scales, and why.
type leaning struct {
	clear, bright, quick float64
	why                  string
}

// Leanings of filters, brewers, burrs and styles: a trainer's table, to be argued with.
// A figure is about how much of the way from one end to the other it goes.
var (
	ofFilter = map[gear.FilterKind]leaning{
		gear.StandardPaper:   {0.3, 0.1, 0.1, "paper holds oils and fines back"},
		gear.ThickPaper:      {0.8, 0, -0.3, "thick paper holds nearly all oils and fines back: the clearest cup"},
		gear.FastPaper:       {0.2, 0.2, 0.4, "its fast paper leaves the flow to the grounds"},
		gear.CorrugatedPaper: {0.2, 0, 0.1, "corrugated paper drains evenly"},
		gear.Cloth:           {-0.4, -0.1, 0, "cloth lets oils through and keeps the grit: a round, full cup"},
		gear.Mesh:            {-0.9, 0, 0.3, "metal mesh lets oils and fines through: the fullest cup"},
	}
	ofBrewer = map[gear.BrewerKind]leaning{
		gear.OpenCone:     {0.3, 0.4, 0.1, "an open cone drains fast and shows the acids"},
		gear.FlatBed:      {0, -0.3, 0.1, "a flat bed is even and leans to sweetness"},
		gear.HeavyCone:    {0.4, 0.1, -0.4, "all of the water passes its bed, slowly"},
		gear.ValveSteeper: {-0.4, -0.3, 0.2, "a steep asks nothing of the hand and gives body"},
	}
	ofBurrs = map[gear.Burrs]leaning{
		gear.FlatBurr:    {0.4, 0.2, 0.1, "flat burrs make few fines: clear"},
		gear.ConicalBurr: {-0.2, -0.1, 0.1, "conical burrs make more fines: rounder"},
		gear.HandMill:    {0, 0, -0.2, "a hand mill takes its minute"},
		gear.Blade:       {-0.6, 0, 0.2, "a blade makes many fines and cannot repeat"},
	}
	ofStyle = map[recipe.StyleID]leaning{
		recipe.ThreeRounds:     {0.1, 0, 0, "three rounds are even and forgiving"},
		recipe.OneLongPour:     {0.4, 0.1, 0.3, "one long pour stirs least: clean and light"},
		recipe.TwoHeavyPours:   {0.2, 0.6, 0.3, "two heavy pours drain fast and bright"},
		recipe.Pulses:          {-0.4, -0.5, -0.3, "pulses keep the bed stirred: sweetness and body"},
		recipe.Split:           {0.3, -0.2, 0, "its first two pours can be set sweet against bright"},
		recipe.LongSoak:        {-0.1, 0, -0.4, "a long soak takes much along without clogging"},
		recipe.LooseSlurry:     {0.1, 0.1, 0, "a bloom by feel leaves few channels"},
		recipe.Falling:         {0.1, -0.4, -0.1, "cool last pours leave the bitter end behind"},
		recipe.SteepAndRelease: {-0.5, -0.3, 0.3, "a steep gives body, and the hands are free"},
		recipe.IceHotAndSlow:   {0.2, 0.5, 0, "hot and slow onto ice keeps the brightness"},
		recipe.IcePulsed:       {0, -0.5, -0.2, "cooler pulses onto ice are sweet and soft"},
		recipe.Concentrate:     {0.6, 0.1, 0.3, "water into the cup makes it clear, and the pour short"},
	}
)

// A Choice is one way to brew in this yard.
type Choice struct {
	Brewer  gear.Brewer
	Grinder gear.Grinder
	Style   recipe.Style
	Score   float64  // higher is nearer to the wish
	Why     []string // the sentence's parts, the weightiest first
	lean    leaning
}

// Because is why it was picked, in a sentence.
func (c Choice) Because() string {
	why := strings.Join(c.Why[:min(3, len(c.Why))], "; ")
	return strings.ToUpper(why[:1]) + why[1:] + "."
}

// Choose ranks every brewer with every grinder in every style that it can do, nearest to
// the wish first. Each pair of brewer and style stands once, with its best grinder.
func Choose(w Wish, bag coffee.Bag, brewers []gear.Brewer, grinders []gear.Grinder) []Choice {
	var out []Choice
	for _, b := range brewers {
		for _, style := range recipe.Styles(b.Kind) {
			if (style.Serving() == recipe.OverIce) != w.Cold || style.Steeps() != b.Kind.Form().Immersion {
				continue
			}
			var best *Choice
			for _, g := range grinders {
				c := weigh(w, bag, b, g, style)
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

// weigh adds up what a choice leans to, and how that meets the wish.
func weigh(w Wish, bag coffee.Bag, b gear.Brewer, g gear.Grinder, style recipe.Style) Choice {
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
	if dark := bag.Roast >= coffee.MediumDark; dark && (style.ID == recipe.TwoHeavyPours || style.ID == recipe.LongSoak || style.ID == recipe.IceHotAndSlow) {
		c.Score -= 0.6 // as the style itself says
	}
	if bag.Roast == coffee.Light && (style.ID == recipe.Falling || style.ID == recipe.Concentrate) {
		c.Score -= 0.6
	}
	if style.ID == recipe.ThreeRounds || style.ID == recipe.SteepAndRelease {
		c.Score += 0.05 // where nothing else decides, the forgiving one
	}
	slices.SortStableFunc(parts, func(a, b part) int { return int(math.Copysign(1, b.adds-a.adds)) })
	for _, p := range parts {
		if p.adds > 0.02 || len(c.Why) == 0 {
			c.Why = append(c.Why, p.why)
		}
	}
	return c
}

// Against says what a cup of another choice would be like, beside this one.
func (c Choice) Against(other Choice) string {
	var out []string
	for _, d := range []struct {
		by         float64
		more, less string
	}{{other.lean.clear - c.lean.clear, "clearer", "fuller"}, {other.lean.bright - c.lean.bright, "brighter", "sweeter"}, {other.lean.quick - c.lean.quick, "done sooner", "slower"}} {
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
