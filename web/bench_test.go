package web_test

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"yardbloom/core/trace"
	"yardbloom/core/units"
	"yardbloom/demo"
	"yardbloom/store"
	"yardbloom/web"
	"yardbloom/web/webtest"
	"yardbloom/yard"
)

// A desk is a benchmark's connection to a server.
type desk struct {
	b     *testing.B
	s     *web.Server
	y     *yard.Yard
	draft string
}

// openDesk serves a folder of demo data, which it fills if it is new.
func openDesk(b *testing.B, dir string, brews int) desk {
	b.Helper()
	ctx := context.Background()
	st, err := store.Open(ctx, dir)
	if err != nil {
		b.Fatal(err)
	}
	b.Cleanup(func() { st.Close() })
	d := desk{b: b, draft: webtest.Planned}
	if st.New {
		if err := demo.Fill(ctx, st, webtest.Morning); err != nil {
			b.Fatal(err)
		}
		if brews > 0 {
			if err := demo.FillLarge(ctx, st, webtest.Morning, brews, 1); err != nil {
				b.Fatal(err)
			}
			if _, err := demo.AddLargeDraft(ctx, st, webtest.Morning); err != nil {
				b.Fatal(err)
			}
		}
	}
	if brews > 0 {
		d.draft = "large-draft"
	}
	y, err := yard.Open(ctx, yard.Config{Store: st, Log: slog.New(slog.NewTextHandler(io.Discard, nil)),
		Now: func() time.Time { return webtest.Morning }})
	if err != nil {
		b.Fatal(err)
	}
	b.Cleanup(y.Close)
	d.y = y
	d.s, err = web.New(web.Config{Yard: y})
	if err != nil {
		b.Fatal(err)
	}
	return d
}

func (d desk) send(method, path string, form url.Values) *httptest.ResponseRecorder {
	var body io.Reader
	if form != nil {
		body = strings.NewReader(form.Encode())
	}
	r := httptest.NewRequest(method, path, body)
	if form != nil {
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		r.Header.Set("HX-Request", "true")
	}
	w := httptest.NewRecorder()
	d.s.ServeHTTP(w, r)
	if w.Code != http.StatusOK {
		d.b.Fatalf("%s: status %d", path, w.Code)
	}
	return w
}

// page measures one page and prints its size before compression.
func (d desk) page(name, path string) {
	d.b.Run(name, func(b *testing.B) {
		size := 0
		for b.Loop() {
			size = d.send("GET", path, nil).Body.Len()
		}
		b.ReportMetric(float64(size)/1000, "kB")
	})
}

// change measures a changed number on the Recipe station, from the form to the stored and recalculated
// page.
func (d desk) change() {
	d.b.Run("a changed number", func(b *testing.B) {
		form := webtest.Fields(d.send("GET", "/brews/"+d.draft+"/recipe", nil).Body.String())
		doses, size, i := []string{"18.5", "19"}, 0, 0
		for b.Loop() {
			form.Set("dose", doses[i%2])
			size = d.send("POST", "/brews/"+d.draft+"/recipe", form).Body.Len()
			i++
		}
		b.ReportMetric(float64(size)/1000, "kB")
	})
}

// BenchmarkDemoYard measures the pages of the demo yard.
func BenchmarkDemoYard(b *testing.B) {
	d := openDesk(b, b.TempDir(), 0)
	d.change()
	d.page("shelf", "/")
	d.page("log", "/log")
	d.page("bag", "/bags/slate-terrace")
	d.page("report", "/brews/slate-terrace-4")
}

// largeBrews returns the number of brews of a long history.
func largeBrews() int {
	if n, err := strconv.Atoi(os.Getenv("YARDBLOOM_BREWS")); err == nil {
		return n
	}
	return 100_000
}

// BenchmarkLargeYard measures the pages of a yard with a long history of YARDBLOOM_BREWS or 100,000 brews.
// The yard is created once in YARDBLOOM_LARGE, or in a temporary folder.
func BenchmarkLargeYard(b *testing.B) {
	brews := largeBrews()
	dir := os.Getenv("YARDBLOOM_LARGE")
	if dir == "" {
		dir = b.TempDir()
	}
	d := openDesk(b, dir, brews)
	d.change()
	d.page("shelf", "/")
	d.page("shelf, a later page", "/?after=2024-03-01~bag-00500")
	d.page("log", "/log")
	d.page("log, a later page", "/log?after=0~170348400000000")
	d.page("log of a bag", "/log?bag="+demo.LargeBag)
	d.page("bag", "/bags/"+demo.LargeBag)
	d.page("report", "/brews/"+demo.LargeBrew)
	d.page("advice", "/brews/"+demo.LargeBrew+"/next")
}

