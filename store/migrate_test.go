package store

import (
	"database/sql"
	"fmt"
	"io/fs"
	"path/filepath"
	"testing"

	"github.com/pressly/goose/v3"

	"yardbloom/core/recipe"
)

// yardAt makes a database as an earlier version of the program left it, with data in it.
func yardAt(t *testing.T, version int64, data string) (dir string) {
	t.Helper()
	dir = t.TempDir()
	db, err := sql.Open("sqlite", "file:"+filepath.Join(dir, FileName))
	must(t, err)
	defer db.Close()
	files, err := fs.Sub(migrations, "migrations")
	must(t, err)
	p, err := goose.NewProvider(goose.DialectSQLite3, db, files)
	must(t, err)
	_, err = p.UpTo(ctx, version)
	must(t, err)
	_, err = db.Exec(data)
	must(t, err)
	return dir
}

// Whatever version a yard comes from, what was entered in it is there afterwards.
func TestAYardOfVersion1IsAllThere(t *testing.T) {
	brewOf := func(id int, status, recipe, plan string) string {
		return fmt.Sprintf(`INSERT INTO brews (id, bag_id, status, recipe, plan, bag, gear, asked, draft, checked, cup, dose_used, created_at, started_at, zone)
			VALUES (%d, 1, '%s', '%s', '%s', '{"name":"Slate Terrace"}', '{}', 'null', '{}', '[]', '{}', 18, '2026-05-01T08:00:00.000Z', '2026-05-01T08:00:00.000Z', '+02:00');`, id, status, recipe, plan)
	}
	const swirled = `{"style":"three-rounds","dose":18,"water":297,"grind":650,"temperature":94,"bloom":3,"bloomTime":45,"swirl":true,"height":1,"steep":0,"rinse":true}`
	const still = `{"style":"three-rounds","dose":18,"water":297,"swirl":false,"height":1}`
	s := open(t, yardAt(t, 1, `
		INSERT INTO bags (id, name, roaster, process, roast, altitude, roasted_on, opened_on, weight, price, currency, notes, window_from, window_to)
			VALUES (1, 'Slate Terrace', 'The shed', 'washed', 1, 0, '2026-04-20', '', 250, 0, '', '', 0, 0);
		INSERT INTO kettles (id, name, thermostat, capacity) VALUES (1, 'Stove kettle', 0, 1600);`+
		brewOf(1, "done", swirled, `{"steps":[{"act":"pour","bloom":true,"start":0,"lasts":12,"water":54,"total":54,"height":1,"swirl":true,"temperature":94},{"act":"pour","start":45,"water":243,"total":297,"height":0,"temperature":94}],"finish":200}`)+
		brewOf(2, "done", still, `{"steps":[{"act":"pour","water":297,"total":297}],"finish":180}`)))
	k, err := s.Kettle(ctx, 1)
	must(t, err)
	if k.Name != "Stove kettle" || k.Capacity != 1600 || k.Spout != 0 || k.Taken() {
		t.Errorf("the kettle is %+v", k)
	}
	one, err := s.Brew(ctx, 1)
	must(t, err)
	if one.Recipe.Hand != recipe.Swirl || one.Recipe.Dose != 18 || !one.Recipe.Rinse || one.Plan.Steps[0].Then != recipe.Swirl || one.Plan.Steps[1].Then != recipe.NoHand || one.Plan.Steps[1].Total != 297 {
		t.Errorf("the brew with a swirl: %+v, %+v", one.Recipe, one.Plan)
	}
	two, err := s.Brew(ctx, 2)
	must(t, err)
	if two.Recipe.Hand != recipe.NoHand || two.Plan.Steps[0].Then != recipe.NoHand {
		t.Errorf("the brew without: %+v", two.Recipe)
	}
}
