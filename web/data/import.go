package data

import (
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"yardbloom/core/units"
	"yardbloom/store"
	"yardbloom/web/page"
	"yardbloom/web/words"
	"yardbloom/yard"
)

// importBody is the data of the review page.
type importBody struct {
	ID, Name string
	Made     string // creation date and range
	Columns  []string
	Rows     []countRow
	Refused  []string
	Versions []string // conflicts
	// Incomplete are records that are added without a record that they refer to.
	Incomplete []string
	Button     string // empty: no changes
	Progress   *progressView
}

// countRow is a row of the table: one kind of record.
type countRow struct {
	Name  string
	Cells []string
}

// progressView is the progress of an import.
type progressView struct {
	Name       string
	Done, All  int
	Ended, Bad bool
}

// actionName is the name of an action in the table.
type actionName struct {
	action store.Action
	name   string
}

// actionNames holds the column heads of the table.
var actionNames = []actionName{{store.Add, "new"}, {store.Change, "updated"}, {store.Keep, "conflicting"}, {store.Delete, "deleted"}, {store.Same, "unchanged"},
	{store.Refused, "rejected"}}

// waiting shows the pending import, or the progress of a running one.
func (s *Screens) waiting(w http.ResponseWriter, r *http.Request) error {
	in, name := s.yard.WaitingImport()
	state := s.yard.ImportProgress()
	if in == nil && state == nil {
		return page.SeeOther(w, r, "/data")
	}
	var body importBody
	if in == nil {
		body.Name = state.Name
		body.Progress = &progressView{state.Name, state.Done, max(1, state.All), state.Ended, state.Err != nil}
		if page.IsPartial(r) {
			s.Write(w, http.StatusOK, "import", "progress", body.Progress)
			return nil
		}
	} else {
		var err error
		if body, err = s.planned(r, in, name); err != nil {
			return err
		}
	}
	s.Render(w, r, http.StatusOK, "import", page.Page{Title: "Import", Side: "settings", Line: page.Line(""), Body: body})
	return nil
}

func (s *Screens) planned(r *http.Request, in *yard.Import, name string) (importBody, error) {
	now := s.yard.Now()
	body := importBody{ID: in.ID(), Name: name}
	if !in.MadeAt.IsZero() {
		body.Made = "made " + words.Day(in.MadeAt.In(now.Location()), now)
	}
	switch {
	case in.From != "" && in.To != "":
		body.Made += ", with the brews from " + in.From + " to " + in.To
	case in.From != "":
		body.Made += ", with the brews from " + in.From + " on"
	case in.To != "":
		body.Made += ", with the brews up to " + in.To
	}
	used := slices.DeleteFunc(slices.Clone(actionNames), func(a actionName) bool { return in.Number(a.action) == 0 })
	for _, a := range used {
		body.Columns = append(body.Columns, a.name)
	}
	for _, kind := range store.RecordKinds() {
		row, any := countRow{Name: kindNames[kind].many}, false
		for _, a := range used {
			n := 0
			for _, c := range in.Counts {
				if c.Kind == kind && c.Action == a.action {
					n = c.Records
				}
			}
			any = any || n > 0
			row.Cells = append(row.Cells, map[bool]string{true: strconv.Itoa(n)}[n > 0])
		}
		if any {
			body.Rows = append(body.Rows, row)
		}
	}
	for _, d := range in.Refused {
		body.Refused = append(body.Refused, fmt.Sprintf("%s %s: %s", kindNames[d.Kind].one, d.ID, d.Why))
	}
	const most = 50
	for _, l := range []struct {
		of   store.Action
		into *[]string
	}{{store.Add, &body.Incomplete}, {store.Change, &body.Versions}, {store.Keep, &body.Versions}} {
		list, err := in.Decisions(r.Context(), l.of, most)
		if err != nil {
			return body, err
		}
		for _, d := range list {
			*l.into = append(*l.into, fmt.Sprintf("%s %s: %s", kindNames[d.Kind].one, d.ID, d.Why))
		}
	}
	if in.Changes() {
		body.Button = "Import " + units.Plural(in.Pending(), "record")
	}
	return body, nil
}

// apply starts the pending import.
func (s *Screens) apply(w http.ResponseWriter, r *http.Request) error {
	id, err := page.ID(r)
	if err == nil {
		err = s.yard.ApplyImport(id, page.PersonID(r))
	}
	if errors.Is(err, yard.ErrImporting) {
		return page.SeeOther(w, r, "/data")
	}
	if err != nil {
		return err
	}
	return page.SeeOther(w, r, "/data/import")
}

