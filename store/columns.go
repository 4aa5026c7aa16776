package store

import (
	"database/sql/driver"
	"encoding/json"
	"fmt"
	"time"
)

// document is a column that holds a value as JSON.
type document[T any] struct{ V T }

// Value writes the column.
func (d document[T]) Value() (driver.Value, error) {
	b, err := json.Marshal(d.V)
	return string(b), err
}

// Scan reads the column.
func (d *document[T]) Scan(src any) error {
	s, ok := src.(string)
	if !ok {
		return fmt.Errorf("a JSON column holds %T", src)
	}
	return json.Unmarshal([]byte(s), &d.V)
}

// instant is a column that holds a moment in UTC to the millisecond, or NULL for the zero time.
type instant struct{ time.Time }

const instantLayout = "2006-01-02T15:04:05.000Z"

// Value writes the column.
func (t instant) Value() (driver.Value, error) {
	if t.IsZero() {
		return nil, nil
	}
	return t.UTC().Format(instantLayout), nil
}

// Scan reads the column.
func (t *instant) Scan(src any) (err error) {
	switch v := src.(type) {
	case nil:
		t.Time = time.Time{}
	case string:
		t.Time, err = time.Parse(instantLayout, v)
	default:
		err = fmt.Errorf("a time column holds %T", src)
	}
	return err
}

// zoned puts a moment back into the zone that was kept with it, such as +02:00.
func zoned(t time.Time, zone string) time.Time {
	if t.IsZero() {
		return t
	}
	if z, err := time.Parse("-07:00", zone); err == nil {
		return t.In(z.Location())
	}
	return t
}
