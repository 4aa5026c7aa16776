package web_test

import (
	"encoding/csv"
	"flag"
	"fmt"
	"net/http/httptest"
	"os"
	"strconv"
	"strings"
	"testing"

	"yardbloom/core/person"
	"yardbloom/core/sim"
	"yardbloom/web/webtest"
)

var update = flag.Bool("update", false, "write testdata/costs.csv")

const costsFile = "testdata/costs.csv"

// costly lists the pages with bounded costs.
var costly = []string{"/", "/bags/slate-terrace", "/bags/slate-terrace/wish?clear=2", "/brews/evening-seed-next/recipe",
	"/brews/evening-seed-next/setup", "/brews/evening-seed-next/brew", "/brews/long-meadow-3/cup", "/brews/slate-terrace-3/next",
	"/brews/slate-terrace-3", "/brews/slate-terrace-3/card", "/log", "/book", "/gear", "/gear/grinders/apron-mill", "/learned", "/rush", "/stage",
	"/stage/regional-heat", "/side", "/trials", "/trials/trial-water", "/practice", "/practice/circles", "/schools",
	"/schools/compare", "/settings", "/glossary", "/log?q=terrace", "/log/compare?id=slate-terrace-3&id=slate-terrace-4", "/yard",
	"/yard/day", "/brews/slate-terrace-4/photos"}

// A pageCost holds the costs of one page.
type pageCost struct{ statements, rows, runs, bytes int64 }

// Every page stays within its statements, rows and model runs, and within a tenth more bytes than in
// testdata/costs.csv. After a change that is worth its cost, run the test with -update. It does not run in
// parallel, because model runs are counted for the process.
//
// Mutation caught: settings or gear that are loaded again for each row of a list.
func TestPagesDoNotGrowUnnoticed(t *testing.T) {
	v := webtest.Visit(t)
	if err := v.Store.RetireGear(t.Context(), "devices", "window-scale", true, v.Now()); err != nil { // its readings would be counted
		t.Fatal(err)
	}
	if err := v.Yard.Connect(t.Context()); err != nil {
		t.Fatal(err)
	}
	v.Yard.WaitForLearning()
	found := measure(v, costly)
	if *update {
		writeCosts(t, found)
	}
	for path, allowed := range readCosts(t) {
		got, ok := found[path]
		if !ok {
			t.Errorf("%s is no longer measured", path)
			continue
		}
		if got.statements > allowed.statements || got.rows > allowed.rows || got.runs > allowed.runs || got.bytes > allowed.bytes*11/10 {
			t.Errorf("%s takes %+v, at most %+v are expected", path, got, allowed)
		}
	}
}

// measure returns the costs of pages. A page that fails fails the test.
func measure(v *webtest.Visitor, paths []string) map[string]pageCost {
	v.T.Helper()
	found := map[string]pageCost{}
	for _, path := range paths {
		v.Get(path) // prepares statements
		before, runs := v.Store.Stats(), sim.Runs()
		w := v.Serve(httptest.NewRequest("GET", "http://yard.test"+path, nil))
		after := v.Store.Stats()
		if w.Code != 200 {
			v.T.Errorf("%s: status %d", path, w.Code)
		}
		found[path] = pageCost{after.Statements - before.Statements, after.Rows - before.Rows, sim.Runs() - runs, int64(w.Body.Len())}
	}
	return found
}

func writeCosts(t *testing.T, found map[string]pageCost) {
	t.Helper()
	var b strings.Builder
	b.WriteString("page,statements,rows,model_runs,bytes\n")
	for _, path := range costly {
		c := found[path]
		fmt.Fprintf(&b, "%s,%d,%d,%d,%d\n", path, c.statements, c.rows, c.runs, c.bytes)
	}
	if err := os.WriteFile(costsFile, []byte(b.String()), 0o644); err != nil {
		t.Fatal(err)
	}
}

func readCosts(t *testing.T) map[string]pageCost {
	t.Helper()
	f, err := os.Open(costsFile)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	rows, err := csv.NewReader(f).ReadAll()
	if err != nil || len(rows) != len(costly)+1 {
		t.Fatalf("%d rows for %d pages (%v)", len(rows), len(costly), err)
	}
	out := map[string]pageCost{}
	for _, row := range rows[1:] {
		var n [4]int64
		for i := range n {
			if n[i], err = strconv.ParseInt(row[i+1], 10, 64); err != nil {
				t.Fatal(err)
			}
		}
		out[row[0]] = pageCost{n[0], n[1], n[2], n[3]}
	}
	return out
}

// More people cost no page another statement or model run; rows and bytes grow only with the names in the header.
// Mutation caught: a query for each person.
func TestPeopleCostNoStatements(t *testing.T) {
	v := webtest.VisitPeople(t)
	v.Here = "marta"
	v.Yard.WaitForLearning()
	paths := append([]string{"/people", "/people/marta"}, costly...)
	few := measure(v, paths)
	const more = 30
	for i := range more {
		name := fmt.Sprintf("Person %d", i)
		if err := v.Store.AddPerson(t.Context(), person.Person{ID: fmt.Sprintf("p%d", i), Name: name, Mark: person.Sun}, false); err != nil {
			t.Fatal(err)
		}
	}
	for path, many := range measure(v, paths) {
		was := few[path]
		// The scale of the demo may be read meanwhile: at most one statement.
		if many.statements > was.statements+1 || many.runs > was.runs || path != "/people" && many.rows > was.rows+2 {
			t.Errorf("%s takes %+v with %d more people, %+v before", path, many, more, was)
		}
	}
}
