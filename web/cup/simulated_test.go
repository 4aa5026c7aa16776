package cup_test

import (
	"net/http"
	"strings"
	"testing"

	"yardbloom/core/gear"
	"yardbloom/web"
	"yardbloom/web/webtest"
	"yardbloom/yard"
)

// Mutations caught: a reading offered without a device, a missing "simulated" label, a model that
// learns from a simulated cup.
func TestSimulatedReadingsInARealYard(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	path := "/brews/" + webtest.Poured + "/cup"
	if _, page := v.Get(path); strings.Contains(page, "Take a reading") {
		t.Error("a reading is offered without a refractometer")
	}
	code, body := v.Post(path, "preview", "reading", "beverage", "208")
	if code != http.StatusUnprocessableEntity || !strings.Contains(body, "No refractometer is connected") ||
		webtest.Fields(body).Get("tds") != "" {
		t.Errorf("a reading without a device: status %d, TDS %q", code, webtest.Fields(body).Get("tds"))
	}
	before := len(v.Yard.Learned().Seen)
	if err := v.Store.SaveDevice(t.Context(), gear.Device{ID: "meter", Name: "Bench meter", Kind: gear.Refractometer,
		Address: "standin:refractometer"}, 0); err != nil {
		t.Fatal(err)
	}
	if err := v.Yard.Connect(t.Context()); err != nil {
		t.Fatal(err)
	}
	if _, page := v.Get(path); !strings.Contains(page, "Bench meter, simulated") {
		t.Error("the button does not say that the device is simulated")
	}
	if _, page := v.Get("/gear"); !strings.Contains(page, "simulated refractometer") {
		t.Error("the gear page does not say that the device is simulated")
	}
	if code, body := v.Post(path, "beverage", "208", "drawdown", "2:58", "tds", "1.36", "simulated", "1.36", "overall",
		"7"); code != http.StatusSeeOther {
		t.Fatalf("status %d, %v", code, webtest.ErrorsIn(body))
	}
	v.Yard.WaitForLearning()
	b, err := v.Store.Brew(t.Context(), webtest.Poured)
	if err != nil || !b.Cup.Simulated {
		t.Fatalf("the record does not say that it was simulated (%v)", err)
	}
	if _, log := v.Get("/log"); !strings.Contains(log, "· simulated") {
		t.Error("the log does not say it")
	}
	if after := len(v.Yard.Learned().Seen); after != before {
		t.Errorf("the yard learned from a simulated cup: %d brews, was %d", after, before)
	}
	// Typed readings replace the simulated one.
	if code, _ := v.Post(path, "tds", "1.33 1.34"); code != http.StatusSeeOther {
		t.Fatalf("status %d", code)
	}
	v.Yard.WaitForLearning()
	if b, _ = v.Store.Brew(t.Context(), webtest.Poured); b.Cup.Simulated {
		t.Error("typed readings count as simulated")
	}
	if after := len(v.Yard.Learned().Seen); after != before+1 {
		t.Errorf("the yard did not learn from the real cup: %d brews, was %d", after, before)
	}
}

func TestDemoYardLabelsItsStandIn(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	v.Reopen(func(y *yard.Config, _ *web.Config) { y.Demo = true })
	if _, page := v.Get("/brews/" + webtest.Poured + "/cup"); !strings.Contains(page, "stand-in, simulated") {
		t.Error("the demo's refractometer is not labelled as simulated")
	}
	_, body := v.Post("/brews/"+webtest.Poured+"/cup", "preview", "reading", "beverage", "208")
	if got := webtest.Fields(body); got.Get("tds") == "" || got.Get("simulated") != got.Get("tds") {
		t.Errorf("TDS %q, simulated %q", got.Get("tds"), got.Get("simulated"))
	}
}

// The yield stays marked as measured during typing.
func TestReadingsSeparatedByCommas(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	path := "/brews/" + webtest.Poured + "/cup"
	const all = "1.30, 1.31, 1.32"
	for n := len("1.30"); n <= len(all); n++ {
		code, body := v.Post(path, "preview", "yes", "beverage", "208", "tds", all[:n])
		if code != http.StatusOK || strings.Contains(body, "the model's estimate") || !strings.Contains(body, " ± ") {
			t.Errorf("TDS %q: status %d, %v", all[:n], code, webtest.ErrorsIn(body))
		}
	}
	for _, typed := range []string{all, "1.30,1.31,1.32", "1,30 1,31 1,32", "1.30; 1.31; 1.32"} {
		v.Post(path, "beverage", "208", "tds", typed)
		if b, _ := v.Store.Brew(t.Context(), webtest.Poured); b.Cup.TDS != 1.31 || len(b.Cup.Readings) != 3 {
			t.Errorf("TDS %q is stored as %v of %v", typed, b.Cup.TDS, b.Cup.Readings)
		}
	}
}
