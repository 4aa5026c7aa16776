package main

import (
	"bufio"
	"bytes"
	"context"
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/jmoiron/sqlx"
	"github.com/spf13/cobra"

	"yardbloom/core/units"
	"yardbloom/store"
)

func quiet() *slog.Logger { return slog.New(slog.NewTextHandler(io.Discard, nil)) }

// output collects the output of a running command.
type output struct {
	mu  sync.Mutex
	out bytes.Buffer
}

func (s *output) Write(b []byte) (int, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.out.Write(b)
}

func (s *output) String() string {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.out.String()
}

// run runs a command until it ends or serves.
func run(t *testing.T, c *cobra.Command, stdin string, args ...string) (string, error) {
	t.Helper()
	ctx, cancel := context.WithTimeout(context.Background(), 10*time.Minute)
	defer cancel()
	var out output
	c.SetOut(&out)
	c.SetErr(&out)
	c.SetIn(strings.NewReader(stdin))
	c.SetArgs(args)
	c.SilenceUsage, c.SilenceErrors = true, true
	ended := make(chan error, 1)
	go func() { ended <- c.ExecuteContext(ctx) }()
	for {
		select {
		case err := <-ended:
			return out.String(), err
		case <-time.After(20 * time.Millisecond):
			if strings.Contains(out.String(), "is at http://") {
				cancel()
			}
		}
	}
}

func TestServeCreatesAYard(t *testing.T) {
	t.Parallel()
	dir := filepath.Join(t.TempDir(), "yard")
	out, err := run(t, serveCommand(quiet), "", "--data", dir, "--addr", "127.0.0.1:0")
	if err != nil || !strings.Contains(out, "Created a new, empty yard") || !strings.Contains(out, "Yard Bloom is at http://127.0.0.1:") {
		t.Errorf("%q, %v", out, err)
	}
	st, err := store.Open(context.Background(), dir)
	if err != nil {
		t.Fatal(err)
	}
	defer st.Close()
	brewers, _ := st.Brewers(context.Background())
	grinders, _ := st.Grinders(context.Background())
	kettles, _ := st.Kettles(context.Background())
	if len(brewers)+len(grinders)+len(kettles) > 0 {
		t.Errorf("a new yard has %d brewers, %d grinders, %d kettles that nobody entered", len(brewers), len(grinders), len(kettles))
	}
}

func TestOtherAddressesNeedAPasswordFirst(t *testing.T) {
	t.Parallel()
	dir := filepath.Join(t.TempDir(), "yard")
	for _, addr := range []string{"0.0.0.0:0", ":0", "[::]:0"} {
		if _, err := run(t, serveCommand(quiet), "", "--data", dir, "--addr", addr); err == nil ||
			!strings.Contains(err.Error(), "yardbloom password") {
			t.Errorf("%s without a password: %v", addr, err)
		}
	}
	if _, err := run(t, passwordCommand(), "short\n", "--data", dir); err == nil {
		t.Error("a short password was accepted")
	}
	if out, err := run(t, passwordCommand(), "under the flower pot\n", "--data", dir); err != nil || !strings.Contains(out, "Kept.") {
		t.Fatalf("%q, %v", out, err)
	}
	out, err := run(t, serveCommand(quiet), "", "--data", dir, "--addr", "0.0.0.0:0")
	if err != nil || !strings.Contains(out, "password is required") {
		t.Errorf("with a password: %q, %v", out, err)
	}
	// Behind a proxy on this machine, a loopback address is reachable by others.
	for _, c := range []struct {
		args []string
		asks bool
		says string
	}{
		{[]string{"--addr", "127.0.0.1:0"}, true, ""},
		{[]string{"--addr", "127.0.0.1:0", "--proxy", "127.0.0.1"}, true, ""},
		{[]string{"--addr", "127.0.0.1:0", "--sign-in=off"}, false, ""},
		{[]string{"--addr", "0.0.0.0:0", "--sign-in=off"}, false, "own addresses alone"},
		{[]string{"--addr", "127.0.0.1:0", "--sign-in=off", "--proxy", "127.0.0.1"}, false, "own addresses alone"},
		{[]string{"--addr", "127.0.0.1:0", "--sign-in=no"}, false, "auto or off"},
		{[]string{"--addr", "127.0.0.1:0", "--proxy", "the proxy"}, false, "must be an address"},
	} {
		out, err := run(t, serveCommand(quiet), "", append(c.args, "--data", dir)...)
		if (err != nil) != (c.says != "") || err != nil && !strings.Contains(err.Error(), c.says) ||
			strings.Contains(out, "password is required") != c.asks {
			t.Errorf("%v: %q, %v", c.args, out, err)
		}
	}
	if _, err := run(t, serveCommand(quiet), "", "--data", filepath.Join(t.TempDir(), "new"), "--addr", "127.0.0.1:0", "--proxy",
		"127.0.0.1"); err == nil || !strings.Contains(err.Error(), "yardbloom password") {
		t.Errorf("behind a proxy without a password: %v", err)
	}
	if _, err := run(t, serveCommand(quiet), "", "--data", dir, "--addr", "here"); err == nil ||
		!strings.Contains(err.Error(), "HOST:PORT") {
		t.Errorf("an address without a port: %v", err)
	}
}

