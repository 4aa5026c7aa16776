package log_test

import (
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"yardbloom/web/webtest"
)

var rowOf = regexp.MustCompile(`class="log-row row-open" href="/brews/([^"]+)"`)

func found(page string) (ids []string) {
	for _, m := range rowOf.FindAllStringSubmatch(page, -1) {
		ids = append(ids, m[1])
	}
	return ids
}

// Searches and filters find their brews, strange ones find nothing or get a sentence, and none fails. Mutations caught: a filter that
// the address does not carry, a search that is read as an expression, a place of another order.
func TestLogIsSearchedAndFiltered(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	_, page := v.Get("/log")
	all := len(found(page))
	for query, want := range map[string]func([]string) bool{
		"q=slate":                         func(ids []string) bool { return len(ids) == 16 && strings.HasPrefix(ids[0], "slate-terrace") },
		"q=SLATE+ter":                     func(ids []string) bool { return len(ids) == 16 },
		"bag=slate-terrace&low=8":         func(ids []string) bool { return len(ids) > 0 && len(ids) < 15 },
		"sort=mark&low=9":                 func(ids []string) bool { return len(ids) < all },
		"grinder=old-blade":               func(ids []string) bool { return len(ids) < all },
		"q=%22":                           func(ids []string) bool { return len(ids) == 0 },
		"q=*":                             func(ids []string) bool { return len(ids) == 0 },
		"q=NEAR(":                         func(ids []string) bool { return len(ids) == 0 },
		"q=%F0%9F%AB%96":                  func(ids []string) bool { return len(ids) == 0 },
		"q=slate+OR+evening":              func(ids []string) bool { return len(ids) == 0 },
		"from=2026-01-01&to=2099-01-01":   func(ids []string) bool { return len(ids) == all },
		"from=2099-01-01":                 func(ids []string) bool { return len(ids) == 0 },
		"tasted=no":                       func(ids []string) bool { return len(ids) < all },
		"style=nonsense":                  func(ids []string) bool { return len(ids) == 0 },
		"sort=nonsense&unknown=parameter": func(ids []string) bool { return len(ids) == all },
	} {
		code, page := v.Get("/log?" + query)
		if ids := found(page); code != http.StatusOK || !want(ids) {
			t.Errorf("%s: status %d, %v", query, code, ids)
		}
	}
	for query, says := range map[string]string{"q=" + strings.Repeat("x", 10_000): "at most 200 characters", "low=eleven": "is not",
		"top=11": "can be 1 to 10", "from=yesterday": "date"} {
		code, page := v.Get("/log?" + query)
		if code != http.StatusUnprocessableEntity || !strings.Contains(strings.Join(webtest.ErrorsIn(page), " "), says) {
			t.Errorf("%.20s: status %d, %v", query, code, webtest.ErrorsIn(page))
		}
	}
	for _, query := range []string{"bag=../x", "after=1", "after=x~y~z", "after=NaN~2026-05-01T00:00:00Z~%00"} {
		if code, _ := v.Get("/log?" + query); code != http.StatusNotFound {
			t.Errorf("%s: status %d", query, code)
		}
	}
}

// A filter is kept under a name, opens from its link also after its grinder was retired, and is removed again. Mutations caught: a
// place kept with the filter, a name that is there twice, a retired grinder that drops out of the filter.
func TestFilterIsKept(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	for range 2 { // the same name twice
		if code, _ := v.Post("/log/filters", "name", "Bench", "query", "grinder=bench-grinder&sort=mark&after=1&x=y"); code != http.StatusSeeOther {
			t.Fatalf("status %d", code)
		}
	}
	_, page := v.Get("/log")
	links := regexp.MustCompile(`href="(/log\?[^"]*)">Bench<`).FindAllStringSubmatch(page, -1)
	if len(links) != 1 {
		t.Fatalf("%d filters are kept: %v", len(links), links)
	}
	link := strings.ReplaceAll(links[0][1], "&amp;", "&")
	if q, _ := url.ParseQuery(strings.TrimPrefix(link, "/log?")); q.Get("grinder") != "bench-grinder" || q.Get("after") != "" || q.Get("x") != "" {
		t.Errorf("kept as %s", link)
	}
	if err := v.Store.RetireGear(t.Context(), "grinders", "bench-grinder", true, v.Now()); err != nil {
		t.Fatal(err)
	}
	_, page = v.Get(link)
	if len(found(page)) == 0 || !strings.Contains(page, "Bench grinder, retired") {
		t.Error("the filter of a retired grinder finds nothing, or does not name it")
	}
	id := regexp.MustCompile(`name="id" value="([^"]+)"><button class="quiet" aria-label="Remove`).FindStringSubmatch(page)
	if id == nil {
		t.Fatal("the filter cannot be removed")
	}
	v.Post("/log/filters/drop", "id", id[1])
	if _, page := v.Get("/log"); strings.Contains(page, ">Bench<") {
		t.Error("a removed filter is still there")
	}
	if code, page := v.Post("/log/filters", "name", " ", "query", "q=x"); code != http.StatusUnprocessableEntity || !strings.Contains(page, "not kept") {
		t.Errorf("without a name: status %d", code)
	}
}

// Two brews are compared with the sentence, the overlay, and only the fields that differ; fewer, too many and unknown ones are reported
// so. Mutations caught: equal fields in the table, a brew that is deleted in between, an alignment that forgets the brews.
func TestBrewsAreCompared(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	code, page := v.Get("/log/compare?id=slate-terrace-1&id=slate-terrace-2&id=slate-terrace-2")
	for _, says := range []string{"Same recipe but for", "points apart", "overlay-2", "Align by pour", "Extraction yield", "Only where they differ"} {
		if code != http.StatusOK || !strings.Contains(page, says) {
			t.Errorf("status %d, it does not say %q", code, says)
		}
	}
	if strings.Contains(page, `<th scope="row">Bag</th>`) || strings.Contains(page, `<th scope="row">Dose</th>`) {
		t.Error("equal fields are in the table")
	}
	other := regexp.MustCompile(`href="(/log/compare\?[^"]+)"`).FindStringSubmatch(page)
	if _, page := v.Get(strings.ReplaceAll(other[1], "&amp;", "&")); !strings.Contains(page, "Align by time") || !strings.Contains(page, "pour 2") {
		t.Error("the other alignment does not show the brews")
	}
	for query, says := range map[string]string{"": "Mark two to six", "id=slate-terrace-1": "Mark two to six",
		"id=slate-terrace-1&id=none&id=slate-terrace-2": "no longer in the log",
		"id=a&id=b&id=c&id=d&id=e&id=f&id=g":            "Mark two to six", "id=%00&id=%27": "Mark two to six"} {
		if code, page := v.Get("/log/compare?" + query); code != http.StatusOK || !strings.Contains(page, says) {
			t.Errorf("%s: status %d, it does not say %q", query, code, says)
		}
	}
}
