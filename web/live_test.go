package web

import (
	"bufio"
	"context"
	"fmt"
	"net/http"
	"net/http/httptest"
	"slices"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/practice"
	"yardbloom/core/rush"
	"yardbloom/core/trace"
	"yardbloom/core/units"
	"yardbloom/store"
)

// A screen that had no server says how long ago the first water was; its own clock may be wrong.
func TestAStartThatComesLateCountsFromItsFirstWater(t *testing.T) {
	t.Parallel()
	v := visit(t)
	path := "/brews/" + planned
	for _, ago := range []string{"NaN", "-5", "43200.1", "1e9", "soon"} {
		if code, _ := v.post(path+"/start", "key", "k", "ago", ago); code != http.StatusBadRequest {
			t.Errorf("begun %q ago: status %d", ago, code)
		}
	}
	if ago, err := agoOf("43200"); err != nil || ago != 12*time.Hour {
		t.Errorf("a start half a day late: %v, %v", ago, err)
	}
	if _, err := v.store.Brew(context.Background(), planned); err == nil {
		t.Fatal("a start that was refused began the brew")
	}
	for range 2 { // sent twice, kept once
		if code, _ := v.post(path+"/start", "key", "k", "ago", "130.5"); code != http.StatusSeeOther {
			t.Errorf("status %d", code)
		}
	}
	v.post(path+"/touch", "key", "m", "kind", "mark", "mark", "dry spot", "at", "12")
	b, err := v.store.Brew(context.Background(), planned)
	if err != nil || v.now.Sub(b.Started).Seconds() != 130.5 || len(b.Events) != 2 {
		t.Errorf("begun at %v with %+v, %v", b.Started, b.Events, err)
	}
	// The clocks go forward by an hour: the zone changes, the brew's second does not.
	v.now = v.now.Add(20 * time.Second).In(time.FixedZone("", 3*3600))
	if at := v.elapsed(path); at < 150 || at > 151 {
		t.Errorf("after the change of the clocks it stands at %v s", at)
	}
}

// A stop in the bloom is kept with its reason; what a scale says cannot be forged by a form.
func TestAStopIsKeptWithItsReason(t *testing.T) {
	t.Parallel()
	v := visit(t)
	path := "/brews/" + planned
	v.post(path + "/start")
	v.now = v.now.Add(9 * time.Second)
	for _, kind := range []brew.EventKind{brew.Watched, brew.Ended, brew.Off, brew.Bend, brew.Tared} {
		if code, _ := v.post(path+"/touch", "key", "forged", "kind", string(kind)); code != http.StatusBadRequest {
			t.Errorf("%s by a form: status %d", kind, code)
		}
	}
	if code, _ := v.post(path+"/abandon", "reason", strings.Repeat("x", 300)); code != http.StatusUnprocessableEntity {
		t.Errorf("an endless reason: status %d", code)
	}
	if code, _ := v.post(path+"/abandon", "reason", "spilled"); code != http.StatusSeeOther {
		t.Errorf("status %d", code)
	}
	if _, page := v.get(path); !strings.Contains(page, "stopped before the end: spilled") {
		t.Error("the report does not say why it was stopped")
	}
	if code, _ := v.post(path+"/weigh", "scale", "none-such"); code != http.StatusUnprocessableEntity {
		t.Errorf("a scale that is not there: status %d", code)
	}
	if code, _ := v.post(path+"/watch", "speed", "4"); code != http.StatusNotFound {
		t.Errorf("a stand-in hand outside the demo: status %d", code)
	}
}

