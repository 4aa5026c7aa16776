package yard

import (
	"context"
	"io"

	"yardbloom/exchange/photo"
	"yardbloom/store"
)

// AddPhoto keeps a photo of a brew, added by a person, or by the yard, from a file of a camera. Errors are those of photo.Read and
// store.AddPhoto. One file is decoded at a time: each takes up to 200 MB of memory.
func (y *Yard) AddPhoto(ctx context.Context, brewID, by string, file io.ReadSeeker) error {
	y.decoding.Lock()
	p, err := photo.Read(file)
	y.decoding.Unlock()
	if err != nil {
		return err
	}
	image := store.Image{Photo: store.Photo{ID: store.NewID(), BrewID: brewID, Width: p.Width, Height: p.Height}, By: by, Small: p.Small, Full: p.Full}
	return y.Store.AddPhoto(ctx, image, y.Now())
}
