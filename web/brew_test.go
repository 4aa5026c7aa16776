package web

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
	"yardbloom/core/recipe"
)

func TestABrewFromTapToTap(t *testing.T) {
	t.Parallel()
	v := visit(t)
	path := fmt.Sprintf("/brews/%s", planned)
	if code, _ := v.post(path+"/touch", "key", "x", "kind", "advance"); code != http.StatusConflict {
		t.Errorf("a touch before the start: status %d", code)
	}
	v.post(path + "/start")
	if code, _ := v.post(path + "/start"); code != http.StatusSeeOther {
		t.Errorf("started twice: status %d", code)
	}
	if code, _ := v.post(path+"/recipe", "dose", "30"); code != http.StatusConflict {
		t.Errorf("a running recipe was changed: status %d", code)
	}
	began := v.now
	for i, at := range []int{14, 45, 62, 85, 102, 125, 142, 195} {
		v.now = began.Add(time.Duration(at) * time.Second)
		if code, _ := v.post(path+"/touch", "key", fmt.Sprint("k", i), "kind", "advance"); code != http.StatusSeeOther {
			t.Fatalf("touch %d: status %d", i, code)
		}
	}
	if code, body := v.post(path+"/touch", "key", "late", "kind", "advance"); code != http.StatusConflict || !strings.Contains(body, "not at that point") {
		t.Errorf("finished twice: status %d", code)
	}
	if code, _ := v.post(path+"/touch", "key", "odd", "kind", "dance"); code != http.StatusBadRequest {
		t.Errorf("an unknown touch: status %d", code)
	}
	if _, body := v.get(path + "/cup"); fields(body).Get("drawdown") != "3:15" {
		t.Errorf("the drawdown reads %q", fields(body).Get("drawdown"))
	}
	// The tap that ended it came too early, and is taken back.
	v.now = began.Add(200 * time.Second)
	if _, body := v.get(path + "/cup"); !strings.Contains(body, path+"/undo") {
		t.Error("the last tap cannot be taken back")
	}
	if code, _ := v.post(path + "/undo"); code != http.StatusSeeOther {
		t.Errorf("taking it back: status %d", code)
	}
	v.now = began.Add(215 * time.Second)
	v.post(path+"/touch", "key", "the end", "kind", "advance")
	if _, body := v.get(path + "/cup"); fields(body).Get("drawdown") != "3:35" {
		t.Errorf("the drawdown then reads %q", fields(body).Get("drawdown"))
	}
	v.now = began.Add(time.Hour)
	if _, body := v.get(path + "/cup"); strings.Contains(body, path+"/undo") {
		t.Error("the last tap can be taken back for ever")
	}
}

func TestTheCupGivesTheYieldAndTheNextChange(t *testing.T) {
	t.Parallel()
	v := visit(t)
	path := fmt.Sprintf("/brews/%s", untasted) // immersion, 16 g; its brewer keeps about 1.96 g/g
	for _, c := range []struct{ name, typed, says string }{
		{"tds", "14", "Did you mean 1.4?"}, {"tds", "1.40 1.38 twelve", "is not a number"}, {"beverage", "900", "is more than the"}, {"drawdown", "3.4", "is not a time"}, {"hot.acidity", "7", "one of the five words"}, {"overall", "11", "can be 1 to 10"},
	} {
		code, body := v.post(path+"/cup", c.name, c.typed, "notes", "kept text")
		if code != http.StatusUnprocessableEntity || !strings.Contains(body, c.says) || !strings.Contains(body, "kept text") {
			t.Errorf("%s %q: status %d, %v", c.name, c.typed, code, errorsIn(body))
		}
	}
	_, preview := v.post(path+"/cup", "beverage", "209", "tds", "1,30", "preview", "yes")
	if !strings.Contains(preview, "Immersion:") || !strings.Contains(preview, "± 0.5 %") {
		t.Error("the preview shows no yield of an immersion brew")
	}
	if b, _ := v.store.Brew(context.Background(), untasted); b.Status != "poured" {
		t.Error("the preview was kept")
	}
	if code, _ := v.post(path+"/cup", "beverage", "209", "tds", "1,30", "drawdown", "3:36", "hot.acidity", "5", "hot.sweetness", "2"); code != http.StatusSeeOther {
		t.Fatalf("saving: status %d", code)
	}
	// The cup before was good: one bad one of the same recipe is first put down to chance.
	if _, next := v.get(path + "/next"); !strings.Contains(next, "a bad pour") || !strings.Contains(next, "Brew it again as it is") {
		t.Error("a recipe that was good is to be changed after one bad cup")
	}
	const sour = "/brews/slate-terrace-2"
	kept, err := v.store.Brew(context.Background(), "slate-terrace-2")
	if err != nil || kept.Advice.First == nil {
		t.Fatalf("a sour cup is not told to be changed: %+v, %v", kept.Advice, err)
	}
	if _, next := v.get(sour + "/next"); !strings.Contains(next, kept.Advice.First.Say) || !strings.Contains(next, "Your aim seems to lie") {
		t.Error("the change and the map are not shown")
	}
	code, _, header := v.send("POST", sour+"/again", url.Values{"choice": {"first"}})
	if code != http.StatusSeeOther {
		t.Fatalf("again: status %d", code)
	}
	_, page := v.get(header.Get("Location"))
	setting := strings.Fields(kept.Advice.First.LeadsTo)[0]
	if !strings.Contains(page, kept.Advice.First.Say) || fields(page).Get("setting") != setting {
		t.Errorf("the next recipe is set to %s, want %s, and marks nothing", fields(page).Get("setting"), setting)
	}
}

