package demo

import (
	"context"
	"fmt"
	"math"
	"math/rand/v2"
	"runtime"
	"sync"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/coach"
	"yardbloom/core/coffee"
	"yardbloom/core/cup"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/store"
)

// A generated bag has perBag brews of versions recipes. Calculating the recipes of one bag takes
// the brew model and the coach about half a second, so bags share a fixed number of templates.
const (
	perBag    = 50
	versions  = 5
	templates = 32
)

// FillLarge adds a long generated history that ends before the story, in bags of fifty brews, from a seed.
// The benchmarks use it.
func FillLarge(ctx context.Context, st *store.Store, now time.Time, brews int, seed uint64) error {
	var sets []gear.Set
	for i := range brewers {
		g, err := st.Gear(ctx, gear.IDs{Brewer: brewers[i].ID, Grinder: grinders[i%len(grinders)].ID, Kettle: kettles[i%len(kettles)].ID})
		if err != nil {
			return err
		}
		sets = append(sets, g)
	}
	ctx, cancel := context.WithCancel(ctx)
	defer cancel()
	bags := (brews + perBag - 1) / perBag
	var template [templates]func() ([]brew.Brew, error) // calculated once, on first use
	for n := range template {
		template[n] = sync.OnceValues(func() ([]brew.Brew, error) {
			rng := rand.New(rand.NewPCG(seed, uint64(n)))
			return makeTemplate(rng, makeBag(rng, n, now), sets[n%len(sets)])
		})
	}
	made := make(chan history, runtime.NumCPU())
	var makers sync.WaitGroup
	for worker := range runtime.NumCPU() {
		makers.Go(func() {
			for i := worker; i < bags && ctx.Err() == nil; i += runtime.NumCPU() {
				like, err := template[i%templates]()
				h := history{err: err}
				if err == nil {
					h = makeHistory(makeBag(rand.New(rand.NewPCG(seed, uint64(i))), i, now), like, min(perBag, brews-i*perBag))
				}
				select {
				case made <- h:
				case <-ctx.Done():
				}
			}
		})
	}
	go func() { makers.Wait(); close(made) }()
	for h := range made {
		if h.err == nil {
			_, h.err = st.AddBag(ctx, h.bag)
		}
		if h.err == nil {
			h.err = st.AddBrews(ctx, h.brews...)
		}
		if h.err != nil {
			return h.err
		}
	}
	return ctx.Err()
}

// A history is one bag with its brews.
type history struct {
	bag   coffee.Bag
	brews []brew.Brew
	err   error
}

// Invented words for bag names.
var (
	firstWords = []string{"Slate", "Orchard", "Meadow", "Lantern", "Copper", "Hollow", "Granite", "Willow", "Amber", "Thistle", "Harbour",
		"Juniper", "Saffron", "Cinder", "Marble"}
	secondWords = []string{"Terrace", "Wall", "Gate", "Field", "Row", "Bank", "Rise", "Court", "Ridge", "Croft", "Lane", "Hearth", "Mill",
		"Steps", "Yard"}
	roasters = []string{"Three Sheds", "Marl and Moss", "Kilnfield Roast"}
)

// The dates of a generated bag.
const (
	apart  = 17 * time.Hour // between brews
	rested = 7              // days from the roast to the first brew
	latest = 95             // days since the roast of the latest bag, so that its last brew is before the story
)

// makeBag returns a bag; a higher i is an older bag.
func makeBag(rng *rand.Rand, i int, now time.Time) coffee.Bag {
	roasted := now.AddDate(0, 0, -latest-i)
	return coffee.Bag{ID: fmt.Sprintf("bag-%05d", i), Name: fmt.Sprintf("%s %s %d", pick(rng, firstWords), pick(rng, secondWords), i+1),
		Roaster: pick(rng, roasters),
		Process: pick(rng, coffee.Processes()), Roast: pick(rng, coffee.Roasts()), RoastedOn: roasted.Format(coffee.Day),
		OpenedOn: roasted.AddDate(0, 0, rested).Format(coffee.Day), Weight: 1000}
}

// makeTemplate returns brews of one bag with their outcomes, each recipe changed as advised on
// the one before.
func makeTemplate(rng *rand.Rand, bag coffee.Bag, g gear.Set) ([]brew.Brew, error) {
	roasted, err := time.Parse(coffee.Day, bag.RoastedOn)
	if err != nil {
		return nil, err
	}
	var out []brew.Brew
	var last brew.Brew
	for n := range versions {
		if last, err = makeBrew(rng, bag, g, last, roasted.AddDate(0, 0, rested).Add(time.Duration(n*perBag/versions)*apart)); err != nil {
			return nil, err
		}
		out = append(out, last)
	}
	return out, nil
}

