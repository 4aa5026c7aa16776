package store

import (
	"context"
	"crypto/rand"
	"errors"
	"strings"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/store/document"
)

// maxKept is the maximum number of recipes that the book shows.
const maxKept = 300

// A KeptRecipe recipe is a recipe of the book with its coffee.
type KeptRecipe struct {
	brew.Draft
	Coffee string // name of its bag
}

type keptRow struct {
	draftRow
	Coffee string `db:"coffee"`
}

const keptColumns = `r.id, r.bag_id, r.parent_id, r.name, r.brewer_id, r.grinder_id, r.kettle_id, r.water_id,
	r.recipe, r.asked, r.draft, r.created_at, r.changed_at, r.zone, r.version,
	r.code, r.number, r.favourite, r.forked, r.by, b.name AS coffee`

// Book returns the kept recipes of all coffees on the shelf: favourites first, then the latest. Of their
// gear it returns only the ids.
func (s *Store) Book(ctx context.Context) ([]KeptRecipe, error) {
	var rows []keptRow
	err := s.read.all(ctx, &rows, `SELECT `+keptColumns+` FROM recipes r JOIN bags b ON b.id = r.bag_id
		WHERE r.name <> '' AND r.deleted_at IS NULL AND b.deleted_at IS NULL ORDER BY r.favourite DESC, r.changed_at DESC, r.id LIMIT ?`,
		maxKept)
	out := make([]KeptRecipe, len(rows))
	for i, r := range rows {
		out[i] = KeptRecipe{r.draft(), r.Coffee}
	}
	return out, err
}

// Favourite returns the id of the favourite recipe of a bag, or ErrNotFound.
func (s *Store) Favourite(ctx context.Context, bagID string) (id string, err error) {
	err = s.read.get(ctx, &id, `SELECT id FROM recipes WHERE bag_id = ? AND favourite AND deleted_at IS NULL`, bagID)
	return id, err
}

// ByCode returns the id of the kept recipe of a short address, or ErrNotFound.
func (s *Store) ByCode(ctx context.Context, code string) (id string, err error) {
	err = s.read.get(ctx, &id, `SELECT id FROM recipes WHERE code = ? AND code <> '' AND deleted_at IS NULL`, strings.ToLower(code))
	return id, err
}

// newCode returns the code of a short address: six letters and digits that are not easily confused.
func newCode() string {
	const letters = "abcdefghjkmnpqrstuvwxyz23456789"
	random := rand.Text()
	var out strings.Builder
	for i := range 6 {
		out.WriteByte(letters[int(random[i*2])*7%len(letters)])
	}
	return out.String()
}

// KeepRecipe adds a recipe to the book under its name. If the bag has a recipe of that name, it becomes its
// next version, and describe describes the difference. An unchanged recipe is not stored again. It returns
// the id in the book.
func (s *Store) KeepRecipe(ctx context.Context, d brew.Draft, now time.Time, describe func(before, after brew.Draft) string) (id string,
	err error) {
	err = s.transact(ctx, func(t *tx) error {
		err := t.get(ctx, &id, `SELECT id FROM recipes WHERE bag_id = ? AND name = ? AND deleted_at IS NULL ORDER BY changed_at DESC LIMIT 1`, d.BagID, d.Name)
		if errors.Is(err, ErrNotFound) {
			row := draftRowOf(d, now)
			row.Code, row.Number = newCode(), 1
			id = row.ID
			return addDraft(ctx, t, row)
		}
		if err != nil {
			return err
		}
		before, _, err := loadDraft(ctx, t, id)
		if err != nil {
			return err
		}
		said := describe(before, d)
		if said == "" {
			return nil
		}
		if err := putVersion(ctx, t, before, said, now); err != nil {
			return err
		}
		row := draftRowOf(d, now)
		row.ID, row.Number = id, before.Number+1
		_, err = t.put(ctx, `UPDATE recipes SET brewer_id = :brewer_id, grinder_id = :grinder_id, kettle_id = :kettle_id,
			water_id = :water_id, recipe = :recipe, draft = :draft,
			number = :number, changed_at = :changed_at, by = (SELECT id FROM people WHERE id = :by), version = version + 1 WHERE id = :id`, row)
		return err
	})
	return id, err
}

