package flight_test

import (
	"context"
	"net/http"
	"net/url"
	"strings"
	"testing"

	"yardbloom/core/flight"
	"yardbloom/web/webtest"
)

// Before the reveal, no page that the taster sees identifies a cup.
func TestBlindFlightHidesCupsUntilReveal(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	code, _, header := v.Send("POST", "/side", url.Values{"kind": {"ranked"}, "blind": {"yes"},
		"cups": {"Tin kettle, Old jug, Rain barrel"}, "name": {"Which water"}})
	path := header.Get("Location")
	if code != http.StatusSeeOther || !strings.HasPrefix(path, "/side/") {
		t.Fatalf("setting the table: status %d, %s", code, path)
	}
	it, err := v.Store.Flight(context.Background(), strings.TrimPrefix(path, "/side/"))
	if err != nil {
		t.Fatal(err)
	}
	hidden := func(when string) {
		t.Helper()
		for _, page := range []string{path, "/side", "/log"} {
			_, body := v.Get(page)
			for _, name := range []string{"Tin kettle", "Old jug", "Rain barrel"} {
				if strings.Contains(body, name) {
					t.Errorf("%s: %s names %s", when, page, name)
				}
			}
		}
	}
	hidden("before it is tasted")
	codes := []string{it.Cups[1].Code, it.Cups[2].Code, it.Cups[0].Code}
	code, body := v.Post(path+"/taste", "heat", "hot", "hot", codes[0]+" 000", "hot.0", "kept words")
	if code != http.StatusUnprocessableEntity || !strings.Contains(body, "No cup has that code") || !strings.Contains(body, "kept words") {
		t.Errorf("a code of no cup: status %d", code)
	}
	if code, body := v.Post(path+"/taste", "heat", "hot", "hot", codes[0]+" "+codes[0]); code != http.StatusUnprocessableEntity ||
		!strings.Contains(body, "named twice") {
		t.Errorf("one cup twice: status %d", code)
	}
	for _, heat := range []string{"hot", "cooled"} {
		if code, _ := v.Post(path+"/taste", "heat", heat, heat, strings.Join(codes, " "), heat+".1", "clear"); code != http.StatusSeeOther {
			t.Errorf("tasted %s: status %d", heat, code)
		}
	}
	hidden("after it is tasted")
	v.Post(path + "/reveal")
	if _, body := v.Get(path); !strings.Contains(body, "Old jug first when hot, Old jug first when cooled") ||
		!strings.Contains(body, "the seed") {
		t.Error("the names do not come out, or not the right ones")
	}
	if code, _ := v.Post(path+"/taste", "heat", "hot", "hot", strings.Join(codes, " ")); code != http.StatusConflict {
		t.Errorf("tasted after the reveal: status %d", code)
	}
	for _, cups := range []string{"one alone", "a, b, c, d, e, f, g"} {
		if code, body := v.Post("/side", "kind", "ranked", "cups", cups); code != http.StatusUnprocessableEntity ||
			!strings.Contains(body, "Two to six cups") {
			t.Errorf("%s: status %d", cups, code)
		}
	}
}

func TestTriangleTest(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	_, _, header := v.Send("POST", "/side", url.Values{"kind": {string(flight.OddOne)}, "cups": {"Bench, Apron"}})
	path := header.Get("Location")
	v.Post(path + "/round")
	if code, body := v.Post(path+"/pick", "code", "999999"); code != http.StatusUnprocessableEntity ||
		!strings.Contains(body, "No glass of this round") {
		t.Errorf("a code of another round: status %d", code)
	}
	it, err := v.Store.Flight(context.Background(), strings.TrimPrefix(path, "/side/"))
	if err != nil {
		t.Fatal(err)
	}
	if code, _ := v.Post(path+"/pick", "code", it.Rounds[0].Codes[1]); code != http.StatusSeeOther {
		t.Errorf("a pick: status %d", code)
	}
	if code, _ := v.Post(path+"/pick", "code", it.Rounds[0].Codes[1]); code != http.StatusConflict {
		t.Errorf("picked twice: status %d", code)
	}
	if _, body := v.Get(path); !strings.Contains(body, "of 1 right") || !strings.Contains(body, "Start a round") {
		t.Error("the significance is not shown")
	}
}
