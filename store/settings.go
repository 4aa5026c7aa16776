package store

import (
	"cmp"
	"context"
	"slices"
	"time"

	"github.com/alexedwards/scs/sqlite3store"
	"github.com/alexedwards/scs/v2"

	"yardbloom/core/coffee"
	"yardbloom/core/gear"
	"yardbloom/core/person"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/store/document"
)

// Settings holds the settings of the yard, and of the person at a screen.
type Settings struct {
	Ounces     bool `db:"ounces"`     // the person's, like the habits; without a person the yard's
	Fahrenheit bool `db:"fahrenheit"` // the person's
	Altitude   int  `db:"altitude"`   // m
	// Spoons is true for a yard without a scale: amounts are in tablespoons and mugs. SpoonWeight is the weight of a level tablespoon, g;
	// 0: the usual one.
	Spoons      bool `db:"spoons"`
	SpoonWeight units.Grams
	// FullRecipe is true if the Recipe station shows all settings to the person.
	FullRecipe bool `db:"full_recipe"`
	// Version counts the changes of units, habits and altitude.
	Version int64 `db:"version"`
	// Brewer, Grinder and Kettle were used last and are the defaults.
	Brewer   string `db:"brewer"`
	Grinder  string `db:"grinder"`
	Kettle   string `db:"kettle"`
	Water    string `db:"water"`
	Password string `db:"password"` // argon2id, encoded; empty for none
	// Running and RunningName are the id and the coffee of a running brew, which every page links to; empty
	// for none.
	Running     string `db:"running"`
	RunningName string `db:"running_name"`
	// RunningSince is its first water. RunningPoured and RunningFinish are the planned ends of its pours and of its draining,
	// s after the first water.
	RunningSince  instant       `db:"running_since"`
	RunningPoured units.Seconds `db:"running_poured"`
	RunningFinish units.Seconds `db:"running_finish"`
	// ArmedColumn stores the scales that wait for a first water; see Armed.
	ArmedColumn column[[]Armed] `db:"armed"`
	// HabitsColumn stores the defaults for a new coffee; see Habits.
	HabitsColumn column[document.Habits] `db:"habits"`
	// PersonID is the id of the person at the screen; empty if none is chosen. A yard with one person needs no choice.
	PersonID string `db:"person"`
	Theme    string `db:"theme"` // the person's; empty: as the screen says
	Sound    string `db:"sound"` // the person's; empty: as the screen says
	// PeopleColumn stores all people; see People and Named.
	PeopleColumn column[[]personName] `db:"people"`
}

// personName is the form in which the query of settings returns a person.
type personName struct {
	Added    int64       `json:"added"`
	ID       string      `json:"id"`
	Name     string      `json:"name"`
	Initials string      `json:"initials"`
	Mark     person.Mark `json:"mark"`
	Archived int         `json:"archived"`
}

func (p personName) person() person.Person {
	return person.Person{ID: p.ID, Name: p.Name, Initials: p.Initials, Mark: p.Mark}
}

// Armed returns the scales that wait for the first water of a draft.
func (s Settings) Armed() []Armed { return s.ArmedColumn.V }

// Habits returns the person's defaults for a new coffee.
func (s Settings) Habits() recipe.Habits { return s.HabitsColumn.V.Core() }

// Prefs returns how quantities are read and typed.
func (s Settings) Prefs() units.Prefs {
	p := units.Prefs{Ounces: s.Ounces, Fahrenheit: s.Fahrenheit}
	if s.Spoons {
		p.Spoon = cmp.Or(s.SpoonWeight, recipe.UsualSpoonful(coffee.RoastUnknown))
	}
	return p
}

// Boiling returns the boiling point at the yard's altitude.
func (s Settings) Boiling() units.Celsius { return gear.Boiling(float64(s.Altitude)) }

// People returns the people who are not archived, in the order in which they were added.
func (s Settings) People() (out []person.Person) {
	for _, p := range s.people() {
		if p.Archived == 0 {
			out = append(out, p.person())
		}
	}
	return out
}

// Named returns a person by id, archived or not; the yard for an unknown id.
func (s Settings) Named(id string) person.Person {
	for _, p := range s.PeopleColumn.V {
		if p.ID == id {
			return p.person()
		}
	}
	return person.Person{}
}

// ByName reports whether the yard has several people, so that pages show names.
func (s Settings) ByName() bool { return len(s.People()) > 1 }

func (s Settings) people() []personName {
	return slices.SortedFunc(slices.Values(s.PeopleColumn.V), func(a, b personName) int { return cmp.Compare(a.Added, b.Added) })
}

// MaxPeople is the maximum number of people of a yard, archived ones included.
const MaxPeople = 60

// selectSettings loads the settings for a person; in a yard with one person it is always them.
const selectSettings = `
	SELECT COALESCE(p.ounces, settings.ounces) AS ounces, COALESCE(p.fahrenheit, settings.fahrenheit) AS fahrenheit, settings.altitude,
		settings.spoons, COALESCE(p.full_recipe, settings.full_recipe) AS full_recipe, settings.version + COALESCE(p.version, 0) AS version,
			settings.brewer, settings.grinder, settings.kettle, settings.water,
		settings.password,
		COALESCE(p.habits, settings.habits) AS habits, COALESCE(p.id, '') AS person, COALESCE(p.theme, '') AS theme, COALESCE(p.sound, '') AS sound,
		(SELECT json_group_array(json_object('added', added, 'id', id, 'name', name, 'initials', initials, 'mark', mark,
			'archived', archived_at IS NOT NULL)) FROM people) AS people,
		COALESCE(r.id, '') AS running, COALESCE(r.bag_name, '') AS running_name, r.started_at AS running_since,
		COALESCE(json_extract(r.plan, '$.steps[#-1].start_s') + json_extract(r.plan, '$.steps[#-1].lasts_s'), 0) AS running_poured,
		COALESCE(json_extract(r.plan, '$.finish_s'), 0) AS running_finish, (` + selectArmed + `) AS armed
	FROM settings
	LEFT JOIN people p ON p.archived_at IS NULL AND
		p.id = (SELECT CASE count(*) WHEN 1 THEN min(id) ELSE ? END FROM people WHERE archived_at IS NULL)
	LEFT JOIN brews r ON r.id = (SELECT id FROM brews WHERE status = 'running' ORDER BY started_at DESC LIMIT 1)`

