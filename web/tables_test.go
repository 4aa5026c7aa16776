package web

import (
	"context"
	"net/http"
	"net/url"
	"strings"
	"testing"

	"yardbloom/core/flight"
	"yardbloom/core/trial"
)

// Until the names are asked for, no page that the taster sees may say which cup is which.
func TestABlindTableStaysBlind(t *testing.T) {
	t.Parallel()
	v := visit(t)
	code, _, header := v.send("POST", "/side", url.Values{"kind": {"ranked"}, "blind": {"yes"}, "cups": {"Tin kettle, Old jug, Rain barrel"}, "name": {"Which water"}})
	path := header.Get("Location")
	if code != http.StatusSeeOther || !strings.HasPrefix(path, "/side/") {
		t.Fatalf("setting the table: status %d, %s", code, path)
	}
	it, err := v.store.Flight(context.Background(), strings.TrimPrefix(path, "/side/"))
	if err != nil {
		t.Fatal(err)
	}
	hidden := func(when string) {
		t.Helper()
		for _, page := range []string{path, "/side", "/log"} {
			_, body := v.get(page)
			for _, name := range []string{"Tin kettle", "Old jug", "Rain barrel"} {
				if strings.Contains(body, name) {
					t.Errorf("%s: %s names %s", when, page, name)
				}
			}
		}
	}
	hidden("before it is tasted")
	codes := []string{it.Cups[1].Code, it.Cups[2].Code, it.Cups[0].Code}
	code, body := v.post(path+"/taste", "heat", "hot", "hot", codes[0]+" 000", "hot.0", "kept words")
	if code != http.StatusUnprocessableEntity || !strings.Contains(body, "No cup has that code") || !strings.Contains(body, "kept words") {
		t.Errorf("a code of no cup: status %d", code)
	}
	if code, body := v.post(path+"/taste", "heat", "hot", "hot", codes[0]+" "+codes[0]); code != http.StatusUnprocessableEntity || !strings.Contains(body, "named twice") {
		t.Errorf("one cup twice: status %d", code)
	}
	for _, heat := range []string{"hot", "cooled"} {
		if code, _ := v.post(path+"/taste", "heat", heat, heat, strings.Join(codes, " "), heat+".1", "clear"); code != http.StatusSeeOther {
			t.Errorf("tasted %s: status %d", heat, code)
		}
	}
	hidden("after it is tasted")
	v.post(path + "/reveal")
	if _, body := v.get(path); !strings.Contains(body, "Old jug first when hot, Old jug first when cooled") || !strings.Contains(body, "the seed") {
		t.Error("the names do not come out, or not the right ones")
	}
	if code, _ := v.post(path+"/taste", "heat", "hot", "hot", strings.Join(codes, " ")); code != http.StatusConflict {
		t.Errorf("tasted after the reveal: status %d", code)
	}
	for _, cups := range []string{"one alone", "a, b, c, d, e, f, g"} {
		if code, body := v.post("/side", "kind", "ranked", "cups", cups); code != http.StatusUnprocessableEntity || !strings.Contains(body, "Two to six cups") {
			t.Errorf("%s: status %d", cups, code)
		}
	}
}

func TestTheOddOneOfThree(t *testing.T) {
	t.Parallel()
	v := visit(t)
	_, _, header := v.send("POST", "/side", url.Values{"kind": {string(flight.OddOne)}, "cups": {"Bench, Apron"}})
	path := header.Get("Location")
	v.post(path + "/round")
	if code, body := v.post(path+"/pick", "code", "999999"); code != http.StatusUnprocessableEntity || !strings.Contains(body, "No glass of this round") {
		t.Errorf("a code of another round: status %d", code)
	}
	it, err := v.store.Flight(context.Background(), strings.TrimPrefix(path, "/side/"))
	if err != nil {
		t.Fatal(err)
	}
	if code, _ := v.post(path+"/pick", "code", it.Rounds[0].Codes[1]); code != http.StatusSeeOther {
		t.Errorf("a pick: status %d", code)
	}
	if code, _ := v.post(path+"/pick", "code", it.Rounds[0].Codes[1]); code != http.StatusConflict {
		t.Errorf("picked twice: status %d", code)
	}
	if _, body := v.get(path); !strings.Contains(body, "of 1 right") || !strings.Contains(body, "Set three glasses") {
		t.Error("what it is worth is not said")
	}
}

