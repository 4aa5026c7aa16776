package store

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"time"
)

// Restorable is the time in which a deleted record can be restored.
const Restorable = 30 * 24 * time.Hour

// The kinds of deleted records; Flights, Trials and Scripts are the others.
const Brews Kind = "brew"

// A Removal is a deleted record.
type Removal struct {
	ID   string
	Kind Kind
	Name string
	By   string // id of a person; empty: the yard
	At   time.Time
}

// A part is a table with rows of a record.
type part struct{ table, column string }

// partsOf lists the tables of each kind of record, in the order in which they are restored.
var partsOf = map[Kind][]part{
	Brews: {{"brews", "id"}, {"brew_events", "brew_id"}, {"brew_readings", "brew_id"}, {"tastings", "brew_id"}, {"verdicts", "brew_id"},
		{"corrections", "brew_id"}},
	Flights: {{"documents", "id"}}, Trials: {{"documents", "id"}}, Scripts: {{"documents", "id"}},
}

// contents is the stored form of a deleted record.
type contents struct {
	Tables []tableRows `json:"tables"`
	// Children are the rows that had this brew as their parent. Until it is restored they have its parent.
	Children []childRow `json:"children,omitempty"`
	Recipe   string     `json:"recipe,omitempty"` // name in the log
}

type tableRows struct {
	Table string            `json:"table"`
	Rows  []json.RawMessage `json:"rows"`
}

type childRow struct {
	Table string `json:"table" db:"tab"`
	ID    string `json:"id" db:"id"`
}

// Remove deletes a brew or a document of a kind. Everything that belongs to it is kept for Restore. It returns ErrNotFound if there is
// none, and ErrRunning for a brew that is being poured.
func (s *Store) Remove(ctx context.Context, kind Kind, id, by string, now time.Time) error {
	return s.transact(ctx, func(t *tx) error {
		if partsOf[kind] == nil {
			return ErrNotFound
		}
		name, err := nameOf(ctx, t, kind, id)
		if err != nil {
			return err
		}
		var c contents
		for _, p := range partsOf[kind] {
			rows := tableRows{Table: p.table}
			if rows.Rows, err = rowsOf(ctx, t, p, id); err != nil {
				return err
			}
			c.Tables = append(c.Tables, rows)
		}
		if kind == Brews {
			if err := t.all(ctx, &c.Children, `SELECT 'brews' AS tab, id FROM brews WHERE parent_id = ? UNION ALL
				SELECT 'recipes', id FROM recipes WHERE parent_id = ?`, id, id); err != nil {
				return err
			}
			if err := t.get(ctx, &c.Recipe, `SELECT recipe FROM entries WHERE brew_id = ?`, id); err != nil {
				return err
			}
		}
		kept, err := json.Marshal(c)
		if err != nil {
			return err
		}
		statements := []statement{
			{`UPDATE removed SET contents = '' WHERE contents <> '' AND removed_at < ?`, []any{instant{now.Add(-Restorable)}}},
			{`INSERT OR REPLACE INTO removed (id, kind, name, removed_at, by, contents, revision)
				VALUES (?1, ?2, ?3, ?4, (SELECT id FROM people WHERE id = ?5), ?6, ?6 ->> '$.tables[0].rows[0].version')`,
				[]any{id, string(kind), name, instant{now}, by, string(kept)}},
		}
		if kind == Brews {
			statements = append(statements,
				statement{`UPDATE brews SET parent_id = (SELECT parent_id FROM brews WHERE id = ?1) WHERE parent_id = ?1`, []any{id}},
				statement{`UPDATE recipes SET parent_id = (SELECT parent_id FROM brews WHERE id = ?1) WHERE parent_id = ?1`, []any{id}})
		}
		parts := partsOf[kind]
		for i := len(parts) - 1; i >= 0; i-- {
			statements = append(statements, statement{fmt.Sprintf(`DELETE FROM %s WHERE %s = ?`, parts[i].table, parts[i].column), []any{id}})
		}
		return t.doAll(ctx, statements)
	})
}

// A statement is a change with its arguments.
type statement struct {
	query string
	args  []any
}

func (t *tx) doAll(ctx context.Context, statements []statement) error {
	for _, s := range statements {
		if _, err := t.do(ctx, s.query, s.args...); err != nil {
			return err
		}
	}
	return nil
}

// nameOf returns the name of a record for the list of deleted ones.
func nameOf(ctx context.Context, t *tx, kind Kind, id string) (name string, err error) {
	if kind != Brews {
		err := t.get(ctx, &name, `SELECT COALESCE(NULLIF(doc ->> '$.name', ''), 'without a name') FROM documents WHERE id = ? AND kind = ?`, id, kind)
		return name, err
	}
	var row struct {
		Name   string `db:"bag_name"`
		Status string `db:"status"`
	}
	if err := t.get(ctx, &row, `SELECT bag_name, status FROM brews WHERE id = ?`, id); err != nil {
		return "", err
	}
	if row.Status == "running" {
		return "", ErrRunning
	}
	return row.Name, nil
}