// At start, paths of a yard that other users of the machine can read are listed.
func TestExposedYardIsReported(t *testing.T) {
	t.Parallel()
	dir := filepath.Join(t.TempDir(), "yard")
	const says = "Other users of this machine can reach "
	if out, err := run(t, serveCommand(quiet), "", "--data", dir, "--addr", "127.0.0.1:0"); err != nil || strings.Contains(out, says) {
		t.Errorf("a new yard: %q, %v", out, err)
	}
	for path, mode := range map[string]os.FileMode{dir: 0o755, filepath.Join(dir, store.FileName): 0o640} {
		if err := os.Chmod(path, mode); err != nil {
			t.Fatal(err)
		}
	}
	out, err := run(t, serveCommand(quiet), "", "--data", dir, "--addr", "127.0.0.1:0")
	if err != nil || !strings.Contains(out, says+dir+".") || !strings.Contains(out, says+filepath.Join(dir, store.FileName)+".") {
		t.Errorf("%q, %v", out, err)
	}
}

// An open stream and an unfinished form do not delay the end of the program.
func TestOpenConnectionsDoNotDelayTheEnd(t *testing.T) {
	t.Parallel()
	dir := filepath.Join(t.TempDir(), "demo")
	ctx, end := context.WithCancel(t.Context())
	defer end()
	out, lines := io.Pipe()
	c := demoCommand(quiet)
	c.SetOut(lines)
	c.SetArgs([]string{"--data", dir, "--addr", "127.0.0.1:0"})
	ended := make(chan error, 1)
	go func() { ended <- c.ExecuteContext(ctx) }()
	_, at, found := strings.Cut(must(bufio.NewReader(out).ReadString('\n'))(t), "http://")
	if !found {
		t.Fatal("it did not say where it is")
	}
	addr := strings.TrimSpace(at)
	slow := must(net.Dial("tcp", addr))(t)
	defer slow.Close()
	fmt.Fprintf(slow, "POST /settings HTTP/1.1\r\nHost: localhost\r\nContent-Type: application/x-www-form-urlencoded\r\nContent-Length: "+
		"1000\r\n\r\nalt")
	stream := must(http.Get("http://" + addr + "/brews/evening-seed-next/live"))(t)
	defer stream.Body.Close()
	began := time.Now()
	end()
	select {
	case err := <-ended:
		if err != nil {
			t.Errorf("it ends with %v", err)
		}
	case <-time.After(9 * time.Second): // a form has ten seconds to arrive
		t.Errorf("it still runs after %v", time.Since(began))
	}
}

// must returns the value of a call, or ends the test if it failed.
func must[T any](v T, err error) func(t *testing.T) T {
	return func(t *testing.T) T {
		t.Helper()
		if err != nil {
			t.Fatal(err)
		}
		return v
	}
}

func TestDemoNeverReplacesARealYard(t *testing.T) {
	t.Parallel()
	dir := filepath.Join(t.TempDir(), "yard")
	if _, err := run(t, serveCommand(quiet), "", "--data", dir, "--addr", "127.0.0.1:0"); err != nil {
		t.Fatal(err)
	}
	before, _ := os.Stat(filepath.Join(dir, store.FileName))
	for _, args := range [][]string{{"--data", dir}, {"--data", dir, "--fresh"}} {
		if _, err := run(t, demoCommand(quiet), "", append(args, "--addr", "127.0.0.1:0")...); err == nil ||
			!strings.Contains(err.Error(), "a yard of your own") {
			t.Errorf("%v: %v", args, err)
		}
	}
	if after, err := os.Stat(filepath.Join(dir, store.FileName)); err != nil || after.Size() != before.Size() {
		t.Errorf("the yard was touched: %v", err)
	}
}

