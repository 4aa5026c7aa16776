package station

import (
	"context"
	"fmt"

	"yardbloom/store"
	"yardbloom/web/page"
	"yardbloom/yard"
)

// PhotosOf returns the photos of a brew for the template "photos".
func PhotosOf(ctx context.Context, y *yard.Yard, brewID string) (page.Photos, error) {
	all, err := y.Store.Photos(ctx, brewID)
	return page.Photos{BrewID: brewID, Most: store.MaxPhotos, List: Thumbnails(all[brewID])}, err
}

// Thumbnails returns photos for the template "thumbnails".
func Thumbnails(photos []store.Photo) []page.Photo {
	var out []page.Photo
	for i, p := range photos {
		out = append(out, page.Photo{ID: p.ID, Alt: fmt.Sprintf("Photo %d of the bed", i+1), Width: p.Width, Height: p.Height})
	}
	return out
}

// addPhotos adds the first photo of each brew to a path.
func addPhotos(ctx context.Context, y *yard.Yard, path []PathBrew) error {
	ids := make([]string, len(path))
	for i, b := range path {
		ids[i] = b.ID
	}
	all, err := y.Store.Photos(ctx, ids...)
	for i, b := range path {
		if photos := Thumbnails(all[b.ID]); len(photos) > 0 {
			path[i].Photo = &photos[0]
		}
	}
	return err
}
