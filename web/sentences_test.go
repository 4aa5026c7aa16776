package web_test

import (
	"fmt"
	"html"
	"net/http"
	"strings"
	"testing"

	"yardbloom/web"
	"yardbloom/web/webtest"
)

// Mutations caught: one empty-list sentence for all gear, a raw parser error, a stated limit that
// differs from the enforced one, "a open cone".
func TestCorrectedSentences(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	things, err := v.Store.Things(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	devices, err := v.Store.Devices(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	for _, d := range devices {
		v.Post("/gear/devices/" + d.ID + "/retire")
	}
	for _, thing := range things {
		if thing.Kind == "waters" {
			v.Post("/gear/waters/" + thing.ID + "/retire")
		}
	}
	_, page := v.Get("/gear")
	text := html.UnescapeString(page)
	for heading, says := range map[string]string{"Devices": "None connected", "Waters": "does not name its water"} {
		if got := section(text, heading); !strings.Contains(got, says) || strings.Contains(got, "A recipe needs one") {
			t.Errorf("without %s the page says %s", strings.ToLower(heading), got)
		}
	}
	code, body := v.Paste("name,dose,water\nSunday,18,297")
	if body = html.UnescapeString(body); code != http.StatusUnprocessableEntity ||
		!strings.Contains(body, "begins with “name,dose,water”") || strings.Contains(body, "invalid character") {
		t.Errorf("a table: status %d, %v", code, webtest.ErrorsIn(body))
	}
	if code, body := v.Post("/bags", "notes", strings.Repeat("y", web.MaxBody+10)); code != http.StatusRequestEntityTooLarge ||
		!strings.Contains(body, fmt.Sprintf("up to %d MB", web.MaxBody>>20)) {
		t.Errorf("a text that is too long: status %d", code)
	}
	if _, body := v.Get("/schools"); strings.Contains(body, "in a open") || !strings.Contains(body, "Not in an open cone") {
		t.Error("the schools do not say \"Not in an open cone\"")
	}
}

// section returns the text from a heading to the end of its section.
func section(page, heading string) string {
	_, after, _ := strings.Cut(page, heading+"</h2>")
	text, _, _ := strings.Cut(after, "</section>")
	return text
}
