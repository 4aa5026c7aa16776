package data

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"sync"

	"yardbloom/core/gear"
	"yardbloom/core/units"
	"yardbloom/exchange/table"
	"yardbloom/store"
	"yardbloom/web/form"
	"yardbloom/web/page"
	"yardbloom/yard"
)

// waitingTable is an uploaded table with its mapping, kept in memory until it is imported or discarded.
type waitingTable struct {
	id, name string
	sheet    table.Sheet
	reading  tableReading
}

// tableReading is a column mapping with the choices for names. It is stored by headers.
type tableReading struct {
	Mapping table.Mapping     `json:"mapping"`
	Choices yard.TableChoices `json:"choices"`
}

// tables holds the pending table.
type tables struct {
	mu      sync.Mutex
	waiting *waitingTable
}

func (t *tables) get(id string) (waitingTable, error) {
	t.mu.Lock()
	defer t.mu.Unlock()
	if t.waiting == nil || t.waiting.id != id {
		return waitingTable{}, store.ErrNotFound
	}
	return *t.waiting, nil
}

func (t *tables) put(w *waitingTable) {
	t.mu.Lock()
	defer t.mu.Unlock()
	t.waiting = w
}

// isTable reports whether a file is a table of text rather than a yard file or a record.
func isTable(file io.ReaderAt) bool {
	head := make([]byte, 64)
	n, _ := file.ReadAt(head, 0)
	text := bytes.TrimLeft(bytes.TrimPrefix(head[:n], []byte(table.BOM)), " \t\r\n")
	return !bytes.HasPrefix(text, []byte("PK")) && !bytes.HasPrefix(text, []byte("{"))
}

// takeTable parses a table and redirects to its mapping page.
func (s *Screens) takeTable(w http.ResponseWriter, r *http.Request, name string, content io.Reader, refuse func(string) error) error {
	text, err := io.ReadAll(io.LimitReader(content, table.MaxSheetBytes+1))
	if err != nil {
		return err
	}
	sheet, err := table.Parse(text)
	switch {
	case errors.Is(err, table.ErrLarge):
		return refuse(fmt.Sprintf("A table has at most %d MB, %d rows and 100 columns: split it.", table.MaxSheetBytes>>20, table.MaxRows))
	case errors.Is(err, table.ErrEmpty):
		return refuse("The table has only one row. The first row holds the names of the columns; the brews are below it.")
	case err != nil:
		return refuse("This file is neither a yard file nor a table. Save the spreadsheet as CSV, or paste its cells.")
	}
	t := &waitingTable{id: store.NewID(), name: name, sheet: sheet, reading: tableReading{Mapping: table.Guess(sheet)}}
	switch kept, err := s.yard.Store.TableMapping(r.Context(), headersOf(sheet)); {
	case err == nil:
		var before tableReading
		if json.Unmarshal([]byte(kept), &before) == nil && len(before.Mapping.Columns) == len(sheet.Headers) {
			t.reading = before
		}
	case !errors.Is(err, store.ErrNotFound):
		return err
	}
	s.tables.put(t)
	return page.SeeOther(w, r, "/data/table/%s", t.id)
}

func headersOf(s table.Sheet) string { return strings.Join(s.Headers, "\x1f") }

// tableBody is the data of the mapping page.
type tableBody struct {
	ID, Name string
	Good     string // "300 brews can be imported"
	Left     string // "12 rows cannot"
	Why      []string
	Columns  []columnView
	Rows     []rowView
	Order    form.Field
	Names    []form.Field
	Problem  string
	Ready    bool
}

// columnView is a column with its mapping.
type columnView struct {
	Header      string
	Field, Unit form.Field // Unit has no options if there is only one
}

// rowView is a row of the preview.
type rowView struct {
	Line  int
	Cells []table.Cell
	Fault string
}

// table shows the mapping page.
func (s *Screens) table(w http.ResponseWriter, r *http.Request) error {
	id, err := page.ID(r)
	if err != nil {
		return err
	}
	t, err := s.tables.get(id)
	if err != nil {
		return err
	}
	return s.showTable(w, r, http.StatusOK, t, "")
}

