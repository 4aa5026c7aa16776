package data_test

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"math/rand/v2"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"yardbloom/store"
	"yardbloom/web/webtest"
	"yardbloom/yard"
)

// exported returns the yard file of a visitor's yard.
func exported(v *webtest.Visitor) []byte {
	v.T.Helper()
	var file bytes.Buffer
	if err := yard.Export(v.T.Context(), v.Store, &file, time.Time{}, time.Time{}, v.Now()); err != nil {
		v.T.Fatal(err)
	}
	return file.Bytes()
}

var applying = regexp.MustCompile(`/data/import/[^/"]+/apply`)

// imported uploads a file, agrees and waits for the end.
func imported(v *webtest.Visitor, name string, file []byte) {
	v.T.Helper()
	code, page, head := v.Upload("/data", "file", name, file)
	if code != http.StatusSeeOther || head.Get("Location") != "/data/import" {
		v.T.Fatalf("status %d: %v", code, webtest.ErrorsIn(page))
	}
	agree(v)
}

func agree(v *webtest.Visitor) {
	v.T.Helper()
	_, page := v.Get("/data/import")
	apply := applying.FindString(page)
	if apply == "" {
		v.T.Fatalf("there is nothing to import: %s", webtest.Short(page))
	}
	if code, _ := v.Post(apply); code != http.StatusSeeOther {
		v.T.Fatalf("status %d", code)
	}
	for p := v.Yard.ImportProgress(); !p.Ended; p = v.Yard.ImportProgress() {
		time.Sleep(time.Millisecond)
	}
	if err := v.Yard.ImportProgress().Err; err != nil {
		v.T.Fatal(err)
	}
	if _, page := v.Get("/data/import"); !strings.Contains(page, "The import is complete") {
		v.T.Errorf("no end: %s", webtest.Short(page))
	}
}

// A brew that was deleted here does not come back, one that was changed in both yards shows its other version, and a file that is given up
// changes nothing. Mutations caught: an upload that is applied at once, a version that is not shown, a deleted brew that comes back.
func TestYardFileIsMergedAfterTheDecision(t *testing.T) {
	t.Parallel()
	there, here := webtest.Visit(t), webtest.Visit(t) // with the same records
	correct := func(v *webtest.Visitor, tds string) {
		t.Helper()
		_, page := v.Get("/brews/slate-terrace-3/cup")
		form := webtest.Fields(page)
		form.Set("tds", tds)
		if code, page, _ := v.Send("POST", "/brews/slate-terrace-3/cup", form); code != http.StatusSeeOther {
			t.Fatalf("status %d: %v", code, webtest.ErrorsIn(page))
		}
	}
	correct(there, "1.41")
	correct(there, "1.42")
	correct(here, "1.31")
	if err := here.Store.Remove(t.Context(), store.Brews, "slate-terrace-2", "", here.Now()); err != nil {
		t.Fatal(err)
	}
	before := exported(here)
	if code, _, _ := here.Upload("/data", "file", "there.zip", exported(there)); code != http.StatusSeeOther {
		t.Fatalf("status %d", code)
	}
	_, page := here.Get("/data/import")
	for _, want := range []string{"there.zip", "changed in both yards", "unchanged"} {
		if !strings.Contains(page, want) {
			t.Errorf("the plan does not say %q", want)
		}
	}
	drop := strings.Replace(applying.FindString(page), "/apply", "/drop", 1)
	if code, _ := here.Post(drop); code != http.StatusSeeOther {
		t.Fatalf("status %d", code)
	}
	if !bytes.Equal(exported(here), before) {
		t.Error("a file that was given up changed the yard")
	}
	if code, _ := here.Post(applying.FindString(page)); code != http.StatusNotFound {
		t.Errorf("a file that was given up is applied: status %d", code)
	}
	imported(here, "there.zip", exported(there))
	_, page = here.Get("/brews/slate-terrace-3")
	if !strings.Contains(page, "1.42 %") || !strings.Contains(page, "Other versions") {
		t.Error("the record has not the newer version, or does not say that there is another one")
	}
	_, page = here.Get("/data")
	versions := regexp.MustCompile(`/data/imports/\d+`).FindString(page)
	if _, page = here.Get(versions); !strings.Contains(page, "1.31") {
		t.Errorf("the other version is not shown at %s", versions)
	}
	if code, _ := here.Get("/brews/slate-terrace-2"); code != http.StatusNotFound {
		t.Errorf("the deleted brew: status %d", code)
	}
}

