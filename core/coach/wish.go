package coach

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"yardbloom/core/cup"
)

// conflicting lists requests that exclude each other.
var conflicting = [][2]cup.Want{{cup.Lighter, cup.Stronger}}

// answer returns the advice for a request: the change that fulfils it, or a sentence that says
// why no change does. first is the best change regardless of the request, or nil.
func (w *weighing) answer(first *option) Advice {
	for _, pair := range conflicting {
		if w.Cup.Wants[pair[0]] && w.Cup.Wants[pair[1]] {
			return w.unanswered(fmt.Sprintf("You want it %s and %s", pair[0], pair[1]), "One change cannot do both.",
				"Withdraw one of the two requests")
		}
	}
	if first != nil && w.asksFor(first.Change) != "" {
		return w.propose(*first)
	}
	if small := w.smallStep(); small != nil {
		a := w.propose(*small)
		if said := liked(w.Case); said != "" && a.Rule == AskedFor {
			a.Because = "The cup is good as it is. This is a small step towards your request; it may lose what you like."
			a.Evidence, a.Against = []string{said}, nil
		}
		return a
	}
	return w.unanswered(w.wish(), "Every setting that would help is at its limit, or would clog or overflow the brewer.",
		"Keep the recipe, or describe the cup you want on the bag’s page")
}

// smallStep returns the best of the smallest changes that fulfil a request, or nil.
func (w *weighing) smallStep() *option {
	var asked []option
	for _, x := range w.options {
		if w.asksFor(x.Change) != "" {
			asked = append(asked, x)
		}
	}
	if len(asked) == 0 {
		return nil
	}
	least := slices.MinFunc(asked, func(a, b option) int { return cmp.Compare(a.size, b.size) }).size
	asked = slices.DeleteFunc(asked, func(x option) bool { return x.size > least })
	best := slices.MaxFunc(asked, func(a, b option) int { return cmp.Compare(a.gain, b.gain) })
	return &best
}

// wish names the request in a sentence.
func (w *weighing) wish() string {
	var all []string
	for _, want := range cup.Wants() {
		if w.Cup.Wants[want] {
			all = append(all, string(want))
		}
	}
	return "You want it " + strings.Join(all, " and ")
}

// unanswered returns the advice for a request that no change fulfils.
func (w *weighing) unanswered(verdict, because, instead string) Advice {
	return Advice{Do: Nothing, Rule: AskedFor, Verdict: verdict, Because: because, Instead: instead, Sure: Likely}
}