// largeLog lists the queries of the log that are measured: pages in every order, each filter alone, words, and usual combinations. Their
// plans are checked in package store.
var largeLog = []struct{ name, query string }{
	{"first page", ""}, {"later page", "after=0~170348400000000"},
	{"by mark", "sort=mark"}, {"later page by mark", "sort=mark&after=6~170348400000000"},
	{"by yield", "sort=yield"}, {"later page by yield", "sort=yield&after=20~170348400000000"},
	{"by drawdown", "sort=drawdown"}, {"later page by drawdown", "sort=drawdown&after=200~170348400000000"},
	{"coffee", "bag=" + demo.LargeBag}, {"brewer", "brewer=window-cone"}, {"grinder", "grinder=apron-mill"}, {"style", "style=three-rounds"},
	{"person", "person=marta"}, {"dates", "from=2024-01-01&to=2024-02-01"}, {"good marks", "low=9"}, {"poor marks", "top=4"},
	{"fault", "fault=papery"}, {"not tasted", "tasted=no"}, {"with readings", "traced=yes"}, {"runs of trials", "tried=yes"},
	{"rare word", "q=redcurrant"}, {"common word", "q=cone"},
	{"coffee and its best", "bag=" + demo.LargeBag + "&low=8"}, {"grinder by yield", "grinder=apron-mill&sort=yield"},
	{"word of a coffee", "q=cone&bag=" + demo.LargeBag}, {"two words in a year", "q=slate+terrace&from=2023-01-01&to=2024-01-01"},
	{"best of a style", "style=three-rounds&low=8"},
}

// BenchmarkLargeLog measures the log, a comparison and the page of the yard, with the history of BenchmarkLargeYard.
func BenchmarkLargeLog(b *testing.B) {
	dir := os.Getenv("YARDBLOOM_LARGE")
	if dir == "" {
		dir = b.TempDir()
	}
	d := openDesk(b, dir, largeBrews())
	for _, q := range largeLog {
		d.page(q.name, "/log?"+q.query)
	}
	d.page("six brews with traces", "/log/compare?id=slate-terrace-1&id=slate-terrace-2&id=slate-terrace-3&id=slate-terrace-4&id=slate-terrace-5&"+
		"id=evening-seed-1")
	d.page("yard", "/yard")
	d.page("yard, a year", "/yard?weeks=52")
	d.page("day", "/yard/day?on=2024-01-10")
}

// BenchmarkLargeData measures what leaves the yard of BenchmarkLargeYard: the log and its readings as CSV, the yard file, and a page of the API;
// and the import of that file into an empty yard, with the longest time for which another write waited meanwhile.
func BenchmarkLargeData(b *testing.B) {
	dir := os.Getenv("YARDBLOOM_LARGE")
	if dir == "" {
		dir = b.TempDir()
	}
	d := openDesk(b, dir, largeBrews())
	ctx := b.Context()
	token, err := d.y.Store.AddToken(ctx, "benchmark", "", false, d.y.Now())
	if err != nil {
		b.Fatal(err)
	}
	download := func(name, path string) {
		b.Run(name, func(b *testing.B) {
			w := &counter{header: http.Header{}}
			for b.Loop() {
				w.n = 0
				r := httptest.NewRequest("GET", path, nil)
				r.Header.Set("Authorization", "Bearer "+token)
				d.s.ServeHTTP(w, r)
			}
			b.ReportMetric(float64(w.n)/1e6, "MB")
		})
	}
	download("log.csv", "/log.csv")
	download("readings.csv", "/log/readings.csv")
	download("API list", "/api/v1/brews?limit=100")
	file := filepath.Join(b.TempDir(), "yard.zip")
	b.Run("yard file", func(b *testing.B) {
		for b.Loop() {
			f, err := os.Create(file)
			if err == nil {
				err = errors.Join(yard.Export(ctx, d.y.Store, f, time.Time{}, time.Time{}, d.y.Now()), f.Close())
			}
			if err != nil {
				b.Fatal(err)
			}
		}
	})
	b.Run("import", func(b *testing.B) {
		for b.Loop() {
			b.ReportMetric(importBeside(b, file).Seconds(), "s-longest-wait")
		}
	})
}

