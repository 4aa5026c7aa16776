package brew_test

import (
	"context"
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"testing"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/coach"
	"yardbloom/core/cup"
	"yardbloom/core/recipe"
	"yardbloom/web/webtest"
)

func TestBrewFromTapToTap(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	path := fmt.Sprintf("/brews/%s", webtest.Planned)
	if code, _ := v.Post(path+"/tap", "key", "x", "kind", "advance"); code != http.StatusConflict {
		t.Errorf("a tap before the start: status %d", code)
	}
	v.Post(path + "/start")
	if code, _ := v.Post(path + "/start"); code != http.StatusSeeOther {
		t.Errorf("started twice: status %d", code)
	}
	if code, _ := v.Post(path+"/recipe", "dose", "30"); code != http.StatusConflict {
		t.Errorf("a running recipe was changed: status %d", code)
	}
	began := v.Now()
	for i, at := range []int{14, 45, 62, 85, 102, 125, 142, 195} {
		v.SetNow(began.Add(time.Duration(at) * time.Second))
		if code, _ := v.Post(path+"/tap", "key", fmt.Sprint("k", i), "kind", "advance"); code != http.StatusSeeOther {
			t.Fatalf("tap %d: status %d", i, code)
		}
	}
	if code, _ := v.Post(path+"/tap", "key", "late", "kind", "advance"); code != http.StatusSeeOther { // kept, without effect
		t.Errorf("finished twice: status %d", code)
	}
	if code, _ := v.Post(path+"/tap", "key", "odd", "kind", "dance"); code != http.StatusBadRequest {
		t.Errorf("an unknown tap: status %d", code)
	}
	if _, body := v.Get(path + "/cup"); webtest.Fields(body).Get("drawdown") != "3:15" {
		t.Errorf("the drawdown reads %q", webtest.Fields(body).Get("drawdown"))
	}
	// The tap that ended it came too early and is undone.
	v.SetNow(began.Add(200 * time.Second))
	if _, body := v.Get(path + "/cup"); !strings.Contains(body, path+"/undo") {
		t.Error("the last tap cannot be taken back")
	}
	if code, _ := v.Post(path + "/undo"); code != http.StatusSeeOther {
		t.Errorf("taking it back: status %d", code)
	}
	v.SetNow(began.Add(215 * time.Second))
	v.Post(path+"/tap", "key", "the end", "kind", "advance")
	if _, body := v.Get(path + "/cup"); webtest.Fields(body).Get("drawdown") != "3:35" {
		t.Errorf("the drawdown then reads %q", webtest.Fields(body).Get("drawdown"))
	}
	v.SetNow(began.Add(time.Hour))
	if _, body := v.Get(path + "/cup"); strings.Contains(body, path+"/undo") {
		t.Error("the last tap can be taken back for ever")
	}
}

func TestCupGivesTheYieldAndTheNextChange(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	path := fmt.Sprintf("/brews/%s", webtest.Poured) // immersion, 16 g; its brewer retains about 1.96 g/g
	for _, c := range []struct{ name, typed, says string }{
		{"tds", "14", "Did you mean 1.4?"}, {"tds", "1.40 1.38 twelve", "is not a number"}, {"beverage", "900", "is more than the"},
		{"drawdown", "3.4", "is not a time"}, {"hot.acidity", "7", "one of the five words"}, {"overall", "11", "can be 1 to 10"},
	} {
		code, body := v.Post(path+"/cup", c.name, c.typed, "notes", "kept text")
		if code != http.StatusUnprocessableEntity || !strings.Contains(body, c.says) || !strings.Contains(body, "kept text") {
			t.Errorf("%s %q: status %d, %v", c.name, c.typed, code, webtest.ErrorsIn(body))
		}
	}
	_, preview := v.Post(path+"/cup", "beverage", "209", "tds", "1,30", "preview", "yes")
	if !strings.Contains(preview, "Immersion:") || !strings.Contains(preview, "± 0.5 %") {
		t.Error("the preview shows no yield of an immersion brew")
	}
	if b, _ := v.Store.Brew(context.Background(), webtest.Poured); b.Status != "poured" {
		t.Error("the preview was stored")
	}
	if code, _ := v.Post(path+"/cup", "beverage", "209", "tds", "1,30", "drawdown", "3:36", "hot.acidity", "5", "hot.sweetness",
		"2"); code != http.StatusSeeOther {
		t.Fatalf("saving: status %d", code)
	}
	// The cup before was good: a single bad one of the same recipe is attributed to chance.
	if _, next := v.Get(path + "/next"); !strings.Contains(next, "a bad pour") || !strings.Contains(next, "Repeat the recipe") {
		t.Error("a recipe that was good is to be changed after one bad cup")
	}
	const sour = "/brews/slate-terrace-2"
	kept, err := v.Store.Brew(context.Background(), "slate-terrace-2")
	if err != nil || kept.Advice.First == nil {
		t.Fatalf("a sour cup has no advised change: %+v, %v", kept.Advice, err)
	}
	if _, next := v.Get(sour + "/next"); !strings.Contains(next, kept.Advice.First.Say) ||
		!strings.Contains(next, "estimate of your preferred strength and yield") {
		t.Error("the change and the map are not shown")
	}
	code, _, header := v.Send("POST", sour+"/again", url.Values{"choice": {"first"}})
	if code != http.StatusSeeOther {
		t.Fatalf("again: status %d", code)
	}
	_, page := v.Get(header.Get("Location"))
	setting := strings.Fields(kept.Advice.First.LeadsTo)[0]
	if !strings.Contains(page, kept.Advice.First.Say) || webtest.Fields(page).Get("setting") != setting {
		t.Errorf("the next recipe is set to %s, want %s, and marks nothing", webtest.Fields(page).Get("setting"), setting)
	}
}

