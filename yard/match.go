package yard

import (
	"context"
	"fmt"

	"yardbloom/core/brew"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/exchange"
	"yardbloom/store"
)

// A NoBrewerError is returned for a recipe whose kind of brewer the yard does not have.
type NoBrewerError struct{ Kind string }

func (e NoBrewerError) Error() string { return fmt.Sprintf("the yard has no %s", e.Kind) }

// Sentence returns what to show to the person.
func (e NoBrewerError) Sentence() string {
	return fmt.Sprintf("This recipe is for a brewer of the kind “%s”, and the yard has none. Add one under Gear first.", e.Kind)
}

// DraftOf returns a draft for a bag from a recipe document, with the gear of this yard that is
// most like the gear in the document. Errors are those of the document, ErrNoGear and
// NoBrewerError.
func (y *Yard) DraftOf(ctx context.Context, doc exchange.Recipe, bagID string, set store.Settings) (brew.Draft, error) {
	if err := doc.CheckIce(); err != nil {
		return brew.Draft{}, err
	}
	sheet := doc.Sheet(y.Now())
	kind := sheet.Gear.Brewer.Kind
	g, err := y.gearLike(ctx, sheet.Gear, set)
	if err != nil {
		return brew.Draft{}, err
	}
	d := brew.Draft{Sheet: brew.Sheet{ID: store.NewID(), BagID: bagID, By: set.PersonID, Recipe: sheet.Recipe, Gear: g, Created: y.Now()},
		Held: brew.DefaultHeld}
	d.Recipe.Grind = g.Grinder.Snap(d.Recipe.Grind)
	if !d.Recipe.Style.Style().Fits(kind) {
		d.Recipe.Style = recipe.Styles(kind)[0].ID
	}
	return d, nil
}

// gearLike returns the gear of this yard that is most like another set: a brewer of its kind, the
// same grinder and kettle if there are any, or else the usual ones.
func (y *Yard) gearLike(ctx context.Context, other gear.Set, set store.Settings) (gear.Set, error) {
	g, err := y.UsualGear(ctx, set)
	if err != nil {
		return g, err
	}
	brewers, err := y.Store.Brewers(ctx)
	if err != nil {
		return g, err
	}
	best := -1
	for _, b := range append([]gear.Brewer{g.Brewer}, brewers...) {
		if like := countTrue(b.Filter == other.Brewer.Filter, b.Material == other.Brewer.Material,
			b.Holds == other.Brewer.Holds); b.Kind == other.Brewer.Kind && like > best {
			g.Brewer, best = b, like
		}
	}
	if best < 0 {
		return g, NoBrewerError{other.Brewer.Kind.Form().Name}
	}
	grinders, err := y.Store.Grinders(ctx)
	if err != nil {
		return g, err
	}
	for _, m := range grinders {
		if m.Dial == other.Grinder.Dial && m.Burrs == other.Grinder.Burrs {
			g.Grinder = m
		}
	}
	kettles, err := y.Store.Kettles(ctx)
	for _, k := range kettles {
		if k.Thermostat == other.Kettle.Thermostat && k.Capacity == other.Kettle.Capacity {
			g.Kettle = k
		}
	}
	return g, err
}

func countTrue(facts ...bool) (n int) {
	for _, f := range facts {
		if f {
			n++
		}
	}
	return n
}

// AddToBook adds an imported recipe to the book under its name. If another recipe of the same
// coffee has that name, a number is appended; if an equal one has it, nothing is added. describe
// puts the difference to an earlier version into words.
func (y *Yard) AddToBook(ctx context.Context, d brew.Draft, describe func(before, after brew.Draft) string) error {
	kept, err := y.Store.Book(ctx)
	if err != nil {
		return err
	}
	taken := map[string]brew.Draft{}
	for _, k := range kept {
		if k.BagID == d.BagID {
			taken[k.Name] = k.Draft
		}
	}
	name := d.Name
	for n := 2; ; n++ {
		other, ok := taken[d.Name]
		if !ok {
			break
		}
		if len(recipe.Changes(other.Recipe, d.Recipe)) == 0 && other.Recipe.Style == d.Recipe.Style {
			return nil
		}
		d.Name = fmt.Sprintf("%s (%d)", name, n)
	}
	_, err = y.Store.KeepRecipe(ctx, d, y.Now(), describe)
	return err
}
