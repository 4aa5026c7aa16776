package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"yardbloom/core/trace"
	"yardbloom/store/document"
)

// Yards exchange records as JSON documents, one per record. A document has the kind of its record and the version of its format;
// exchange/schema has a JSON Schema for each kind. The document of a record is the same in every yard, byte for byte.

// The format of the documents, and the version of it that this package writes.
const (
	RecordFormat  = "yardbloom-record"
	RecordVersion = 1
)

// record defines the documents of one kind of record.
type record struct {
	kind   Kind
	table  string
	where  string   // condition on the rows
	when   string   // column of the time; a kind without one is part of every date range
	fields []string // in document order, after id and revision; see field
	lists  []recordList
	hidden string // column that hides a record from lists
}

// recordList defines a list inside a document: the rows of a child table.
type recordList struct {
	name, table, column, order string
	fields                     []string
}

// The kinds of records, in addition to those of documents.
const (
	Persons  Kind = "person"
	Brewers  Kind = "brewer"
	Grinders Kind = "grinder"
	Kettles  Kind = "kettle"
	Waters   Kind = "water"
	Bags     Kind = "bag"
	Recipes  Kind = "recipe"
	Deleted  Kind = "deletion"
)

// records defines all kinds in export order. Each kind follows the kinds it refers to.
var records = []record{
	{kind: Persons, table: "people", hidden: "archived_at", fields: []string{"name", "initials", "mark", "ounces?", "fahrenheit?", "theme", "sound",
		"habits{}", "place=added", "archived_at"}},
	{kind: Brewers, table: "brewers", hidden: "deleted_at", fields: []string{"name", "shape=kind", "material", "filter", "holds_g=holds", "ribs", "outlets",
		"place=added", "deleted_at"}},
	{kind: Grinders, table: "grinders", hidden: "deleted_at", fields: []string{"name", "burrs", "dial=dial_kind", "zero_um=dial_zero", "step_um=dial_step",
		"mark=dial_mark", "per_turn=dial_per_turn", "loss_g=loss", "times_zeroed=zeroed", "place=added", "deleted_at"}},
	{kind: Kettles, table: "kettles", hidden: "deleted_at", fields: []string{"name", "thermostat?", "capacity_g=capacity", "spout_g_s=spout",
		"cooling_water_g=read_water", "cooling_first_c=read_first", "cooling_second_c=read_second", "cooling_apart_s=read_apart", "place=added",
		"deleted_at"}},
	{kind: Waters, table: "waters", hidden: "deleted_at", fields: []string{"name", "source", "hardness_mg_l=hardness", "alkalinity_mg_l=alkalinity",
		"calcium_mg_l=calcium", "magnesium_mg_l=magnesium", "bicarbonate_mg_l=bicarbonate", "known?", "place=added", "deleted_at"}},
	{kind: Bags, table: "bags", hidden: "deleted_at", fields: []string{"name", "roaster", "process", "roast", "variety", "altitude_m=altitude",
		"density_g_l=density", "roasted_on", "opened_on", "weight_g=weight", "counted_g=counted", "counted_at", "frozen_on", "frozen_days",
		"portion_of=origin", "price_minor=price", "currency", "notes", "when_fast", "when_slow", "window_from_s=window_from",
		"window_to_s=window_to", "deleted_at"}},
	{kind: Brews, table: "brews", where: "status <> 'running'", when: "started_at", fields: []string{"bag=bag_id", "parent=parent_id", "status",
		"started_at", "zone", "created_at", "ended_at", "brewed_by", "measured_by", "coffee_name=bag_name", "style", "brewer=brewer_id", "brewer_name",
		"setting", "dose_g=dose", "water_g=water", "temperature_c=temperature", "used_g=dose_used", "drawdown_s=drawdown", "beverage_g=beverage",
		"tds_percent=tds", "ey_percent=yield", "ey_standard_error=yield_error", "recipe{}", "coffee{}", "gear{}", "plan{}", "forecast{}", "asked{}",
		"cup{}"},
		lists: []recordList{
			{"events", "brew_events", "brew_id", "n", []string{"n", "key", "kind", "at_s=at", "instant", "mark", "grams", "plan{}", "note", "by", "start",
				"stage", "undoes", "celsius", "basis"}},
			{"tastings", "tastings", "brew_id", "rowid", []string{"taster", "mark=overall", "cup{}", "advice{}"}},
			{"corrections", "corrections", "brew_id", "n", []string{"what", "was", "taster", "by", "at"}},
			{"verdicts", "verdicts", "brew_id", "verdict", []string{"verdict"}},
		}},
	{kind: Recipes, table: "recipes", where: "name <> ''", when: "changed_at", hidden: "deleted_at", fields: []string{"bag=bag_id", "parent=parent_id",
		"name", "number", "code", "favourite?", "forked", "brewer=brewer_id", "grinder=grinder_id", "kettle=kettle_id", "water=water_id", "recipe{}",
		"asked{}", "draft{}", "created_at", "changed_at", "zone", "by", "deleted_at"},
		lists: []recordList{{"versions", "recipe_versions", "recipe_id", "number", []string{"number", "recipe{}", "gear{}", "said", "kept_at", "by"}}}},
	documentRecord(Flights), documentRecord(Trials), documentRecord(Scripts), documentRecord(Rushes), documentRecord(Tries),
	{kind: Deleted, table: "removed", when: "removed_at", fields: []string{"of=kind", "removed_at"}},
}