func (s *Screens) showTable(w http.ResponseWriter, r *http.Request, status int, t waitingTable, problem string) error {
	const previewed, explained = 8, 6
	rows := table.ReadRows(t.sheet, t.reading.Mapping, s.yard.Now())
	body := tableBody{ID: t.id, Name: t.name, Problem: problem}
	good := 0
	for i, row := range rows {
		if row.OK() {
			good++
		} else if len(body.Why) < explained {
			body.Why = append(body.Why, fmt.Sprintf("line %d: %s", row.Line, strings.Join(row.Faults, ", ")))
		}
		if i < previewed {
			body.Rows = append(body.Rows, rowView{row.Line, row.Cells, strings.Join(row.Faults, ", ")})
		}
	}
	body.Good, body.Ready = units.Plural(good, "brew")+" can be imported", good > 0
	if left := len(rows) - good; left > 0 {
		body.Left = units.Plural(left, "row") + " cannot"
		if left > explained {
			body.Why = append(body.Why, fmt.Sprintf("and %d more", left-explained))
		}
	}
	for i, header := range t.sheet.Headers {
		body.Columns = append(body.Columns, columnViewOf(i, header, t.reading.Mapping.Columns[i]))
	}
	body.Order = choice("order", "Dates such as 3/4", string(t.reading.Mapping.Order), []form.Option{{Value: string(table.DayFirst),
		Label: "day first (3 April)"},
		{Value: string(table.MonthFirst), Label: "month first (March 4)"}})
	var err error
	if body.Names, _, err = s.named(r, t, rows); err != nil {
		return err
	}
	s.Render(w, r, status, "table", page.Page{Title: "Import a table", Side: "settings", Line: page.Line(""), Body: body})
	return nil
}

// named returns a select field for each name in a table, and the choices: the stored ones, or guesses.
func (s *Screens) named(r *http.Request, t waitingTable, rows []table.Row) (fields []form.Field, choices yard.TableChoices, err error) {
	choices = yard.NewTableChoices()
	things, err := s.yard.Store.Things(r.Context())
	if err != nil {
		return nil, choices, err
	}
	bags, err := s.yard.Store.BagNames(r.Context(), maxNames)
	if err != nil {
		return nil, choices, err
	}
	for i, n := range namesOf(rows) {
		options := optionsOf(n.kind, append(things, bags...))
		chosen := t.reading.Choices.Of(n.kind)[yard.NameKey(n.name)]
		if !slices.ContainsFunc(options, func(o form.Option) bool { return o.Value == chosen }) {
			chosen = guessed(n, options)
		}
		choices.Of(n.kind)[yard.NameKey(n.name)] = chosen
		fields = append(fields, choice(fmt.Sprint("name-", i), n.name, chosen, options))
	}
	return fields, choices, nil
}

func columnViewOf(i int, header string, c table.Column) columnView {
	options := []form.Option{{Value: "", Label: "not read"}}
	for _, f := range table.Fields() {
		options = append(options, form.Option{Value: string(f.ID), Label: f.Name})
	}
	v := columnView{Header: header, Field: choice(fmt.Sprint("column-", i), header, string(c.Field), options)}
	var unitOptions []form.Option
	for _, u := range table.UnitsOf(c.Field) {
		unitOptions = append(unitOptions, form.Option{Value: string(u), Label: unitLabel(c.Field, u)})
	}
	v.Unit = choice(fmt.Sprint("unit-", i), "Unit of "+header, string(c.Unit), unitOptions)
	return v
}

func unitLabel(f table.FieldID, u table.Unit) string {
	switch {
	case u == table.Ounces:
		return "oz"
	case u == table.Fahrenheit:
		return "°F"
	case u == table.OfFive:
		return "out of 5"
	case u == table.OfHundred:
		return "out of 100"
	case f == table.Temperature:
		return "°C"
	case f == table.Mark:
		return "out of 10"
	}
	return "g"
}

// choice returns a select field.
func choice(name, label, chosen string, options []form.Option) form.Field {
	f := form.Field{Name: name, Label: label, Value: chosen, Options: slices.Clone(options)}
	for i := range f.Options {
		f.Options[i].Selected = f.Options[i].Value == chosen
	}
	return f
}

// tableName is a name of a coffee, brewer or grinder in a table.
type tableName struct{ kind, name string }

// maxNames limits the names of a kind on the page. Further ones are created.
const maxNames = 60

// namesOf returns the distinct names of coffees, brewers and grinders in rows.
func namesOf(rows []table.Row) (out []tableName) {
	seen, number := map[tableName]bool{}, map[string]int{}
	for _, r := range rows {
		if !r.OK() {
			continue
		}
		for _, n := range []tableName{{"coffee", r.Coffee}, {"brewer", r.Brewer}, {"grinder", r.Grinder}} {
			key := tableName{n.kind, yard.NameKey(n.name)}
			if n.name == "" || seen[key] || number[n.kind] == maxNames {
				continue
			}
			seen[key] = true
			number[n.kind]++
			out = append(out, n)
		}
	}
	slices.SortStableFunc(out, func(a, b tableName) int { return strings.Compare(order(a.kind), order(b.kind)) })
	return out
}