// Wrong entries get a sentence beside them and keep what was typed, and nothing is kept.
func TestWrongEntriesOfTheLiveTools(t *testing.T) {
	t.Parallel()
	v := visit(t)
	for _, c := range []struct {
		path  string
		pairs []string
		says  string
		typed string
	}{
		{"/gear/devices/new", []string{"name", "Far scale", "kind", "scale", "address", "http://scale"}, "are spoken here", "http://scale"},
		{"/gear/devices/new", []string{"name", "", "kind", "scale", "address", "tcp://host:1", "carafe", "a lot"}, "cannot be empty", "a lot"},
		{"/rush", []string{"same", "1"}, "Order something first", ""},
		{"/rush", []string{"same", "1", "order.slate-terrace-3-kept", "four"}, "number", "four"},
		{"/rush", []string{"same", "6", "order.slate-terrace-3-kept", "6", "order.long-meadow-2-kept", "2"}, "6 brews in mind", ""},
		{"/stage", []string{"name", "Heat", "recipe", "none", "cups", "9", "words", "130", "limit", "6:00"}, "Choose one of the recipes", "9"},
		{"/practice/circles", []string{"readings", "0,1;x,2"}, "could not be read", ""},
		{"/practice/circles", []string{"readings", "0,0;0.1,0;0.2,0"}, "No water was seen", ""},
		{"/practice/circles", []string{"began", "0", "ended", "soon", "water", "100"}, "", ""},
	} {
		code, page := v.post(c.path, c.pairs...)
		if code != http.StatusUnprocessableEntity || !strings.Contains(page, c.says) || !strings.Contains(page, c.typed) {
			t.Errorf("%s %v: status %d, does not say %q or has lost %q", c.path, c.pairs, code, c.says, c.typed)
		}
	}
	ctx := context.Background()
	devices, _ := v.store.Devices(ctx)
	rushes, _ := v.store.Rushes(ctx)
	scripts, _ := v.store.Scripts(ctx)
	tries, _ := v.store.Tries(ctx)
	if len(devices) != 2 || len(rushes) != 0 || len(scripts) != 1 || slices.ContainsFunc(tries, func(d store.Dated[practice.Try]) bool { return d.At.Equal(v.now) }) {
		t.Errorf("kept all the same: %d devices, %d rushes, %d scripts, %d tries", len(devices), len(rushes), len(scripts), len(tries))
	}
	for _, path := range []string{"/rush/nobody", "/stage/nobody", "/stage/nobody/show", "/practice/juggling", "/practice/circles/live?scale=nobody"} {
		if code, _ := v.get(path); code != http.StatusNotFound {
			t.Errorf("%s: status %d", path, code)
		}
	}
}

// A kettle that does not hold the water of all orders is filled again: once it is hot, a tap
// says so, and the board asks for it no more.
func TestTheKettleOfARushIsFilledAgain(t *testing.T) {
	t.Parallel()
	v := visit(t)
	if code, _ := v.post("/rush", "same", "3", "order.slate-terrace-3-kept", "3"); code != http.StatusSeeOther {
		t.Fatalf("planning: status %d", code)
	}
	rushes, err := v.store.Rushes(context.Background())
	if err != nil || len(rushes) != 1 {
		t.Fatalf("%d rushes, %v", len(rushes), err)
	}
	path := "/rush/" + rushes[0].ID
	for _, step := range []string{"/start", "/go/1", "/go/2"} {
		if code, _ := v.post(path + step); code != http.StatusSeeOther {
			t.Fatalf("%s: status %d", step, code)
		}
	}
	v.now = v.now.Add(4 * time.Minute)
	for _, o := range rushes[0].It.Orders[:2] {
		v.post("/brews/"+o.Brew+"/touch", "key", "end", "kind", "finish", "at", "230")
	}
	const wish = "Fill the kettle"
	if _, page := v.get(path); !strings.Contains(page, wish) {
		t.Fatal("594 of 800 g are poured, the third brew needs 297, and nobody asks for water")
	}
	for _, water := range []string{"", "NaN", "-5", "1e9", "a jug"} {
		if code, _ := v.post(path+"/filled", "water", water); code != http.StatusUnprocessableEntity {
			t.Errorf("filled with %q: status %d", water, code)
		}
	}
	v.post(path+"/filled", "water", "91")
	if _, page := v.get(path); strings.Contains(page, wish) {
		t.Error("it is filled and hot, and the board still asks for water")
	}
}

// A script, a rush or a try that is put aside leaves its list, and comes back from the notice.
func TestWhatIsPutAsideComesBack(t *testing.T) {
	t.Parallel()
	v := visit(t)
	ctx := context.Background()
	tries, err := v.store.Tries(ctx)
	if err != nil {
		t.Fatal(err)
	}
	if err := v.store.AddRush(ctx, rush.Rush{ID: "morning", Ended: true}, v.now); err != nil {
		t.Fatal(err)
	}
	for list, thing := range map[string]string{"/stage": "/stage/regional-heat", "/practice": "/practice/tries/" + tries[0].ID, "/rush": "/rush/morning"} {
		there := func() bool { _, page := v.get(list); return strings.Contains(page, thing) }
		if list == "/stage" && !there() {
			t.Fatal("the script is not on its list")
		}
		code, _, header := v.send("POST", thing+"/aside", nil)
		if code != http.StatusSeeOther {
			t.Fatalf("%s aside: status %d", thing, code)
		}
		if there() {
			t.Errorf("%s is put aside and still on %s", thing, list)
		}
		if _, page := v.get(header.Get("Location")); !strings.Contains(page, thing+"/back") {
			t.Errorf("%s offers no way back", header.Get("Location"))
		}
		if v.post(thing + "/back"); !there() {
			t.Errorf("%s did not come back", thing)
		}
		if code, _ := v.post(strings.TrimSuffix(thing, thing[strings.LastIndex(thing, "/"):]) + "/nobody/aside"); code != http.StatusNotFound {
			t.Errorf("nobody beside %s: status %d", thing, code)
		}
	}
}