// drop discards the pending import.
func (s *Screens) drop(w http.ResponseWriter, r *http.Request) error {
	id, err := page.ID(r)
	if err == nil {
		err = s.yard.DropImport(id)
	}
	if err != nil {
		return err
	}
	return page.SeeOther(w, r, "/data")
}

// pastBody is the data of the page of conflicting versions.
type pastBody struct {
	Versions []versionView
}

// versionView is a conflicting version with its differences.
type versionView struct {
	Title, Href string
	Which       string
	Differs     []differenceRow
}

// differenceRow is a field in which two versions differ.
type differenceRow struct{ Name, Now, Then string }

// past shows the conflicting versions of an import.
func (s *Screens) past(w http.ResponseWriter, r *http.Request) error {
	n, err := strconv.ParseInt(chi.URLParam(r, "n"), 10, 64)
	if err != nil {
		return store.ErrNotFound
	}
	found, err := s.yard.Store.VersionsOf(r.Context(), n)
	if err != nil {
		return err
	}
	if len(found) == 0 {
		return store.ErrNotFound
	}
	var body pastBody
	for _, v := range found {
		view, err := s.versionView(r, v)
		if err != nil {
			return err
		}
		body.Versions = append(body.Versions, view)
	}
	s.Render(w, r, http.StatusOK, "past", page.Page{Title: "Other versions", Side: "settings", Line: page.Line(""), Body: body})
	return nil
}

func (s *Screens) versionView(r *http.Request, v store.OtherVersion) (versionView, error) {
	now := s.yard.Now()
	when := words.Day(v.When.In(now.Location()), now)
	out := versionView{Which: fmt.Sprintf("of %s, imported %s", v.Import, when)}
	if v.Ours {
		out.Which = fmt.Sprintf("as it was here until %s was imported %s", v.Import, when)
	}
	current, err := s.yard.Store.DocumentOf(r.Context(), v.Kind, v.ID)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return out, err
	}
	var here, there map[string]any
	if err := json.Unmarshal([]byte(v.Text), &there); err != nil {
		return out, err
	}
	if current.Text != "" {
		if err := json.Unmarshal([]byte(current.Text), &here); err != nil {
			return out, err
		}
	}
	name := kindNames[v.Kind].one
	out.Title = strings.ToUpper(name[:1]) + name[1:]
	for _, field := range []string{"coffee_name", "name"} {
		if name, _ := there[field].(string); name != "" {
			out.Title += " " + name
			break
		}
	}
	if pages := map[store.Kind]string{store.Brews: "/brews/", store.Bags: "/bags/", store.Trials: "/trials/", store.Persons: "/people/"}; here != nil {
		if at := pages[v.Kind]; at != "" {
			out.Href = at + v.ID
		}
	}
	out.Differs = differences(here, there)
	return out, nil
}

// differences returns the values in which two documents differ, by their paths, such as tastings[0].mark.
func differences(here, there map[string]any) []differenceRow {
	now, then := map[string]string{}, map[string]string{}
	flatten("", here, now)
	flatten("", there, then)
	paths := map[string]bool{}
	for path := range maps.Keys(now) {
		paths[path] = now[path] != then[path]
	}
	for path := range maps.Keys(then) {
		paths[path] = now[path] != then[path]
	}
	var out []differenceRow
	for _, path := range slices.Sorted(maps.Keys(paths)) {
		if paths[path] {
			out = append(out, differenceRow{path, now[path], then[path]})
		}
	}
	const most = 12
	if rest := len(out) - most; rest > 0 {
		out = append(out[:most], differenceRow{Name: units.Plural(rest, "more value")})
	}
	return out
}

// flatten adds the values of a JSON document by their paths.
func flatten(path string, value any, out map[string]string) {
	switch v := value.(type) {
	case map[string]any:
		for name, x := range v {
			flatten(strings.TrimPrefix(path+"."+name, "."), x, out)
		}
	case []any:
		for i, x := range v {
			flatten(fmt.Sprintf("%s[%d]", path, i), x, out)
		}
	case nil:
	default:
		const most = 60
		text := []rune(fmt.Sprint(v))
		if len(text) > most {
			text = append(text[:most], '…')
		}
		out[path] = string(text)
	}
}
