package api_test

import (
	"bytes"
	"encoding/json"
	"net/http"
	"strings"
	"testing"
	"time"

	"yardbloom/api"
	"yardbloom/web/webtest"
	"yardbloom/yard"
)

// A program that may import brings in a yard file; others may not, and a bad file changes nothing. Mutations caught: a token that only reads
// and imports, a dry run that changes something, an error that is a page.
func TestProgramImportsAYardFile(t *testing.T) {
	t.Parallel()
	c := connect(t)
	other := webtest.Visit(t)
	if err := other.Store.DeleteBag(t.Context(), "slate-terrace", other.Now()); err != nil {
		t.Fatal(err)
	}
	var file bytes.Buffer
	if err := yard.Export(t.Context(), other.Store, &file, time.Time{}, time.Time{}, c.Now()); err != nil {
		t.Fatal(err)
	}
	post := func(path, token, body string) (int, api.Imported, string) {
		t.Helper()
		code, text, head := c.SendBody(api.Prefix+path, "application/zip", body, "Authorization", "Bearer "+token)
		var out api.Imported
		if code == http.StatusOK {
			if err := json.Unmarshal([]byte(text), &out); err != nil {
				t.Fatal(err)
			}
		} else if head.Get("Content-Type") != "application/problem+json" {
			t.Errorf("status %d as %s", code, head.Get("Content-Type"))
		}
		return code, out, text
	}
	reads, err := c.Store.AddToken(t.Context(), "reads", "", false, c.Now())
	if err != nil {
		t.Fatal(err)
	}
	for name, want := range map[string]struct {
		token, body string
		code        int
	}{"a token that reads": {reads, file.String(), http.StatusForbidden}, "no token": {"", "x", http.StatusUnauthorized},
		"half a file": {c.token, file.String()[:file.Len()/2], http.StatusUnprocessableEntity}} {
		if code, _, text := post("/import", want.token, want.body); code != want.code {
			t.Errorf("%s: status %d, %s", name, code, text)
		}
	}
	code, text, _ := c.SendBody(api.Prefix+"/forecast", "application/json", strings.Repeat("x", 2<<20), "Authorization", "Bearer "+c.token)
	if code != http.StatusRequestEntityTooLarge || text[0] != '{' {
		t.Errorf("a body that is too large: %d, %.60s", code, text)
	}
	there := func() bool {
		t.Helper()
		_, page := c.Get("/")
		return strings.Contains(page, "Slate Terrace")
	}
	if code, out, text := post("/import?dry_run=true", c.token, file.String()); code != http.StatusOK || out.Applied || !there() {
		t.Errorf("a dry run: status %d, %s", code, text)
	}
	code, out, text := post("/import", c.token, file.String())
	if code != http.StatusOK || !out.Applied || there() {
		t.Errorf("status %d, %s", code, text)
	}
	if code, out, _ := post("/import", c.token, file.String()); code != http.StatusOK || out.Applied {
		t.Errorf("again: status %d, %+v", code, out)
	}
}