// A mark left in a folder with other files would let a later demo remove a yard put there.
func TestRefusedFolderIsNotMarkedAsADemo(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	if err := os.WriteFile(filepath.Join(dir, "letters.txt"), []byte("mine"), 0o600); err != nil {
		t.Fatal(err)
	}
	if _, err := run(t, demoCommand(quiet), "", "--wait", "--data", dir, "--addr", "127.0.0.1:0"); err == nil {
		t.Error("a folder with other files became a demo")
	}
	if left, err := os.ReadDir(dir); err != nil || len(left) != 1 {
		t.Errorf("the folder now holds %v, %v", left, err)
	}
}

func TestDemoIsKeptOrRecreated(t *testing.T) {
	t.Parallel()
	dir := filepath.Join(t.TempDir(), "demo")
	for _, c := range []struct {
		args []string
		says string
	}{{nil, "Yard Bloom is at"}, {nil, "Using the demo data"}, {[]string{"--fresh"}, "Yard Bloom is at"}} {
		out, err := run(t, demoCommand(quiet), "", append(c.args, "--data", dir, "--addr", "127.0.0.1:0", "--clock",
			"2026-05-12T09:40:00+02:00")...)
		if err != nil || !strings.Contains(out, c.says) {
			t.Errorf("%v: %q, %v", c.args, out, err)
		}
	}
	// A demo that was killed while it was filled is filled again, not refused.
	if err := mark(dir, demoUnfinished); err != nil {
		t.Fatal(err)
	}
	if out, err := run(t, demoCommand(quiet), "", "--wait", "--data", dir, "--addr", "127.0.0.1:0"); err != nil || strings.Contains(out,
		"Using the demo data") {
		t.Errorf("after a killed first start: %q, %v", out, err)
	}
	// A demo folder of an older version is filled again, with a sentence.
	db, err := sqlx.Open("sqlite", filepath.Join(dir, store.FileName))
	if err != nil {
		t.Fatal(err)
	}
	if _, err := db.Exec(`DELETE FROM goose_db_version WHERE version_id > 12; UPDATE goose_db_version SET version_id = 11 WHERE version_id = 12`); err != nil {
		t.Fatal(err)
	}
	if err := db.Close(); err != nil {
		t.Fatal(err)
	}
	out, err := run(t, demoCommand(quiet), "", "--wait", "--data", dir, "--addr", "127.0.0.1:0")
	if err != nil || !strings.Contains(out, "are from an older version and are recreated") || strings.Contains(out, "Using the demo data") {
		t.Errorf("an older demo: %q, %v", out, err)
	}
	if _, err := run(t, demoCommand(quiet), "", "--wait", "--data", dir, "--clock", "noon"); err == nil {
		t.Error("a clock at noon was accepted")
	}
}

func TestBackupAndRestore(t *testing.T) {
	t.Parallel()
	dir, file, other := filepath.Join(t.TempDir(), "yard"), filepath.Join(t.TempDir(), "copy.db"), filepath.Join(t.TempDir(), "other")
	if _, err := run(t, backupCommand(), "", file, "--data", dir); err == nil || !strings.Contains(err.Error(), "no yard") {
		t.Errorf("a yard that is not there: %v", err)
	}
	if _, err := run(t, serveCommand(quiet), "", "--data", dir, "--addr", "127.0.0.1:0"); err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		make func() *cobra.Command
		args []string
		says string
	}{
		{backupCommand, []string{file, "--data", dir}, "verified backup"},
		{restoreCommand, []string{file, "--data", other}, "0 brews"},
		{restoreCommand, []string{file, "--data", dir, "--replace"}, "was renamed to"},
	} {
		if out, err := run(t, c.make(), "", c.args...); err != nil || !strings.Contains(out, c.says) {
			t.Errorf("%v: %q, %v", c.args, out, err)
		}
	}
	if _, err := run(t, restoreCommand(), "", file, "--data", dir); err == nil || !strings.Contains(err.Error(), "--replace") {
		t.Errorf("restored over a yard: %v", err)
	}
}

