package yard

import (
	"context"
	"errors"

	"yardbloom/core/brew"
	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/store"
)

// ErrNoGear is returned if the yard has no brewer, grinder or kettle for a recipe.
var ErrNoGear = errors.New("the yard has no gear for a recipe")

// BeginRecipe returns the ID of a draft for a bag: the latest one, or else a new one from the
// bag's favourite, from its last brew, or as the product would start.
func (y *Yard) BeginRecipe(ctx context.Context, b store.Shelved, set store.Settings) (draftID string, err error) {
	if b.Draft != "" {
		return b.Draft, nil
	}
	favourite, err := y.Store.Favourite(ctx, b.ID)
	if err == nil {
		d, _, err := y.Store.Draft(ctx, favourite)
		if err != nil {
			return "", err
		}
		return y.OpenDraft(ctx, d.Copy(store.NewID(), y.Now()), set)
	}
	if !errors.Is(err, store.ErrNotFound) {
		return "", err
	}
	last, err := y.Store.LastBrew(ctx, b.ID)
	switch {
	case errors.Is(err, store.ErrNotFound):
		g, err := y.UsualGear(ctx, set)
		if err != nil {
			return "", err
		}
		d, err := y.aimed(ctx, y.FirstDraft(b, g, set), set)
		if err != nil {
			return "", err
		}
		return y.OpenDraft(ctx, d, set)
	case err != nil:
		return "", err
	}
	return y.OpenDraft(ctx, last.Next(store.NewID(), nil, y.Now()), set)
}

// FirstDraft returns a new draft for a bag, as the product would start on some gear.
func (y *Yard) FirstDraft(b store.Shelved, g gear.Set, set store.Settings) brew.Draft {
	beliefs := y.BeliefsOf(brew.Sheet{BagID: b.ID, Bag: b.Bag.Bag, Gear: g})
	return brew.First(store.NewID(), b.Bag.Bag, g, beliefs, set.Habits(), y.Now())
}

// aimed returns a first draft aimed at what the person at the screen liked of other coffees of the kind.
func (y *Yard) aimed(ctx context.Context, d brew.Draft, set store.Settings) (brew.Draft, error) {
	who, err := y.Store.Palate(ctx, d.Bag, set.PersonID)
	if err != nil || who.Known == nil {
		return d, err
	}
	d.Prefs = set.Prefs()
	return d.AimAt(forecast.Liking{Yield: who.Known.Yield, Strength: who.Known.Strength}, y.Now()), nil
}

// FirstQuestion returns the question to the model about a bag on some gear, before there is a
// recipe.
func (y *Yard) FirstQuestion(b store.Shelved, g gear.Set, set store.Settings) forecast.Question {
	sheet := brew.Sheet{BagID: b.ID, Bag: b.Bag.Bag, Gear: g, Habits: set.Habits()}
	sheet.Beliefs = y.BeliefsOf(sheet)
	return sheet.Question(y.Now())
}

// OpenDraft stores a new draft and returns its ID, or the ID of an equal one. A draft with gear
// that the yard does not have gets the usual gear.
func (y *Yard) OpenDraft(ctx context.Context, d brew.Draft, set store.Settings) (draftID string, err error) {
	_, err = y.Store.Gear(ctx, d.Gear.IDs())
	if errors.Is(err, store.ErrNotFound) {
		d.Gear, err = y.UsualGear(ctx, set)
	}
	if err != nil {
		return "", err
	}
	d.By = set.PersonID
	return y.Store.OpenDraft(ctx, d, y.Now())
}

// UsualGear returns the gear that was used last, or else the first of each kind. The error is
// ErrNoGear if a kind is missing.
func (y *Yard) UsualGear(ctx context.Context, set store.Settings) (gear.Set, error) {
	things, err := y.Store.Things(ctx)
	if err != nil {
		return gear.Set{}, err
	}
	ids := map[string]string{}
	for _, last := range []struct{ kind, id string }{{"brewers", set.Brewer}, {"grinders", set.Grinder}, {"kettles", set.Kettle},
		{"waters", set.Water}} {
		for _, t := range things {
			if t.Kind == last.kind && (t.ID == last.id || ids[t.Kind] == "") {
				ids[t.Kind] = t.ID
			}
		}
		if ids[last.kind] == "" && last.kind != "waters" {
			return gear.Set{}, ErrNoGear
		}
	}
	return y.Store.Gear(ctx, gear.IDs{Brewer: ids["brewers"], Grinder: ids["grinders"], Kettle: ids["kettles"], Water: ids["waters"]})
}
