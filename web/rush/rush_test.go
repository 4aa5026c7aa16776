package rush_test

import (
	"context"
	"net/http"
	"strings"
	"testing"
	"time"

	"yardbloom/core/brew"
	"yardbloom/web/webtest"
)

// A kettle that does not hold the water of all orders is refilled: after a tap confirms that it is hot, the
// board does not ask for it again.
func TestKettleOfARushIsFilledAgain(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	if code, _ := v.Post("/rush", "same", "3", "order.slate-terrace-3-kept", "3"); code != http.StatusSeeOther {
		t.Fatalf("planning: status %d", code)
	}
	rushes, err := v.Store.Rushes(context.Background())
	if err != nil || len(rushes) != 2 {
		t.Fatalf("%d rushes, %v", len(rushes), err)
	}
	path := "/rush/" + rushes[0].ID
	for _, step := range []string{"/start", "/go/1", "/go/2"} {
		if code, _ := v.Post(path + step); code != http.StatusSeeOther {
			t.Fatalf("%s: status %d", step, code)
		}
	}
	v.SetNow(v.Now().Add(4 * time.Minute))
	for _, o := range rushes[0].Value.Orders[:2] {
		v.Post("/brews/"+o.Brew+"/tap", "key", "end", "kind", "finish", "at", "230")
	}
	const wish = "Fill the kettle"
	if _, page := v.Get(path); !strings.Contains(page, wish) {
		t.Fatal("594 of 800 g are poured, the third brew needs 297, and no refill is asked for")
	}
	for _, water := range []string{"", "NaN", "-5", "1e9", "a jug"} {
		if code, _ := v.Post(path+"/filled", "water", water); code != http.StatusUnprocessableEntity {
			t.Errorf("filled with %q: status %d", water, code)
		}
	}
	for range 2 { // sent again, after its answer was lost
		v.Post(path+"/filled", "water", "91", "before", "0")
	}
	if rs, err := v.Store.Rush(t.Context(), rushes[0].ID); err != nil || rs.Filled != 91 {
		t.Errorf("filled with %v (%v)", rs.Filled, err)
	}
	if _, page := v.Get(path); strings.Contains(page, wish) {
		t.Error("it is filled and hot, and the board still asks for water")
	}
}

// A rush that was ended by mistake says what is missing, and continues. Mutations caught: "All in the cup" for brews
// that never began, drafts that stay archived.
func TestEndedRushContinues(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	if code, _ := v.Post("/rush", "same", "2", "order.slate-terrace-3-kept", "3"); code != http.StatusSeeOther {
		t.Fatalf("a rush: status %d", code)
	}
	rushes, err := v.Store.Rushes(context.Background())
	if err != nil || len(rushes) != 2 {
		t.Fatalf("%d rushes, %v", len(rushes), err)
	}
	path := "/rush/" + rushes[0].ID
	for _, step := range []string{"/start", "/go/1", "/end"} {
		if code, _ := v.Post(path + step); code != http.StatusSeeOther {
			t.Fatalf("%s: status %d", step, code)
		}
	}
	if _, page := v.Get(path); !strings.Contains(page, "Ended early") || !strings.Contains(page, "2 of 3 were not brewed") ||
		strings.Contains(page, "All in the cup") {
		t.Error("the ended rush does not say what is missing")
	}
	if code, _ := v.Post(path + "/resume"); code != http.StatusSeeOther {
		t.Fatalf("resume: status %d", code)
	}
	if code, _ := v.Post(path + "/go/2"); code != http.StatusSeeOther {
		t.Errorf("the second order: status %d", code)
	}
	if b, err := v.Store.Brew(context.Background(), rushes[0].Value.Orders[1].Brew); err != nil {
		t.Errorf("the second brew: %v, %v", b.Status, err)
	}
}

// The board takes back the last tap of all its brews, the start of a brew too, and delays a wait. Mutations caught: the tap of
// another brew, a start that stays, a delay of a pour that runs.
func TestLastTapOfARushIsUndone(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	v.Post("/rush", "same", "2", "order.slate-terrace-3-kept", "2")
	rushes, err := v.Store.Rushes(t.Context())
	if err != nil || len(rushes) != 2 {
		t.Fatalf("%d rushes, %v", len(rushes), err)
	}
	path, orders := "/rush/"+rushes[0].ID, rushes[0].Value.Orders
	form := func(kind string) (string, []string) {
		t.Helper()
		_, board := v.Get(path)
		for _, one := range strings.Split(board, "<form ")[1:] {
			one = strings.SplitN(one, "</form>", 2)[0]
			if !strings.Contains(one, kind) {
				continue
			}
			action := strings.SplitN(strings.SplitN(one, `action="`, 2)[1], `"`, 2)[0]
			var pairs []string
			for name, values := range webtest.Fields(one) {
				pairs = append(pairs, name, values[0])
			}
			return action, pairs
		}
		return "", nil
	}
	const undo, later = `value="undo"`, `value="later"`
	v.Post(path + "/start")
	if action, _ := form(undo); action != "" {
		t.Errorf("before the first tap an undo is offered: %s", action)
	}
	v.Post(path + "/go/1")
	v.SetNow(v.Now().Add(10 * time.Second))
	if action, _ := form(later); action != "" {
		t.Errorf("a running pour can be delayed: %s", action)
	}
	v.Post(path + "/go/2")
	if action, pairs := form(undo); action != path+"/undo/2" {
		t.Errorf("the undo of the second start goes to %q", action)
	} else if code, _ := v.Post(action, pairs...); code != http.StatusSeeOther {
		t.Errorf("undoing the start: status %d", code)
	}
	if _, err := v.Store.Brew(t.Context(), orders[1].Brew); err == nil {
		t.Error("the second brew is still there")
	}
	v.SetNow(v.Now().Add(5 * time.Second))
	v.Post("/brews/"+orders[0].Brew+"/tap", "key", "bloom", "kind", "advance")
	action, pairs := form(later)
	v.Post(action, pairs...)
	if b, _ := v.Store.Brew(t.Context(), orders[0].Brew); b.At(v.Now()).Late < brew.LaterDelay {
		t.Errorf("later: %v s", float64(b.At(v.Now()).Late))
	}
	for range 2 { // the delay, then the end of the bloom
		action, pairs = form(undo)
		v.Post(action, pairs...)
	}
	if b, _ := v.Store.Brew(t.Context(), orders[0].Brew); b.At(v.Now()).Current != 0 || b.LastTap() != "" {
		t.Errorf("after two undos it is at stage %d", b.At(v.Now()).Current)
	}
}
