package yard

import (
	"context"
	"io"

	"yardbloom/core/brew"
	"yardbloom/exchange"
	"yardbloom/store"
)

// ExportPerson writes everything that the yard keeps about a person: name, preferences, tastings and brews.
func (y *Yard) ExportPerson(ctx context.Context, p store.Person, w io.Writer) error {
	head := exchange.FromPerson(p.Person, p.Prefs, p.Habits, p.Theme, p.Sound)
	return head.Write(w, func(put func(exchange.PersonTasting) error) error {
		return y.Store.TastedBy(ctx, p.ID, func(b brew.Brew) error { return put(exchange.FromTasting(b)) })
	}, func(put func(exchange.PersonBrew) error) error {
		return y.Store.BrewedBy(ctx, p.ID, func(b brew.Brew) error { return put(exchange.FromBrew(b)) })
	})
}

// MoveTasting makes a tasting another person's, with new advice for them. An empty person is the yard. Errors are
// those of store.MoveTasting.
func (y *Yard) MoveTasting(ctx context.Context, brewID, from, to string, set store.Settings) error {
	if err := y.Store.MoveTasting(ctx, brewID, from, to); err != nil {
		return err
	}
	b, err := y.Store.Brew(ctx, brewID)
	if err != nil {
		return err
	}
	return y.Taste(ctx, b.Sheet, to, set, keepCup)
}