// Mutations caught: a bad file that ends in a page of its own, a table that replaces a waiting yard file without a word.
func TestBadFilesGetASentence(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	before := exported(v)
	for name, c := range map[string]struct {
		file []byte
		says string
	}{
		"none.zip": {nil, "Choose a file first"}, "half.zip": {before[:100], "not a whole yard file"}, "x.json": {[]byte("{}"), "cannot be imported"},
		"x.png": {[]byte("\x89PNG\x00\x00"), "neither a yard file nor a table"}, "one.csv": {[]byte("date,coffee\n"), "only one row"},
		"large.csv": {bytes.Repeat([]byte("a,b\n"), 5<<20), "at most"},
	} {
		code, page, _ := v.Upload("/data", "file", name, c.file)
		if code != http.StatusUnprocessableEntity || !strings.Contains(page, c.says) {
			t.Errorf("%s: status %d, %v", name, code, webtest.ErrorsIn(page))
		}
	}
	if code, page, _ := v.Upload("/data", "file", "", nil, "pasted", "no table"); code != http.StatusUnprocessableEntity || !strings.Contains(page,
		"no table") {
		t.Errorf("what was pasted is lost: status %d", code)
	}
	for _, path := range []string{"/data/import/none/apply", "/data/import/none/drop"} {
		if code, _ := v.Post(path); code != http.StatusNotFound {
			t.Errorf("%s: status %d", path, code)
		}
	}
	for _, path := range []string{"/data/table/none", "/data/imports/99", "/data/records/brew/none", "/data/records/none/none", "/data/records/brew/%22"} {
		if code, _ := v.Get(path); code != http.StatusNotFound {
			t.Errorf("%s: status %d", path, code)
		}
	}
	if code, page := v.Get("/data/yard.zip?from=2026-05-09&to=2026-05-02"); code != http.StatusUnprocessableEntity || !strings.Contains(page,
		"before the first") {
		t.Errorf("days in the wrong order: status %d", code)
	}
	if !bytes.Equal(exported(v), before) {
		t.Error("a bad file changed the yard")
	}
}

const sheet = "When;Coffee;Dripper;Grinder;Clicks;Dose (g);Water (g);Temp;Brew time;TDS;Stars;Comments\n" +
	"3.5.2026 08:10;Slate Terrace;Flat bed;Old mill;22;15,0;250;93;3:05;1,38;4;bright\n" +
	"4.5.2026 08:05;River Gate;Kitchen cone;;medium;18;300;hot;;;3;\n" +
	";River Gate;Kitchen cone;;medium;18;300;94;2:50;;;\n"

