package api_test

import (
	"bufio"
	"context"
	"encoding/json"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"yardbloom/api"
	"yardbloom/web"
	"yardbloom/web/webtest"
	"yardbloom/yard"
)

// listen opens the stream of events after an id and returns its events, as kind and id, until it ends.
func (c client) listen(ctx context.Context, url, after string) <-chan [2]string {
	c.T.Helper()
	r, err := http.NewRequestWithContext(ctx, "GET", url+api.Prefix+"/events", nil)
	if err != nil {
		c.T.Fatal(err)
	}
	r.Header.Set("Authorization", "Bearer "+c.token)
	if after != "" {
		r.Header.Set("Last-Event-ID", after)
	}
	answer, err := http.DefaultClient.Do(r)
	if err != nil || answer.StatusCode != http.StatusOK || answer.Header.Get("Content-Type") != "text/event-stream" {
		c.T.Fatalf("no stream: %v, %+v", err, answer)
	}
	out, open := make(chan [2]string, 100), make(chan struct{})
	go func() {
		defer close(out)
		defer answer.Body.Close()
		id, kind := "", ""
		for lines := bufio.NewScanner(answer.Body); lines.Scan(); {
			name, value, _ := strings.Cut(lines.Text(), ": ")
			switch name {
			case "":
				if open != nil {
					close(open)
					open = nil
				}
			case "id":
				id = value
			case "event":
				kind = value
			case "data":
				step := api.Step{}
				if err := json.Unmarshal([]byte(value), &step); err != nil || step.Brew.ID != webtest.Planned {
					c.T.Errorf("%s: %v", value, err)
				}
				out <- [2]string{kind, id}
			}
		}
	}()
	<-open
	return out
}

// A subscribed program receives each step of a brew, from where it broke off, until its token is revoked. Mutations caught: a step that
// is lost between two streams or sent twice, a stream that outlives its token, one that begins with the whole history.
func TestEventsTellTheStepsOfABrew(t *testing.T) {
	t.Parallel()
	c := connect(t)
	c.Reopen(func(_ *yard.Config, w *web.Config) { w.Heartbeat = 100 * time.Millisecond })
	srv := httptest.NewServer(c.Server)
	defer srv.Close()
	next := func(from <-chan [2]string) [2]string {
		t.Helper()
		select {
		case e, open := <-from:
			if !open {
				t.Fatal("the stream ended")
			}
			return e
		case <-time.After(time.Minute):
			t.Fatal("no event")
		}
		return [2]string{}
	}
	first, stop := context.WithCancel(t.Context())
	events := c.listen(first, srv.URL, "")
	c.Post("/brews/" + webtest.Planned + "/start")
	began := next(events)
	if began[0] != "brew-started" {
		t.Errorf("began with %v", began)
	}
	stop()
	b, err := c.Store.Brew(t.Context(), webtest.Planned)
	if err != nil {
		t.Fatal(err)
	}
	c.Post("/brews/"+webtest.Planned+"/tap", "key", "one", "kind", "advance", "at", "12", "start", b.StartKey())
	c.Post("/brews/"+webtest.Planned+"/tap", "key", "two", "kind", "finish", "at", "200", "start", b.StartKey())
	resumed := c.listen(t.Context(), srv.URL, began[1])
	kinds := map[string]int{}
	for {
		e := next(resumed)
		if kinds[e[0]]++; e[0] == "brew-ended" {
			break
		}
	}
	if kinds["brew-started"] != 0 || kinds["pour-finished"] < 1 || kinds["brew-ended"] != 1 {
		t.Errorf("resumed: %v", kinds)
	}
	tokens, err := c.Store.Tokens(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	if err := c.Store.RevokeToken(t.Context(), tokens[0].ID, c.Now()); err != nil {
		t.Fatal(err)
	}
	for open := true; open; {
		select {
		case _, open = <-resumed:
		case <-time.After(time.Minute):
			t.Fatal("the stream outlives its token")
		}
	}
}
