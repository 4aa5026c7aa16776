package api_test

import (
	"encoding/csv"
	"encoding/json"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/go-chi/chi/v5"
	"github.com/santhosh-tekuri/jsonschema/v6"

	"yardbloom/api"
	"yardbloom/web/webtest"
)

// A client asks the API with a token.
type client struct {
	*webtest.Visitor
	token string
}

func connect(t *testing.T) client {
	t.Helper()
	v := webtest.Visit(t)
	token, err := v.Store.AddToken(t.Context(), "test", "", true, v.Now())
	if err != nil {
		t.Fatal(err)
	}
	return client{v, token}
}

// get returns the decoded answer of a path.
func (c client) get(path string, headers ...string) (int, any, http.Header) {
	c.T.Helper()
	code, text, header := c.Send("GET", api.Prefix+path, nil, append(headers, "Authorization", "Bearer "+c.token)...)
	var out any
	if strings.Contains(header.Get("Content-Type"), "json") {
		if err := json.Unmarshal([]byte(text), &out); err != nil {
			c.T.Fatalf("%s: %v", path, err)
		}
	}
	return code, out, header
}

// examples holds a path for each path of the description.
var examples = map[string]string{"/yard": "/yard", "/bags": "/bags?limit=2", "/bags/{id}": "/bags/slate-terrace", "/gear": "/gear",
	"/brews": "/brews?q=slate&sort=mark&limit=2", "/brews/{id}": "/brews/slate-terrace-4", "/brews/{id}/readings": "/brews/slate-terrace-4/readings",
	"/brews/{id}/advice": "/brews/slate-terrace-4/advice", "/recipes": "/recipes", "/recipes/{id}": "/recipes/evening-seed-next",
	"/brews.csv": "/brews.csv?bag=slate-terrace", "/forecast": "",
	"/events": "", "/import": ""}

// Every route is described, and every answer is as its description says. Mutations caught: an operation without a description, a field
// that is described and never sent, one that is sent without a description, an unknown error format.
func TestAnswersAreAsDescribed(t *testing.T) {
	t.Parallel()
	c := connect(t)
	code, doc, _ := c.get("/openapi.json")
	if code != http.StatusOK || doc.(map[string]any)["openapi"] != "3.1.0" {
		t.Fatalf("no description: status %d", code)
	}
	schemas := jsonschema.NewCompiler()
	schemas.DefaultDraft(jsonschema.Draft2020)
	if err := schemas.AddResource("file:///openapi.json", doc); err != nil {
		t.Fatal(err)
	}
	paths := doc.(map[string]any)["paths"].(map[string]any)
	for path := range paths {
		if _, known := examples[path]; !known {
			t.Errorf("%s has no example in this test", path)
		}
	}
	check := func(path, method, status string, answer any) {
		t.Helper()
		media := "application~1json"
		if status != "200" {
			media = "application~1problem+json"
		}
		at := fmt.Sprintf("file:///openapi.json#/paths/%s/%s/responses/%s/content/%s/schema", strings.ReplaceAll(path, "/", "~1"), method,
			status, media)
		schema, err := schemas.Compile(at)
		if err != nil {
			t.Fatalf("%s: %v", path, err)
		}
		if err := schema.Validate(answer); err != nil {
			t.Errorf("%s %s: %v", method, path, err)
		}
	}
	for path, example := range examples {
		if paths[path] == nil {
			t.Errorf("%s is not described", path)
		}
		if example == "" || strings.HasPrefix(example, "/brews.csv") {
			continue
		}
		code, answer, _ := c.get(example)
		if code != http.StatusOK {
			t.Errorf("%s: status %d, %v", example, code, answer)
			continue
		}
		check(path, "get", "200", answer)
	}
	code, problem, header := c.get("/brews/none")
	if code != http.StatusNotFound || header.Get("Content-Type") != "application/problem+json" {
		t.Errorf("an unknown brew: status %d, %s", code, header.Get("Content-Type"))
	}
	check("/brews/{id}", "get", "404", problem)
	all := api.New(c.Yard, func(*http.Request) {}, time.Second).Routes()
	err := chi.Walk(all, func(method, route string, _ http.Handler, _ ...func(http.Handler) http.Handler) error {
		if _, known := examples[route]; !known && !strings.HasPrefix(route, "/openapi") {
			t.Errorf("%s %s is not described", method, route)
		}
		return nil
	})
	if err != nil {
		t.Error(err)
	}
}

