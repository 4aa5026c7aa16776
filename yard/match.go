package yard

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"strings"

	"yardbloom/core/brew"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
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
	own, err := y.ownGear(ctx, set)
	if err != nil {
		return brew.Draft{}, err
	}
	return y.draftOf(doc, bagID, own, set)
}

func (y *Yard) draftOf(doc exchange.Recipe, bagID string, own ownGear, set store.Settings) (brew.Draft, error) {
	if err := doc.CheckIce(); err != nil {
		return brew.Draft{}, err
	}
	sheet := doc.Sheet(y.Now())
	kind := sheet.Gear.Brewer.Kind
	g, err := own.like(sheet.Gear)
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

// ownGear is the gear of the yard.
type ownGear struct {
	usual    gear.Set
	brewers  []gear.Brewer
	grinders []gear.Grinder
	kettles  []gear.Kettle
}

func (y *Yard) ownGear(ctx context.Context, set store.Settings) (own ownGear, err error) {
	if own.usual, err = y.UsualGear(ctx, set); err != nil {
		return own, err
	}
	var errs [3]error
	own.brewers, errs[0] = y.Store.Brewers(ctx)
	own.grinders, errs[1] = y.Store.Grinders(ctx)
	own.kettles, errs[2] = y.Store.Kettles(ctx)
	return own, errors.Join(errs[:]...)
}

// like returns the gear that is most like another set: a brewer of its kind, the same grinder and kettle if there are any, or
// else the usual ones. The error is a NoBrewerError.
func (own ownGear) like(other gear.Set) (gear.Set, error) {
	g, best := own.usual, -1
	for _, b := range append([]gear.Brewer{g.Brewer}, own.brewers...) {
		if like := countTrue(b.Filter == other.Brewer.Filter, b.Material == other.Brewer.Material,
			b.Holds == other.Brewer.Holds); b.Kind == other.Brewer.Kind && like > best {
			g.Brewer, best = b, like
		}
	}
	if best < 0 {
		return g, NoBrewerError{other.Brewer.Kind.Form().Name}
	}
	for _, m := range own.grinders {
		if m.Dial == other.Grinder.Dial && m.Burrs == other.Grinder.Burrs {
			g.Grinder = m
		}
	}
	for _, k := range own.kettles {
		if k.Thermostat == other.Kettle.Thermostat && k.Capacity == other.Kettle.Capacity {
			g.Kettle = k
		}
	}
	for _, k := range own.kettles {
		if other.Second.ID != "" && k.ID != g.Kettle.ID && (g.Second.ID == "" || k.Thermostat == other.Second.Thermostat) {
			g.Second = k
		}
	}
	return g, nil
}

func countTrue(facts ...bool) (n int) {
	for _, f := range facts {
		if f {
			n++
		}
	}
	return n
}

// A ForBag is a recipe document with the bag that it is for.
type ForBag struct {
	Recipe exchange.Recipe
	BagID  string
}

// A RecipeError is the error of one of several recipes.
type RecipeError struct {
	Index int
	Err   error
}

func (e RecipeError) Error() string { return fmt.Sprintf("recipe %d: %v", e.Index+1, e.Err) }

func (e RecipeError) Unwrap() error { return e.Err }

// AddToBook adds recipes to the book, all or none, and returns how many were added. If another recipe of the same coffee has
// the name of one, a number is appended; if an equal one has it, nothing is added. Errors are those of DraftOf in a
// RecipeError, and those of the store.
func (y *Yard) AddToBook(ctx context.Context, recipes []ForBag, set store.Settings) (added int, err error) {
	own, err := y.ownGear(ctx, set)
	if err != nil {
		return 0, err
	}
	drafts := make([]brew.Draft, len(recipes))
	for i, one := range recipes {
		if drafts[i], err = y.draftOf(one.Recipe, one.BagID, own, set); err != nil {
			return 0, RecipeError{i, err}
		}
		drafts[i].Name = units.Shorten(cmp.Or(strings.TrimSpace(one.Recipe.Name), "From a file"))
	}
	return y.Store.AddRecipes(ctx, y.Now(), func(kept []brew.Draft) []brew.Draft { return newRecipes(kept, drafts) })
}

// newRecipes returns those of some drafts that a book does not have, each under a name that its coffee does not have yet.
func newRecipes(kept, drafts []brew.Draft) (out []brew.Draft) {
	type place struct{ bagID, name string }
	taken := map[place]brew.Draft{}
	for _, k := range kept {
		taken[place{k.BagID, k.Name}] = k
	}
	for _, d := range drafts {
		name := d.Name
		for n := 2; ; n++ {
			other, ok := taken[place{d.BagID, d.Name}]
			if !ok {
				taken[place{d.BagID, d.Name}] = d
				out = append(out, d)
				break
			}
			if sameRecipe(other.Recipe, d.Recipe) {
				break
			}
			d.Name = fmt.Sprintf("%s (%d)", name, n)
		}
	}
	return out
}

// sameRecipe reports whether two recipes are equal. It compares a few figures first, since most differ in one of them.
func sameRecipe(a, b recipe.Recipe) bool {
	return a.Dose == b.Dose && a.Grind == b.Grind && a.Style == b.Style && len(a.Pours) == len(b.Pours) && len(recipe.Changes(a, b)) == 0
}
