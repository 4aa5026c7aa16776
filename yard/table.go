package yard

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"math"
	"strings"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/coffee"
	"yardbloom/core/cup"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/exchange/table"
	"yardbloom/store"
)

// TableChoices maps the names in a table, as returned by NameKey, to ids of bags, brewers and grinders, or to Create. For a new brewer
// the value also has its kind, such as "create:open-cone".
type TableChoices struct {
	Coffees  map[string]string `json:"coffees"`
	Brewers  map[string]string `json:"brewers"`
	Grinders map[string]string `json:"grinders"`
}

// NewTableChoices returns empty choices.
func NewTableChoices() TableChoices {
	return TableChoices{Coffees: map[string]string{}, Brewers: map[string]string{}, Grinders: map[string]string{}}
}

// Of returns the map for "coffee", "brewer" or "grinder", or nil.
func (c TableChoices) Of(kind string) map[string]string {
	return map[string]map[string]string{"coffee": c.Coffees, "brewer": c.Brewers, "grinder": c.Grinders}[kind]
}

// Create is the value for a new bag or new gear.
const Create = "create"

// NameKey normalizes the case and spaces of a name.
func NameKey(name string) string { return strings.ToLower(strings.Join(strings.Fields(name), " ")) }

// StageTable stages the valid rows of a table as brews, like StageImport. The id of a brew is a hash of its row, so that a longer version of
// the same table adds only the new rows. Errors are those of StageImport, and ErrNoGear.
func (y *Yard) StageTable(ctx context.Context, name string, rows []table.Row, choices TableChoices, set store.Settings) (*Import, error) {
	usual, err := y.UsualGear(ctx, set)
	if err != nil {
		return nil, err
	}
	b := &tableBrews{y: y, choices: choices, usual: usual, habits: set.Habits(), bags: map[string]coffee.Bag{}, created: map[string]*newBag{},
		gear: map[[2]string]gear.Set{}, seen: map[string]int{}}
	return y.keepImport(name, func() (*Import, error) {
		staging, err := y.Store.Stage(ctx)
		if err != nil {
			return nil, err
		}
		in := &Import{staging: staging}
		if err := b.fill(ctx, staging, rows); err != nil {
			return nil, errors.Join(err, staging.Close())
		}
		if in.Counts, err = staging.Plan(ctx); err != nil {
			return nil, errors.Join(err, staging.Close())
		}
		return in, nil
	})
}

// tableBrews converts rows of a table into brews.
type tableBrews struct {
	y       *Yard
	choices TableChoices
	usual   gear.Set
	habits  recipe.Habits

	bags    map[string]coffee.Bag // of the yard, by id
	created map[string]*newBag    // by id
	gear    map[[2]string]gear.Set
	seen    map[string]int // number of equal rows
}

// newBag is a bag to be created.
type newBag struct {
	coffee.Bag
	last time.Time // of its brews
}

func (b *tableBrews) fill(ctx context.Context, staging *store.Staging, rows []table.Row) error {
	var brews []brew.Brew
	for _, r := range rows {
		if !r.OK() {
			continue
		}
		one, err := b.brew(ctx, staging, r)
		if err != nil {
			return fmt.Errorf("line %d: %w", r.Line, err)
		}
		brews = append(brews, one)
	}
	for _, bag := range b.created {
		const size, recent = 250, 60 * 24 * time.Hour
		bag.Weight = size * units.Grams(math.Ceil(float64(bag.Weight)/size))
		if err := staging.AddBag(ctx, bag.Bag, b.y.Now().Sub(bag.last) > recent, bag.last); err != nil {
			return err
		}
	}
	return staging.AddBrews(ctx, brews)
}

// brew converts a row into a brew.
func (b *tableBrews) brew(ctx context.Context, staging *store.Staging, r table.Row) (brew.Brew, error) {
	id := b.id(r)
	bag, err := b.bag(ctx, r)
	if err != nil {
		return brew.Brew{}, err
	}
	set, err := b.set(ctx, staging, r)
	if err != nil {
		return brew.Brew{}, err
	}
	d := brew.First(id, bag, set, nil, b.habits, r.At)
	style := d.Recipe.Style.Style()
	temperature := d.Recipe.Temperature()
	if r.Temperature > 0 {
		temperature = min(r.Temperature, set.Boiling)
	}
	first := d.Recipe
	d.Recipe = style.Generate(r.Dose, r.Water, temperature)
	d.Recipe.Grind, d.Recipe.Rinse = first.Grind, first.Rinse
	notes := r.Notes
	const finest, coarsest = 150, 2000 // µm
	switch size, dialErr := set.Grinder.Dial.ParseGrind(r.Dial); {
	case r.GrindSize > 0:
		d.Recipe.Grind = r.GrindSize
	case r.Dial != "" && dialErr == nil && size >= finest && size <= coarsest:
		d.Recipe.Grind = size
	case r.Dial != "": // a setting of an unknown dial
		notes = strings.TrimSpace(notes + " Grinder: " + r.Dial + ".")
	}
	drawdown := r.Drawdown
	if drawdown == 0 { // not timed: the brew ends as planned, and its cup has no drawdown
		drawdown = d.Recipe.Plan().Finish
	}
	recorded, err := brew.Record(d, brew.Recorded{Key: id, Started: r.At, Drawdown: drawdown, Now: b.y.Now()})
	if err != nil {
		return recorded, err
	}
	c := cup.Cup{Drawdown: r.Drawdown, Beverage: r.Beverage, TDS: r.TDS}
	c.Overall, c.Notes, c.Steps, c.Faults = r.Mark, notes, map[cup.Sense]int{}, map[cup.Fault]bool{}
	return recorded.Kept(c), nil
}