// What the scale showed is handed out as it was kept.
func TestATraceIsHandedOut(t *testing.T) {
	t.Parallel()
	v := visit(t)
	if err := v.store.AppendReadings(context.Background(), map[string][]trace.Reading{untasted: {{At: -0.5, Grams: 0}, {At: 1.25, Grams: 6.3}}}); err != nil {
		t.Fatal(err)
	}
	code, body, header := v.send("GET", "/brews/"+untasted+"/trace.csv", nil)
	if code != http.StatusOK || body != "at_s,scale_g\n-0.50,0.0\n1.25,6.3\n" || !strings.HasPrefix(header.Get("Content-Type"), "text/csv") {
		t.Errorf("status %d, %q", code, body)
	}
}

// A worker of an older version must be replaced: its script says which files it belongs to,
// and is never kept without asking.
func TestTheWorkerBelongsToItsVersion(t *testing.T) {
	t.Parallel()
	v := visit(t)
	code, script, header := v.send("GET", "/sw.js", nil)
	_, page := v.get("/")
	if code != http.StatusOK || !strings.HasPrefix(script, fmt.Sprintf("const STATIC = %q;", v.s.static.folder)) || !strings.Contains(page, v.s.static.folder) || header.Get("Cache-Control") != "no-cache" {
		t.Errorf("status %d, %q, %.60q", code, header.Get("Cache-Control"), script)
	}
}

// BenchmarkScreens pours so many brews over scales at 10 Hz with three screens each, and says
// how late a reading is on a screen, and how many were lost on the way to the disk.
func BenchmarkScreens(b *testing.B) {
	const brews, screens, seconds = 20, 3, 10
	for b.Loop() {
		d := openDesk(b, b.TempDir(), 0)
		srv := httptest.NewServer(d.s)
		ctx, stop := context.WithCancel(context.Background())
		draft, _, err := d.s.Store.Draft(ctx, planned)
		if err != nil {
			b.Fatal(err)
		}
		var mu sync.Mutex
		var lags []float64
		sent := make([]map[string]time.Time, brews)
		var open sync.WaitGroup
		d.s.Now = time.Now
		for i := range brews {
			sent[i] = map[string]time.Time{}
			draft.ID = fmt.Sprintf("brew-%d", i)
			if err := d.s.Store.AddDraft(ctx, draft, time.Now()); err != nil {
				b.Fatal(err)
			}
			if _, err := d.s.begin(ctx, draft.ID, "start", 0); err != nil {
				b.Fatal(err)
			}
			for range screens {
				r, _ := http.NewRequestWithContext(ctx, "GET", srv.URL+"/brews/"+draft.ID+"/live", nil)
				answer, err := http.DefaultClient.Do(r)
				if err != nil {
					b.Fatal(err)
				}
				open.Go(func() {
					defer answer.Body.Close()
					lines := bufio.NewScanner(answer.Body)
					lines.Buffer(nil, 1<<20)
					for lines.Scan() {
						_, after, ok := strings.Cut(lines.Text(), `{"t":`)
						at, _, _ := strings.Cut(after, ",")
						if !ok {
							continue
						}
						mu.Lock()
						if when, known := sent[i][at]; known {
							lags = append(lags, float64(time.Since(when).Microseconds())/1000)
						}
						mu.Unlock()
					}
				})
			}
		}
		tick := time.NewTicker(100 * time.Millisecond)
		for n := range seconds * 10 {
			<-tick.C
			for i := range brews {
				at := units.Seconds(float64(n+1) / 10)
				mu.Lock()
				sent[i][strconv.FormatFloat(float64(at), 'f', 2, 64)] = time.Now()
				mu.Unlock()
				if err := d.s.owners.ReadAt(fmt.Sprintf("brew-%d", i), "scale", 400, trace.Reading{At: at, Grams: units.Grams(5 * float64(at))}); err != nil {
					b.Fatal(err)
				}
			}
		}
		time.Sleep(time.Second)
		stop()
		lost := 0
		for i := range brews {
			kept, err := d.s.Store.Readings(context.Background(), fmt.Sprintf("brew-%d", i))
			if err != nil {
				b.Fatal(err)
			}
			lost += seconds*10 - len(kept)
		}
		open.Wait()
		srv.Close()
		d.s.Close()
		slices.Sort(lags)
		b.ReportMetric(lags[len(lags)/2], "ms-median-lag")
		b.ReportMetric(lags[len(lags)*99/100], "ms-p99-lag")
		b.ReportMetric(float64(lost), "lost")
		b.ReportMetric(float64(len(lags)), "shown")
	}
}
