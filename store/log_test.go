package store

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/coach"
	"yardbloom/core/cup"
	"yardbloom/core/recipe"
)

// logQueries are usual queries of the log, by name.
var logQueries = map[string]Filter{
	"the first page": {}, "a later page by start": {After: Place{N: 1}}, "by mark": {Sort: ByMark},
	"by yield": {Sort: ByYield}, "by drawdown": {Sort: ByDrawdown}, "a coffee": {Bag: "bag-1"},
	"a brewer": {Brewer: "cone"}, "a grinder": {Grinder: "mill"}, "a style": {Style: recipe.Pulses},
	"a person": {Person: "ada"}, "dates": {From: noon, To: noon.AddDate(0, 1, 0)}, "good marks": {Lowest: 8}, "poor marks": {Topmost: 3},
	"marks":   {Lowest: 5, Topmost: 6},
	"a fault": {Fault: cup.Papery}, "not tasted": {Tasted: No}, "with readings": {Traced: true},
	"runs of trials": {Tried: true}, "a common word": {Words: "cone"},
	"a coffee and its best": {Bag: "bag-1", Lowest: 8}, "a grinder by yield": {Grinder: "mill", Sort: ByYield},
	"a common word by mark": {Words: "cone", Sort: ByMark}, "a word of a coffee": {Words: "cone", Bag: "bag-1"},
}

// Every query of the log walks one index in its order up to its limit. Mutations caught: an index whose order is not that of the
// query, a condition that SQLite answers with another index and a sort.
func TestLogWalksAnIndex(t *testing.T) {
	t.Parallel()
	s := manyBags(t)
	for name, f := range logQueries {
		args := make([]any, 17)
		for i := range args {
			args[i] = ""
		}
		checkPlan(t, s, name, logQuery(f, logColumns), args)
	}
}

