package people

import (
	"cmp"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"unicode/utf8"

	"github.com/go-chi/chi/v5"

	"yardbloom/core/person"
	"yardbloom/core/units"
	"yardbloom/store"
	"yardbloom/web/form"
	"yardbloom/web/page"
)

// peopleBody is the list of people, with the form for another one.
type peopleBody struct {
	People    []personView
	Archived  []personView
	Form      personForm
	ID        string // of the new person, so that a form sent twice adds one
	TakesOver bool   // the first person gets the records so far, unless unticked
	Yard      string // records of the yard; empty for none
	Errors    int
}

type personView struct {
	page.Badge
	Recorded string
}

// personForm holds the fields of a person.
type personForm struct {
	Name, Initials form.Field
	Marks          []form.Option
	MarkError      string
}

func (s *Screens) people(w http.ResponseWriter, r *http.Request) error {
	f := form.New()
	return s.showPeople(w, r, http.StatusOK, f)
}

func (s *Screens) showPeople(w http.ResponseWriter, r *http.Request, status int, f *form.Form) error {
	all, err := s.yard.Store.People(r.Context())
	if err != nil {
		return err
	}
	body := peopleBody{ID: cmp.Or(f.Values["id"], store.NewID()), Errors: len(f.Errors)}
	recorded, err := s.yard.Store.Recorded(r.Context())
	if err != nil {
		return err
	}
	var taken []person.Mark
	for _, p := range all {
		taken = append(taken, p.Mark)
		v := personView{page.Badge{Person: p.Person, Here: p.ID == page.PersonID(r)}, recordedText(recorded[p.ID])}
		if p.Archived {
			body.Archived = append(body.Archived, v)
		} else {
			body.People = append(body.People, v)
		}
	}
	if yard := recorded[""]; yard.Any() {
		body.Yard = recordedText(yard)
		body.TakesOver = len(all) == 0 && (f.Values["id"] == "" || f.Flag("takes_over"))
	}
	if f.Values["mark"] == "" {
		f.Values["mark"] = string(person.FreeMark(taken))
	}
	body.Form = formOf(f)
	p := page.Page{Title: "People", Side: "people", Line: page.Line(""), Body: body}
	if id := r.URL.Query().Get("archived"); store.ValidID(id) {
		p.Notice = &page.Notice{Text: "Archived. Screens that were set to this person ask again who is here.", Undo: "/people/" + id + "/restore"}
	}
	s.Render(w, r, status, "people", p)
	return nil
}

// recordedText describes records, such as "12 brews, 15 tastings".
func recordedText(r store.Recorded) string {
	if !r.Any() {
		return "nothing yet"
	}
	text := units.Plural(r.Brews, "brew") + ", " + units.Plural(r.Tastings, "tasting")
	if r.Others > 0 {
		text += fmt.Sprintf(", %d recipes, tables and practice pours", r.Others)
	}
	return text
}

func formOf(f *form.Form) personForm {
	v := personForm{Name: f.Entry("name", "Name"), Initials: f.Entry("initials", "Initials"), MarkError: f.Errors["mark"]}
	v.Initials.Hint = fmt.Sprintf("Up to %d letters. Left empty, they follow from the name.", person.MaxInitials)
	for _, m := range person.Marks() {
		v.Marks = append(v.Marks, form.Option{Value: string(m), Label: string(m), Selected: f.Values["mark"] == string(m)})
	}
	return v
}

// readPerson reads the fields of a person.
func readPerson(f *form.Form, id string) person.Person {
	name, err := person.Clean(f.Values["name"])
	switch {
	case errors.Is(err, person.ErrEmpty):
		f.Fail("name", "The name cannot be empty.")
	case errors.Is(err, person.ErrLong):
		f.Fail("name", "The name can have up to %d characters; this has %d.", person.MaxName, utf8.RuneCountInString(name))
	}
	p := person.Person{ID: id, Name: name, Mark: form.Choice(f, "mark", "the mark", person.Marks())}
	initials, err := person.Clean(f.Values["initials"])
	switch {
	case errors.Is(err, person.ErrEmpty):
		initials = person.Initials(name)
	case utf8.RuneCountInString(initials) > person.MaxInitials:
		f.Fail("initials", "The initials can have up to %d characters; these have %d.", person.MaxInitials, utf8.RuneCountInString(initials))
	}
	p.Initials = initials
	return p
}

// takenText explains that a name is taken.
func (s *Screens) takenText(r *http.Request, name string) (string, error) {
	all, err := s.yard.Store.People(r.Context())
	if err != nil {
		return "", err
	}
	if i := slices.IndexFunc(all, func(p store.Person) bool { return store.SameName(p.Name, name) }); i >= 0 && all[i].Archived {
		return fmt.Sprintf("%s is archived. Restore that person below, or add a letter.", all[i].Name), nil
	}
	return fmt.Sprintf("There is already a %s. Add a letter to distinguish them.", name), nil
}

func (s *Screens) add(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	id := f.Values["id"]
	if !store.ValidID(id) {
		id = store.NewID()
	}
	p := readPerson(f, id)
	if f.OK() {
		switch err := s.yard.Store.AddPerson(r.Context(), p, f.Flag("takes_over")); {
		case errors.Is(err, store.ErrTaken):
			text, err := s.takenText(r, p.Name)
			if err != nil {
				return err
			}
			f.Fail("name", "%s", text)
		case errors.Is(err, store.ErrFull):
			f.Fail("name", "A yard can have up to %d people. Remove an archived one first.", store.MaxPeople)
		case err != nil:
			return err
		}
	}
	if !f.OK() {
		return s.showPeople(w, r, http.StatusUnprocessableEntity, f)
	}
	return page.SeeOther(w, r, "/people")
}

// here chooses the person at the screen, or none.
func (s *Screens) here(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	id := f.Values["person"]
	if id != "" {
		if p, err := s.yard.Store.Person(r.Context(), id); err != nil || p.Archived {
			return errors.Join(err, archivedProblem(p))
		}
	}
	page.SetHere(w, id)
	return page.SeeOther(w, r, "%s", page.LocalPath(f.Values["back"]))
}

// archivedProblem returns the problem of choosing an archived person, or nil.
func archivedProblem(p store.Person) error {
	if !p.Archived {
		return nil
	}
	return page.Problem{Status: http.StatusConflict, Title: p.Name + " is archived", Text: "Choose another person, or restore this one under People."}
}

// sound stores the sound of the person at the screen. Without a person the screen alone remembers it.
func (s *Screens) sound(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	sound := form.Choice(f, "sound", "a sound", page.Sounds)
	if !f.OK() {
		return page.Problem{Status: http.StatusBadRequest, Title: "Unknown sound", Text: "Choose tones, voice or off."}
	}
	if id := page.PersonID(r); id != "" {
		if err := s.yard.Store.SaveScreen(r.Context(), id, "", sound); err != nil {
			return err
		}
	}
	w.WriteHeader(http.StatusNoContent)
	return nil
}

// assign gives everything that the yard recorded to a person.
func (s *Screens) assign(w http.ResponseWriter, r *http.Request) error {
	if err := s.yard.Store.Assign(r.Context(), chi.URLParam(r, "id")); err != nil {
		return err
	}
	return page.SeeOther(w, r, "/people")
}
