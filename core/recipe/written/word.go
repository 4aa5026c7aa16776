package written

import (
	"strings"

	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// grinds holds the usual sizes of grind words, µm.
var grinds = map[string]units.Micrometres{"extra-fine": 350, "fine": 450, "medium-fine": 600, "medium": 700, "medium-coarse": 850, "coarse": 1000,
	"extra-coarse": 1150}

// topics are the words after which a figure belongs to something.
var topics = map[string]topic{"bloom": blooming, "blooming": blooming, "prewet": blooming, "pre-wet": blooming, "pre-infuse": blooming,
	"pour": pouring, "pours": pouring, "add": pouring, "then": pouring, "pulse": pouring, "pulses": pouring, "top": pouring,
	"dose": dosing, "coffee": dosing, "water": watering, "ice": icing,
	"rest": finishing, "drain": finishing, "drains": finishing, "drained": finishing, "draining": finishing, "finish": finishing, "finished": finishing,
	"done": finishing, "drawdown": finishing, "ends": finishing, "end": finishing, "time": finishing,
	"steep": steeping, "steeps": steeping, "release": steeping, "open": steeping}

var hands = map[string]recipe.HandAction{"swirl": recipe.Swirl, "spin": recipe.Swirl, "stir": recipe.StirBed, "tap": recipe.Tap,
	"swirled": recipe.Swirl, "stirred": recipe.StirBed}

var counts = map[string]int{"one": 1, "two": 2, "three": 3, "four": 4, "five": 5, "six": 6, "seven": 7, "eight": 8}

// fillers are words without a meaning of their own.
var fillers = func() map[string]bool {
	out := map[string]bool{}
	for w := range strings.FieldsSeq(`a an the of and with in into at for to up until till by on from it its is are be i you we use using about around
		approximately roughly total first second third fourth fifth last next each every after before gently slowly fast quickly circles circle
		centre center spiral middle more again another let wait all so that this temperature temp temps degrees grind ground grinder size ratio
		brew brewing brewed recipe filter paper kettle cup hot boiled off boil just when once everything equal same amount grams ml g s sec seconds
		then make sure over as brewer cone level bed reach reaches remaining rounds round start starts should near c f`) {
		out[w] = true
	}
	return out
}()

func (r *reader) word(t token) {
	if g, known := grindOf(r); known {
		r.Grind = g
		r.figure("grind of about %.0f µm", float64(g))
		return
	}
	if hand, known := hands[t.word]; known {
		r.hand(hand)
		return
	}
	switch n, counted := counts[t.word]; {
	case counted && isPours(r.next(1)) || counted && isPours(r.next(2)):
		r.count = n
		r.figure("%d pours", n)
		return
	case t.word == "rinse" || t.word == "rinsed":
		r.Rinse = true
		r.means("rinse the filter")
		return
	case (t.word == "to" || t.word == "until" || t.word == "till") && (r.now == pouring || r.now == blooming || r.starts != nil || r.Water > 0):
		if next := r.next(1); (next.isAmount() || next.kind == plainNumber) && (r.now != blooming || r.waterOf(*r.bloom()) > 0) {
			r.cumulative = true
		}
		r.means("")
		return
	}
	about, known := topics[t.word]
	switch {
	case known && about == blooming:
		b := r.bloom()
		if r.lasts > 0 {
			b.Lasts, r.lasts = r.lasts, 0
		}
		if r.hanging > 0 {
			b.Water, r.hanging = r.hanging, 0
		}
		r.now = blooming
		r.means("bloom")
	case known && about == watering && (r.now == pouring || r.now == blooming),
		known && (about == dosing || about == watering || about == icing) && figureBefore(r):
		r.means("") // "100 g of water": the figure is read already
	case known && about == pouring && r.now == blooming && t.word != "then" && r.bloom().Water == 0 && r.bloom().Times == 0:
		r.means("")
	case known:
		r.now = about
		r.means("")
	case fillers[t.word], t.text[0] <= '9', t.word == "@": // an ordinal
		r.means("")
	default:
		r.unread()
	}
}

// figureBefore reports whether the word follows its figure.
func figureBefore(r *reader) bool {
	before := r.before()
	return before.isAmount() || before.kind == plainNumber || before.word == "of" || before.word == "hot" || before.word == "total"
}

func isPours(t token) bool {
	return t.word == "pours" || t.word == "pulses" || t.word == "rounds" || t.word == "equal"
}

// grindOf reads grind words such as "medium fine", of one or two words.
func grindOf(r *reader) (units.Micrometres, bool) {
	t := r.all[r.at]
	if t.word == "medium" || t.word == "extra" {
		if next := r.next(1); next.word == "fine" || next.word == "coarse" {
			g := grinds[t.word+"-"+next.word]
			for r.all[r.at+1].kind == space { // both words are one piece
				r.all[r.at].text += r.all[r.at+1].text
				r.all = append(r.all[:r.at+1], r.all[r.at+2:]...)
			}
			r.all[r.at].text += r.all[r.at+1].text
			r.all = append(r.all[:r.at+1], r.all[r.at+2:]...)
			return g, true
		}
	}
	g, known := grinds[t.word]
	return g, known
}

// hand reads an action: after each pour, after the bloom while it is described, or after the last pour so far.
func (r *reader) hand(a recipe.HandAction) {
	n := len(r.Pours)
	switch {
	case r.next(1).word == "each" || r.next(2).word == "each" || r.next(2).word == "every":
		r.swirlAll = a
		r.means("%s after each pour", a)
	case r.next(1).word == "after" && r.next(2).word == "bloom" || r.next(3).word == "bloom" && r.next(1).word == "after":
		r.bloom().Then = a
		r.means("%s after the bloom", a)
	case n > 0:
		r.Pours[n-1].Then = a
		r.means("%s after this pour", a)
	default:
		r.unread()
	}
}
