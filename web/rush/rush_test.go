package rush_test

import (
	"context"
	"net/http"
	"strings"
	"testing"
	"time"

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
	if err != nil || len(rushes) != 1 {
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
	v.Post(path+"/filled", "water", "91")
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
	if err != nil || len(rushes) != 1 {
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