func documentRecord(kind Kind) record {
	return record{kind: kind, table: "documents", where: "kind = '" + string(kind) + "'", when: "created_at", hidden: "deleted_at",
		fields: []string{"doc{}", "created_at", "by", "deleted_at"}}
}

// RecordKinds returns the kinds of records in export order.
func RecordKinds() []Kind {
	out := make([]Kind, len(records))
	for i, r := range records {
		out[i] = r.kind
	}
	return out
}

func recordOf(kind Kind) *record {
	for i := range records {
		if records[i].kind == kind {
			return &records[i]
		}
	}
	return nil
}

// field is a parsed field definition: "name=column", or one word for both. The suffix ? marks a boolean, {} an embedded document.
type field struct {
	name, column    string
	truth, embedded bool
}

func fieldOf(text string) field {
	var f field
	text, f.truth = strings.CutSuffix(text, "?")
	text, f.embedded = strings.CutSuffix(text, "{}")
	var other bool
	if f.name, f.column, other = strings.Cut(text, "="); !other {
		f.column = f.name
	}
	return f
}

// written returns the SQL that writes the field.
func (f field) written() string {
	switch {
	case f.truth:
		return fmt.Sprintf(`'%s', json(iif("%s", 'true', 'false'))`, f.name, f.column)
	case f.embedded:
		return fmt.Sprintf(`'%s', json("%s")`, f.name, f.column)
	}
	return fmt.Sprintf(`'%s', "%s"`, f.name, f.column)
}

// read returns the SQL that reads the field from a document. A reference to a missing person or brew becomes NULL, unless the record is staged.
func (f field) read(doc string, staged bool) string {
	get := "->>"
	if f.embedded {
		get = "->"
	}
	value := fmt.Sprintf(`%s %s '$.%s'`, doc, get, f.name)
	if of := referenced[f.column]; of != "" && !staged {
		return fmt.Sprintf(`(SELECT id FROM %s WHERE id = %s)`, of, value)
	}
	return value
}

// object returns the SQL of a JSON object with some fields.
func object(head string, fields []string) string {
	parts := []string{}
	if head != "" {
		parts = append(parts, head)
	}
	for _, f := range fields {
		parts = append(parts, fieldOf(f).written())
	}
	return "json_object(" + strings.Join(parts, ", ") + ")"
}

func (r record) revision() string {
	if r.kind == Deleted {
		return "revision"
	}
	return "version"
}

// document returns the SQL expression for the document of a record.
func (r record) document() string {
	head := fmt.Sprintf(`'format', '%s', 'kind', '%s', 'version', %d, 'id', o.id, 'revision', %s`, RecordFormat, r.kind, RecordVersion, r.revision())
	if r.kind == Brews {
		head += `, 'recipe_name', COALESCE((SELECT recipe FROM entries WHERE brew_id = o.id), ''),
			'readings', (SELECT COALESCE(SUM(json_array_length(readings)), 0) FROM brew_readings WHERE brew_id = o.id),
			'photos', json((SELECT json_group_array(json_object('id', id, 'added_at', added_at, 'by', by) ORDER BY added_at, id)
				FROM photos WHERE brew_id = o.id AND removed_at IS NULL))`
	}
	parts := []string{object(head, r.fields)}
	for _, l := range r.lists {
		parts = append(parts, fmt.Sprintf(`'$.%s', json((SELECT json_group_array(%s ORDER BY %s) FROM %s WHERE %s = o.id))`, l.name,
			object("", l.fields), l.order, l.table, l.column))
	}
	if len(parts) == 1 {
		return parts[0]
	}
	return "json_set(" + strings.Join(parts, ", ") + ")"
}

// condition returns the SQL condition on the rows.
func (r record) condition() string {
	if r.where == "" {
		return "true"
	}
	return r.where
}

// A Document is a record as JSON.
type Document struct {
	Kind     Kind
	ID       string
	Revision int64
	Month    string // of the time in UTC, such as 2026-11; empty for kinds without a time
	Text     string // one line
}

type documentText struct {
	ID       string `db:"id"`
	Revision int64  `db:"revision"`
	At       string `db:"at"`
	Text     string `db:"text"`
}