func TestBusyAddressIsReported(t *testing.T) {
	t.Parallel()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer l.Close()
	_, err = run(t, serveCommand(quiet), "", "--data", filepath.Join(t.TempDir(), "yard"), "--addr", l.Addr().String())
	if err == nil || !strings.Contains(err.Error(), "--addr") {
		t.Errorf("got %v", err)
	}
}

const recipeFile = `{"format": "yardbloom-recipe", "version": 3, "coffee": {"roast": "medium-light"},
	"brewer": {"kind": "open-cone", "material": "plastic", "filter": "standard paper", "holds_g": 480}, "grinder": {"burrs": "hand mill"},
	"dose_g": 18, "water_g": 297, "grind_um": 650, "rinse": true, "pours": [
	{"bloom": true, "start_s": 0, "water_g": 54, "rate_g_s": 5, "temperature_c": 95, "height": "mid"},
	{"start_s": 40, "water_g": 243, "rate_g_s": 5, "temperature_c": 95, "height": "mid"}]}`

func TestSimulatePrintsASummaryAndCurves(t *testing.T) {
	t.Parallel()
	out, err := run(t, simulateCommand(), recipeFile, "-")
	var s summary
	if err != nil || json.Unmarshal([]byte(out), &s) != nil {
		t.Fatalf("%v: %s", err, out)
	}
	if s.DrawdownS < 120 || s.DrawdownS > 260 || s.EYPercent < 16 || s.EYPercent > 24 || !s.Drained || s.OverflowS != nil {
		t.Errorf("%+v", s)
	}
	out, err = run(t, simulateCommand(), recipeFile, "-", "--curves", "csv")
	rows, readErr := csv.NewReader(strings.NewReader(out)).ReadAll()
	if err != nil || readErr != nil || len(rows) < 120 || rows[0][1] != "poured_g" || rows[len(rows)-1][1] != "297.0000" {
		t.Errorf("%v, %v, %d rows", err, readErr, len(rows))
	}
	out, err = run(t, simulateCommand(), recipeFile, "-", "--curves", "json")
	if err != nil || json.Unmarshal([]byte(out), &s) != nil || len(s.Curves["level_mm"]) != len(rows)-1 {
		t.Errorf("%v, %d points", err, len(s.Curves["level_mm"]))
	}
}

// Ice, kettle and a pour that waits for the bed are passed to the model.
func TestSimulateUsesIceAndKettle(t *testing.T) {
	t.Parallel()
	ask := func(changes ...string) (s summary) {
		t.Helper()
		text := strings.NewReplacer(changes...).Replace(recipeFile)
		out, err := run(t, simulateCommand(), text, "-")
		if err != nil || json.Unmarshal([]byte(out), &s) != nil {
			t.Fatalf("%v: %s", err, out)
		}
		return s
	}
	hot := ask()
	iced := ask(`"rinse": true`, `"carafe": {"material": "glass"}, "ice": {"mass_g": 100, "temperature_c": -18, "wanted_c": 6}`)
	// The recommended amount of ice gives a cup of the wanted temperature.
	if exact := ask(`"rinse": true`, fmt.Sprintf(`"carafe": {"material": "glass"}, "ice": {"mass_g": %v, "temperature_c": -18}`,
		*iced.IceForG)); exact.CupC < 5 || exact.CupC > 7.5 || exact.IceLeftG != 0 {
		t.Errorf("%v g of ice for 6 °C end at %v °C with %v g left", *iced.IceForG, exact.CupC, exact.IceLeftG)
	}
	if iced.CupC > hot.CupC-20 || iced.BeverageG < iced.BrewedG+99 || iced.TDSPercent >= iced.BrewedTDS || iced.IceLeftG != 0 {
		t.Errorf("over 100 g of ice: %+v", iced)
	}
	if full := ask(`"rinse": true`, `"carafe": {"material": "glass"}, "ice": {"mass_g": 280, "temperature_c": -18}`); full.CupC != 0 ||
		full.IceLeftG < 10 {
		t.Errorf("over 280 g of ice: %+v", full)
	}
	cooling := ask(`"rinse": true`, `"rinse": true, "kettle": {"thermostat": false, "holds_g": 600}`)
	if cooling.Pours[1].TemperatureC >= 94 || cooling.EYPercent >= hot.EYPercent {
		t.Errorf("from a kettle that cools: %+v", cooling)
	}
	waits := ask(`"start_s": 40`, `"when": "drained", "start_s": 60`)
	if waits.Pours[1].StartS >= 60 || waits.Pours[1].AboveMM > 0.5 {
		t.Errorf("waiting for the bed: %+v", waits.Pours)
	}
	if crowded := ask(`"start_s": 40`, `"start_s": 8`); len(crowded.Warnings) == 0 ||
		!strings.Contains(crowded.Warnings[0], "the next pour is due at 0:08") {
		t.Errorf("pours that overlap: %q", crowded.Warnings)
	}
	stalled := ask(`"grind_um": 650`, `"grind_um": 200`, `"hand mill"`, `"blade"`)
	if stalled.Drained || len(stalled.Warnings) == 0 {
		t.Errorf("dust: %+v", stalled)
	}
}

