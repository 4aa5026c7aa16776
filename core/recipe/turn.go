package recipe

import (
	"cmp"
	"slices"

	"yardbloom/core/gear"
	"yardbloom/core/units"
)

// How the knobs of the table are read and set.

// first reads the first pour after the bloom.
func first(get func(Pour) float64) func(Recipe) float64 {
	return func(r Recipe) float64 {
		if after := r.after(); len(after) > 0 {
			return get(after[0])
		}
		return 0
	}
}

// A hand, a height or a pattern that is not known, from an old yard, counts as the first.
func handOf(p Pour) float64    { return float64(max(0, slices.Index(Hands(), p.Then))) }
func heightOf(p Pour) float64  { return places(heightNames).Clamp(float64(p.Height)) }
func patternOf(p Pour) float64 { return float64(max(0, slices.Index(Patterns(), p.Pattern))) }

// onPour sets something of one pour.
func onPour(set func(*Pour, float64)) func(Recipe, int, float64) Recipe {
	return func(r Recipe, i int, v float64) Recipe {
		out := r.clone()
		set(&out.Pours[i], v)
		return out
	}
}

// setAfter sets something of all pours after the bloom.
func setAfter(set func(*Pour, float64)) func(Recipe, float64) Recipe {
	return func(r Recipe, v float64) Recipe {
		out := r.clone()
		for i := range out.after() {
			set(&out.after()[i], v)
		}
		return out
	}
}

// setTemperature moves every pour by as much as the first.
func setTemperature(r Recipe, v float64) Recipe {
	out, by := r.clone(), units.Celsius(v)-r.Temperature()
	for i := range out.Pours {
		out.Pours[i].Temperature += by
	}
	return out
}

func getBloom(r Recipe) float64 {
	if r.blooms() == 0 || r.Dose <= 0 {
		return 0
	}
	return float64(r.Pours[0].Water / r.Dose)
}

func getBloomTime(r Recipe) float64 {
	if r.blooms() == 0 || len(r.after()) == 0 {
		return 0
	}
	return float64(r.after()[0].Start)
}

// setBloomTime moves all that comes after the bloom.
func setBloomTime(r Recipe, v float64) Recipe {
	if r.blooms() == 0 || len(r.after()) == 0 {
		return r
	}
	out := r.clone()
	out.shift(1, units.Seconds(v)-r.after()[0].Start)
	return out
}

// getHand is what the hand does after the bloom, or after the last pour where there is none.
func getHand(r Recipe) float64 {
	p := r.Pours[len(r.Pours)-1]
	if r.blooms() > 0 {
		p = r.Pours[0]
	}
	return handOf(p)
}

// setHand sets what the hand does after the bloom and after the last pour.
func setHand(r Recipe, v float64) Recipe {
	out := r.clone()
	for _, i := range []int{r.blooms() - 1, len(r.Pours) - 1} {
		if i >= 0 {
			out.Pours[i].Then = Hands()[int(v)]
		}
	}
	return out
}

// setRate sets the rate of the pours after the bloom. The bloom is poured gently,
// and no faster than they are.
func setRate(r Recipe, v float64) Recipe {
	out := setAfter(func(p *Pour, v float64) { p.Rate = v })(r, v)
	if out.blooms() > 0 {
		out.Pours[0].Rate = min(gentle, v)
	}
	return out
}

func getGap(r Recipe) float64 {
	after := r.after()
	if len(after) < 2 {
		return 0
	}
	return float64(after[1].Start - after[0].Start)
}

// setGap spaces the pours after the bloom evenly.
func setGap(r Recipe, v float64) Recipe {
	out := r.clone()
	after := out.after()
	for i := range after {
		after[i].Start = after[0].Start + units.Seconds(i)*units.Seconds(v)
	}
	return out
}

func getWait(r Recipe) float64 {
	after := r.after()
	return flag(len(after) > 1 && after[1].WhenDrained)
}

// setWait sets how the pours after the first one begin; that one waits for the bloom's time.
func setWait(r Recipe, v float64) Recipe {
	out := r.clone()
	for i := range out.after() {
		out.after()[i].WhenDrained = i > 0 && v > 0
	}
	return out
}

// setHeight changes the height of every pour that has the height of the first after the bloom.
func setHeight(r Recipe, v float64) Recipe {
	out := r.clone()
	if len(r.after()) == 0 {
		return out
	}
	was := r.after()[0].Height
	for i := range out.Pours {
		if out.Pours[i].Height == was {
			out.Pours[i].Height = Height(v)
		}
	}
	return out
}

// getCarafe is the place of the carafe's material in their list: glass where nothing is said.
func getCarafe(r Recipe) float64 {
	return float64(max(0, slices.Index(gear.Materials(), cmp.Or(r.Carafe, gear.Glass))))
}

// getBalance is the share of the first pour in the water of a style's opening, or 0
// where the recipe has none.
func getBalance(r Recipe) float64 {
	if r.Style.Style().opening != 2 || r.blooms() > 0 || len(r.Pours) < 3 {
		return 0
	}
	return float64(r.Pours[0].Water / (r.Pours[0].Water + r.Pours[1].Water))
}

// setBalance moves water between the two pours of an opening: less in the first is
// sweeter, more is brighter.
func setBalance(r Recipe, v float64) Recipe {
	if getBalance(r) == 0 {
		return r
	}
	out := r.clone()
	opening := r.Pours[0].Water + r.Pours[1].Water
	out.Pours[0].Water, out.Pours[1].Water = opening*units.Grams(v), opening*units.Grams(1-v)
	return out
}

// setRelease moves the valve, with it the crust and the aim.
func setRelease(r Recipe, v float64) Recipe {
	out := r.clone()
	out.shift(len(out.Pours), units.Seconds(v)-r.Release)
	return out
}