// From the plan to the answer: one run is brewed and tasted, the others are typed, and the bag runs out.
func TestATrialFromPlanToAnswer(t *testing.T) {
	t.Parallel()
	v := visit(t)
	for name, c := range map[string][2]string{"levels": {"14, oak", "is not a"}, "repeats": {"9", "can be 1 to 6"}} {
		typed := url.Values{"bag": {"slate-terrace"}, "turned": {"ratio"}, "levels": {"14, 16"}, "repeats": {"2"}, "measure": {"mark"}}
		typed.Set(name, c[0])
		if code, body, _ := v.send("POST", "/trials", typed); code != http.StatusUnprocessableEntity || !strings.Contains(body, c[1]) {
			t.Errorf("%s %q: status %d", name, c[0], code)
		}
	}
	if code, body := v.post("/trials", "bag", "slate-terrace", "turned", "ratio", "levels", "12, 13, 14, 15, 16, 17", "repeats", "6", "measure", "mark"); code != http.StatusUnprocessableEntity || !strings.Contains(body, "the bag holds") {
		t.Errorf("more than the bag holds: status %d", code)
	}
	code, _, header := v.send("POST", "/trials", url.Values{"bag": {"slate-terrace"}, "turned": {"ratio"}, "levels": {"14 16"}, "repeats": {"2"}, "measure": {"mark"}, "name": {"More water"}})
	if code != http.StatusSeeOther {
		t.Fatalf("planning: status %d", code)
	}
	path := header.Get("Location")
	load := func() trial.Trial {
		it, err := v.store.Trial(context.Background(), strings.TrimPrefix(path, "/trials/"))
		if err != nil {
			t.Fatal(err)
		}
		return it
	}
	it := load()
	code, _, header = v.send("POST", path+"/brew", url.Values{"code": {it.Runs[0].Code}})
	draft := strings.TrimSuffix(header.Get("Location"), "/recipe")
	if _, body := v.get(draft + "/recipe"); code != http.StatusSeeOther || !strings.Contains(fields(body).Get("ratio"), "1") || load().Runs[0].Brew != strings.TrimPrefix(draft, "/brews/") {
		t.Fatalf("brewing a run: status %d", code)
	}
	v.post(draft + "/start")
	v.now = v.now.Add(4 * 60e9)
	v.post(draft+"/touch", "key", "end", "kind", "finish")
	if code, _ := v.post(draft+"/cup", "overall", "6"); code != http.StatusSeeOther {
		t.Fatalf("tasting a run: status %d", code)
	}
	if code, body := v.post(path+"/found", "code", it.Runs[1].Code, "value", "70"); code != http.StatusUnprocessableEntity || !strings.Contains(body, "can be 1 to 10") || !strings.Contains(body, `value="70"`) {
		t.Errorf("a mark of 70: status %d", code)
	}
	if code, body := v.post(path+"/found", "code", "ZZ", "value", "7"); code != http.StatusUnprocessableEntity || !strings.Contains(body, "No brew of this trial has that code") {
		t.Errorf("a code of no run: status %d", code)
	}
	for i, mark := range map[int]string{1: "8", 2: "7"} {
		if code, _ := v.post(path+"/found", "code", it.Runs[i].Code, "value", mark); code != http.StatusSeeOther {
			t.Errorf("run %d: status %d", i, code)
		}
	}
	v.post(path + "/end")
	_, body := v.get(path)
	if !strings.Contains(body, "left out") || !strings.Contains(body, "3 of 3 brewed") || !strings.Contains(body, "From 1 : 14 to 1 : 16 it adds") {
		t.Error("the answer of three brews is not there")
	}
	if done := load(); !done.Runs[0].Done || done.Runs[0].Value != 6 || !done.Runs[3].Left {
		t.Errorf("kept as %+v", done.Runs)
	}
}
