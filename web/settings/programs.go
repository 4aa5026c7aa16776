package settings

import (
	"errors"
	"net/http"

	"yardbloom/store"
	"yardbloom/web/form"
	"yardbloom/web/page"
	"yardbloom/web/words"
)

// programsBody is the data of the page of programs with access to the yard.
type programsBody struct {
	Tokens []tokenView
	Name   form.Field
	Import bool   // typed: it may import
	Made   string // the text of a token that was just made
	Host   string // for the example
}

// tokenView is a token in the list.
type tokenView struct {
	ID, Name, Since, By string
	Imports             bool
}

// programs shows the tokens of programs.
func (s *Screens) programs(w http.ResponseWriter, r *http.Request) error {
	return s.showPrograms(w, r, http.StatusOK, form.New(), "")
}

func (s *Screens) showPrograms(w http.ResponseWriter, r *http.Request, status int, f *form.Form, made string) error {
	tokens, err := s.yard.Store.Tokens(r.Context())
	if err != nil {
		return err
	}
	scheme := "http://"
	if r.TLS != nil {
		scheme = "https://"
	}
	body := programsBody{Name: f.Entry("name", "Name of the program"), Import: f.Flag("imports"), Made: made, Host: scheme + r.Host}
	body.Name.Hint = "Such as “display above the bar”."
	for _, t := range tokens {
		v := tokenView{ID: t.ID, Name: t.Name, Since: words.Day(t.Added.In(s.yard.Now().Location()), s.yard.Now()), Imports: t.Imports}
		if by := page.BadgeOf(r, string(t.By)); by != nil {
			v.By = by.Name
		}
		body.Tokens = append(body.Tokens, v)
	}
	s.Render(w, r, status, "programs", page.Page{Title: "Programs", Side: "settings", Line: page.Line(""), Body: body})
	return nil
}

// addProgram makes a token and shows it once.
func (s *Screens) addProgram(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	name := f.Text("name", "The name", 60, true)
	if !f.OK() {
		return s.showPrograms(w, r, http.StatusUnprocessableEntity, f, "")
	}
	token, err := s.yard.Store.AddToken(r.Context(), name, page.PersonID(r), f.Flag("imports"), s.yard.Now())
	if errors.Is(err, store.ErrTooManyTokens) {
		f.Fail("name", "At most %d programs can have access: revoke one first.", store.MaxTokens)
		return s.showPrograms(w, r, http.StatusUnprocessableEntity, f, "")
	}
	if err != nil {
		return err
	}
	return s.showPrograms(w, r, http.StatusOK, form.New(), token)
}

// revokeProgram makes a token invalid.
func (s *Screens) revokeProgram(w http.ResponseWriter, r *http.Request) error {
	id, err := page.ID(r)
	if err == nil {
		err = s.yard.Store.RevokeToken(r.Context(), id, s.yard.Now())
	}
	if err != nil {
		return err
	}
	return page.SeeOther(w, r, "/settings/programs")
}