// items returns the ids of a list, page by page.
func (c client) items(path string) (ids []string) {
	c.T.Helper()
	sep := map[bool]string{true: "&", false: "?"}[strings.Contains(path, "?")]
	for next := ""; ; {
		code, answer, _ := c.get(path + sep + "limit=3&after=" + url.QueryEscape(next))
		if code != http.StatusOK {
			c.T.Fatalf("%s: status %d, %v", path, code, answer)
		}
		list := answer.(map[string]any)
		for _, item := range list["items"].([]any) {
			ids = append(ids, item.(map[string]any)["id"].(string))
		}
		if next, _ = list["next"].(string); next == "" {
			return ids
		}
	}
}

// Lists page through everything once, filtered as the log is, and the same as CSV. Mutations caught: a cursor that skips or repeats, a
// filter that is not applied, a page without its end.
func TestListsPageThroughEverything(t *testing.T) {
	t.Parallel()
	c := connect(t)
	for _, query := range []string{"", "?sort=mark", "?q=slate&low=5", "?tasted=yes&sort=yield", "?from=2026-05-01"} {
		ids := c.items("/brews" + query)
		_, text, header := c.Send("GET", api.Prefix+"/brews"+query, nil, "Authorization", "Bearer "+c.token, "Accept", "text/csv")
		rows, err := csv.NewReader(strings.NewReader(text)).ReadAll()
		if err != nil || !strings.HasPrefix(header.Get("Content-Type"), "text/csv") {
			t.Fatalf("%q: %v, %s", query, err, header.Get("Content-Type"))
		}
		var want []string
		for _, row := range rows[1:] {
			want = append(want, row[0])
		}
		if !slices.Equal(ids, want) || len(ids) < 3 {
			t.Errorf("%q: %v, and as CSV %v", query, ids, want)
		}
	}
	if bags := c.items("/bags"); len(bags) != 6 {
		t.Errorf("bags %v", bags)
	}
	for path, want := range map[string]int{"/brews?sort=best": 422, "/brews?low=eleven": 422, "/brews?limit=5000": 422, "/brews?after=x": 422,
		"/bags?after=x": 404, "/brews?q=" + strings.Repeat("x", 300): 422, "/brews?q=%22*NEAR(": 200, "/nothing": 404} {
		if code, answer, _ := c.get(path); code != want {
			t.Errorf("%.40s: status %d, want %d: %v", path, code, want, answer)
		}
	}
}

