package store

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/cup"
	"yardbloom/core/person"
	"yardbloom/core/tally"
	"yardbloom/core/units"
)

// The totals are those of the brews in the log, after any number of starts, cups, corrections, changes of hands, deletions and
// restorations. Mutations caught: a total that a deletion, a correction or a changed start leaves as it was, a repeat counted in another
// recipe, a spread over n instead of its degrees of freedom.
func TestTotalsAreThoseOfTheLog(t *testing.T) {
	t.Parallel()
	s, bagID, _ := yard(t)
	must(t, s.AddPerson(ctx, person.Person{ID: "ada", Name: "Ada"}, false))
	rng := rand.New(rand.NewPCG(3, 4))
	var ids, gone []string
	for i := range 300 {
		some := func() string { return ids[rng.IntN(len(ids))] }
		at := noon.Add(time.Duration(rng.IntN(20*24)) * time.Hour)
		switch do := rng.IntN(8); {
		case len(ids) < 5 || do < 2:
			id := plan(t, s, bagID, fmt.Sprintf("brew-%03d", i))
			_, err := s.Begin(ctx, id, brew.Event{Key: "s", Kind: brew.Start, Instant: at}, nil)
			must(t, err)
			_, err = s.Change(ctx, id, func(b brew.Brew) (brew.Brew, error) {
				return b.Apply(brew.Event{Key: "f", Kind: brew.Finish, At: 180}, at.Add(time.Hour))
			})
			must(t, err)
			ids = append(ids, id)
		case do < 5:
			c := cup.Cup{Drawdown: units.Seconds(170 + rng.IntN(20)), Beverage: 260, TDS: 1.2 + 0.01*float64(rng.IntN(20)),
				Taste: cup.Taste{Overall: 4 + rng.IntN(5), Faults: map[cup.Fault]bool{}}}
			_, err := tasteAs(s, some(), c)
			must(t, err)
		case do == 5:
			must(t, s.SetBrewer(ctx, some(), []string{"", "ada"}[rng.IntN(2)]))
		case do == 6 && len(gone) > 0 && rng.IntN(2) == 0:
			_, err := s.Restore(ctx, gone[0])
			must(t, err)
			ids, gone = append(ids, gone[0]), gone[1:]
		case do == 6:
			n := rng.IntN(len(ids))
			must(t, s.Remove(ctx, Brews, ids[n], "", noon))
			gone, ids = append(gone, ids[n]), append(ids[:n:n], ids[n+1:]...)
		default: // a screen that was offline saw the first water at another time
			must(t, errOf(s.write.Exec(`UPDATE brews SET started_at = ? WHERE id = ?`, instant{at}, some())))
		}
	}
	checkTotals(t, s)
	rows, err := s.Log(ctx, Filter{Limit: 1000})
	must(t, err)
	if len(rows) != len(ids) {
		t.Errorf("%d brews in the log, want %d", len(rows), len(ids))
	}
	for i := 1; i < len(rows); i++ {
		if rows[i].Started.Truncate(time.Second).After(rows[i-1].Started) {
			t.Errorf("%s is out of order", rows[i].ID)
		}
	}
}

// checkTotals compares the totals with those of the brews.
func checkTotals(t *testing.T, s *Store) {
	t.Helper()
	var brews []struct {
		Day      string  `db:"day"`
		Person   string  `db:"person"`
		Grinder  string  `db:"grinder_id"`
		Recipe   string  `db:"recipe"`
		Used     float64 `db:"used"`
		Mark     float64 `db:"mark"`
		Yield    float64 `db:"yield"`
		Drawdown float64 `db:"drawdown"`
	}
	must(t, s.read.Select(&brews, `SELECT date(started_at, zone) AS day, COALESCE(brewed_by, '') AS person, gear ->> '$.grinder.id' AS grinder_id,
		bag_id || setting || dose || water AS recipe, dose_used AS used, yield, drawdown,
		COALESCE((SELECT overall FROM tastings WHERE brew_id = brews.id ORDER BY rowid LIMIT 1), 0.0) AS mark FROM brews`))
	days, marks, groups := map[string]DayTotal{}, tally.Sample{}, map[[3]string]tally.Sample{}
	for _, b := range brews {
		d := days[b.Day]
		d.Brews, d.Used = d.Brews+1, d.Used+b.Used
		if b.Mark > 0 {
			one := tally.Sample{N: 1, Sum: b.Mark, Squares: b.Mark * b.Mark}
			d.Sample, marks = d.Plus(one), marks.Plus(one)
		}
		days[b.Day] = d
		for name, v := range map[string]float64{"mark": b.Mark, "yield": b.Yield, "drawdown": b.Drawdown} {
			for _, of := range []string{"all", "person:" + b.Person} {
				if key := [3]string{of, name, b.Recipe}; v > 0 {
					groups[key] = groups[key].Plus(tally.Sample{N: 1, Sum: v, Squares: v * v})
				}
			}
		}
	}
	got, err := s.Days(ctx, noon.AddDate(-1, 0, 0), noon.AddDate(1, 0, 0))
	must(t, err)
	for _, d := range got {
		if want := days[d.Day]; d.Brews != want.Brews || math.Abs(d.Used-want.Used) > 1e-6 || d.Sample != want.Sample {
			t.Errorf("%s: %+v, want %+v", d.Day, d, want)
		}
		delete(days, d.Day)
	}
	if len(days) > 0 {
		t.Errorf("no totals of %v", days)
	}
	for _, kind := range []string{OfCoffees, OfStyles, OfBrewers, OfGrinders} {
		if best, err := s.Best(ctx, kind, 9); err != nil || len(best) != 1 || best[0].Sample != marks {
			t.Errorf("%s: %+v, %v; want %+v", kind, best, err, marks)
		}
	}
	want := map[string]tally.Spread{}
	for key, g := range groups {
		if g.N > 1 {
			name := key[0] + " " + key[1]
			was := want[name]
			want[name] = tally.Spread{Freedom: was.Freedom + g.N - 1, Squares: was.Squares + g.Squares - g.Sum*g.Sum/float64(g.N)}
		}
	}
	spreads, err := s.Spreads(ctx)
	must(t, err)
	seen := 0
	for _, sp := range spreads {
		key := map[string]string{"all": "all", "person": "person:" + sp.ID, "grinder": "all"}[sp.Kind] + " " + sp.Measure
		if w := want[key]; sp.Freedom != w.Freedom || math.Abs(sp.Squares-w.Squares) > 1e-6*max(1, w.Squares) {
			t.Errorf("%s %q of %s: %+v, want %+v", sp.Kind, sp.ID, sp.Measure, sp.Spread, w)
		}
		if sp.Kind != "grinder" {
			seen++
		}
	}
	if seen != len(want) || seen < 5 {
		t.Errorf("%d spreads, want %d", seen, len(want))
	}
}
