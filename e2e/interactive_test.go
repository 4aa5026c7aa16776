package e2e

import (
	"slices"
	"strings"
	"testing"

	"yardbloom/e2e/yard"
)

// interactive is the time from the start of a navigation until the page has loaded and its main thread is idle, ms.
const interactive = `(async () => {
	if (document.readyState !== "complete") await new Promise(done => addEventListener("load", done, {once: true}));
	await new Promise(done => requestIdleCallback(done));
	return performance.now();
})()`

// BenchmarkBrowserStations measures how soon each station can be used on a processor that is four times slower: the median of the runs, ms.
func BenchmarkBrowserStations(b *testing.B) {
	const slower = 4
	y, err := yard.Start(b.TempDir(), true)
	if err != nil {
		b.Fatal(err)
	}
	b.Cleanup(y.Close)
	for _, path := range []string{"/", "/brews/evening-seed-next/recipe", "/brews/evening-seed-next/setup", "/brews/evening-seed-next/brew",
		"/brews/winter-stores-4/cup", "/brews/slate-terrace-4/next"} {
		name := path[strings.LastIndex(path, "/")+1:]
		if name == "" {
			name = "coffee"
		}
		b.Run(name, func(b *testing.B) {
			s, err := browser.Another()
			if err == nil {
				err = s.Throttle(slower)
			}
			if err != nil {
				b.Fatal(err)
			}
			b.Cleanup(s.Close)
			var took []float64
			for b.Loop() {
				if err := s.Open(y.URL + path); err != nil {
					b.Fatal(err)
				}
				ms, err := yard.Eval[float64](s, interactive)
				if err != nil {
					b.Fatal(err)
				}
				took = append(took, ms)
			}
			slices.Sort(took)
			b.ReportMetric(took[len(took)/2], "ms-to-interactive")
			b.ReportMetric(took[0], "ms-fastest")
		})
	}
}