// id returns a hash of a row. Equal rows are numbered.
func (b *tableBrews) id(r table.Row) string {
	what := strings.Join([]string{r.At.UTC().Format(time.RFC3339), NameKey(r.Coffee), fmt.Sprint(r.Dose, r.Water, r.Temperature, r.Drawdown, r.Beverage, r.TDS),
		NameKey(r.Brewer), NameKey(r.Grinder), r.Dial}, "|")
	b.seen[what]++
	return tableID(fmt.Sprint(what, "|", b.seen[what]))
}

func tableID(what string) string {
	const bytes = 12
	sum := sha256.Sum256([]byte(what))
	return "sheet-" + hex.EncodeToString(sum[:bytes])
}

// bag returns the bag of a row.
func (b *tableBrews) bag(ctx context.Context, r table.Row) (coffee.Bag, error) {
	choice := b.choices.Coffees[NameKey(r.Coffee)]
	if choice != "" && choice != Create {
		bag, known := b.bags[choice]
		if !known {
			found, err := b.y.Store.Bag(ctx, choice)
			if err != nil {
				return bag, err
			}
			bag = found.Bag
			b.bags[choice] = bag
		}
		if roasted, err := time.Parse(coffee.Day, bag.RoastedOn); err != nil || !r.At.Before(roasted) {
			return bag, nil
		}
	}
	roasted := ""
	if !r.RoastedOn.IsZero() {
		roasted = r.RoastedOn.Format(coffee.Day)
	}
	id := tableID("bag|" + NameKey(r.Coffee) + "|" + NameKey(r.Roaster) + "|" + roasted)
	bag := b.created[id]
	if bag == nil {
		bag = &newBag{Bag: coffee.Bag{ID: id, Name: r.Coffee, Roaster: r.Roaster, Process: coffee.Washed, Roast: coffee.Medium, RoastedOn: roasted,
			Notes: "From a table: process and roast were not in it."}}
		b.created[id] = bag
	}
	bag.Weight += r.Dose
	if r.At.After(bag.last) {
		bag.last = r.At
	}
	return bag.Bag, nil
}

// set returns the gear of a row. The yard's usual gear is the default.
func (b *tableBrews) set(ctx context.Context, staging *store.Staging, r table.Row) (gear.Set, error) {
	key := [2]string{NameKey(r.Brewer), NameKey(r.Grinder)}
	if set, known := b.gear[key]; known {
		return set, nil
	}
	set := b.usual
	choice := b.choices.Brewers[key[0]]
	switch kind, create := strings.CutPrefix(choice, Create+":"); {
	case key[0] == "" || choice == "":
	case create:
		form := gear.BrewerKind(kind).Form()
		set.Brewer = gear.Brewer{ID: tableID("brewer|" + key[0]), Name: r.Brewer, Kind: form.Kind, Material: gear.Plastic, Filter: form.Filter,
			Holds: 500, Retained: gear.DefaultRetained}
		if err := staging.SaveBrewer(ctx, set.Brewer); err != nil {
			return set, err
		}
	default:
		known, err := b.y.Store.Gear(ctx, gear.IDs{Brewer: choice, Grinder: set.Grinder.ID, Kettle: set.Kettle.ID, Water: set.Water.ID})
		if err != nil {
			return set, err
		}
		set.Brewer = known.Brewer
	}
	switch choice := b.choices.Grinders[key[1]]; {
	case key[1] == "" || choice == "":
	case choice == Create:
		set.Grinder = gear.Grinder{ID: tableID("grinder|" + key[1]), Name: r.Grinder, Burrs: gear.ConicalBurr, Dial: gear.Dial{Kind: gear.Words}}
		if err := staging.SaveGrinder(ctx, set.Grinder); err != nil {
			return set, err
		}
	default:
		known, err := b.y.Store.Gear(ctx, gear.IDs{Brewer: b.usual.Brewer.ID, Grinder: choice, Kettle: set.Kettle.ID, Water: set.Water.ID})
		if err != nil {
			return set, err
		}
		set.Grinder = known.Grinder
	}
	b.gear[key] = set
	return set, nil
}
