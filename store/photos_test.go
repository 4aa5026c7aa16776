package store

import (
	"errors"
	"fmt"
	"testing"
	"time"

	"yardbloom/core/brew"
)

// A brew keeps up to four photos; removed ones and those of a deleted brew come back for thirty days and are then dropped. Mutations
// caught: a fifth photo, a removed photo that is still served or never dropped, a deleted brew that loses its photos at once.
func TestPhotosOfABrew(t *testing.T) {
	t.Parallel()
	s, bagID, id := yard(t)
	start(t, s, id)
	must(t, errOf(tap(s, id, brew.Event{Key: "end", Kind: brew.Finish, At: 200})))
	add := func(n int, brewID string, at time.Time) error {
		return s.AddPhoto(ctx, Image{Photo: Photo{ID: fmt.Sprintf("photo-%d", n), BrewID: brewID, Width: 16, Height: 8},
			Small: []byte("small"), Full: []byte("full")}, at)
	}
	count := func(want int, when string) {
		t.Helper()
		got, err := s.Photos(ctx, "none", id)
		must(t, err)
		if len(got[id]) != want {
			t.Errorf("%s: %d photos, want %d", when, len(got[id]), want)
		}
	}
	for n := range MaxPhotos {
		must(t, add(n, id, noon.Add(time.Duration(n)*time.Second)))
	}
	if err := add(9, id, noon); !errors.Is(err, ErrTooManyPhotos) {
		t.Errorf("a fifth photo: %v", err)
	}
	if err := add(9, "none", noon); !errors.Is(err, ErrNotFound) {
		t.Errorf("a photo of no brew: %v", err)
	}
	if of, err := s.RemovePhoto(ctx, "photo-1", false, noon); err != nil || of != id {
		t.Errorf("removed from %q, %v", of, err)
	}
	count(3, "after a removal")
	if _, err := s.PhotoFile(ctx, "photo-1", true); !errors.Is(err, ErrNotFound) {
		t.Errorf("a removed photo is served: %v", err)
	}
	must(t, add(5, id, noon.Add(time.Minute)))
	if _, err := s.RemovePhoto(ctx, "photo-1", true, noon); !errors.Is(err, ErrTooManyPhotos) {
		t.Errorf("restored beside four others: %v", err)
	}
	must(t, errOf(s.RemovePhoto(ctx, "photo-5", false, noon)))
	must(t, errOf(s.RemovePhoto(ctx, "photo-1", true, noon)))
	count(4, "restored")
	if file, err := s.PhotoFile(ctx, "photo-1", false); err != nil || string(file) != "full" {
		t.Errorf("served %q, %v", file, err)
	}

	must(t, s.Remove(ctx, Brews, id, "", noon))
	if _, err := s.PhotoFile(ctx, "photo-1", false); !errors.Is(err, ErrNotFound) {
		t.Errorf("a photo of a deleted brew is served: %v", err)
	}
	must(t, errOf(s.Restore(ctx, id)))
	count(4, "after the brew was restored")
	must(t, errOf(s.RemovePhoto(ctx, "photo-0", false, noon)))
	must(t, s.Remove(ctx, Brews, id, "", noon))
	other := plan(t, s, bagID, "another")
	start(t, s, other)
	must(t, add(7, other, noon.Add(Restorable+time.Hour)))
	var left int
	must(t, s.read.get(ctx, &left, `SELECT COUNT(*) FROM photos`))
	if left != 1 {
		t.Errorf("%d photos are left after thirty days, want 1", left)
	}
}
