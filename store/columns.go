package store

import (
	"database/sql/driver"
	"encoding/json"
	"fmt"
	"regexp"
	"time"

	"github.com/google/uuid"
)

// column stores a value as JSON.
type column[T any] struct{ V T }

// Value writes the column.
func (c column[T]) Value() (driver.Value, error) {
	b, err := json.Marshal(c.V)
	return string(b), err
}

// Scan reads the column.
func (c *column[T]) Scan(src any) error {
	s, ok := src.(string)
	if !ok {
		return fmt.Errorf("a JSON column holds %T", src)
	}
	return json.Unmarshal([]byte(s), &c.V)
}

// instant stores a moment in UTC to the millisecond, or NULL for the zero time.
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

// reference stores the id of a row in another table, or NULL for the empty id.
type reference string

// Value writes the column.
func (r reference) Value() (driver.Value, error) {
	if r == "" {
		return nil, nil
	}
	return string(r), nil
}

// Scan reads the column.
func (r *reference) Scan(src any) error {
	switch v := src.(type) {
	case nil:
		*r = ""
	case string:
		*r = reference(v)
	default:
		return fmt.Errorf("an id column holds %T", src)
	}
	return nil
}

// inZone returns a moment in the zone that was stored with it, such as +02:00.
func inZone(t time.Time, zone string) time.Time {
	if t.IsZero() {
		return t
	}
	if z, err := time.Parse("-07:00", zone); err == nil {
		return t.In(z.Location())
	}
	return t
}

// zoneOf returns the zone of a moment in its stored form.
func zoneOf(t time.Time) string { return t.Format("-07:00") }

// NewID returns a unique id: a UUID of version 7, which sorts by time. A client that is offline may create
// one too.
func NewID() string { return uuid.Must(uuid.NewV7()).String() }

var idForm = regexp.MustCompile(`^[A-Za-z0-9_-]{1,64}$`)

// ValidID reports whether a text is a valid id.
func ValidID(id string) bool { return idForm.MatchString(id) }
