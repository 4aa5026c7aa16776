package words_test

import (
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"yardbloom/web/words"
)

var update = flag.Bool("update", false, "write docs/guide.md")

// The guide in the documents is the walk in the app. Mutation caught: a step that only one of them has.
func TestGuideIsTheWalk(t *testing.T) {
	t.Parallel()
	var b strings.Builder
	b.WriteString("# A walk through the demo yard\n\n`make demo` starts the demo yard on 127.0.0.1:8417. These twelve steps lead through it in about " +
		"ten minutes. The\napp shows them beside its pages, until you end the walk. [manual.md](manual.md) describes every station in detail.\n")
	for i, s := range words.Walk() {
		fmt.Fprintf(&b, "\n## %d. %s\n\n%s\n\nOpen `%s`.\n\n![%s](screenshots/%s)\n", i+1, s.Title, s.Says, s.Href(), s.Title, s.Picture)
		if _, err := os.Stat(filepath.Join("../../docs/screenshots", s.Picture)); err != nil {
			t.Errorf("step %d: %v", i+1, err)
		}
	}
	if n := len(words.Walk()); n != 12 {
		t.Errorf("%d steps", n)
	}
	const path = "../../docs/guide.md"
	if *update {
		if err := os.WriteFile(path, []byte(b.String()), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	if kept, err := os.ReadFile(path); err != nil || string(kept) != b.String() {
		t.Errorf("%s differs from the walk (%v): run go test ./web/words -update", path, err)
	}
}
