package store

import (
	"context"
	"errors"
	"strings"
	"time"

	"golang.org/x/text/cases"
	"golang.org/x/text/unicode/norm"

	"yardbloom/core/brew"
	"yardbloom/core/person"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/store/document"
)

// ErrTaken is returned for a name that another person has.
var ErrTaken = errors.New("the name is taken")

// A Person is a person of the yard with their preferences.
type Person struct {
	person.Person
	Prefs    units.Prefs
	Habits   recipe.Habits
	Theme    string // empty: as the screen says
	Sound    string // empty: as the screen says
	Archived bool
	Version  int64
}

type personRow struct {
	ID         string                  `db:"id"`
	Name       string                  `db:"name"`
	Key        string                  `db:"name_key"`
	Initials   string                  `db:"initials"`
	Mark       person.Mark             `db:"mark"`
	Ounces     bool                    `db:"ounces"`
	Fahrenheit bool                    `db:"fahrenheit"`
	Theme      string                  `db:"theme"`
	Sound      string                  `db:"sound"`
	Habits     column[document.Habits] `db:"habits"`
	Added      int64                   `db:"added"`
	Archived   instant                 `db:"archived_at"`
	Version    int64                   `db:"version"`
}

func (r personRow) person() Person {
	return Person{Person: person.Person{ID: r.ID, Name: r.Name, Initials: r.Initials, Mark: r.Mark},
		Prefs: units.Prefs{Ounces: r.Ounces, Fahrenheit: r.Fahrenheit}, Habits: r.Habits.V.Core(), Theme: r.Theme, Sound: r.Sound,
		Archived: !r.Archived.IsZero(), Version: r.Version}
}

// nameKey returns a text that is equal for names that look equal, such as in another case.
func nameKey(name string) string {
	return norm.NFKC.String(cases.Fold().String(strings.Join(strings.Fields(name), " ")))
}

// SameName reports whether two names look equal.
func SameName(a, b string) bool { return nameKey(a) == nameKey(b) }

const personColumns = `id, name, name_key, initials, mark, ounces, fahrenheit, theme, sound, habits, added, archived_at, version`

// People returns all people: those who are not archived first, in the order in which they were added.
func (s *Store) People(ctx context.Context) ([]Person, error) {
	var rows []personRow
	err := s.read.all(ctx, &rows, `SELECT `+personColumns+` FROM people ORDER BY archived_at IS NOT NULL, added, id`)
	out := make([]Person, len(rows))
	for i, r := range rows {
		out[i] = r.person()
	}
	return out, err
}

// Person returns a person, or ErrNotFound.
func (s *Store) Person(ctx context.Context, id string) (Person, error) {
	var row personRow
	err := s.read.get(ctx, &row, `SELECT `+personColumns+` FROM people WHERE id = ?`, id)
	return row.person(), err
}

// ErrFull is returned for more than MaxPeople people.
var ErrFull = errors.New("there are too many people")

// AddPerson stores a new person with the yard's preferences, who may take over everything that the yard recorded.
// A repeated request with the same id and name changes nothing; with another name, as from a page that was opened
// again, it adds another person. It returns ErrTaken for a name that another person has, archived or not, and ErrFull.
func (s *Store) AddPerson(ctx context.Context, p person.Person, takesOver bool) error {
	row := personRow{ID: p.ID, Name: norm.NFC.String(p.Name), Key: nameKey(p.Name), Initials: p.Initials, Mark: p.Mark}
	return s.transact(ctx, func(t *tx) error {
		var known string
		switch err := t.get(ctx, &known, `SELECT name_key FROM people WHERE id = ?`, p.ID); {
		case err == nil && known == row.Key:
			return nil
		case err == nil:
			row.ID = NewID()
		case !errors.Is(err, ErrNotFound):
			return err
		}
		var all int
		if err := t.get(ctx, &all, `SELECT count(*) FROM people`); err != nil {
			return err
		}
		if all >= MaxPeople {
			return ErrFull
		}
		res, err := t.put(ctx, `
			INSERT INTO people (id, name, name_key, initials, mark, ounces, fahrenheit, habits, full_recipe, added)
			SELECT :id, :name, :name_key, :initials, :mark, ounces, fahrenheit, habits,
				full_recipe AND NOT EXISTS (SELECT 1 FROM people), -- somebody new begins with the simple recipe
				(SELECT COALESCE(max(added), 0) + 1 FROM people)
			FROM settings WHERE TRUE
			ON CONFLICT (name_key) DO NOTHING`, row)
		if err := oneRow(res, err, ErrTaken); err != nil || !takesOver {
			return err
		}
		return assign(ctx, t, row.ID)
	})
}