func (r record) time() string {
	if r.when == "" {
		return "''"
	}
	return r.when
}

// transferStep is the number of records in memory during an export.
const transferStep = 100

// EachRecord calls each for all records of a kind, ordered by time, then by id. from (inclusive) and to (exclusive) limit the time; kinds
// without a time ignore them. Running brews are omitted.
func (s *Store) EachRecord(ctx context.Context, kind Kind, from, to time.Time, each func(Document) error) error {
	r := recordOf(kind)
	if r == nil {
		return ErrNotFound
	}
	low, high := "", "~"
	if !from.IsZero() && r.when != "" {
		low = from.UTC().Format(instantLayout)
	}
	if !to.IsZero() && r.when != "" {
		high = to.UTC().Format(instantLayout)
	}
	after := ""
	for {
		var rows []documentText
		if err := s.read.all(ctx, &rows, fmt.Sprintf(`SELECT id, %s AS revision, %s AS at, %s AS text FROM %s o
			WHERE %s AND (%[2]s, id) > (?1, ?2) AND %[2]s >= ?3 AND %[2]s < ?4 ORDER BY 3, id LIMIT ?5`,
			r.revision(), r.time(), r.document(), r.table, r.condition()), low, after, low, high, transferStep); err != nil {
			return err
		}
		for _, row := range rows {
			d := Document{Kind: kind, ID: row.ID, Revision: row.Revision, Text: row.Text}
			if r.when != "" {
				d.Month = row.At[:len("2006-01")]
			}
			if err := each(d); err != nil {
				return err
			}
		}
		if len(rows) < transferStep {
			return nil
		}
		low, after = rows[len(rows)-1].At, rows[len(rows)-1].ID
	}
}

// DocumentOf returns one record, or ErrNotFound.
func (s *Store) DocumentOf(ctx context.Context, kind Kind, id string) (Document, error) {
	found, err := documentsOf(ctx, s.read, kind, []string{id})
	if err == nil && len(found) == 0 {
		err = ErrNotFound
	}
	if err != nil {
		return Document{}, err
	}
	return found[id], nil
}

// documentsOf returns the existing records among some ids.
func documentsOf(ctx context.Context, q querier, kind Kind, ids []string) (map[string]Document, error) {
	r := recordOf(kind)
	if r == nil {
		return nil, ErrNotFound
	}
	list, err := json.Marshal(ids)
	if err != nil {
		return nil, err
	}
	var rows []documentText
	if err := q.all(ctx, &rows, fmt.Sprintf(`SELECT id, %s AS revision, '' AS at, %s AS text FROM %s o
		WHERE %s AND id IN (SELECT value FROM json_each(?))`, r.revision(), r.document(), r.table, r.condition()), string(list)); err != nil {
		return nil, err
	}
	out := make(map[string]Document, len(rows))
	for _, row := range rows {
		out[row.ID] = Document{Kind: kind, ID: row.ID, Revision: row.Revision, Text: row.Text}
	}
	return out, nil
}

// EachTrace calls each for the readings of every brew with a trace, in the order of EachRecord.
func (s *Store) EachTrace(ctx context.Context, from, to time.Time, each func(month, brewID string, readings []trace.Reading) error) error {
	low, high, after := from.UTC().Format(instantLayout), "~", ""
	if !to.IsZero() {
		high = to.UTC().Format(instantLayout)
	}
	for {
		var rows []struct {
			ID string `db:"id"`
			At string `db:"started_at"`
		}
		if err := s.read.all(ctx, &rows, `SELECT id, started_at FROM brews b WHERE (started_at, id) > (?1, ?2) AND started_at < ?3 AND
			status <> 'running' AND EXISTS (SELECT 1 FROM brew_readings WHERE brew_id = b.id) ORDER BY started_at, id LIMIT ?4`,
			low, after, high, transferStep); err != nil {
			return err
		}
		for _, row := range rows {
			readings, err := storedReadings(ctx, s.read, row.ID)
			if err == nil {
				err = each(row.At[:len("2006-01")], row.ID, readings)
			}
			if err != nil {
				return err
			}
		}
		if len(rows) < transferStep {
			return nil
		}
		low, after = rows[len(rows)-1].At, rows[len(rows)-1].ID
	}
}

