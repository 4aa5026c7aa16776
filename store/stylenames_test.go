package store

import (
	"fmt"
	"reflect"
	"strings"
	"testing"

	"yardbloom/core/brew"
	"yardbloom/core/person"
	"yardbloom/core/recipe"
	"yardbloom/core/trial"
)

// formerTitles are the names that the renamed styles had on screens.
var formerTitles = map[recipe.StyleID]string{recipe.TwoCentredPours: "Two heavy pours", recipe.LongBloom: "Long soak, full cone",
	recipe.BloomByEye: "Loose-slurry bloom"}

// dump returns the rows of every table but the words of the search, as text.
func dump(t *testing.T, s *Store) map[string][]string {
	t.Helper()
	var tables []string
	must(t, s.write.all(ctx, &tables, `SELECT name FROM sqlite_schema WHERE type = 'table' AND name NOT LIKE 'words%' AND name NOT LIKE 'sqlite%'
		AND name <> 'goose_db_version'`))
	out := map[string][]string{}
	for _, table := range tables {
		columns, err := columnsOf(ctx, s.write, table)
		must(t, err)
		var rows []string
		must(t, s.write.all(ctx, &rows, fmt.Sprintf(`SELECT concat_ws('|', "%s") FROM %s ORDER BY 1`, strings.Join(columns, `", "`), table)))
		out[table] = rows
	}
	return out
}

// writeFormerNames writes a database as the schema before the names of styles changed had it.
func writeFormerNames(t *testing.T, s *Store) {
	t.Helper()
	var trigger string
	must(t, s.write.get(ctx, &trigger, `SELECT sql FROM sqlite_schema WHERE name = 'a_brew_keeps_what_it_was_made_of'`))
	statements := []string{`DROP TRIGGER a_brew_keeps_what_it_was_made_of`}
	for table := range dump(t, s) {
		columns, err := columnsOf(ctx, s.write, table)
		must(t, err)
		for _, column := range columns {
			for was, now := range recipe.FormerIDs() {
				for _, pair := range [][2]string{{string(now), string(was)}, {now.Style().Name, formerTitles[now]}} {
					statements = append(statements, fmt.Sprintf(`UPDATE %s SET "%s" = replace("%[2]s", '%s', '%s') WHERE typeof("%[2]s") = 'text' AND
						instr("%[2]s", '%[3]s')`, table, column, pair[0], pair[1]))
				}
			}
		}
	}
	statements = append(statements, trigger, `DELETE FROM words`, `INSERT INTO words (rowid, text) SELECT n, text FROM entry_words`,
		`DELETE FROM goose_db_version WHERE version_id >= 26`)
	for _, statement := range statements {
		if _, err := s.write.Exec(statement); err != nil {
			t.Fatalf("%s: %v", statement, err)
		}
	}
}

// A yard with brews, a deleted brew, kept recipes with versions, defaults, a trial and a filter of each renamed style is the same
// after the migration but for the names: every table is compared. Mutations caught: a table or a style that is forgotten, a plan that
// is written again, totals of a style that start anew, the search by the former name, a brew that can be changed afterwards.
func TestStylesAreRenamed(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	s, bagID, _ := yardIn(t, dir)
	must(t, s.SaveHabits(ctx, "", recipe.Habits{Style: recipe.BloomByEye}, 0)) // the yard's, before it has people
	must(t, s.AddPerson(ctx, person.Person{ID: "ada", Name: "Ada", Initials: "A", Mark: person.Marks()[0]}, false))
	var options []trial.Option
	for k, id := range []recipe.StyleID{recipe.TwoCentredPours, recipe.LongBloom, recipe.BloomByEye} {
		name := fmt.Sprint("style-", k)
		for i := range 3 {
			draft := plan(t, s, bagID, fmt.Sprint(name, "-", i))
			d, _, err := s.Draft(ctx, draft)
			must(t, err)
			d.Recipe = id.Style().Generate(17, 279, 93)
			d.Recipe.Grind = 640
			must(t, errOf(s.SaveDraft(ctx, d, noon)))
			start(t, s, draft)
			must(t, errOf(tap(s, draft, brew.Event{Key: "end", Kind: brew.Finish, At: 190})))
			must(t, errOf(s.Change(ctx, draft, func(b brew.Brew) (brew.Brew, error) {
				b.Status, b.Cup.Overall, b.Cup.Drawdown = brew.Done, 7, 190
				b.Tastings = []brew.Tasting{{Cup: b.Cup}}
				return b, nil
			})))
		}
		must(t, s.Remove(ctx, Brews, name+"-0", "", noon))
		d, _, err := s.Draft(ctx, plan(t, s, bagID, name+"-kept"))
		must(t, err)
		d.ID, d.Name, d.Recipe = name+"-book", "Morning "+name, id.Style().Generate(17, 279, 93)
		d.Recipe.Grind = 640
		for grams := range 2 {
			d.Recipe.Pours[0].Water += 1
			_, err = s.KeepRecipe(ctx, d, noon, func(_, _ brew.Draft) string { return fmt.Sprint(grams, " g") })
			must(t, err)
		}
		options = append(options, trial.Option{Name: id.Style().Name, Recipe: d.Recipe})
		must(t, s.SaveFilter(ctx, SavedFilter{ID: name, Name: name, Query: "low=6&style=" + string(id)}, "", noon))
	}
	d, _, err := s.Draft(ctx, "one")
	must(t, err)
	by, err := trial.New("schools", "Which school?", d.Sheet, trial.Factor{Knob: trial.ByStyle, Options: options, Levels: []float64{0, 1, 2}}, nil, 1,
		trial.ByMark, 7)
	must(t, err)
	must(t, s.AddTrial(ctx, by, noon))
	must(t, s.SaveHabits(ctx, "ada", recipe.Habits{Style: recipe.LongBloom}, 0))
	before := dump(t, s)
	writeFormerNames(t, s)
	former := dump(t, s)
	for _, table := range []string{"brews", "entries", "mark_totals", "same_recipes", "saved_filters", "recipes", "recipe_versions", "settings",
		"people", "documents", "removed"} {
		if reflect.DeepEqual(former[table], before[table]) {
			t.Errorf("%s has no former name", table)
		}
	}
	must(t, s.Close())

	s = open(t, dir)
	after := dump(t, s)
	for table, rows := range before {
		if !reflect.DeepEqual(after[table], rows) {
			t.Errorf("%s is\n%s\nnot\n%s\nit was\n%s", table, strings.Join(after[table], "\n"), strings.Join(rows, "\n"), strings.Join(former[table], "\n"))
		}
	}
	for words, want := range map[string]int{"bloom by eye": 2, "two centred": 2, "loose slurry": 0, "heavy": 0, "soak": 0} {
		if rows, err := s.Log(ctx, Filter{Words: words, Limit: 10}); err != nil || len(rows) != want {
			t.Errorf("%q finds %d brews, not %d (%v)", words, len(rows), want, err)
		}
	}
	if _, err := s.write.Exec(`UPDATE brews SET recipe = '{}'`); err == nil {
		t.Error("a brew can be changed after the migration")
	}
}
