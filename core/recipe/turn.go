package recipe

import (
	"cmp"
	"slices"

	"yardbloom/core/gear"
	"yardbloom/core/units"
)

// The getters and setters of the table.

// first returns a getter of the first pour after the bloom.
func first(get func(Pour) float64) func(Recipe) float64 {
	return func(r Recipe) float64 {
		if after := r.mainPours(); len(after) > 0 {
			return get(after[0])
		}
		return 0
	}
}

// An unknown hand action, height or pattern in stored data counts as the first in its list.
func handOf(p Pour) float64    { return float64(max(0, slices.Index(Hands(), p.Then))) }
func heightOf(p Pour) float64  { return places(heightNames).Clamp(float64(p.Height)) }
func patternOf(p Pour) float64 { return float64(max(0, slices.Index(Patterns(), p.Pattern))) }

// onPour returns a setter of a single pour.
func onPour(set func(*Pour, float64)) func(Recipe, int, float64) Recipe {
	return func(r Recipe, i int, v float64) Recipe {
		out := r.clone()
		set(&out.Pours[i], v)
		return out
	}
}

// setAfter returns a setter of all pours after the bloom.
func setAfter(set func(*Pour, float64)) func(Recipe, float64) Recipe {
	return func(r Recipe, v float64) Recipe {
		out := r.clone()
		for i := range out.mainPours() {
			set(&out.mainPours()[i], v)
		}
		return out
	}
}

// setTemperature changes the temperature of every pour by the same difference.
func setTemperature(r Recipe, v float64) Recipe {
	out, by := r.clone(), units.Celsius(v)-r.Temperature()
	for i := range out.Pours {
		out.Pours[i].Temperature += by
	}
	return out
}

func getBloom(r Recipe) float64 {
	if r.bloomCount() == 0 || r.Dose <= 0 {
		return 0
	}
	return float64(r.Pours[0].Water / r.Dose)
}

func getBloomTime(r Recipe) float64 {
	if r.bloomCount() == 0 || len(r.mainPours()) == 0 {
		return 0
	}
	return float64(r.mainPours()[0].Start)
}

// setBloomTime moves everything after the bloom.
func setBloomTime(r Recipe, v float64) Recipe {
	if r.bloomCount() == 0 || len(r.mainPours()) == 0 {
		return r
	}
	out := r.clone()
	out.shift(1, units.Seconds(v)-r.mainPours()[0].Start)
	return out
}

// getHand returns the hand action after the bloom, or after the last pour if there is no bloom.
func getHand(r Recipe) float64 {
	p := r.Pours[len(r.Pours)-1]
	if r.bloomCount() > 0 {
		p = r.Pours[0]
	}
	return handOf(p)
}

// setHand sets the hand action after the bloom and after the last pour.
func setHand(r Recipe, v float64) Recipe {
	out := r.clone()
	for _, i := range []int{r.bloomCount() - 1, len(r.Pours) - 1} {
		if i >= 0 {
			out.Pours[i].Then = Hands()[int(v)]
		}
	}
	return out
}

// setRate sets the rate of the pours after the bloom, and limits the bloom to the same rate and to a gentle
// one.
func setRate(r Recipe, v float64) Recipe {
	out := setAfter(func(p *Pour, v float64) { p.Rate = v })(r, v)
	if out.bloomCount() > 0 {
		out.Pours[0].Rate = min(gentleRate, v)
	}
	return out
}

func getGap(r Recipe) float64 {
	after := r.mainPours()
	if len(after) < 2 {
		return 0
	}
	return float64(after[1].Start - after[0].Start)
}

// setGap spaces the pours after the bloom evenly.
func setGap(r Recipe, v float64) Recipe {
	out := r.clone()
	after := out.mainPours()
	for i := range after {
		after[i].Start = after[0].Start + units.Seconds(i)*units.Seconds(v)
	}
	return out
}

func getWait(r Recipe) float64 {
	after := r.mainPours()
	if len(after) < 2 {
		return 0
	}
	return float64(after[1].Cue)
}

// setWait sets how pours start. The first pour after the bloom waits for the bloom time.
func setWait(r Recipe, v float64) Recipe {
	out := r.clone()
	for i := range out.mainPours() {
		if out.mainPours()[i].Cue = ForTime; i > 0 {
			out.mainPours()[i].Cue = Cue(v)
		}
	}
	return out
}

// setHeight sets the height of every pour with the same height as the first one after the bloom.
func setHeight(r Recipe, v float64) Recipe {
	out := r.clone()
	if len(r.mainPours()) == 0 {
		return out
	}
	was := r.mainPours()[0].Height
	for i := range out.Pours {
		if out.Pours[i].Height == was {
			out.Pours[i].Height = Height(v)
		}
	}
	return out
}

// getCarafe returns the index of the carafe's material; the default is glass.
func getCarafe(r Recipe) float64 {
	return float64(max(0, slices.Index(gear.Materials(), cmp.Or(r.Carafe, gear.Glass))))
}

// getBalance returns the share of the first pour in the water of the style's opening, or 0 if there is
// none.
func getBalance(r Recipe) float64 {
	if r.Style.Style().opening != 2 || r.bloomCount() > 0 || len(r.Pours) < 3 {
		return 0
	}
	return float64(r.Pours[0].Water / (r.Pours[0].Water + r.Pours[1].Water))
}

// setBalance moves water between the two pours of an opening: less in the first is sweeter, more is
// brighter.
func setBalance(r Recipe, v float64) Recipe {
	if getBalance(r) == 0 {
		return r
	}
	out := r.clone()
	opening := r.Pours[0].Water + r.Pours[1].Water
	out.Pours[0].Water, out.Pours[1].Water = opening*units.Grams(v), opening*units.Grams(1-v)
	return out
}

// setRelease moves the valve, the crust and the aim.
func setRelease(r Recipe, v float64) Recipe {
	out := r.clone()
	out.shift(len(out.Pours), units.Seconds(v)-r.Release)
	return out
}
