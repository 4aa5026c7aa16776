package log

import (
	"io"
	"net/http"

	"yardbloom/core/brew"
	"yardbloom/exchange/table"
	"yardbloom/web/page"
	"yardbloom/web/station"
)

// Files of the log for spreadsheets.

// traceFile serves the scale readings of a brew.
func (s *Screens) traceFile(w http.ResponseWriter, r *http.Request) error {
	sc := station.Of(r)
	readings, err := s.yard.Store.Readings(r.Context(), sc.ID)
	if err != nil {
		return err
	}
	out := s.beginFile(w, r, sc.ID+".csv", table.ReadingHeaders())
	for _, x := range readings {
		if err := out.Reading(sc.ID, x); err != nil {
			return nil // the browser has gone
		}
	}
	out.Flush()
	return nil
}

// brewsFile serves the brews of the log's filter, one row each.
func (s *Screens) brewsFile(w http.ResponseWriter, r *http.Request) error {
	return s.logFile(w, r, "brews.csv", table.Headers(), func(out *table.Writer, b brew.Brew) error { return out.Brew(b) })
}

// readingsFile serves the scale readings of the brews of the log's filter, one row each.
func (s *Screens) readingsFile(w http.ResponseWriter, r *http.Request) error {
	return s.logFile(w, r, "readings.csv", table.ReadingHeaders(), func(out *table.Writer, b brew.Brew) error {
		readings, err := s.yard.Store.Readings(r.Context(), b.ID)
		for _, x := range readings {
			if err == nil {
				err = out.Reading(b.ID, x)
			}
		}
		return err
	})
}

// logFile streams a file of the brews of the log's filter. Memory does not grow with their number. A file that cannot be completed ends with
// a broken connection, so that half of it is not taken for the whole.
func (s *Screens) logFile(w http.ResponseWriter, r *http.Request, name string, headers []string, each func(*table.Writer, brew.Brew) error) error {
	f, typed, err := readFilter(r, s.yard.Now().Location())
	if err != nil {
		return err
	}
	if !typed.OK() {
		return page.Problem{Status: http.StatusUnprocessableEntity, Title: "The filter has a wrong value", Text: "Correct it in the log, then download again."}
	}
	out := s.beginFile(w, r, name, headers)
	err = s.yard.Store.EachLogged(r.Context(), f, func(b brew.Brew) error { return each(out, b) })
	if out.Flush(); err == nil {
		err = out.Error()
	}
	if err != nil {
		s.yard.Log.Warn("a file was cut off", "name", name, "err", err)
		page.CutOff()
	}
	return nil
}

// beginFile writes the head of a file, with a byte order mark if the request asks for one.
func (s *Screens) beginFile(w http.ResponseWriter, r *http.Request, name string, headers []string) *table.Writer {
	page.Attach(w, "text/csv; charset=utf-8; header=present", name)
	if r.URL.Query().Get("bom") != "" {
		_, _ = io.WriteString(w, table.BOM)
	}
	set := page.Settings(r)
	page.LeaveQueue(r)
	out := table.NewWriter(w, func(id string) string { return set.Named(id).Name })
	_ = out.Write(headers) // an error shows at the end
	return out
}
