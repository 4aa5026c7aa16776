package store

import (
	"database/sql"
	"math"
	"os"
	"path/filepath"
	"testing"

	"yardbloom/core/brew"
	"yardbloom/core/coach"
	"yardbloom/core/cup"
	"yardbloom/core/recipe"
)

// yardAt makes a database as an earlier version of the program left it, with the
// data of a file in testdata.
func yardAt(t *testing.T, version int64, data string) (dir string) {
	t.Helper()
	dir = t.TempDir()
	db, err := sql.Open("sqlite", "file:"+filepath.Join(dir, FileName))
	must(t, err)
	defer db.Close()
	p, err := migrator(db)
	must(t, err)
	_, err = p.UpTo(ctx, version)
	must(t, err)
	statements, err := os.ReadFile(filepath.Join("testdata", data))
	must(t, err)
	_, err = db.Exec(string(statements))
	must(t, err)
	return dir
}

// Whatever version a yard comes from, what was entered in it is there afterwards.
func TestAYardOfVersion1IsAllThere(t *testing.T) {
	t.Parallel()
	s := open(t, yardAt(t, 1, "version1.sql"))
	k, err := s.Kettle(ctx, "1")
	must(t, err)
	if k.Name != "Stove kettle" || k.Capacity != 1600 || k.Spout != 0 || k.Taken() {
		t.Errorf("the kettle is %+v", k)
	}
	one, err := s.Brew(ctx, "1")
	must(t, err)
	if p := one.Recipe.Pours; one.Recipe.Dose != 18 || !one.Recipe.Rinse || len(p) != 2 || !p[0].Bloom || p[0].Then != recipe.Swirl || p[1].Then != recipe.NoHand || p[1].Water != 243 || p[0].Rate != 4.5 {
		t.Errorf("the brew with a swirl: %+v", one.Recipe)
	}
	if one.Plan.Steps[0].Then != recipe.Swirl || one.Plan.Steps[1].Total != 297 || one.Forecast == nil || one.Bag.Name != "Slate Terrace" {
		t.Errorf("its plan: %+v, forecast %+v", one.Plan, one.Forecast)
	}
	// Odd but legal: a brew whose documents say next to nothing.
	two, err := s.Brew(ctx, "2")
	must(t, err)
	if p := two.Recipe.Pours; len(p) != 1 || p[0].Water != 297 || two.Status != brew.Done || two.Advice == nil {
		t.Errorf("the brew without a swirl: %+v", two)
	}
	three, err := s.Brew(ctx, "3")
	must(t, err)
	if three.Forecast != nil || three.Status != brew.Abandoned || len(three.Events) != 1 {
		t.Errorf("a brew of empty documents: %+v", three)
	}
}

func TestAYardOfVersion2IsAllThere(t *testing.T) {
	t.Parallel()
	s := open(t, yardAt(t, 2, "version2.sql"))
	set, err := s.Settings(ctx)
	must(t, err)
	if set.Altitude != 240 || set.Brewer != "1" || set.Kettle != "2" || set.Running != "4" {
		t.Errorf("settings: %+v", set)
	}
	shelf, err := s.Shelf(ctx, "", "", 9)
	must(t, err)
	if len(shelf) != 1 || shelf[0].Brews != 3 || math.Abs(float64(shelf[0].Used)-55.2) > 1e-9 || shelf[0].Draft != "5" {
		t.Errorf("on the shelf: %+v", shelf)
	}
	done, err := s.Brew(ctx, "1")
	must(t, err)
	if done.Cup.TDS != 1.22 || done.Cup.Steps[cup.Acidity] != 5 || !done.Cup.Faults[cup.Papery] || done.Cup.Faults[cup.Flat] || len(done.Events) != 9 || done.Events[0].Kind != brew.Start || done.Events[8].At != 171 {
		t.Errorf("the finished brew: %+v, %+v", done.Cup, done.Events)
	}
	if done.Advice == nil || done.Advice.Rule != "papery" || done.Forecast == nil {
		t.Errorf("what was said of it: %+v", done.Advice)
	}
	if state := done.At(done.Ended); !state.Finished || state.Drawdown != 171 {
		t.Errorf("its touches end at %v", state.Drawdown)
	}
	follows, err := s.Brew(ctx, "2")
	must(t, err)
	if follows.Parent != "1" || follows.Asked == nil || follows.Asked.Knob != recipe.HandAfter || follows.Asked.To != 0 || follows.Asked.Say != "drop the swirl" {
		t.Errorf("the brew that follows: %+v", follows.Asked)
	}
	if o := brew.Compare(done, follows); o.Time == nil || *o.Time != 13 {
		t.Errorf("what the change did: %+v", o)
	}
	running, err := s.Brew(ctx, "4")
	must(t, err)
	if running.Status != brew.Running || len(running.Events) != 2 || running.Recipe.Release != 165 || running.Recipe.Crust != 120 || running.Recipe.Pours[0].Temperature != 93 {
		t.Errorf("the running brew: %+v", running)
	}
	must(t, errOf(touch(s, "4", advance("next", 30))))

	d, on, err := s.Draft(ctx, "5")
	must(t, err)
	if d.Parent != "2" || d.Held != [2]recipe.Knob{recipe.Dose, recipe.Ratio} || d.SetRatio != 16.5 || d.Typed["release"] != "much" || len(d.Checked) != 2 || d.Version != 7 || on.Name != "Slate Terrace" {
		t.Errorf("the recipe in the making: %+v", d)
	}
	// Its four pours are made as version 2 made them, not as its older plan says.
	want := recipe.ThreeRounds.Style().Write(18.5, 305, 94).With(recipe.Of(recipe.Bloom), 3.5).Divide(4).With(recipe.Of(recipe.Wait), 1)
	want.Grind, want.Rinse = 640, true
	if got := recipe.Changes(want, d.Recipe); len(got) > 0 {
		t.Errorf("its pours differ by %+v", got)
	}
	if plan := d.Recipe.Plan(); plan.Finish != want.Plan().Finish || len(plan.Steps) != 5 {
		t.Errorf("it aims at %v, want %v", plan.Finish, want.Plan().Finish)
	}
}

func errOf[T any](_ T, err error) error { return err }

// What was said of a brew stays said, whatever the tables say today.
func TestWhatWasSaidStaysSaid(t *testing.T) {
	t.Parallel()
	s, _, id := yard(t)
	b := start(t, s, id)
	_, err := touch(s, id, brew.Event{Key: "end", Kind: brew.Finish, At: 200})
	must(t, err)
	said := coach.Advice{Rule: "a rule that is gone", Verdict: "As it was said then", Sure: coach.Perhaps, First: &coach.Proposal{Change: recipe.Change{Address: recipe.Of(recipe.Grind), From: 650, To: 610}, Say: "2 clicks finer"}}
	_, err = s.Change(ctx, id, func(b brew.Brew) (brew.Brew, error) {
		b.Status, b.Advice = brew.Done, &said
		return b, nil
	})
	must(t, err)
	got, err := s.Brew(ctx, id)
	must(t, err)
	if got.Advice.Verdict != said.Verdict || got.Advice.First.Say != said.First.Say || got.Advice.First.To != 610 || *got.Forecast != *b.Forecast {
		t.Errorf("came back as %+v", got.Advice)
	}
}