// A table is understood, corrected, imported and, when it has grown, imported again without doubles. Mutations caught: brews that are
// written before the decision, a mapping that is forgotten, a row that is doubled, a new bag of a known coffee.
func TestTableOfBrewsIsImported(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	take := func(text string) (string, string) {
		t.Helper()
		code, page, head := v.Upload("/data", "file", "", nil, "pasted", text)
		if code != http.StatusSeeOther {
			t.Fatalf("status %d: %v", code, webtest.ErrorsIn(page))
		}
		_, page = v.Get(head.Get("Location"))
		return head.Get("Location"), page
	}
	at, page := take(sheet)
	for _, want := range []string{"2 brews can be imported", "1 row cannot", "line 4: no date", "not a number here", "2026-05-03 08:10", "a new open cone"} {
		if !strings.Contains(page, want) {
			t.Errorf("the page does not say %q", want)
		}
	}
	form := webtest.Fields(page)
	form.Set("unit-10", "5")  // stars
	form.Set("column-11", "") // comments are left out
	form.Set("do", "read")
	if code, _, _ := v.Send("POST", at, form); code != http.StatusSeeOther {
		t.Fatalf("status %d", code)
	}
	if _, page = v.Get(at); !strings.Contains(page, "8 of 10") {
		t.Error("the unit of the marks was not changed")
	}
	rows := func(of string) int {
		t.Helper()
		_, file := v.Get("/log.csv?" + url.Values{"q": {of}}.Encode())
		return strings.Count(file, "\n") - 1
	}
	terrace := rows("slate terrace")
	bring := func(page string) {
		t.Helper()
		form = webtest.Fields(page)
		form.Set("do", "import")
		if code, page, head := v.Send("POST", at, form); code != http.StatusSeeOther || head.Get("Location") != "/data/import" {
			t.Fatalf("status %d: %v", code, webtest.ErrorsIn(page))
		}
	}
	bring(page)
	if rows("slate terrace") != terrace {
		t.Error("a brew was written before the decision")
	}
	agree(v)
	if got := rows("slate terrace"); got != terrace+1 {
		t.Errorf("%d brews of Slate Terrace, want %d", got, terrace+1)
	}
	_, file := v.Get("/log.csv?q=river+gate")
	for _, want := range []string{"River Gate", "18.0,300.0", "Kitchen cone", ",6,"} {
		if !strings.Contains(file, want) {
			t.Errorf("no %q in %s", want, file)
		}
	}
	id := regexp.MustCompile(`sheet-[0-9a-f]+`).FindString(file)
	_, page = v.Get("/brews/" + id)
	for _, want := range []string{"Recorded after the brew", "not timed"} {
		if !strings.Contains(page, want) {
			t.Errorf("the record does not say %q", want)
		}
	}
	for _, path := range []string{"/cup", "/next", "/recipe", "/card", "/flavours", "/share", "/photos"} {
		v.Get("/brews/" + id + path) // a status of 500 fails
	}
	at, page = take(sheet + "5.5.2026 08:10;Slate Terrace;Flat bed;Old mill;20;15,0;250;93;3:25;1,44;5;\n")
	if !strings.Contains(page, "8 of 10") {
		t.Error("how the table was read is not remembered")
	}
	bring(page)
	agree(v)
	if got := rows("slate terrace"); got != terrace+2 {
		t.Errorf("%d brews of Slate Terrace after the second import, want %d", got, terrace+2)
	}
}

// Records that were changed at random and are accepted do not break a page. Mutation caught: a name or a number that the schema lets
// through and a page does not know.
func TestPagesShowWhateverIsImported(t *testing.T) {
	t.Parallel()
	from, v := webtest.Visit(t), webtest.Visit(t)
	rng := rand.New(rand.NewPCG(11, 12))
	accepted := 0
	for n := range 60 {
		kind := []store.Kind{store.Brews, store.Bags, store.Trials, store.Scripts, store.Flights}[n%5]
		id := map[store.Kind]string{store.Brews: "slate-terrace-3", store.Bags: "slate-terrace", store.Trials: "trial-stir", store.Scripts: "regional-heat",
			store.Flights: "window-morning"}[kind]
		d, err := from.Store.DocumentOf(t.Context(), kind, id)
		if err != nil {
			t.Fatal(err)
		}
		text := strings.Replace(d.Text, fmt.Sprintf(`"revision":%d`, d.Revision), fmt.Sprintf(`"revision":%d`, d.Revision+int64(n)+1), 1)
		code, _, _ := v.Upload("/data", "file", "one.json", []byte(changed(text, rng)))
		if code != http.StatusSeeOther {
			continue
		}
		_, page := v.Get("/data/import")
		apply := applying.FindString(page)
		if apply == "" {
			continue
		}
		accepted++
		v.Post(apply)
		for p := v.Yard.ImportProgress(); !p.Ended; p = v.Yard.ImportProgress() {
			time.Sleep(time.Millisecond)
		}
		for _, path := range map[store.Kind][]string{store.Brews: {"/brews/slate-terrace-3", "/brews/slate-terrace-3/cup", "/brews/slate-terrace-3/next",
			"/brews/slate-terrace-3/recipe", "/brews/slate-terrace-3/card", "/log", "/bags/slate-terrace", "/learned", "/yard"},
			store.Bags: {"/", "/bags/slate-terrace", "/yard"}, store.Trials: {"/trials", "/trials/trial-stir"},
			store.Scripts: {"/stage", "/stage/regional-heat", "/stage/regional-heat/show"}, store.Flights: {"/side", "/side/window-morning"}}[kind] {
			v.Get(path) // a status of 500 fails
		}
	}
	if accepted < 10 {
		t.Errorf("only %d of the records were accepted", accepted)
	}
}