// EachPhoto calls each for the photos of brews, as JPEG, in the order of EachRecord.
func (s *Store) EachPhoto(ctx context.Context, from, to time.Time, each func(id string, jpeg []byte) error) error {
	low, high := from.UTC().Format(instantLayout), "~"
	if !to.IsZero() {
		high = to.UTC().Format(instantLayout)
	}
	var ids []string
	if err := s.read.all(ctx, &ids, `SELECT p.id FROM photos p JOIN brews b ON b.id = p.brew_id WHERE p.removed_at IS NULL AND
		b.status <> 'running' AND b.started_at >= ? AND b.started_at < ? ORDER BY b.started_at, b.id, p.added_at, p.id`, low, high); err != nil {
		return err
	}
	for _, id := range ids {
		file, err := s.PhotoFile(ctx, id, false)
		if errors.Is(err, ErrNotFound) { // removed in between
			continue
		}
		if err == nil {
			err = each(id, file)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

// storedReadings returns the readings of a brew as stored. Their times do not include later corrections of the start.
func storedReadings(ctx context.Context, q querier, brewID string) (out []trace.Reading, err error) {
	var parts []column[document.Trace]
	if err := q.all(ctx, &parts, `SELECT readings FROM brew_readings WHERE brew_id = ? ORDER BY n`, brewID); err != nil {
		return nil, err
	}
	for _, part := range parts {
		out = append(out, part.V.Core()...)
	}
	return out, nil
}

// putRecord inserts or replaces a record. importN is the number of the import that adds a brew. Values that violate a constraint of the
// tables, such as a missing bag, are errors. A staged record keeps references to records outside its yard.
func putRecord(ctx context.Context, t *tx, d Document, importN int64, staged bool) error {
	kind, id, text := d.Kind, d.ID, d.Text
	r := recordOf(kind)
	if r == nil || r.kind == Deleted {
		return ErrNotFound
	}
	names, values, updates := []string{"id", "version"}, []string{`?1 ->> '$.id'`, `?1 ->> '$.revision'`}, []string{"version = excluded.version"}
	for _, text := range r.fields {
		f := fieldOf(text)
		names, values = append(names, `"`+f.column+`"`), append(values, f.read("?1", staged))
		updates = append(updates, fmt.Sprintf(`"%[1]s" = excluded."%[1]s"`, f.column))
	}
	args := []any{text}
	switch {
	case kind == Brews:
		names, values = append(names, "import"), append(values, "?2")
		args = append(args, importN)
	case kind == Persons: // people of different yards may share a name
		names, updates = append(names, "name_key"), append(updates, "name_key = excluded.name_key")
		values = append(values, `iif(EXISTS (SELECT 1 FROM people WHERE name_key = ?2 AND id <> ?1 ->> '$.id'), ?2 || ' ' || (?1 ->> '$.id'), ?2)`)
		var name struct{ Name string }
		if err := json.Unmarshal([]byte(text), &name); err != nil {
			return err
		}
		args = append(args, nameKey(name.Name))
	case r.table == "documents":
		names, values = append(names, "kind"), append(values, "?2")
		args = append(args, string(kind))
	}
	statements := []statement{}
	if kind == Brews {
		statements = append(statements, statement{`DELETE FROM brews WHERE id = ?`, []any{id}})
	}
	for _, l := range r.lists {
		statements = append([]statement{{fmt.Sprintf(`DELETE FROM %s WHERE %s = ?`, l.table, l.column), []any{id}}}, statements...)
	}
	if kind == Recipes { // a code that is taken is dropped
		for i, name := range names {
			if name == `"code"` {
				values[i] = `iif(EXISTS (SELECT 1 FROM recipes WHERE code = ?1 ->> '$.code' AND id <> ?1 ->> '$.id'), '', ?1 ->> '$.code')`
			}
		}
	}
	insert := fmt.Sprintf(`INSERT INTO %s (%s) SELECT %s WHERE true ON CONFLICT (id) DO UPDATE SET %s`, r.table, strings.Join(names, ", "),
		strings.Join(values, ", "), strings.Join(updates, ", "))
	statements = append(statements, statement{insert, args})
	for _, l := range r.lists {
		statements = append(statements, statement{l.insert(staged), []any{id, text}})
	}
	if kind == Brews {
		statements = append(statements, statement{`UPDATE entries SET recipe = COALESCE(?2 ->> '$.recipe_name', '') WHERE brew_id = ?1`, []any{id, text}})
	}
	return t.doAll(ctx, statements)
}

// insert returns the SQL that inserts the list of a document. Tastings by missing people are dropped.
func (l recordList) insert(staged bool) string {
	names, values, where := []string{l.column}, []string{"?1"}, "true"
	for _, text := range l.fields {
		f := fieldOf(text)
		names, values = append(names, `"`+f.column+`"`), append(values, f.read("e.value", staged))
		if f.column == "taster" && !staged {
			where = `(e.value ->> '$.taster' IS NULL OR EXISTS (SELECT 1 FROM people WHERE id = e.value ->> '$.taster'))`
		}
	}
	return fmt.Sprintf(`INSERT INTO %s (%s) SELECT %s FROM json_each(?2, '$.%s') e WHERE %s ORDER BY e.key`, l.table, strings.Join(names, ", "),
		strings.Join(values, ", "), l.name, where)
}
