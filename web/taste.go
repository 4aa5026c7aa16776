package web

import (
	"errors"
	"net/http"

	"yardbloom/core/brew"
	"yardbloom/core/cup"
)

// taste changes the cup of the request's brew, has the coach advise anew, and the yard learn.
func (s *Server) taste(r *http.Request, change func(c cup.Cup, version int64) (cup.Cup, error)) error {
	sc := sceneOf(r)
	path, err := s.Store.Past(r.Context(), sc.BagID, pathWeighed)
	if err != nil {
		return err
	}
	who, err := s.Store.Person(r.Context(), sc.Bag)
	if err != nil {
		return err
	}
	habits := settingsOf(r).Habits()
	who.Prefs, who.Order, who.Good = sc.prefs, habits.First, habits.Good
	s.advising.Lock() // one at a time: an advice takes all cores anyway
	defer s.advising.Unlock()
	for {
		b, err := s.Store.Brew(r.Context(), sc.ID)
		if err != nil {
			return err
		}
		c, err := change(b.Cup, b.Version)
		if err != nil {
			return err
		}
		b.Beliefs = s.teacher.Believe(b.Sheet)
		tasted, err := b.Taste(c, who, path...)
		if err != nil {
			return err
		}
		// The advice is thought out before anything is written, so that no one else waits for it.
		_, err = s.Store.Change(r.Context(), sc.ID, func(now brew.Brew) (brew.Brew, error) {
			if now.Version != b.Version {
				return now, errMeanwhile
			}
			return tasted, nil
		})
		if errors.Is(err, errMeanwhile) {
			continue
		}
		if err == nil {
			s.teacher.Learn()
		}
		return err
	}
}

// errMeanwhile says that a brew changed while its advice was thought out.
var errMeanwhile = errors.New("changed meanwhile")
