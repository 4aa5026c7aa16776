package yard_test

import (
	"errors"
	"fmt"
	"math"
	"math/rand/v2"
	"testing"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/cup"
	"yardbloom/core/flight"
	"yardbloom/core/person"
	"yardbloom/core/recipe"
	"yardbloom/core/trial"
	"yardbloom/core/units"
	"yardbloom/store"
	"yardbloom/yard"
)

// histories is the number of random histories that go round.
const histories = 4

// What a yard stores through its use cases goes into an empty yard and comes out of it again, byte for byte and without a refusal: taps
// that come up to thirty days late, brews that nobody ended, the largest seeds, texts of all sorts, trials of schools and flights.
// Mutations caught: a limit of the import that is lower than the app's, a seed that is read as a float, an event that is dropped.
func TestOwnHistoriesGoRound(t *testing.T) {
	t.Parallel()
	if testing.Short() {
		t.Skip("nothing here runs concurrently")
	}
	for seed := range uint64(histories) {
		y, c := openDemo(t)
		live(t, y, c, rand.New(rand.NewPCG(seed, 41)))
		file := exportedFile(t, y.Store, c.now())
		into := emptyYard(t)
		in, err := readAt(t, into, file, c.now())
		if err != nil {
			t.Fatal(err)
		}
		for _, refused := range in.Refused {
			t.Errorf("history %d: %s %s is refused: %s", seed, refused.Kind, refused.ID, refused.Why)
		}
		if err := errors.Join(in.Apply(t.Context(), "own", "", c.now(), func(int, int) {}), in.Close()); err != nil {
			t.Fatal(err)
		}
		want, got := contents(t, file), contents(t, exportedFile(t, into, c.now()))
		for name, text := range want {
			if got[name] != text {
				t.Errorf("history %d: %s is not the same", seed, name)
			}
		}
	}
}

// texts are texts that a person may enter.
var texts = []string{"", "Sharp.", "=cmd|' /C calc'!A0", "<b>loud</b> & \"quoted\"", "right \u202eto left", "tab\tand\nline", "☕ 17 g", "\\u0000 { } %s"}

// live lets people use a yard at random for some months.
func live(t *testing.T, y *yard.Yard, c *clock, rng *rand.Rand) {
	t.Helper()
	ctx := t.Context()
	must := func(err error) {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
	}
	text := func() string { return texts[rng.IntN(len(texts))] }
	must(y.Store.AddPerson(ctx, person.Person{ID: "zo", Name: "Zoë \u202e Moss", Initials: "Z", Mark: person.Marks()[3]}, false))
	shelf, err := y.Store.Shelf(ctx, "", "", 20)
	must(err)
	set, err := y.Store.Settings(ctx, "zo")
	must(err)
	for i := range 8 {
		id, err := y.BeginRecipe(ctx, shelf[rng.IntN(len(shelf))], set)
		must(err)
		ago := time.Duration(rng.Int64N(int64(2 * time.Hour)))
		_, err = y.Start(ctx, id, "zo", fmt.Sprint("start", i), ago)
		if errors.Is(err, store.ErrNotFound) || errors.Is(err, brew.ErrStatus) {
			continue // the bag's draft has become a brew
		}
		must(err)
		spans := []time.Duration{5 * time.Second, 40 * time.Second, 3 * time.Minute, 29 * 24 * time.Hour}
		for n := range 6 {
			c.add(spans[rng.IntN(len(spans))])
			kinds := []brew.EventKind{brew.Advance, brew.Later, brew.MarkEvent, brew.More, brew.ScaleReading, brew.Undo}
			e := brew.Event{Key: fmt.Sprint(i, "-", n), Kind: kinds[rng.IntN(len(kinds))], At: units.Seconds(rng.Float64() * 400), By: "zo",
				Grams: units.Grams(rng.Float64() * 300), Mark: cup.Marks()[rng.IntN(len(cup.Marks()))], Note: text()}
			if _, err := y.Tap(ctx, id, e); err != nil && !errors.Is(err, brew.ErrStatus) {
				t.Fatal(err)
			}
		}
		end := units.Seconds([]float64{200, 29 * 24 * 3600, 1e9}[rng.IntN(3)])
		c.add(time.Duration(min(float64(end), 40*24*3600)) * time.Second)
		if _, err := y.Tap(ctx, id, brew.Event{Key: fmt.Sprint("end", i), Kind: brew.Finish, At: end}); err != nil && !errors.Is(err, brew.ErrStatus) {
			t.Fatal(err)
		}
		b, err := y.Store.Brew(ctx, id)
		must(err)
		if b.Status == brew.Running {
			continue
		}
		err = y.Taste(ctx, b.Sheet, "zo", set, func(b brew.Brew) (cup.Cup, error) {
			out := b.Cup
			out.Notes, out.Overall, out.Beverage = text(), 1+rng.IntN(10), units.Grams(20+rng.IntN(200))
			out.Drawdown = units.Seconds(20 + rng.IntN(1700))
			return out, nil
		})
		if !errors.Is(err, brew.ErrStatus) {
			must(err)
		}
	}
	for range 3 {
		cups := []flight.Cup{{Name: text() + "a"}, {Name: text() + "b"}, {Name: "c"}}
		f, err := flight.New(store.NewID(), text(), flight.Ranked, rng.IntN(2) == 0, math.MaxUint64-rng.Uint64N(9), cups)
		must(err)
		must(y.Store.AddFlight(ctx, f, c.now()))
	}
	b, err := y.Store.LastBrew(ctx, "slate-terrace")
	must(err)
	for _, factor := range []trial.Factor{trial.Of(recipe.Ratio, 14, 16.5), trial.OfOptions(trial.ByName, []trial.Option{{Name: text() + "x"}, {Name: "y"}})} {
		it, err := trial.New(store.NewID(), text(), b.Sheet, factor, nil, trial.MostRepeats, trial.ByMark, math.MaxUint64-rng.Uint64N(9))
		must(err)
		must(y.Store.AddTrial(ctx, it.SetResult(0, 7, "zo"), c.now()))
	}
	y.WaitForLearning()
}
