package web

import (
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"testing"
	"time"

	"yardbloom/core/learn"
)

// What is measured of a brew is learned in the background and shown beside what had been
// expected; a slip of the pen is asked about and left out until somebody says otherwise.
func TestAMeasuredCupTeachesTheYard(t *testing.T) {
	t.Parallel()
	v := visit(t)
	before := v.s.teacher.Yard().Brews()
	if _, page := v.get("/brews/" + planned + "/recipe"); !strings.Contains(page, fmt.Sprintf("from %d brews of this yard, 1 of this bag", before)) {
		t.Error("the recipe does not say what its prediction stands on")
	}
	taste := func(pairs ...string) (at learn.Seen) {
		v.post("/brews/"+untasted+"/cup", pairs...)
		v.s.teacher.Wait()
		for _, b := range v.s.teacher.Yard().Seen {
			if b.ID == untasted {
				return b
			}
		}
		t.Fatal("the brew was not learned from")
		return at
	}
	if b := taste("tds", "1.27", "beverage", "210"); b.Out || b.TDS != 1.27 || v.s.teacher.Yard().Brews() != before+1 {
		t.Errorf("after the cup: %+v, %d brews", b, v.s.teacher.Yard().Brews())
	}
	if testing.Short() {
		return // the race detector has seen learning beside requests; each round takes it seconds
	}
	if b := taste("tds", "3.9", "beverage", "210"); !b.Odd || !b.Out {
		t.Errorf("a slip: %+v", b)
	}
	if _, page := v.get("/brews/" + untasted + "/next"); !strings.Contains(page, "a slip of the pen") {
		t.Error("the Next station does not ask about it")
	}
	_, page := v.get("/learned")
	if !strings.Contains(page, "a slip of the pen") || !strings.Contains(page, "/learned/"+untasted+"/in") || !strings.Contains(page, "Slate Terrace") {
		t.Error("the page does not ask about it")
	}
	taste("tds", "1.27")
	for _, c := range []struct {
		what string
		want int
	}{{"out", before}, {"in", before + 1}} {
		code, _ := v.post("/learned/" + untasted + "/" + c.what)
		if v.s.teacher.Wait(); code != http.StatusSeeOther || v.s.teacher.Yard().Brews() != c.want {
			t.Errorf("%s: status %d, %d brews", c.what, code, v.s.teacher.Yard().Brews())
		}
	}
	if code, _ := v.post("/learned/no-such-brew/out"); code != http.StatusNotFound {
		t.Errorf("a brew that is not there: status %d", code)
	}
}

// A coffee that was never brewed here starts from what its grinder's other brews taught.
func TestANewCoffeeStartsFromWhatTheGrinderTaught(t *testing.T) {
	t.Parallel()
	v := visit(t)
	_, _, header := v.send("POST", "/bags/first-frost/brew", url.Values{"go": {"on"}})
	_, page := v.get(header.Get("Location"))
	if !strings.Contains(page, "brews of yours) drains it in") || !strings.Contains(page, "brews of this yard</a>") {
		t.Errorf("the suggestion says nothing of the yard's brews: %.3000s", page[strings.Index(page, "On "):])
	}
}

// What was learned is kept: a server that starts has it without learning again.
func TestWhatWasLearnedIsKept(t *testing.T) {
	t.Parallel()
	v := visit(t)
	began := time.Now()
	s, err := New(Config{Store: v.store, Log: v.s.Log, Now: v.s.Now})
	if err != nil {
		t.Fatal(err)
	}
	a, b := s.teacher.Yard(), v.s.teacher.Yard()
	if a == nil || a.Brews() != b.Brews() || len(a.Seen) != len(b.Seen) || fmt.Sprint(a.State().Parameters) != fmt.Sprint(b.State().Parameters) {
		t.Errorf("after %v: %+v", time.Since(began), a)
	}
}