func order(kind string) string {
	return map[string]string{"coffee": "1", "brewer": "2", "grinder": "3"}[kind]
}

// optionsOf returns the options for a name of a kind.
func optionsOf(kind string, things []store.Thing) (out []form.Option) {
	switch kind {
	case "coffee":
		out = []form.Option{{Value: yard.Create, Label: "a new bag"}}
	case "brewer":
		for _, f := range gear.BrewerForms() {
			out = append(out, form.Option{Value: yard.Create + ":" + string(f.Kind), Label: "a new " + f.Name})
		}
	case "grinder":
		out = []form.Option{{Value: yard.Create, Label: "a new grinder"}}
	}
	of := map[string]string{"coffee": "bags", "brewer": "brewers", "grinder": "grinders"}[kind]
	for _, t := range things {
		if t.Kind == of {
			out = append(out, form.Option{Value: t.ID, Label: t.Name})
		}
	}
	return out
}

// guessed returns the option with the same name, or else a new thing.
func guessed(n tableName, options []form.Option) string {
	for _, o := range options {
		if yard.NameKey(o.Label) == yard.NameKey(n.name) {
			return o.Value
		}
	}
	for _, o := range options {
		if kind, found := strings.CutPrefix(o.Value, yard.Create+":"); found && kind != string(gear.OpenCone) &&
			strings.Contains(yard.NameKey(n.name), strings.Split(kind, "-")[0]) { // flat, heavy, valve
			return o.Value
		}
	}
	return options[0].Value
}

// readTable updates the mapping of a table, or stages it.
func (s *Screens) readTable(w http.ResponseWriter, r *http.Request) error {
	id, err := page.ID(r)
	if err != nil {
		return err
	}
	t, err := s.tables.get(id)
	if err != nil {
		return err
	}
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	t.reading = readingOf(f, t, namesOf(table.ReadRows(t.sheet, t.reading.Mapping, s.yard.Now())))
	s.tables.put(&t)
	if f.Values["do"] != "import" {
		return page.SeeOther(w, r, "/data/table/%s", t.id)
	}
	rows := table.ReadRows(t.sheet, t.reading.Mapping, s.yard.Now())
	_, choices, err := s.named(r, t, rows)
	if err != nil {
		return err
	}
	_, err = s.yard.StageTable(r.Context(), t.name, rows, choices, page.Settings(r))
	switch {
	case errors.Is(err, yard.ErrImporting):
		return s.showTable(w, r, http.StatusUnprocessableEntity, t, "Another import is running. Try again when it has finished.")
	case errors.Is(err, yard.ErrNoGear):
		return s.showTable(w, r, http.StatusUnprocessableEntity, t,
			"Add a brewer, a grinder and a kettle under Gear first. They are used for rows without gear.")
	case err != nil:
		return err
	}
	kept, err := json.Marshal(t.reading)
	if err == nil {
		err = s.yard.Store.SaveTableMapping(r.Context(), headersOf(t.sheet), string(kept), s.yard.Now())
	}
	if err != nil {
		return err
	}
	return page.SeeOther(w, r, "/data/import")
}

// readingOf returns the mapping in a form. names are those on the page of the form. Missing fields keep their values.
func readingOf(f *form.Form, t waitingTable, names []tableName) tableReading {
	out := tableReading{Mapping: table.Mapping{Columns: slices.Clone(t.reading.Mapping.Columns), Order: t.reading.Mapping.Order}}
	for i := range out.Mapping.Columns {
		c := &out.Mapping.Columns[i]
		if v, sent := f.Values["column-"+strconv.Itoa(i)]; sent {
			c.Field = table.FieldID(v)
		}
		if v, sent := f.Values["unit-"+strconv.Itoa(i)]; sent {
			c.Unit = table.Unit(v)
		}
		if !slices.Contains(table.UnitsOf(c.Field), c.Unit) {
			c.Unit = table.Metric
		}
	}
	if v := table.Order(f.Values["order"]); v == table.DayFirst || v == table.MonthFirst {
		out.Mapping.Order = v
	}
	out.Choices = yard.NewTableChoices()
	for i, n := range names {
		if v := f.Values["name-"+strconv.Itoa(i)]; v != "" {
			out.Choices.Of(n.kind)[yard.NameKey(n.name)] = v
		}
	}
	return out
}

// dropTable discards the pending table.
func (s *Screens) dropTable(w http.ResponseWriter, r *http.Request) error {
	s.tables.put(nil)
	return page.SeeOther(w, r, "/data")
}