// Only a valid token reads, and what it has already is not sent again. Mutations caught: a route without a check, a revoked token that
// still reads, a token in the file of the database, an ETag of another answer.
func TestOnlyTokensRead(t *testing.T) {
	t.Parallel()
	c := connect(t)
	for path, example := range examples {
		if example == "" {
			continue
		}
		for _, token := range []string{"", "Bearer ", "Bearer wrong", "Basic " + c.token, c.token} {
			code, text, header := c.Send("GET", api.Prefix+example, nil, "Authorization", token)
			if code != http.StatusUnauthorized || header.Get("WWW-Authenticate") == "" || strings.Contains(text, "slate") {
				t.Errorf("%s with %q: status %d", path, token, code)
			}
		}
	}
	_, _, header := c.get("/gear")
	code, answer, _ := c.get("/gear", "If-None-Match", `"other", `+header.Get("ETag"))
	if code != http.StatusNotModified || answer != nil {
		t.Errorf("the same answer: status %d", code)
	}
	if code, _, _ := c.get("/bags", "If-None-Match", header.Get("ETag")); code != http.StatusOK {
		t.Errorf("the tag of another answer: status %d", code)
	}
	if _, page := c.Get("/settings/programs"); strings.Contains(page, c.token) || !strings.Contains(page, "test") {
		t.Error("the page shows the token again, or not its name")
	}
	tokens, err := c.Store.Tokens(t.Context())
	if err != nil || len(tokens) != 1 {
		t.Fatalf("%d tokens, %v", len(tokens), err)
	}
	if code, _ := c.Post("/settings/programs/" + tokens[0].ID + "/revoke"); code != http.StatusSeeOther {
		t.Errorf("revoked with status %d", code)
	}
	if code, _, _ := c.get("/gear"); code != http.StatusUnauthorized {
		t.Errorf("a revoked token: status %d", code)
	}
	if code, page := c.Post("/settings/programs", "name", ""); code != http.StatusUnprocessableEntity || len(webtest.ErrorsIn(page)) != 1 {
		t.Errorf("a program without a name: status %d", code)
	}
	if code, page := c.Post("/settings/programs", "name", "Bar display"); code != http.StatusOK || !strings.Contains(page, "yard_") {
		t.Errorf("a new program: status %d", code)
	}
}

// A recipe of the book is predicted as its page predicts, and a wrong one names its field. Mutation caught: a prediction of another recipe.
func TestRecipeIsPredicted(t *testing.T) {
	t.Parallel()
	c := connect(t)
	_, recipe, _ := c.get("/recipes/evening-seed-next")
	post := func(change string, value any) (int, map[string]any) {
		t.Helper()
		doc := map[string]any{}
		for k, v := range recipe.(map[string]any) {
			doc[k] = v
		}
		if change != "" {
			doc[change] = value
		}
		text, err := json.Marshal(doc)
		if err != nil {
			t.Fatal(err)
		}
		code, answer, _ := c.SendBody(api.Prefix+"/forecast", "application/json", string(text), "Authorization", "Bearer "+c.token)
		out := map[string]any{}
		if err := json.Unmarshal([]byte(answer), &out); err != nil {
			t.Fatalf("%v: %s", err, answer)
		}
		return code, out
	}
	code, was := post("", nil)
	if code != http.StatusOK || was["ey_percent"].(float64) < 15 || was["drawdown_s"].(float64) < 60 || was["ey_standard_error"].(float64) <= 0 {
		t.Fatalf("status %d, %v", code, was)
	}
	if _, finer := post("grind_um", recipe.(map[string]any)["grind_um"].(float64)-80); finer["ey_percent"].(float64) <= was["ey_percent"].(float64) ||
		finer["drawdown_s"].(float64) <= was["drawdown_s"].(float64) {
		t.Errorf("finer: %v after %v", finer, was)
	}
	code, wrong := post("dose_g", -3)
	if text := fmt.Sprint(wrong); code != http.StatusUnprocessableEntity || !strings.Contains(text, "dose_g") {
		t.Errorf("a negative dose: status %d, %v", code, wrong)
	}
}

// A page of another site may use the API with a token, and nothing without one. Mutation caught: cookies that are sent along.
func TestOtherSitesNeedAToken(t *testing.T) {
	t.Parallel()
	c := connect(t)
	_, _, header := c.get("/yard", "Origin", "https://display.example")
	if header.Get("Access-Control-Allow-Origin") != "*" || header.Get("Access-Control-Allow-Credentials") != "" {
		t.Errorf("%v", header)
	}
	code, _, header := c.Send("OPTIONS", api.Prefix+"/brews", nil, "Origin", "https://display.example", "Access-Control-Request-Method", "GET")
	if code != http.StatusNoContent || !strings.Contains(header.Get("Access-Control-Allow-Headers"), "Authorization") {
		t.Errorf("status %d, %v", code, header)
	}
}
