package web_test

import (
	"context"
	"net/http"
	"strings"
	"testing"

	"yardbloom/demo"
	"yardbloom/web/webtest"
)

// Each page of a long history is small and links to the next.
func TestPagesOfALongHistoryStaySmall(t *testing.T) {
	if testing.Short() {
		t.Skip("one goroutine works for long: nothing for the race detector")
	}
	t.Parallel()
	v := webtest.Visit(t)
	if err := demo.FillLarge(context.Background(), v.Store, webtest.Morning, 1800, 7); err != nil {
		t.Fatal(err)
	}
	seen := map[string]int{}
	for _, start := range []string{"/", "/log", "/log?bag=" + demo.LargeBag} {
		for path := start; path != ""; seen[start]++ {
			code, body := v.Get(path)
			if code != http.StatusOK || len(body) > 60_000 {
				t.Fatalf("%s: status %d, %d bytes", path, code, len(body))
			}
			path = ""
			for _, word := range []string{"Older bags", "More brews"} {
				if before, _, more := strings.Cut(body, `">`+word); more {
					path = strings.ReplaceAll(before[strings.LastIndex(before, `href="`)+len(`href="`):], "&amp;", "&")
				}
			}
		}
	}
	if seen["/"] != 2 || seen["/log"] != 78 || seen["/log?bag="+demo.LargeBag] != 3 {
		t.Errorf("pages: %v", seen)
	}
	for _, path := range []string{"/bags/" + demo.LargeBag, "/brews/" + demo.LargeBrew, "/brews/" + demo.LargeBrew + "/next"} {
		if code, body := v.Get(path); code != http.StatusOK || len(body) > 60_000 {
			t.Errorf("%s: status %d, %d bytes", path, code, len(body))
		}
	}
}
