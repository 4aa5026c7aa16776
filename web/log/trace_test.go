package log_test

import (
	"context"
	"encoding/csv"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"testing"

	"yardbloom/core/trace"
	"yardbloom/web/webtest"
)

// The file has the stored scale readings.
func TestTraceFile(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	if err := v.Store.AppendReadings(context.Background(), map[string][]trace.Reading{webtest.Poured: {{At: -0.5, Grams: 0},
		{At: 1.25, Grams: 6.3}}}); err != nil {
		t.Fatal(err)
	}
	code, body, header := v.Send("GET", "/brews/"+webtest.Poured+"/trace.csv", nil)
	if code != http.StatusOK || body != strings.ReplaceAll("brew_id,at_s,scale_g\r\nID,-0.50,0.0\r\nID,1.25,6.3\r\n", "ID", webtest.Poured) ||
		!strings.HasPrefix(header.Get("Content-Type"), "text/csv") {
		t.Errorf("status %d, %q", code, body)
	}
}

// The files of the log have the brews of its filter in its order, and every reading of them, and begin with an order mark on request.
// Mutations caught: a filter that the file does not have, a step of the export that skips or repeats a brew, a reading of another brew.
func TestLogFiles(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	table := func(path string) [][]string {
		t.Helper()
		code, body, header := v.Send("GET", path, nil)
		rows, err := csv.NewReader(strings.NewReader(body)).ReadAll()
		if code != http.StatusOK || err != nil || len(rows) == 0 || !strings.HasPrefix(header.Get("Content-Disposition"), "attachment") {
			t.Fatalf("%s: status %d, %d rows, %v", path, code, len(rows), err)
		}
		return rows
	}
	for _, query := range []string{"", "?q=slate&sort=mark", "?low=6&bag=slate-terrace", "?tasted=no"} {
		_, page := v.Get("/log" + query)
		var got []string
		for _, row := range table("/log.csv" + query)[1:] {
			got = append(got, row[0])
		}
		if want := found(page); len(got) < len(want) || !slices.Equal(got[:len(want)], want) {
			t.Errorf("%q: %v, want %v", query, got, want)
		}
	}
	readings := map[string]int{}
	for _, row := range table("/log/readings.csv?bag=slate-terrace")[1:] {
		readings[row[0]]++
	}
	for n := range 15 {
		id := fmt.Sprintf("slate-terrace-%d", n+1)
		kept, err := v.Store.Readings(t.Context(), id)
		if err != nil || readings[id] != len(kept) {
			t.Errorf("%s: %d readings, want %d (%v)", id, readings[id], len(kept), err)
		}
		delete(readings, id)
	}
	if len(readings) > 0 {
		t.Errorf("readings of other brews: %v", readings)
	}
	if _, body, _ := v.Send("GET", "/log.csv?bom=1", nil); !strings.HasPrefix(body, "\ufeffid,") {
		t.Errorf("no order mark: %.10q", body)
	}
	if code, _ := v.Get("/log.csv?low=often"); code != http.StatusUnprocessableEntity {
		t.Errorf("a wrong filter: status %d", code)
	}
}
