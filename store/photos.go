package store

import (
	"context"
	"encoding/json"
	"errors"
	"time"
)

// MaxPhotos is the maximum number of photos of a brew.
const MaxPhotos = 4

// ErrTooManyPhotos is returned for a photo of a brew that has MaxPhotos.
var ErrTooManyPhotos = errors.New("the brew has all the photos that it can have")

// A Photo is a photo of a brew without its picture.
type Photo struct {
	ID     string  `db:"id"`
	BrewID string  `db:"brew_id"`
	Width  int     `db:"width"`
	Height int     `db:"height"`
	Added  instant `db:"added_at"`
}

// An Image is a photo with its JPEG files.
type Image struct {
	Photo
	By          string // id of a person; empty: the yard
	Small, Full []byte
}

// AddPhoto stores a photo of a brew. It returns ErrNotFound without the brew, and ErrTooManyPhotos. Photos and deleted brews that can no
// longer be restored are dropped.
func (s *Store) AddPhoto(ctx context.Context, p Image, now time.Time) error {
	return s.transact(ctx, func(t *tx) error {
		if err := dropPhotos(ctx, t, now); err != nil {
			return err
		}
		if err := checkPhotos(ctx, t, p.BrewID); err != nil {
			return err
		}
		_, err := t.do(ctx, `INSERT INTO photos (id, brew_id, width, height, added_at, by, small, full)
			VALUES (?, ?, ?, ?, ?, (SELECT id FROM people WHERE id = ?), ?, ?)`, p.ID, p.BrewID, p.Width, p.Height, instant{now}, p.By, p.Small, p.Full)
		return err
	})
}

// checkPhotos returns an error if a brew cannot get another photo.
func checkPhotos(ctx context.Context, t *tx, brewID string) error {
	var row struct {
		There  bool `db:"there"`
		Photos int  `db:"photos"`
	}
	err := t.get(ctx, &row, `SELECT EXISTS (SELECT 1 FROM brews WHERE id = ?1) AS there,
		(SELECT COUNT(*) FROM photos WHERE brew_id = ?1 AND removed_at IS NULL) AS photos`, brewID)
	switch {
	case err != nil:
		return err
	case !row.There:
		return ErrNotFound
	case row.Photos >= MaxPhotos:
		return ErrTooManyPhotos
	}
	return nil
}

// dropPhotos deletes the photos that were removed too long ago to be restored, and those of such brews.
func dropPhotos(ctx context.Context, t *tx, now time.Time) error {
	_, err := t.do(ctx, `DELETE FROM photos WHERE removed_at < ?1 OR brew_id IN
		(SELECT id FROM removed WHERE kind = 'brew' AND (contents = '' OR removed_at < ?1))`, instant{now.Add(-Restorable)})
	return err
}

const selectPhotos = `SELECT p.id, p.brew_id, p.width, p.height, p.added_at FROM json_each(?) b
	CROSS JOIN photos p INDEXED BY photos_of_brew ON p.brew_id = b.value AND p.removed_at IS NULL ORDER BY b.key, p.added_at, p.id`

// Photos returns the photos of brews, by brew, in the order in which they were added.
func (s *Store) Photos(ctx context.Context, brewIDs ...string) (map[string][]Photo, error) {
	list, err := json.Marshal(brewIDs)
	if err != nil {
		return nil, err
	}
	var rows []Photo
	err = s.read.all(ctx, &rows, selectPhotos, string(list))
	out := map[string][]Photo{}
	for _, p := range rows {
		out[p.BrewID] = append(out[p.BrewID], p)
	}
	return out, err
}

// PhotoFile returns the JPEG file of a photo, or of its thumbnail. It returns ErrNotFound for a removed one.
func (s *Store) PhotoFile(ctx context.Context, id string, small bool) (file []byte, err error) {
	column := map[bool]string{true: "small", false: "full"}[small]
	err = s.read.get(ctx, &file, `SELECT `+column+` FROM photos WHERE id = ? AND removed_at IS NULL AND EXISTS (SELECT 1 FROM brews WHERE id = brew_id)`, id)
	return file, err
}

// RemovePhoto removes a photo, or restores it with restore. It returns the id of the brew, and ErrTooManyPhotos if others took its place.
func (s *Store) RemovePhoto(ctx context.Context, id string, restore bool, now time.Time) (brewID string, err error) {
	err = s.transact(ctx, func(t *tx) error {
		if err := t.get(ctx, &brewID, `SELECT brew_id FROM photos WHERE id = ? AND (removed_at IS NOT NULL) = ?`, id, restore); err != nil {
			return err
		}
		at := instant{now}
		if restore {
			at = instant{}
			if err := checkPhotos(ctx, t, brewID); err != nil {
				return err
			}
		}
		_, err := t.do(ctx, `UPDATE photos SET removed_at = ? WHERE id = ?`, at, id)
		return err
	})
	return brewID, err
}
