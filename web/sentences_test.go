package web

import (
	"fmt"
	"html"
	"net/http"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"yardbloom/core/forecast"
)

// Mutations caught: one empty-list sentence for all gear, a raw parser error, a stated limit that
// differs from the enforced one, "a open cone".
func TestCorrectedSentences(t *testing.T) {
	t.Parallel()
	v := visit(t)
	things, err := v.store.Things(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	devices, err := v.store.Devices(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	for _, d := range devices {
		v.post("/gear/devices/" + d.ID + "/retire")
	}
	for _, thing := range things {
		if thing.Kind == "waters" {
			v.post("/gear/waters/" + thing.ID + "/retire")
		}
	}
	_, page := v.get("/gear")
	text := html.UnescapeString(page)
	for heading, says := range map[string]string{"Devices": "None connected", "Waters": "does not name its water"} {
		if got := section(text, heading); !strings.Contains(got, says) || strings.Contains(got, "A recipe needs one") {
			t.Errorf("without %s the page says %s", strings.ToLower(heading), got)
		}
	}
	code, body := v.paste("name,dose,water\nSunday,18,297")
	if body = html.UnescapeString(body); code != http.StatusUnprocessableEntity || !strings.Contains(body, "begins with “name,dose,water”") || strings.Contains(body, "invalid character") {
		t.Errorf("a table: status %d, %v", code, errorsIn(body))
	}
	if code, body := v.post("/bags", "notes", strings.Repeat("y", maxBody+10)); code != http.StatusRequestEntityTooLarge || !strings.Contains(body, fmt.Sprintf("up to %d MB", maxBody>>20)) {
		t.Errorf("a text that is too long: status %d", code)
	}
	if _, body := v.get("/schools"); strings.Contains(body, "in a open") || !strings.Contains(body, "Not in an open cone") {
		t.Error("the schools do not say \"Not in an open cone\"")
	}
}

// section returns the text from a heading to the end of its section.
func section(page, heading string) string {
	_, after, _ := strings.Cut(page, heading+"</h2>")
	text, _, _ := strings.Cut(after, "</section>")
	return text
}

var until = regexp.MustCompile(`data-until="([0-9.]+)"[^>]*data-open`)

// Mutation caught: a countdown to the aim beside a ribbon that ends minutes later.
func TestCountdownEndsAtThePredictedDrawdown(t *testing.T) {
	t.Parallel()
	v := visit(t)
	v.recipe("grind", "330") // nearly clogged: drains long after its aim
	v.post("/brews/" + planned + "/start")
	b, err := v.store.Brew(t.Context(), planned)
	if err != nil {
		t.Fatal(err)
	}
	q := b.Question(b.Started)
	q.Beliefs = v.s.teacher.Believe(b.Sheet)
	f, err := forecast.Of(q)
	if err != nil {
		t.Fatal(err)
	}
	_, page := v.get("/brews/" + planned + "/brew")
	found := until.FindStringSubmatch(page)
	if found == nil {
		t.Fatal("the page has no last stretch")
	}
	end, _ := strconv.ParseFloat(found[1], 64)
	if off := end - float64(f.Drawdown); off > 2 || off < -2 || end < float64(b.Plan.Finish)+30 {
		t.Errorf("it counts to %.0f s; the model says %.0f s, the aim is %.0f s", end, float64(f.Drawdown), float64(b.Plan.Finish))
	}
}