// rowsOf returns the rows of a record in a table as JSON objects.
func rowsOf(ctx context.Context, q querier, p part, id string) ([]json.RawMessage, error) {
	columns, err := columnsOf(ctx, q, p.table)
	if err != nil {
		return nil, err
	}
	pairs := make([]string, len(columns))
	for i, c := range columns {
		pairs[i] = fmt.Sprintf(`'%s', "%[1]s"`, c)
	}
	var texts []string
	if err := q.all(ctx, &texts, fmt.Sprintf(`SELECT json_object(%s) FROM %s WHERE %s = ?`, strings.Join(pairs, ", "), p.table, p.column),
		id); err != nil {
		return nil, err
	}
	out := make([]json.RawMessage, len(texts))
	for i, text := range texts {
		out[i] = json.RawMessage(text)
	}
	return out, nil
}

func columnsOf(ctx context.Context, q querier, table string) (out []string, err error) {
	err = q.all(ctx, &out, `SELECT name FROM pragma_table_info(?)`, table)
	return out, err
}

// Restore undoes Remove within Restorable. It returns ErrNotFound for a record that is not deleted or is too old.
func (s *Store) Restore(ctx context.Context, id string) (kind Kind, err error) {
	err = s.transact(ctx, func(t *tx) error {
		var row struct {
			Kind     Kind   `db:"kind"`
			Contents string `db:"contents"`
		}
		if err := t.get(ctx, &row, `SELECT kind, contents FROM removed WHERE id = ? AND contents <> ''`, id); err != nil {
			return err
		}
		kind = row.Kind
		var c contents
		if err := json.Unmarshal([]byte(row.Contents), &c); err != nil {
			return err
		}
		for _, rows := range c.Tables {
			if err := putRows(ctx, t, rows); err != nil {
				return fmt.Errorf("restore %s: %w", rows.Table, err)
			}
		}
		var statements []statement
		for _, child := range c.Children {
			if child.Table != "brews" && child.Table != "recipes" {
				continue
			}
			statements = append(statements, statement{`UPDATE ` + child.Table + ` SET parent_id = ?1 WHERE id = ?2 AND id <> ?1`, []any{id, child.ID}})
		}
		if kind == Brews {
			statements = append(statements, statement{`UPDATE entries SET recipe = ? WHERE brew_id = ?`, []any{c.Recipe, id}})
		}
		return t.doAll(ctx, append(statements, statement{`DELETE FROM removed WHERE id = ?`, []any{id}}))
	})
	return kind, err
}

// referenced holds the table of each column that refers to a row that may be removed.
var referenced = map[string]string{"parent_id": "brews", "by": "people", "brewed_by": "people", "measured_by": "people", "taster": "people"}

// putRows inserts rows into a table. Columns that the table no longer has are dropped; new ones get their defaults.
func putRows(ctx context.Context, t *tx, rows tableRows) error {
	columns, err := columnsOf(ctx, t, rows.Table)
	if err != nil {
		return err
	}
	for _, row := range rows.Rows {
		var values map[string]any
		if err := json.Unmarshal(row, &values); err != nil {
			return err
		}
		if taster, ok := values["taster"].(string); ok { // whose tastings went with them
			var there bool
			if err := t.get(ctx, &there, `SELECT EXISTS (SELECT 1 FROM people WHERE id = ?)`, taster); err != nil {
				return err
			}
			if !there {
				continue
			}
		}
		var names, places []string
		for _, c := range columns {
			if _, there := values[c]; !there {
				continue
			}
			value := fmt.Sprintf(`?1 ->> '$.%s'`, c)
			if of := referenced[c]; of != "" { // or nothing, if it was removed meanwhile
				value = fmt.Sprintf(`(SELECT id FROM %s WHERE id = %s)`, of, value)
			}
			names, places = append(names, `"`+c+`"`), append(places, value)
		}
		if _, err := t.do(ctx, fmt.Sprintf(`INSERT INTO %s (%s) SELECT %s`, rows.Table, strings.Join(names, ", "), strings.Join(places, ", ")),
			string(row)); err != nil {
			return err
		}
	}
	return nil
}

// Removed returns the records that can be restored, the latest first.
func (s *Store) Removed(ctx context.Context, now time.Time) ([]Removal, error) {
	var rows []struct {
		ID   string    `db:"id"`
		Kind Kind      `db:"kind"`
		Name string    `db:"name"`
		By   reference `db:"by"`
		At   instant   `db:"removed_at"`
	}
	err := s.read.all(ctx, &rows, `SELECT id, kind, name, by, removed_at FROM removed WHERE contents <> '' AND removed_at >= ?
		ORDER BY removed_at DESC LIMIT ?`, instant{now.Add(-Restorable)}, maxListed)
	out := make([]Removal, len(rows))
	for i, r := range rows {
		out[i] = Removal{r.ID, r.Kind, r.Name, string(r.By), r.At.Time}
	}
	return out, err
}

// IsRemoved reports whether a record with an id was deleted, however long ago.
func (s *Store) IsRemoved(ctx context.Context, id string) (is bool, err error) {
	err = s.read.get(ctx, &is, `SELECT EXISTS (SELECT 1 FROM removed WHERE id = ?)`, id)
	return is, err
}