// What is said back is a sign like the others, can be taken away again, and what was said
// before it stays to be read.
func TestWhatIsSaidBackIsWeighed(t *testing.T) {
	t.Parallel()
	v := visit(t)
	const path = "/brews/slate-terrace-2"
	before, _ := v.store.Brew(context.Background(), "slate-terrace-2")
	say := func(what string) brew.Brew {
		if code, _ := v.post(path+"/answer", "say", what); code != http.StatusSeeOther {
			t.Fatalf("%s: status %d", what, code)
		}
		b, err := v.store.Brew(context.Background(), "slate-terrace-2")
		if err != nil {
			t.Fatal(err)
		}
		return b
	}
	if b := say("bad pour"); !b.Cup.BadPour || b.Advice.Do != coach.Repeat || len(b.Advice.Earlier) != 1 || b.Cup.TDS != before.Cup.TDS {
		t.Errorf("a bad pour: %+v", b.Advice)
	}
	if b := say("bad pour"); b.Cup.BadPour || b.Advice.First == nil || b.Advice.First.Say != before.Advice.First.Say {
		t.Errorf("taken away again: %+v", b.Advice.First)
	}
	if b := say("not done"); b.Poured().Grind == b.Recipe.Grind {
		t.Error("a change that was not made counts as made")
	}
	say("not done")
	if b := say("lighter"); b.Advice.First == nil || b.Advice.First.Knob != recipe.Ratio || b.Advice.First.To < b.Advice.First.From || b.Advice.Verdict != "You want it lighter" {
		t.Errorf("lighter, please: %+v", b.Advice.First)
	}
	if code, _ := v.post(path+"/answer", "say", "louder"); code != http.StatusBadRequest {
		t.Errorf("an answer that does not exist: status %d", code)
	}
}

// A stop by mistake, with a wet thumb, can be taken back.
func TestAStoppedBrewCanGoOn(t *testing.T) {
	t.Parallel()
	v := visit(t)
	v.post("/brews/evening-seed-next/start")
	v.now = v.now.Add(50 * time.Second)
	v.post("/brews/evening-seed-next/abandon")
	if _, body := v.get("/brews/evening-seed-next"); !strings.Contains(body, "stopped before the end") || !strings.Contains(body, "at 0:50") {
		t.Error("the stopped brew is not in the log as far as it came")
	}
	if code, _ := v.post("/brews/evening-seed-next/touch", "key", "x", "kind", "advance"); code != http.StatusConflict {
		t.Errorf("a touch on a stopped brew: status %d", code)
	}
	v.now = v.now.Add(10 * time.Second)
	v.post("/brews/evening-seed-next/resume")
	if _, body := v.get("/brews/evening-seed-next/brew"); !strings.Contains(body, `data-elapsed="60"`) {
		t.Error("the clock did not go on with the water")
	}
	if code, _ := v.post("/brews/slate-terrace-4/resume"); code != http.StatusConflict {
		t.Errorf("going on with a finished brew: status %d", code)
	}
}
