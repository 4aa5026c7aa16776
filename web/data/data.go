package data

import (
	"cmp"
	"errors"
	"fmt"
	"io/fs"
	"net/http"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"

	"yardbloom/core/coffee"
	"yardbloom/exchange/yardfile"
	"yardbloom/store"
	"yardbloom/web/form"
	"yardbloom/web/page"
	"yardbloom/web/words"
	"yardbloom/yard"
)

// dataBody is the data of the export and import page.
type dataBody struct {
	From, To form.Field
	Waiting  string // file name of the pending import
	Running  bool   // an import is running
	Problem  string // of an uploaded file
	Pasted   string // pasted text
	MaxMB    int
	Imports  []pastView
}

// pastView is an entry of the import history.
type pastView struct {
	N          int64
	Name, When string
	By, Said   string
	Others     int
}

// data shows the export and import page.
func (s *Screens) data(w http.ResponseWriter, r *http.Request) error {
	return s.show(w, r, http.StatusOK, form.New(), "")
}

func (s *Screens) show(w http.ResponseWriter, r *http.Request, status int, f *form.Form, problem string) error {
	body := dataBody{From: f.Entry("from", "From"), To: f.Entry("to", "To"), Problem: problem, Pasted: r.FormValue("pasted"), MaxMB: MaxBytes >> 20}
	body.From.Kind, body.To.Kind = "date", "date"
	if in, name := s.yard.WaitingImport(); in != nil {
		body.Waiting = name
	}
	if p := s.yard.ImportProgress(); p != nil {
		body.Running = !p.Ended
	}
	past, err := s.yard.Store.Imports(r.Context())
	if err != nil {
		return err
	}
	now := s.yard.Now()
	for _, i := range past {
		v := pastView{N: i.N, Name: i.Name, When: words.Day(i.Began.In(now.Location()), now), Others: i.Others, Said: said(i.Counts)}
		switch {
		case i.Undone:
			v.Said = "was interrupted and undone"
		case i.Open:
			v.Said = "is running"
		}
		if by := page.BadgeOf(r, i.By); by != nil {
			v.By = by.Name
		}
		body.Imports = append(body.Imports, v)
	}
	s.Render(w, r, status, "data", page.Page{Title: "Data", Side: "settings", Line: page.Line(""), Body: body})
	return nil
}

// said summarizes an import, such as "added 16 brews and 6 bags".
func said(counts []store.Count) string {
	var added, changed []string
	for _, kind := range store.RecordKinds() {
		for _, c := range counts {
			switch {
			case c.Kind == kind && c.Action == store.Add:
				added = append(added, kindNames[kind].count(c.Records))
			case c.Kind == kind && (c.Action == store.Change || c.Action == store.Delete):
				changed = append(changed, kindNames[kind].count(c.Records))
			}
		}
	}
	switch {
	case len(added) > 0 && len(changed) > 0:
		return "added " + list(added) + ", changed " + list(changed)
	case len(added) > 0:
		return "added " + list(added)
	case len(changed) > 0:
		return "changed " + list(changed)
	}
	return "changed nothing"
}

// list joins words, such as "a, b and c".
func list(all []string) string {
	if n := len(all); n > 1 {
		return strings.Join(all[:n-1], ", ") + " and " + all[n-1]
	}
	return strings.Join(all, "")
}

// kindName is the name of a kind of record.
type kindName struct{ one, many string }

func (k kindName) count(n int) string {
	if n == 1 {
		return "1 " + k.one
	}
	return fmt.Sprint(n, " ", k.many)
}

var kindNames = map[store.Kind]kindName{
	store.Persons: {"person", "people"}, store.Brewers: {"brewer", "brewers"}, store.Grinders: {"grinder", "grinders"},
	store.Kettles: {"kettle", "kettles"}, store.Waters: {"water", "waters"}, store.Bags: {"bag", "bags"}, store.Brews: {"brew", "brews"},
	store.Recipes: {"recipe", "recipes"}, store.Flights: {"tasting table", "tasting tables"}, store.Trials: {"trial", "trials"},
	store.Scripts: {"script", "scripts"}, store.Rushes: {"rush", "rushes"}, store.Tries: {"try of an exercise", "tries of exercises"},
	store.Deleted: {"deletion", "deletions"},
}

