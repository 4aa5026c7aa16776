package brew_test

import (
	"bufio"
	"context"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"yardbloom/core/sim"
	"yardbloom/web/webtest"
)

// One change of a brew runs the model once for all screens, whatever their units. It does not run in parallel,
// because model runs are counted for the process. Mutation caught: a prediction for each screen or for each system of
// units.
func TestScreensShareThePrediction(t *testing.T) {
	v := webtest.VisitPeople(t)
	v.Yard.WaitForLearning()
	srv := httptest.NewServer(v.Server)
	defer srv.Close()
	if code, _ := v.Post("/brews/"+webtest.Planned+"/start", "key", "start"); code != http.StatusSeeOther {
		t.Fatalf("start: %d", code)
	}
	ctx, stop := context.WithCancel(t.Context())
	defer stop()
	events := make(chan string, 100)
	open := func(who string) {
		r, err := http.NewRequestWithContext(ctx, "GET", srv.URL+"/brews/"+webtest.Planned+"/live", nil)
		if err != nil {
			t.Fatal(err)
		}
		r.AddCookie(&http.Cookie{Name: "person", Value: who})
		answer, err := http.DefaultClient.Do(r)
		if err != nil {
			t.Fatal(err)
		}
		t.Cleanup(func() { answer.Body.Close() })
		go func() {
			lines := bufio.NewScanner(answer.Body)
			lines.Buffer(nil, 1<<20)
			seen := false
			for lines.Scan() {
				seen = seen || strings.HasPrefix(lines.Text(), "data: <")
				if lines.Text() == "" && seen {
					events <- who
					seen = false
				}
			}
		}()
	}
	runs := func(screens int, key string) int64 {
		before := sim.Runs()
		if code, _ := v.Post("/brews/"+webtest.Planned+"/tap", "key", key, "kind", "mark", "mark", "channel", "at", "1"); code != http.StatusSeeOther {
			t.Fatalf("tap: %d", code)
		}
		for range screens {
			<-events
		}
		return sim.Runs() - before
	}
	open("marta")
	<-events
	alone := runs(1, "one")
	for _, who := range []string{"ivo", "bruno", "bruno"} { // Bruno reads ounces and °F
		open(who)
		<-events
	}
	if together := runs(4, "two"); together != alone {
		t.Errorf("a tap runs the model %d times for four screens, %d for one", together, alone)
	}
}
