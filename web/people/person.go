package people

import (
	"errors"
	"net/http"
	"os"
	"time"

	"github.com/go-chi/chi/v5"

	"yardbloom/store"
	"yardbloom/web/form"
	"yardbloom/web/page"
)

// personBody is the page of one person.
type personBody struct {
	page.Badge
	Form     personForm
	Version  int64
	Theirs   string // saved by another window meanwhile
	Archived bool
	Recorded string
	Errors   int
}

func (s *Screens) person(w http.ResponseWriter, r *http.Request) error {
	p, err := s.of(r)
	if err != nil {
		return err
	}
	return s.showPerson(w, r, http.StatusOK, p, fill(p), "")
}

// of returns the person of a request.
func (s *Screens) of(r *http.Request) (store.Person, error) {
	id, err := page.ID(r)
	if err != nil {
		return store.Person{}, err
	}
	return s.yard.Store.Person(r.Context(), id)
}

func fill(p store.Person) *form.Form {
	f := form.New()
	f.Values = map[string]string{"name": p.Name, "initials": p.Initials, "mark": string(p.Mark)}
	return f
}

func (s *Screens) showPerson(w http.ResponseWriter, r *http.Request, status int, p store.Person, f *form.Form, theirs string) error {
	recorded, err := s.yard.Store.Recorded(r.Context())
	if err != nil {
		return err
	}
	body := personBody{Badge: page.Badge{Person: p.Person, Here: p.ID == page.PersonID(r)}, Form: formOf(f), Version: p.Version,
		Theirs: theirs, Archived: p.Archived, Recorded: recordedText(recorded[p.ID]), Errors: len(f.Errors)}
	if theirs == "" {
		body.Version = f.VersionOr(p.Version)
	}
	s.Render(w, r, status, "person", page.Page{Title: p.Name, Side: "people", Line: page.Line(""), Body: body})
	return nil
}

// change stores the name, the initials and the mark of a person.
func (s *Screens) change(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	p, err := s.of(r)
	if err != nil {
		return err
	}
	f.FillMissing(fill(p), "")
	changed := readPerson(f, p.ID)
	if f.OK() {
		switch err := s.yard.Store.ChangePerson(r.Context(), changed, f.Version()); {
		case errors.Is(err, store.ErrConflict):
			now, err := s.of(r)
			if err != nil {
				return err
			}
			return s.showPerson(w, r, http.StatusConflict, now, f, now.Name+", "+now.Initials+", "+string(now.Mark))
		case errors.Is(err, store.ErrTaken):
			text, err := s.takenText(r, changed.Name)
			if err != nil {
				return err
			}
			f.Fail("name", "%s", text)
		case err != nil:
			return err
		}
	}
	if !f.OK() {
		return s.showPerson(w, r, http.StatusUnprocessableEntity, p, f, "")
	}
	return page.SeeOther(w, r, "/people")
}

// archive archives a person, or restores them.
func (s *Screens) archive(w http.ResponseWriter, r *http.Request) error {
	p, err := s.of(r)
	if err != nil {
		return err
	}
	archived := chi.URLParam(r, "action") == "archive"
	if err := s.yard.Store.ArchivePerson(r.Context(), p.ID, archived, s.yard.Now()); err != nil {
		return err
	}
	if archived {
		return page.SeeOther(w, r, "/people?archived=%s", p.ID)
	}
	return page.SeeOther(w, r, "/people")
}

// confirmRemoval shows what removing a person erases.
func (s *Screens) confirmRemoval(w http.ResponseWriter, r *http.Request) error {
	p, err := s.of(r)
	if err != nil {
		return err
	}
	recorded, err := s.yard.Store.Recorded(r.Context())
	if err != nil {
		return err
	}
	body := personBody{Badge: page.Badge{Person: p.Person}, Recorded: recordedText(recorded[p.ID])}
	s.Render(w, r, http.StatusOK, "remove", page.Page{Title: "Remove " + p.Name, Side: "people", Line: page.Line(""), Body: body})
	return nil
}

// remove erases a person with their tastings.
func (s *Screens) remove(w http.ResponseWriter, r *http.Request) error {
	p, err := s.of(r)
	if err != nil {
		return err
	}
	if err := s.yard.Store.RemovePerson(r.Context(), p.ID); err != nil {
		return err
	}
	if page.Here(r) == p.ID {
		page.SetHere(w, "")
	}
	return page.SeeOther(w, r, "/people")
}

// export writes everything that is kept about a person as a file.
func (s *Screens) export(w http.ResponseWriter, r *http.Request) error {
	p, err := s.of(r)
	if err != nil {
		return err
	}
	temporary, err := s.yard.Store.TempDir()
	if err != nil {
		return err
	}
	file, err := os.CreateTemp(temporary, "person-*.json") // an error is known before the answer begins
	if err != nil {
		return err
	}
	defer os.Remove(file.Name())
	defer file.Close()
	if err := s.yard.ExportPerson(r.Context(), p, file); err != nil {
		return err
	}
	page.Attach(w, "application/json", "person.json")
	http.ServeContent(w, r, "", time.Time{}, file)
	return nil
}

// nameBrew changes who brewed or who tasted a brew.
func (s *Screens) nameBrew(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	id, err := page.ID(r)
	if err != nil {
		return err
	}
	if by, sent := f.Values["brewed_by"]; sent {
		if err := s.yard.Store.SetBrewer(r.Context(), id, by); err != nil {
			return err
		}
	}
	if to, sent := f.Values["taster"]; sent && to != f.Values["from"] {
		err := s.yard.MoveTasting(r.Context(), id, f.Values["from"], to, page.Settings(r))
		if errors.Is(err, store.ErrTaken) {
			return page.Problem{Status: http.StatusConflict, Title: page.NameOf(r, to) + " has tasted this brew too",
				Text: "One person has one tasting of a brew. Both stay as they are."}
		}
		if err != nil {
			return err
		}
	}
	s.yard.Hub.Notify(id)
	return page.SeeOther(w, r, "%s", page.LocalPath(f.Values["back"]))
}