// makeHistory returns a bag with its brews, copies of a template with their own dates.
func makeHistory(bag coffee.Bag, template []brew.Brew, brews int) history {
	h := history{bag: bag}
	opened, err := time.Parse(coffee.Day, bag.OpenedOn)
	if err != nil {
		return history{err: err}
	}
	each, parent := max(1, brews/versions), ""
	for n := range brews {
		like, started := template[min(n/each, versions-1)], opened.Add(9*time.Hour+time.Duration(n)*apart)
		b := like
		b.BagID, b.Bag.ID, b.Bag.Name, b.Bag.Roaster, b.Bag.RoastedOn, b.Bag.OpenedOn = bag.ID, bag.ID, bag.Name, bag.Roaster,
			bag.RoastedOn, bag.OpenedOn
		b.ID, b.Parent = fmt.Sprintf("%s-%02d", bag.ID, n+1), parent
		b.Created, b.Started = started, started
		b.Ended = started.Add(time.Duration(float64(b.Cup.Drawdown) * float64(time.Second)))
		b.Events = append([]brew.Event(nil), like.Events...)
		b.Events[0].Instant = started
		if n%each != 0 {
			b.Advised = nil
		}
		h.brews, parent = append(h.brews, b), b.ID
	}
	h.bag.Process, h.bag.Roast = template[0].Bag.Process, template[0].Bag.Roast
	return h
}

// makeBrew pours and tastes one brew: the suggested one for the first of a bag, the advised one for later
// ones. Its result is the model's prediction with noise.
func makeBrew(rng *rand.Rand, bag coffee.Bag, g gear.Set, last brew.Brew, at time.Time) (brew.Brew, error) {
	d := brew.First("made", bag, g, nil, recipe.Habits{}, at)
	if last.Advice != nil {
		d = last.Next("made", last.Advice.First, at)
	}
	b, err := brew.Begin(d, brew.Event{Key: "start", Kind: brew.Start, Instant: at})
	if err != nil {
		return b, err
	}
	drawdown, tds, yield := b.Plan.Finish, 1.35, 20.0
	if f := b.Forecast; f != nil {
		drawdown, tds, yield = f.Drawdown, f.Strength.Value, f.Yield.Value
	}
	noisy := func(share float64) float64 { return 1 + share*math.Max(-2, math.Min(2, rng.NormFloat64())) }
	end := units.Seconds(math.Round(max(float64(b.Plan.Steps[len(b.Plan.Steps)-1].End())+15, min(float64(drawdown)*noisy(0.06), 1500))))
	if b, err = applyAll(b, taps(b.Plan, end, rng.IntN(60), nil), at); err != nil {
		return b, err
	}
	water, dose := float64(b.Recipe.Total()), float64(b.Recipe.Dose)
	step := func(v float64) int { return int(math.Max(1, math.Min(5, math.Round(v+0.6*rng.NormFloat64())))) }
	c := cup.Cup{Drawdown: end, TDS: units.Round(tds*noisy(0.03), 2), Beverage: units.Grams(math.Round(water - 2*dose*noisy(0.03))),
		Bed: cup.FlatBed,
		Taste: cup.Taste{Overall: step(3)*2 - rng.IntN(2), Steps: map[cup.Sense]int{
			cup.Acidity: step(3 - (yield-20.5)*0.7), cup.Bitterness: step(2 + (yield-20.5)*0.7),
			cup.Sweetness: step(3.4 - math.Abs(yield-20.5)*0.5), cup.Body: step(3 + (tds-1.38)*6)}}}
	return b.Taste(c, coach.Person{})
}

func pick[T any](rng *rand.Rand, from []T) T { return from[rng.IntN(len(from))] }

// LargeBrew is the id of a brew of a large history, LargeBag that of its bag.
const (
	LargeBrew = "bag-00003-20"
	LargeBag  = "bag-00003"
)

// AddLargeDraft adds a draft to a bag of a large history, so that its pages can be measured.
func AddLargeDraft(ctx context.Context, st *store.Store, now time.Time) (id string, err error) {
	b, err := st.Brew(ctx, LargeBrew)
	if err != nil {
		return "", err
	}
	d := b.Next("large-draft", nil, now)
	d.Recipe = d.Recipe.With(recipe.AddressOf(recipe.Grind), float64(d.Gear.Grinder.Snap(d.Recipe.Grind)))
	return d.ID, st.AddDraft(ctx, d, now)
}