// importBeside imports a yard file into an empty yard and returns the longest time that another write waited meanwhile.
func importBeside(b *testing.B, file string) (longest time.Duration) {
	b.Helper()
	ctx := b.Context()
	st, err := store.Open(ctx, b.TempDir())
	if err != nil {
		b.Fatal(err)
	}
	defer st.Close()
	f, err := os.Open(file)
	if err != nil {
		b.Fatal(err)
	}
	defer f.Close()
	info, err := f.Stat()
	if err != nil {
		b.Fatal(err)
	}
	ended, tapped := make(chan struct{}), make(chan struct{})
	go func() {
		defer close(tapped)
		for {
			select {
			case <-ended:
				return
			case <-time.After(50 * time.Millisecond):
				began := time.Now()
				if err := st.SaveScreen(ctx, "nobody", "", ""); err != nil && !errors.Is(err, store.ErrNotFound) {
					b.Error(err)
				}
				longest = max(longest, time.Since(began))
			}
		}
	}()
	in, err := yard.ReadImport(ctx, st, f, info.Size(), webtest.Morning)
	if err == nil {
		err = errors.Join(in.Apply(ctx, "large", "", webtest.Morning, func(int, int) {}), in.Close())
	}
	close(ended)
	<-tapped
	if err != nil {
		b.Fatal(err)
	}
	return longest
}

// A counter is an answer of which only the size is kept.
type counter struct {
	header http.Header
	n      int
}

func (c *counter) Header() http.Header { return c.header }
func (c *counter) WriteHeader(int)     {}
func (c *counter) Write(p []byte) (int, error) {
	c.n += len(p)
	return len(p), nil
}

// bareHandler answers with one query and nothing else, as the lower bound of a page.
func BenchmarkBareHandler(b *testing.B) {
	d := openDesk(b, b.TempDir(), 0)
	h := http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		set, err := d.y.Store.Settings(r.Context(), "")
		if err != nil {
			b.Error(err)
		}
		_, _ = io.WriteString(w, strconv.Itoa(set.Altitude))
	})
	for b.Loop() {
		h.ServeHTTP(httptest.NewRecorder(), httptest.NewRequest("GET", "/", nil))
	}
}

// BenchmarkScreens pours a number of brews over scales at 10 Hz with three screens each, and prints the
// delay of readings on a screen and the number of lost ones.
func BenchmarkScreens(b *testing.B) {
	const brews, screens, seconds = 20, 3, 10
	for b.Loop() {
		d := openDesk(b, b.TempDir(), 0)
		srv := httptest.NewServer(d.s)
		ctx, stop := context.WithCancel(context.Background())
		draft, _, err := d.y.Store.Draft(ctx, webtest.Planned)
		if err != nil {
			b.Fatal(err)
		}
		var mu sync.Mutex
		var lags []float64
		sent := make([]map[string]time.Time, brews)
		var open sync.WaitGroup
		d.y.Now = time.Now
		for i := range brews {
			sent[i] = map[string]time.Time{}
			draft.ID = fmt.Sprintf("brew-%d", i)
			if err := d.y.Store.AddDraft(ctx, draft, time.Now()); err != nil {
				b.Fatal(err)
			}
			if _, err := d.y.Start(ctx, draft.ID, "", "start", 0); err != nil {
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
				if err := d.y.ReadAt(fmt.Sprintf("brew-%d", i), "scale", 400,
					trace.Reading{At: at, Grams: units.Grams(5 * float64(at))}); err != nil {
					b.Fatal(err)
				}
			}
		}
		time.Sleep(time.Second)
		stop()
		lost := 0
		for i := range brews {
			kept, err := d.y.Store.Readings(context.Background(), fmt.Sprintf("brew-%d", i))
			if err != nil {
				b.Fatal(err)
			}
			lost += seconds*10 - len(kept)
		}
		open.Wait()
		srv.Close()
		d.y.Close()
		slices.Sort(lags)
		b.ReportMetric(lags[len(lags)/2], "ms-median-lag")
		b.ReportMetric(lags[len(lags)*99/100], "ms-p99-lag")
		b.ReportMetric(float64(lost), "lost")
		b.ReportMetric(float64(len(lags)), "shown")
	}
}