// Filters, words and orders give the same brews as a plain selection in Go, page by page. Mutations caught: a filter that is not
// applied, a word found in another brew's notes, a page that skips or repeats equal values, notes that stay after a correction.
func TestLogFindsWhatAPlainSelectionFinds(t *testing.T) {
	t.Parallel()
	s, bagID, _ := yard(t)
	type made struct {
		id       string
		mark     int
		notes    string
		start    time.Time
		tasted   bool
		drawdown float64
		fault    cup.Fault
	}
	var all []made
	for i := range 40 {
		m := made{id: plan(t, s, bagID, fmt.Sprintf("brew-%02d", i)), start: noon.Add(time.Duration(i/2) * time.Hour), mark: 3 + i%5,
			tasted: i%4 != 0, drawdown: float64(180 + i%3), notes: []string{"Like Pear jam", "crème brûlée", "plain"}[i%3]}
		if i%7 == 0 {
			m.fault = cup.Papery
		}
		b, err := s.Begin(ctx, m.id, brew.Event{Key: "s", Kind: brew.Start, Instant: m.start}, nil)
		must(t, err)
		if m.tasted {
			_, err = s.Change(ctx, m.id, func(b brew.Brew) (brew.Brew, error) {
				return b.Apply(brew.Event{Key: "f", Kind: brew.Finish, At: 180}, m.start.Add(time.Hour))
			})
			must(t, err)
			c := cup.Cup{Drawdown: 180, Taste: cup.Taste{Overall: m.mark, Notes: m.notes, Faults: map[cup.Fault]bool{}}}
			c.Drawdown = 180
			if m.fault != "" {
				c.Faults[m.fault] = true
			}
			_, err = tasteAs(s, b.ID, c)
			must(t, err)
		} else {
			m.mark, m.notes, m.fault = 0, "", ""
		}
		all = append(all, m)
	}
	for name, c := range map[string]struct {
		f    Filter
		want func(made) bool
	}{
		"all":           {Filter{}, func(made) bool { return true }},
		"good ones":     {Filter{Lowest: 6}, func(m made) bool { return m.mark >= 6 }},
		"a range":       {Filter{Lowest: 4, Topmost: 5, Sort: ByMark}, func(m made) bool { return m.mark == 4 || m.mark == 5 }},
		"poor ones":     {Filter{Topmost: 4}, func(m made) bool { return m.mark > 0 && m.mark <= 4 }},
		"word and mark": {Filter{Words: "pear", Lowest: 5}, func(m made) bool { return strings.Contains(m.notes, "Pear") && m.mark >= 5 }},
		"word of a bag": {Filter{Words: "pear", Bag: bagID}, func(m made) bool { return strings.Contains(m.notes, "Pear") }},
		"word in dates": {Filter{Words: "pear", Sort: ByMark, From: noon.Add(5 * time.Hour)}, func(m made) bool {
			return strings.Contains(m.notes, "Pear") && !m.start.Before(noon.Add(5*time.Hour))
		}},
		"not tasted":  {Filter{Tasted: No}, func(m made) bool { return !m.tasted }},
		"papery":      {Filter{Fault: cup.Papery}, func(m made) bool { return m.fault != "" }},
		"a word":      {Filter{Words: "pear"}, func(m made) bool { return strings.Contains(m.notes, "Pear") }},
		"a beginning": {Filter{Words: "pea", Sort: ByMark}, func(m made) bool { return strings.Contains(m.notes, "Pear") }},
		"accents":     {Filter{Words: "CREME brulee"}, func(m made) bool { return strings.Contains(m.notes, "brûlée") }},
		"two words":   {Filter{Words: "plain jam"}, func(made) bool { return false }},
		"the coffee":  {Filter{Words: "three rounds"}, func(made) bool { return true }},
		"signs":       {Filter{Words: `"*"`}, func(made) bool { return false }},
		"an operator": {Filter{Words: "NEAR(pear plain)"}, func(made) bool { return false }},
		"dates": {Filter{From: noon.Add(5 * time.Hour), To: noon.Add(9 * time.Hour)}, func(m made) bool {
			return !m.start.Before(noon.Add(5*time.Hour)) && m.start.Before(noon.Add(9*time.Hour))
		}},
		"another bag": {Filter{Bag: "none"}, func(made) bool { return false }},
		"by mark":     {Filter{Sort: ByMark}, func(made) bool { return true }},
	} {
		var want, got []string
		for _, m := range all {
			if c.want(m) {
				want = append(want, m.id)
			}
		}
		f := c.f
		f.Limit = 7
		var last Place
		for range 20 {
			rows, err := s.Log(ctx, f)
			must(t, err)
			for _, r := range rows {
				p := r.Place()
				if len(got) > 0 && (p.Value > last.Value || p.Value == last.Value && p.N >= last.N) {
					t.Errorf("%s: %s is out of order", name, r.ID)
				}
				got, last = append(got, r.ID), p
			}
			if len(rows) < f.Limit {
				break
			}
			f.After = last
		}
		slices.Sort(got)
		slices.Sort(want)
		if !slices.Equal(got, want) {
			t.Errorf("%s: %d brews, want %d", name, len(got), len(want))
		}
	}
	_, err := tasteAs(s, all[1].id, cup.Cup{Drawdown: 180, Taste: cup.Taste{Overall: 5, Notes: "walnut", Faults: map[cup.Fault]bool{}}})
	must(t, err)
	for words, want := range map[string]int{"walnut": 1, "brulee": 9} {
		if rows, err := s.Log(ctx, Filter{Words: words, Limit: 50}); err != nil || len(rows) != want {
			t.Errorf("after a correction %q finds %d, %v; want %d", words, len(rows), err, want)
		}
	}
}

// tasteAs saves a cup of the yard.
func tasteAs(s *Store, id string, c cup.Cup) (brew.Brew, error) {
	return s.Change(ctx, id, func(b brew.Brew) (brew.Brew, error) { return b.For("").Taste(c, coach.Person{}) })
}