// ChangePerson stores the name, the initials and the mark of a person. It returns ErrConflict if the version is
// outdated (0 skips the check), ErrTaken for a name that another person has, and ErrNotFound.
func (s *Store) ChangePerson(ctx context.Context, p person.Person, version int64) error {
	row := personRow{ID: p.ID, Name: norm.NFC.String(p.Name), Key: nameKey(p.Name), Initials: p.Initials, Mark: p.Mark, Version: version}
	return s.transact(ctx, func(t *tx) error {
		var now personRow
		if err := t.get(ctx, &now, `SELECT `+personColumns+` FROM people WHERE id = ?`, p.ID); err != nil {
			return err
		}
		if version != 0 && version != now.Version {
			return ErrConflict
		}
		res, err := t.put(ctx, `
			UPDATE OR IGNORE people SET name = :name, name_key = :name_key, initials = :initials, mark = :mark, version = version + 1
			WHERE id = :id`, row)
		return oneRow(res, err, ErrTaken)
	})
}

// SaveScreen stores the theme and the sound of a person; an empty one stays.
func (s *Store) SaveScreen(ctx context.Context, id, theme, sound string) error {
	return s.change(ctx, `UPDATE people SET theme = COALESCE(NULLIF(:theme, ''), theme), sound = COALESCE(NULLIF(:sound, ''), sound)
		WHERE id = :id`, personRow{ID: id, Theme: theme, Sound: sound}, ErrNotFound)
}

// ArchivePerson archives a person, or restores them.
func (s *Store) ArchivePerson(ctx context.Context, id string, archived bool, now time.Time) error {
	row := personRow{ID: id}
	if archived {
		row.Archived.Time = now
	}
	return s.change(ctx, `UPDATE people SET archived_at = :archived_at, version = version + 1 WHERE id = :id`, row, ErrNotFound)
}

// RemovePerson erases a person with their tastings and marks. Everything else that they recorded stays without
// the name. It returns ErrNotFound if there is no such person.
func (s *Store) RemovePerson(ctx context.Context, id string) error {
	return s.change(ctx, `DELETE FROM people WHERE id = :id`, personRow{ID: id}, ErrNotFound)
}

// Recorded counts the records of a person or of the yard.
type Recorded struct {
	Brews    int `db:"brews"`
	Tastings int `db:"tastings"`
	Others   int `db:"others"` // recipes, tables, trials, practice pours
}

// Any reports whether there is anything.
func (r Recorded) Any() bool { return r.Brews+r.Tastings+r.Others > 0 }

const selectRecorded = `
	SELECT COALESCE(by, '') AS by, sum(brews) AS brews, sum(tastings) AS tastings, sum(others) AS others FROM (
		SELECT brewed_by AS by, count(*) AS brews, 0 AS tastings, 0 AS others FROM brews WHERE ` + visible + ` GROUP BY brewed_by
		UNION ALL SELECT taster, 0, count(*), 0 FROM tastings GROUP BY taster
		UNION ALL SELECT by, 0, 0, count(*) FROM recipes WHERE deleted_at IS NULL GROUP BY by
		UNION ALL SELECT by, 0, 0, count(*) FROM documents WHERE deleted_at IS NULL GROUP BY by)
	GROUP BY by`

// Recorded counts the records of everybody by id; the yard's have an empty one.
func (s *Store) Recorded(ctx context.Context) (map[string]Recorded, error) {
	var rows []struct {
		By string `db:"by"`
		Recorded
	}
	err := s.read.all(ctx, &rows, selectRecorded)
	out := map[string]Recorded{}
	for _, r := range rows {
		out[r.By] = r.Recorded
	}
	return out, err
}

// Assign makes everything that the yard recorded a person's: brews, tastings of brews that they have not tasted
// themselves, taps, recipes, tables, trials and practice pours. It returns ErrNotFound if there is no such person.
func (s *Store) Assign(ctx context.Context, id string) error {
	return s.transact(ctx, func(t *tx) error {
		var there int
		if err := t.get(ctx, &there, `SELECT 1 FROM people WHERE id = ?`, id); err != nil {
			return err
		}
		return assign(ctx, t, id)
	})
}

