package log_test

import (
	"fmt"
	"net/http"
	"regexp"
	"strings"
	"testing"

	"yardbloom/demo"
	"yardbloom/web/webtest"
)

var brewed = regexp.MustCompile(`(\d+) brews? since`)

// The yard's page counts what is in the log, and follows a deletion and a cup. Every chart has axes, a table and a summary. Mutations
// caught: totals that a deletion leaves as they were, a chart without its numbers.
func TestYardSumsUpTheLog(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	brews := func() string {
		t.Helper()
		_, page := v.Get("/yard")
		if m := brewed.FindStringSubmatch(page); m != nil {
			return m[1]
		}
		t.Fatal("no sum of brews")
		return ""
	}
	if n := demo.Brews(); brews() != fmt.Sprint(n) {
		t.Errorf("%s brews, and %d in the log", brews(), n)
	}
	before := brews()
	v.Post("/brews/slate-terrace-2/delete")
	if brews() == before {
		t.Error("a deleted brew still counts")
	}
	v.Post("/removed/slate-terrace-2/restore")
	if brews() != before {
		t.Error("a restored brew does not count")
	}
	v.Post("/bags/slate-terrace/count", "counted", "20")
	_, page := v.Get("/yard?weeks=52")
	charts := strings.Count(page, `class="chart" role="img"`)
	if charts < 6 || strings.Count(page, "<summary>Numbers") != charts || strings.Count(page, `class="chart-axis"`) != charts {
		t.Errorf("%d charts, %d tables", charts, strings.Count(page, "<summary>Numbers"))
	}
	for _, want := range []string{"How repeatable", "What does best here", "EUR", "Running out", "Slate Terrace</a>: enough for 1 more", "a trial"} {
		if !strings.Contains(page, want) {
			t.Errorf("the page has no %q", want)
		}
	}
}

// A day at the bar lists its brews as the day went, with the coffee used. Mutation caught: a day that ends at midnight UTC, or an unknown
// one that is an error of the server.
func TestDayAtTheBar(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	_, page := v.Get("/yard/day?on=" + webtest.Morning.Format("2006-01-02"))
	_, log := v.Get("/log?from=" + webtest.Morning.Format("2006-01-02"))
	if n := strings.Count(log, `class="log-line"`); n == 0 || strings.Count(page, `</th><td><a `) != n {
		t.Errorf("%d brews, want %d", strings.Count(page, `</th><td><a `), n)
	}
	if strings.Contains(page, "Brews after") || !strings.Contains(page, "Brews before") || !strings.Contains(page, "By coffee") {
		t.Error("today has a day after, or no sums")
	}
	for path, want := range map[string]int{"/yard/day": http.StatusOK, "/yard/day?on=2019-02-03": http.StatusOK, "/yard/day?on=soon": http.StatusNotFound,
		"/yard?weeks=-1": http.StatusOK} {
		if code, _ := v.Get(path); code != want {
			t.Errorf("%s: status %d, want %d", path, code, want)
		}
	}
}