// AddRecipes adds recipes to the book in one transaction and returns their number. choose gets all kept recipes, with the ids of
// their gear, and returns those to add.
func (s *Store) AddRecipes(ctx context.Context, now time.Time, choose func(kept []brew.Draft) []brew.Draft) (added int, err error) {
	err = s.transact(ctx, func(t *tx) error {
		var rows []draftRow
		if err := t.all(ctx, &rows, `SELECT `+draftColumns+` FROM recipes WHERE name <> '' AND deleted_at IS NULL`); err != nil {
			return err
		}
		kept := make([]brew.Draft, len(rows))
		for i, r := range rows {
			kept[i] = r.draft()
		}
		fresh := choose(kept)
		for _, d := range fresh {
			row := draftRowOf(d, now)
			row.Code, row.Number = newCode(), 1
			if err := addDraft(ctx, t, row); err != nil {
				return err
			}
		}
		added = len(fresh)
		return nil
	})
	return added, err
}

type versionRow struct {
	ID     string                  `db:"recipe_id"`
	Number int                     `db:"number"`
	Recipe column[document.Recipe] `db:"recipe"`
	Gear   column[document.IDs]    `db:"gear"`
	Said   string                  `db:"said"`
	KeptAt instant                 `db:"kept_at"`
	By     reference               `db:"by"`
}

func putVersion(ctx context.Context, t *tx, d brew.Draft, said string, now time.Time) error {
	_, err := t.put(ctx, `INSERT INTO recipe_versions (recipe_id, number, recipe, gear, said, kept_at, by) VALUES (:recipe_id,
		:number, :recipe, :gear, :said, :kept_at, :by)`,
		versionRow{d.ID, d.Number, column[document.Recipe]{document.OfRecipe(d.Recipe)}, column[document.IDs]{document.IDs(d.Gear.IDs())},
			said, instant{now}, reference(d.By)})
	return err
}

// A Version is an earlier version of a kept recipe.
type Version struct {
	Number  int
	Recipe  recipe.Recipe
	Gear    gear.IDs
	Changes string    // the changes in the next version
	Until   time.Time // time of the next version
	By      string    // id of the person who kept it; empty: the yard
}

// Versions returns the earlier versions of a kept recipe, the latest first.
func (s *Store) Versions(ctx context.Context, id string) ([]Version, error) {
	var rows []versionRow
	err := s.read.all(ctx, &rows, `SELECT recipe_id, number, recipe, gear, said,
		kept_at, by FROM recipe_versions WHERE recipe_id = ? ORDER BY number DESC LIMIT 50`, id)
	out := make([]Version, len(rows))
	for i, r := range rows {
		out[i] = Version{r.Number, r.Recipe.V.Core(), gear.IDs(r.Gear.V), r.Said, r.KeptAt.Time, string(r.By)}
	}
	return out, err
}

// SetFavourite makes a kept recipe the favourite of its coffee, or not. A coffee has one favourite.
func (s *Store) SetFavourite(ctx context.Context, id string, favourite bool) error {
	return s.transact(ctx, func(t *tx) error {
		if _, err := t.do(ctx, `UPDATE recipes SET favourite = 0 WHERE bag_id = (SELECT bag_id FROM recipes WHERE id = ?)`,
			id); err != nil || !favourite {
			return err
		}
		res, err := t.do(ctx, `UPDATE recipes SET favourite = 1 WHERE id = ? AND name <> '' AND deleted_at IS NULL`, id)
		return oneRow(res, err, ErrNotFound)
	})
}
