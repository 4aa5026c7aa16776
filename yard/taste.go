package yard

import (
	"context"
	"errors"
	"reflect"

	"yardbloom/core/brew"
	"yardbloom/core/coach"
	"yardbloom/core/coffee"
	"yardbloom/core/cup"
	"yardbloom/store"
)

// pathLength is the number of earlier brews of a bag that advice considers.
const pathLength = 8

// errChanged means that a brew changed while advice on it was computed.
var errChanged = errors.New("the brew changed meanwhile")

// Taste changes the cup of a brew as a taster sees it, has the coach advise and the yard learn. An empty taster
// is the yard. set has the person at the screen, who measured. change gets the stored brew and may be called more
// than once. If it changes a measurement, everyone who tasted the brew gets new advice. Errors are those of change
// and of the store.
func (y *Yard) Taste(ctx context.Context, of brew.Sheet, taster string, set store.Settings, change func(brew.Brew) (cup.Cup, error)) error {
	select {
	case y.advising <- struct{}{}: // one at a time: advice uses all cores
		defer func() { <-y.advising }()
	case <-ctx.Done():
		return context.Cause(ctx)
	}
	path, err := y.Store.PathWithEvents(ctx, of.BagID, pathLength)
	if err != nil {
		return err
	}
	for {
		b, err := y.Store.Brew(ctx, of.ID)
		if err != nil {
			return err
		}
		b = b.For(taster)
		c, err := change(b)
		if err != nil {
			return err
		}
		b.Beliefs = y.BeliefsOf(b.Sheet)
		if b.Status != brew.Done || !reflect.DeepEqual(b.Cup.Shared(), c.Shared()) {
			b.MeasuredBy = set.PersonID
		}
		tasted, err := y.advise(ctx, b, c, path)
		if err != nil {
			return err
		}
		// The advice is ready before the transaction begins, so that no other writer waits for it.
		_, err = y.Store.Change(ctx, of.ID, func(now brew.Brew) (brew.Brew, error) {
			if now.Version != b.Version {
				return now, errChanged
			}
			return tasted, nil
		})
		switch {
		case errors.Is(err, errChanged):
			continue
		case err == nil:
			y.Learn()
			y.Hub.Notify(HappeningsTopic)
		}
		return err
	}
}

// keepCup returns the cup of a brew unchanged.
func keepCup(b brew.Brew) (cup.Cup, error) { return b.Cup, nil }

// advise adds a cup by the taster of a brew with the coach's advice. If a measurement changed, the other tasters
// get new advice too.
func (y *Yard) advise(ctx context.Context, b brew.Brew, c cup.Cup, path []brew.Brew) (brew.Brew, error) {
	who, err := y.palate(ctx, b.Bag, b.Taster)
	if err != nil {
		return b, err
	}
	bag, err := y.Store.Bag(ctx, b.BagID)
	if err != nil {
		return b, err
	}
	left := coffee.BrewsLeft(bag.Left(), b.Recipe.Dose, b.Gear.Grinder.Loss)
	who.BrewsLeft = left
	taster, same := b.Taster, reflect.DeepEqual(b.Cup.Shared(), c.Shared())
	if b, err = b.Taste(c, who, path...); err != nil || same {
		return b, err
	}
	for _, other := range b.Tastings {
		if other.Taster == taster {
			continue
		}
		if who, err = y.palate(ctx, b.Bag, other.Taster); err != nil {
			return b, err
		}
		who.BrewsLeft = left
		theirs := b.For(other.Taster)
		if b, err = theirs.Taste(theirs.Cup, who, path...); err != nil {
			return b, err
		}
	}
	return b.For(taster), nil
}

// palate returns the coach's view of a person, with their units and habits.
func (y *Yard) palate(ctx context.Context, bag coffee.Bag, taster string) (coach.Person, error) {
	who, err := y.Store.Palate(ctx, bag, taster)
	if err != nil {
		return who, err
	}
	p, err := y.Store.Person(ctx, taster)
	if errors.Is(err, store.ErrNotFound) { // a tasting without a name
		set, err := y.Store.Settings(ctx, "")
		who.Prefs, who.Order, who.Good = set.Prefs(), set.Habits().First, set.Habits().Good
		return who, err
	}
	who.Prefs, who.Order, who.Good = p.Prefs, p.Habits.First, p.Habits.Good
	return who, err
}
