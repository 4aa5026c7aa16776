package log_test

import (
	"context"
	"net/http"
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
	if code != http.StatusOK || body != "at_s,scale_g\n-0.50,0.0\n1.25,6.3\n" ||
		!strings.HasPrefix(header.Get("Content-Type"), "text/csv") {
		t.Errorf("status %d, %q", code, body)
	}
}