// Feedback is evidence like any other, can be withdrawn, and the earlier advice stays readable.
func TestFeedbackCountsAsEvidence(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	const path = "/brews/slate-terrace-2"
	say := func(what string) brew.Brew {
		if code, _ := v.Post(path+"/answer", "say", what); code != http.StatusSeeOther {
			t.Fatalf("%s: status %d", what, code)
		}
		b, err := v.Store.Brew(context.Background(), "slate-terrace-2")
		if err != nil {
			t.Fatal(err)
		}
		return b
	}
	say("bad pour")
	before := say("bad pour") // by what is known of this person now
	if b := say("bad pour"); !b.Cup.BadPour || b.Advice.Do != coach.Repeat || len(b.Advice.Earlier) < 1 || b.Cup.TDS != before.Cup.TDS {
		t.Errorf("a bad pour: %+v", b.Advice)
	}
	if b := say("bad pour"); b.Cup.BadPour || b.Advice.First == nil || b.Advice.First.Say != before.Advice.First.Say {
		t.Errorf("taken away again: %+v", b.Advice.First)
	}
	if b := say("not done"); b.AsBrewed().Grind == b.Recipe.Grind {
		t.Error("a change that was not made counts as made")
	}
	say("not done")
	if b := say("lighter"); b.Advice.First == nil || b.Advice.First.Knob != recipe.Ratio || b.Advice.First.To < b.Advice.First.From ||
		b.Advice.Verdict != "You want it lighter" {
		t.Errorf("lighter, please: %+v", b.Advice.First)
	}
	if code, _ := v.Post(path+"/answer", "say", "louder"); code != http.StatusBadRequest {
		t.Errorf("an answer that does not exist: status %d", code)
	}
}

// Stopping a brew by mistake can be undone.
func TestStoppedBrewCanResume(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	v.Post("/brews/evening-seed-next/start")
	v.SetNow(v.Now().Add(50 * time.Second))
	v.Post("/brews/evening-seed-next/abandon")
	if _, body := v.Get("/brews/evening-seed-next"); !strings.Contains(body, "stopped early") ||
		!strings.Contains(body, "at 0:50") {
		t.Error("the stopped brew is not in the log as far as it came")
	}
	if code, _ := v.Post("/brews/evening-seed-next/tap", "key", "x", "kind", "advance"); code != http.StatusConflict {
		t.Errorf("a tap on a stopped brew: status %d", code)
	}
	v.SetNow(v.Now().Add(10 * time.Second))
	v.Post("/brews/evening-seed-next/resume")
	if _, body := v.Get("/brews/evening-seed-next/brew"); !strings.Contains(body, `data-elapsed="60"`) {
		t.Error("the clock did not go on with the water")
	}
	if code, _ := v.Post("/brews/slate-terrace-4/resume"); code != http.StatusConflict {
		t.Errorf("going on with a finished brew: status %d", code)
	}
}

// A mark tells at once how to pour on, and a brewer shows only the marks that it can have. Mutations caught: a sentence for the first mark
// instead of the last, ridges of a smooth paper.
func TestMarkTellsHowToPourOn(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	path := "/brews/" + webtest.Planned
	v.Post(path+"/start", "key", "k", "ago", "30")
	for _, mark := range []cup.Mark{cup.Channel, cup.DrySpot} {
		if code, _ := v.Post(path+"/tap", "key", "mark-"+string(mark), "kind", "mark", "mark", string(mark), "at", "20"); code != http.StatusSeeOther {
			t.Fatalf("%s: status %d", mark, code)
		}
	}
	_, page := v.Get(path + "/brew")
	if !strings.Contains(page, cup.DrySpot.Now()) || strings.Contains(page, cup.Channel.Now()) {
		t.Errorf("the last mark is not explained: %.300s", page[strings.Index(page, `id="said"`):])
	}
	if strings.Contains(page, `value="`+string(cup.Ridge)+`"`) {
		t.Error("a smooth paper can have a collapsed ridge")
	}
}