// changed changes some values of a document.
func changed(text string, rng *rand.Rand) string {
	values := regexp.MustCompile(`:("[^"]*"|-?[0-9.]+|true|false|\[\])`).FindAllStringIndex(text, -1)
	for range 1 + rng.IntN(3) {
		at := values[rng.IntN(len(values))]
		with := []string{`"x"`, "0", "1", "-1", "1e9", `""`, "null", "true", "[]", "0.001", "99"}[rng.IntN(11)]
		if old := text[at[0]+1 : at[1]]; len(old) >= len(with) {
			text = text[:at[0]+1] + with + strings.Repeat(" ", len(old)-len(with)) + text[at[1]:]
		}
	}
	return text
}

// What the log exports as a table, another yard reads: every figure of a brew that a table can tell arrives. Mutations caught: a header of the
// export that the import does not know, an apostrophe against formulas that stays, a time whose zone is lost.
func TestExportedTableIsReadAgain(t *testing.T) {
	t.Parallel()
	from, v := webtest.Visit(t), webtest.Visit(t)
	_, file := from.Get("/log.csv?bag=slate-terrace")
	code, page, head := v.Upload("/data", "file", "log.csv", []byte(file))
	if code != http.StatusSeeOther {
		t.Fatalf("status %d: %v", code, webtest.ErrorsIn(page))
	}
	at := head.Get("Location")
	_, page = v.Get(at)
	brews := strings.Count(file, "\n") - 1
	if !strings.Contains(page, fmt.Sprintf("%d brews can be imported", brews)) || strings.Contains(page, "cannot:") {
		t.Errorf("not all of the %d brews are read", brews)
	}
	form := webtest.Fields(page)
	form.Set("do", "import")
	if code, page, _ := v.Send("POST", at, form); code != http.StatusSeeOther {
		t.Fatalf("status %d: %v", code, webtest.ErrorsIn(page))
	}
	agree(v)
	columns := func(file string) map[string][]string { // by start
		t.Helper()
		rows, err := csv.NewReader(strings.NewReader(file)).ReadAll()
		if err != nil {
			t.Fatal(err)
		}
		out := map[string][]string{}
		for _, row := range rows[1:] {
			var kept []string
			for i, name := range rows[0] {
				switch name {
				case "coffee", "brewer", "grinder", "dose_g", "water_g", "grind_um", "temperature_c", "drawdown_s", "beverage_g", "tds_percent",
					"mark", "notes":
					kept = append(kept, row[i])
				}
			}
			at, err := time.Parse(time.RFC3339, row[1])
			if err != nil {
				t.Fatal(err)
			}
			out[at.UTC().Format(time.RFC3339)] = append(out[at.UTC().Format(time.RFC3339)], strings.Join(kept, " | "))
		}
		return out
	}
	_, all := v.Get("/log.csv?bag=slate-terrace")
	got := columns(all)
	for start, want := range columns(file) {
		if len(got[start]) != 2 || got[start][0] != want[0] || got[start][1] != want[0] {
			t.Errorf("%s: %v, want twice %v", start, got[start], want)
		}
	}
}