var assignments = []string{
	`UPDATE brews SET version = version + 1 WHERE ? <> '' AND id IN (SELECT brew_id FROM tastings WHERE taster IS NULL)`,
	`UPDATE OR IGNORE tastings SET taster = ? WHERE taster IS NULL`,
	`UPDATE brews SET brewed_by = ? WHERE brewed_by IS NULL`,
	`UPDATE brews SET measured_by = ? WHERE measured_by IS NULL AND status = 'done'`,
	`UPDATE brew_events SET by = ? WHERE by IS NULL AND kind IN ('start', 'advance', 'finish', 'later', 'mark', 'undo', 'abandon', 'resume')`,
	`UPDATE recipes SET by = ? WHERE by IS NULL`,
	`UPDATE recipe_versions SET by = ? WHERE by IS NULL`,
	`UPDATE documents SET by = ? WHERE by IS NULL`,
}

func assign(ctx context.Context, t *tx, id string) error {
	for _, statement := range assignments {
		if _, err := t.do(ctx, statement, id); err != nil {
			return err
		}
	}
	return nil
}

// SetBrewer stores who brewed a brew; an empty person is the yard. It returns ErrNotFound if there is no such
// brew or person.
func (s *Store) SetBrewer(ctx context.Context, brewID, by string) error {
	return s.change(ctx, `UPDATE brews SET brewed_by = :brewed_by WHERE id = :id AND
		(:brewed_by IS NULL OR EXISTS (SELECT 1 FROM people WHERE id = :brewed_by))`, brewRow{ID: brewID, BrewedBy: reference(by)}, ErrNotFound)
}

// MoveTasting makes a tasting another person's; an empty person is the yard. It returns ErrTaken if they have
// tasted the brew themselves, and ErrNotFound if there is no such tasting or person.
func (s *Store) MoveTasting(ctx context.Context, brewID, from, to string) error {
	row := struct {
		Brew string    `db:"brew"`
		From reference `db:"from"`
		To   reference `db:"to"`
	}{brewID, reference(from), reference(to)}
	return s.transact(ctx, func(t *tx) error {
		var there int
		if err := t.get(ctx, &there, `SELECT count(*) FROM tastings WHERE brew_id = ? AND taster IS ?`, brewID, row.To); err != nil {
			return err
		}
		if there > 0 {
			return ErrTaken
		}
		res, err := t.put(ctx, `UPDATE tastings SET taster = :to WHERE brew_id = :brew AND taster IS :from AND
			(:to IS NULL OR EXISTS (SELECT 1 FROM people WHERE id = :to))`, row)
		if err := oneRow(res, err, ErrNotFound); err != nil {
			return err
		}
		_, err = t.put(ctx, `UPDATE brews SET version = version + 1 WHERE id = :brew`, row)
		return err
	})
}

const selectTasted = `
	SELECT ` + brewColumns + ` FROM brews
	WHERE id IN (SELECT brew_id FROM tastings WHERE taster = ?) AND ` + visible + ` AND (started_at, id) < (?, ?) ORDER BY started_at DESC, id DESC LIMIT ?`

const selectBrewed = `
	SELECT ` + brewColumns + ` FROM brews WHERE brewed_by = ? AND ` + visible + ` AND (started_at, id) < (?, ?) ORDER BY started_at DESC, id DESC LIMIT ?`

// TastedBy calls each with the brews that a person tasted as they see them, the latest first and without events.
// It reads them in steps, so that memory does not grow with the history. An error of each ends it.
func (s *Store) TastedBy(ctx context.Context, id string, each func(brew.Brew) error) error {
	return s.inSteps(ctx, selectTasted, id, each)
}

// BrewedBy is TastedBy for the brews that a person brewed.
func (s *Store) BrewedBy(ctx context.Context, id string, each func(brew.Brew) error) error {
	return s.inSteps(ctx, selectBrewed, id, each)
}

// inSteps calls each with the brews of a person by a query.
func (s *Store) inSteps(ctx context.Context, query, id string, each func(brew.Brew) error) error {
	const step = 100
	at, last := any("~"), "~"
	for {
		var rows []brewRow
		if err := s.read.all(ctx, &rows, query, id, at, last, step); err != nil {
			return err
		}
		for _, r := range rows {
			if err := each(r.brew().For(id)); err != nil {
				return err
			}
			at, last = r.Started, r.ID
		}
		if len(rows) < step {
			return nil
		}
	}
}