func TestSimulateReportsInvalidFields(t *testing.T) {
	t.Parallel()
	for _, c := range []struct{ from, to, says string }{
		{`"dose_g": 18`, `"dose_g": 2`, "dose_g: it is 2; it can be at least 5"},
		{`"version": 3`, `"version": 9`, "version: \"9\" is not a known version of the format"},
		{`"temperature_c": 95`, `"temperature_c": 140`, "pours[0].temperature_c: it is 140"},
	} {
		_, err := run(t, simulateCommand(), strings.Replace(recipeFile, c.from, c.to, 1), "-")
		var bad badInput
		if !errors.As(err, &bad) || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v", c.to, err)
		}
	}
	_, err := run(t, simulateCommand(), recipeFile, "-", "--curves", "xml")
	var bad badInput
	if !errors.As(err, &bad) {
		t.Errorf("curves in xml: %v", err)
	}
}

// The beliefs of a yard can be printed, written to a file and used with a recipe, whose errors are then
// smaller. An invalid file gives exit status 2.
func TestLearnAndUseBeliefs(t *testing.T) {
	t.Parallel()
	dir, file, recipe := filepath.Join(t.TempDir(), "demo"), filepath.Join(t.TempDir(), "beliefs.json"),
		filepath.Join(t.TempDir(), "recipe.json")
	if _, err := run(t, demoCommand(quiet), "", "--wait", "--data", dir, "--addr", "127.0.0.1:0"); err != nil {
		t.Fatal(err)
	}
	out, err := run(t, learnCommand(), "", "--data", dir, "--bag", "slate-terrace", "--write", file)
	if err != nil || !strings.Contains(out, "Learned from 46 brews") || !strings.Contains(out, "Slate Terrace") {
		t.Fatalf("%q, %v", out, err)
	}
	if err := os.WriteFile(recipe, []byte(recipeFile), 0o600); err != nil {
		t.Fatal(err)
	}
	off := func(args ...string) (s summary) {
		out, err := run(t, simulateCommand(), "", append([]string{recipe}, args...)...)
		if err != nil {
			t.Fatal(err)
		}
		if err := json.Unmarshal([]byte(out), &s); err != nil {
			t.Fatal(err)
		}
		return s
	}
	if before, after := off(), off("--beliefs", file); after.DrawdownErr >= before.DrawdownErr || after.EYError >= before.EYError {
		t.Errorf("± %v s and %v points, with beliefs ± %v s and %v", before.DrawdownErr, before.EYError, after.DrawdownErr, after.EYError)
	}
	kept, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	for name, text := range map[string]string{"nothing": "", "no JSON": "beliefs", "another format": "{}",
		"no covariance":     strings.Replace(string(kept), `"covariance"`, `"other"`, 1),
		"a strange name":    strings.Replace(string(kept), "size_ln", "sighs_ln", 1),
		"a mean beyond all": strings.Replace(string(kept), `"mean": `, `"mean": 1e9, "was": `, 1),
		"an odd covariance": strings.Replace(string(kept), "[\n      ", "[\n      -", 1)} {
		if err := os.WriteFile(file, []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
		var bad badInput
		if _, err := run(t, simulateCommand(), "", recipe, "--beliefs", file); !errors.As(err, &bad) {
			t.Errorf("%s: %v", name, err)
		}
	}
	if _, err := run(t, learnCommand(), "", "--data", dir, "--bag", "no-such-bag", "--write", file); err == nil {
		t.Error("beliefs of a bag that is not there")
	}
}

// pathFile returns the path of a bag: a sour brew, and one ground finer that is still sour.
func pathFile(change ...string) string {
	brew := func(n int, grind, taste string) string {
		return fmt.Sprintf(`{"n": %d, "recipe": %s, "cup": {"drawdown_s": 200, "beverage_g": 258, "tds_percent": [1.24, 1.26, 1.25],
			"bed": "flat", "taste": {%s}, "mark": 5}}`, n, strings.Replace(recipeFile, `"grind_um": 650`, `"grind_um": `+grind, 1), taste)
	}
	out := `{"format": "yardbloom-path", "version": 1, "person": {"turns_first": "grind"}, "brews": [` +
		brew(1, "700", `"acidity": 5, "sweetness": 1, "body": 3`) + "," + brew(2, "660", `"acidity": 4, "sweetness": 2, "body": 3`) + "]}"
	for i := 0; i+1 < len(change); i += 2 {
		out = strings.Replace(out, change[i], change[i+1], 1)
	}
	return out
}

func TestNextAdvisesOnAPath(t *testing.T) {
	t.Parallel()
	out, err := run(t, nextCommand(), pathFile(), "-")
	var a struct {
		Do, Cause   string
		Probability float64
		Change      *struct {
			Knob     string
			From, To float64
			Helps    float64 `json:"probability_liked_more"`
			EY       float64 `json:"expected_ey_points"`
			Lines    []any   `json:"in_chance_of_a_good_cup"`
		}
		Signs []any
		Map   struct{ Cups []any }
	}
	if err != nil || json.Unmarshal([]byte(out), &a) != nil {
		t.Fatalf("%v: %s", err, out)
	}
	if a.Do != "change" || a.Cause != "too little" || a.Change == nil || a.Change.Knob != "grind" || a.Change.To >= a.Change.From ||
		a.Change.EY <= 0 || a.Change.Helps < 0.5 || len(a.Change.Lines) == 0 {
		t.Errorf("sour twice: %s", out)
	}
	if len(a.Signs) < 4 || len(a.Map.Cups) != 2 || a.Probability < 0.3 {
		t.Errorf("it is not explained: %s", out)
	}
	for _, c := range []struct{ from, to, at string }{
		{`"version": 1, "person"`, `"version": 9, "person"`, "version"},
		{`"n": 2`, `"n": 3`, "brews[1].n"},
		{`"beverage_g": 258`, `"beverage_g": 400`, "brews[0].cup.beverage_g"},
		{`"tds_percent": [1.24,`, `"tds_percent": [14,`, "brews[0].cup.tds_percent[0]"},
		{`"acidity": 5`, `"acidity": 6`, "brews[0].cup.taste.acidity"},
		{`"dose_g": 18`, `"dose_g": 0`, "brews[0].recipe.dose_g"},
		{`"yardbloom-path"`, `"yardbloom-recipe"`, "format"},
	} {
		_, err := run(t, nextCommand(), pathFile(c.from, c.to), "-")
		var bad badInput
		var wrong *units.ValueError
		if !errors.As(err, &bad) || !errors.As(err, &wrong) || fmt.Sprint(wrong.At) != c.at {
			t.Errorf("%s: %v, want it at %s", c.to, err, c.at)
		}
	}
}

// A first start killed at any moment does not stop the next one.
func TestKilledFirstStartIsCleared(t *testing.T) {
	dir := t.TempDir()
	if err := mark(dir, demoUnfinished); err != nil {
		t.Fatal(err)
	}
	for _, end := range []string{"", "-journal", "-wal", "-shm"} {
		if err := os.WriteFile(filepath.Join(dir, store.FileName+end), nil, 0o600); err != nil {
			t.Fatal(err)
		}
	}
	if unfinished, err := checkDemo(dir); err != nil || !unfinished {
		t.Fatalf("unfinished: %t, %v", unfinished, err)
	}
	if err := removeDemo(dir); err != nil {
		t.Fatal(err)
	}
	if left, err := os.ReadDir(dir); err != nil || len(left) > 0 {
		t.Errorf("there is left: %v, %v", left, err)
	}
}