// Settings returns the settings for the person at a screen; an empty id stands for no person, as does the id of
// one who was archived or removed.
func (s *Store) Settings(ctx context.Context, personID string) (Settings, error) {
	var out Settings
	err := s.read.get(ctx, &out, selectSettings, personID)
	return out, err
}

// SaveUnits stores the units of a person, or without one of the yard, and the yard's altitude. It returns
// ErrConflict if the version is outdated; 0 skips the check.
func (s *Store) SaveUnits(ctx context.Context, personID string, p units.Prefs, altitude int, version int64) error {
	return s.saveSettings(ctx, personID, version, func(t *tx, of string) error {
		return saveUnits(ctx, t, of, personID, p, altitude)
	})
}

func saveUnits(ctx context.Context, t *tx, table, personID string, p units.Prefs, altitude int) error {
	_, err := t.do(ctx, `UPDATE `+table+` SET ounces = ?, fahrenheit = ?, version = version + 1 WHERE id = ?`, p.Ounces, p.Fahrenheit,
		settingsID(personID))
	if err == nil {
		_, err = t.do(ctx, `UPDATE settings SET version = version + (altitude <> ?1), altitude = ?1`, altitude)
	}
	return err
}

// SaveSpoons stores whether the yard is without a scale.
func (s *Store) SaveSpoons(ctx context.Context, spoons bool) error {
	return s.transact(ctx, func(t *tx) error { return saveSpoons(ctx, t, spoons) })
}

func saveSpoons(ctx context.Context, t *tx, spoons bool) error {
	_, err := t.do(ctx, `UPDATE settings SET version = version + (spoons <> ?1), spoons = ?1`, spoons)
	return err
}

// SaveFullRecipe stores whether the Recipe station shows all settings to a person, or without one in the yard.
func (s *Store) SaveFullRecipe(ctx context.Context, personID string, full bool) error {
	return s.saveSettings(ctx, personID, 0, func(t *tx, of string) error {
		_, err := t.do(ctx, `UPDATE `+of+` SET full_recipe = ? WHERE id = ?`, full, settingsID(personID))
		return err
	})
}

// SaveHabits stores the defaults of a person, or without one of the yard, for a new coffee. It returns
// ErrConflict if the version is outdated; 0 skips the check.
func (s *Store) SaveHabits(ctx context.Context, personID string, h recipe.Habits, version int64) error {
	return s.saveSettings(ctx, personID, version, func(t *tx, of string) error {
		_, err := t.do(ctx, `UPDATE `+of+` SET habits = ?, version = version + 1 WHERE id = ?`, column[document.Habits]{document.OfHabits(h)},
			settingsID(personID))
		return err
	})
}

// saveSettings calls save with the table that holds the settings of a person, if the version is the stored one.
func (s *Store) saveSettings(ctx context.Context, personID string, version int64, save func(t *tx, table string) error) error {
	return s.transact(ctx, func(t *tx) error {
		var now Settings
		if err := t.get(ctx, &now, selectSettings, personID); err != nil {
			return err
		}
		if now.PersonID != personID || version != 0 && version != now.Version {
			return ErrConflict
		}
		if personID == "" {
			return save(t, "settings")
		}
		return save(t, "people")
	})
}

// settingsID returns the id of the row that holds the settings of a person.
func settingsID(personID string) any {
	if personID == "" {
		return 1
	}
	return personID
}

// SavePassword stores the encoded password of the yard and ends all sessions.
func (s *Store) SavePassword(ctx context.Context, encoded string) error {
	return s.transact(ctx, func(t *tx) error {
		if _, err := t.do(ctx, `UPDATE settings SET password = ?`, encoded); err != nil {
			return err
		}
		_, err := t.do(ctx, `DELETE FROM sessions`)
		return err
	})
}

// RenewPassword stores the same password with a new encoding, unless it was changed since. Sessions stay
// valid.
func (s *Store) RenewPassword(ctx context.Context, was, encoded string) error {
	return s.transact(ctx, func(t *tx) error {
		_, err := t.do(ctx, `UPDATE settings SET password = ? WHERE password = ?`, encoded, was)
		return err
	})
}

// sessions finds sessions through the readers, so that no page waits for the writer.
type sessions struct {
	*sqlite3store.SQLite3Store // writes
	path                       string
	readers                    *sqlite3store.SQLite3Store
}

func (s sessions) Find(token string) ([]byte, bool, error) {
	data, found, err := s.readers.Find(token)
	return data, found, explain(s.path, err)
}

func (s sessions) Commit(token string, data []byte, expiry time.Time) error {
	return explain(s.path, s.SQLite3Store.Commit(token, data, expiry))
}

func (s sessions) Delete(token string) error {
	return explain(s.path, s.SQLite3Store.Delete(token))
}

// Sessions returns the store of sign-in sessions. Expired sessions are deleted at start.
func (s *Store) Sessions() scs.Store {
	return sessions{sqlite3store.NewWithCleanupInterval(s.write.DB.DB, 0), s.path, sqlite3store.NewWithCleanupInterval(s.read.DB.DB, 0)}
}