// yardFile sends a yard file.
func (s *Screens) yardFile(w http.ResponseWriter, r *http.Request) error {
	f := form.New()
	for _, name := range []string{"from", "to"} {
		f.Values[name] = r.URL.Query().Get(name)
	}
	from, to := f.Day("from", "From", false), f.Day("to", "To", false)
	if f.OK() && from != "" && to != "" && from > to {
		f.Fail("to", "The last day is before the first.")
	}
	if !f.OK() {
		return s.show(w, r, http.StatusUnprocessableEntity, f, "")
	}
	now := s.yard.Now()
	name := "yardbloom-" + now.Format(time.DateOnly)
	if from != "" || to != "" {
		name = fmt.Sprintf("yardbloom-%s-to-%s", cmp.Or(from, "start"), cmp.Or(to, "today"))
	}
	page.Attach(w, "application/zip", name+".zip")
	page.LeaveQueue(r)
	if err := yard.Export(r.Context(), s.yard.Store, w, dayOf(from, now), dayOf(to, now), now); err != nil {
		s.yard.Log.Warn("a yard file was cut off", "err", err)
		page.CutOff()
	}
	return nil
}

// dayOf returns the start of a day, or the zero time.
func dayOf(day string, now time.Time) time.Time {
	t, err := time.ParseInLocation(coffee.Day, day, now.Location())
	if err != nil {
		return time.Time{}
	}
	return t
}

// record sends one record as a JSON document.
func (s *Screens) record(w http.ResponseWriter, r *http.Request) error {
	kind, id := chi.URLParam(r, "kind"), chi.URLParam(r, "id")
	if !store.ValidID(id) {
		return store.ErrNotFound
	}
	text, err := yard.RecordFile(r.Context(), s.yard.Store, store.Kind(kind), id)
	if err != nil {
		return err
	}
	page.Attach(w, "application/json", kind+"-"+id+".json")
	_, err = w.Write(text)
	return err
}

// read stages an uploaded file or a pasted table.
func (s *Screens) read(w http.ResponseWriter, r *http.Request) error {
	refuse := func(sentence string) error {
		return s.show(w, r, http.StatusUnprocessableEntity, form.New(), sentence)
	}
	folder, err := s.yard.Store.TempDir()
	if err != nil {
		return err
	}
	var tooLarge *http.MaxBytesError
	var disk *fs.PathError
	file, err := page.ReadUpload(r, folder, "file")
	switch {
	case errors.As(err, &tooLarge):
		return refuse(fmt.Sprintf("The file has more than %d MB. Import it on the command line: yardbloom import FILE --data DIR", MaxBytes>>20))
	case errors.As(err, &disk):
		return err
	case err != nil:
		return refuse("Choose a file first.")
	}
	defer file.Close()
	pasted := r.FormValue("pasted")
	switch {
	case file.Size > 0 && isTable(file):
		return s.takeTable(w, r, file.Name, file, refuse)
	case file.Size > 0:
		return s.stage(w, r, file, refuse)
	case strings.TrimSpace(pasted) == "":
		return refuse("Choose a file first.")
	}
	return s.takeTable(w, r, "pasted table", strings.NewReader(pasted), refuse)
}

// stage stages a yard file or a record.
func (s *Screens) stage(w http.ResponseWriter, r *http.Request, file *page.Upload, refuse func(string) error) error {
	page.TakeLong(w, r)
	_, err := s.yard.StageImport(r.Context(), file.Name, file, file.Size)
	var wrong *yardfile.FileError
	switch {
	case errors.As(err, &wrong):
		return refuse(wrong.Sentence)
	case errors.Is(err, yard.ErrImporting):
		return refuse("Another import is running. Try again when it has finished.")
	case err != nil:
		return err
	}
	return page.SeeOther(w, r, "/data/import")
}
