package log

import (
	"errors"
	"fmt"
	"io/fs"
	"net/http"

	"github.com/go-chi/chi/v5"

	"yardbloom/exchange/photo"
	"yardbloom/store"
	"yardbloom/web/page"
	"yardbloom/web/station"
	"yardbloom/web/words"
)

// photosBody is the data of the page of a brew's photos.
type photosBody struct {
	ID, Name string
	Photos   page.Photos
}

// photos shows the photos of a brew, large. htmx gets the section that the record and the Cup station have.
func (s *Screens) photos(w http.ResponseWriter, r *http.Request) error {
	return s.showPhotos(w, r, http.StatusOK, "")
}

// showPhotos shows the photos with the error of a file, if there is one.
func (s *Screens) showPhotos(w http.ResponseWriter, r *http.Request, status int, fault string) error {
	sc := station.Of(r)
	if sc.Brew == nil {
		return store.ErrNotFound
	}
	photos, err := station.PhotosOf(r.Context(), s.yard, sc.ID)
	if err != nil {
		return err
	}
	body := photosBody{ID: sc.ID, Name: sc.Brew.Bag.Name, Photos: photos}
	body.Photos.Error = fault
	if removed := r.URL.Query().Get("removed"); store.ValidID(removed) {
		body.Photos.Removed = removed
	}
	if page.IsPartial(r) {
		s.Write(w, status, "photos", "photos", body.Photos)
		return nil
	}
	s.Render(w, r, status, "photos", page.Page{Title: "Photos", Side: "log", Line: page.Line(""), Body: body})
	return nil
}

// addPhoto keeps a photo of a brew.
func (s *Screens) addPhoto(w http.ResponseWriter, r *http.Request) error {
	refuse := func(sentence string) error { return s.showPhotos(w, r, http.StatusUnprocessableEntity, sentence) }
	folder, err := s.yard.Store.TempDir()
	if err != nil {
		return err
	}
	var tooLarge *http.MaxBytesError
	var disk *fs.PathError
	file, err := page.ReadUpload(r, folder, "photo")
	switch {
	case errors.As(err, &tooLarge):
		return refuse(fmt.Sprintf("A photo has at most %d MB.", photo.MaxBytes>>20))
	case errors.As(err, &disk):
		return err
	case err != nil:
		return refuse("Choose a photo first.")
	}
	defer file.Close()
	if file.File == nil {
		return refuse("Choose a photo first.")
	}
	id := station.Of(r).ID
	err = s.yard.AddPhoto(r.Context(), id, page.PersonID(r), file)
	if say := words.RefusedPhoto(err); say != "" {
		return refuse(say)
	}
	if errors.Is(err, store.ErrTooManyPhotos) {
		return refuse(fmt.Sprintf("A brew keeps at most %d photos: remove one first.", store.MaxPhotos))
	}
	if err != nil {
		return err
	}
	return page.SeeOther(w, r, "/brews/%s/photos", id)
}

// photoFile serves a photo or its thumbnail. A photo never changes under its id.
func (s *Screens) photoFile(small bool) page.Handler {
	return func(w http.ResponseWriter, r *http.Request) error {
		id, err := page.ID(r)
		if err != nil {
			return err
		}
		file, err := s.yard.Store.PhotoFile(r.Context(), id, small)
		if err != nil {
			return err
		}
		h := w.Header()
		h.Set("Content-Type", "image/jpeg")
		h.Set("Content-Length", fmt.Sprint(len(file)))
		h.Set("Cache-Control", "private, max-age=31536000, immutable")
		_, _ = w.Write(file) // an error means that the browser has gone
		return nil
	}
}

// removePhoto removes a photo, or restores it.
func (s *Screens) removePhoto(w http.ResponseWriter, r *http.Request) error {
	id, err := page.ID(r)
	if err != nil {
		return err
	}
	restore := chi.URLParam(r, "what") == "restore"
	brewID, err := s.yard.Store.RemovePhoto(r.Context(), id, restore, s.yard.Now())
	switch {
	case errors.Is(err, store.ErrTooManyPhotos):
		return page.Problem{Status: http.StatusConflict, Title: "The brew has new photos",
			Text: fmt.Sprintf("It keeps at most %d: remove one first.", store.MaxPhotos)}
	case err != nil:
		return err
	case restore:
		return page.SeeOther(w, r, "/brews/%s/photos", brewID)
	}
	return page.SeeOther(w, r, "/brews/%s/photos?removed=%s", brewID, id)
}
