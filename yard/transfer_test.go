package yard_test

import (
	"archive/zip"
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"io"
	"maps"
	"math/rand/v2"
	"os"
	"regexp"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"yardbloom/demo"
	"yardbloom/exchange/yardfile"
	"yardbloom/store"
	"yardbloom/yard"
)

// demoYard returns the demo yard's export.
var demoYard = sync.OnceValues(func() ([]byte, error) {
	ctx := context.Background()
	dir, err := os.MkdirTemp("", "demo")
	if err != nil {
		return nil, err
	}
	st, err := store.Open(ctx, dir)
	if err != nil {
		return nil, err
	}
	defer st.Close()
	if err := demo.Fill(ctx, st, morning); err != nil {
		return nil, err
	}
	var file bytes.Buffer
	err = yard.Export(ctx, st, &file, time.Time{}, time.Time{}, morning)
	return file.Bytes(), err
})

func exported(t testing.TB, st *store.Store) map[string]string {
	t.Helper()
	return contents(t, exportedFile(t, st, morning))
}

// exportedFile returns the yard file of a yard.
func exportedFile(t testing.TB, st *store.Store, now time.Time) []byte {
	t.Helper()
	var file bytes.Buffer
	if err := yard.Export(t.Context(), st, &file, time.Time{}, time.Time{}, now); err != nil {
		t.Fatal(err)
	}
	return file.Bytes()
}

// contents returns the entries of a zip but for the manifest.
func contents(t testing.TB, file []byte) map[string]string {
	t.Helper()
	r, err := zip.NewReader(bytes.NewReader(file), int64(len(file)))
	if err != nil {
		t.Fatal(err)
	}
	out := map[string]string{}
	for _, f := range r.File {
		entry, err := f.Open()
		if err != nil {
			t.Fatal(err)
		}
		text, err := io.ReadAll(entry)
		if err != nil {
			t.Fatal(err)
		}
		if f.Name != "manifest.json" {
			out[f.Name] = string(text)
		}
	}
	return out
}

// zipped returns a yard file of entries, with a manifest that change may spoil.
func zipped(t testing.TB, entries map[string]string, change func(map[string]any)) []byte {
	t.Helper()
	var file bytes.Buffer
	w := zip.NewWriter(&file)
	files := []map[string]any{}
	for _, name := range slices.Sorted(maps.Keys(entries)) {
		entry, err := w.Create(name)
		if err == nil {
			_, err = io.WriteString(entry, entries[name])
		}
		if err != nil {
			t.Fatal(err)
		}
		sum := sha256.Sum256([]byte(entries[name]))
		files = append(files, map[string]any{"path": name, "bytes": len(entries[name]), "sha256": hex.EncodeToString(sum[:])})
	}
	manifest := map[string]any{"format": yardfile.Format, "version": 1, "made_at": morning, "files": files}
	if change != nil {
		change(manifest)
	}
	text, err := json.Marshal(manifest)
	if err != nil {
		t.Fatal(err)
	}
	entry, err := w.Create("manifest.json")
	if err == nil {
		_, err = entry.Write(text)
	}
	if err = errors.Join(err, w.Close()); err != nil {
		t.Fatal(err)
	}
	return file.Bytes()
}

func read(t testing.TB, into *store.Store, file []byte) (*yard.Import, error) {
	return readAt(t, into, file, morning)
}

func readAt(t testing.TB, into *store.Store, file []byte, now time.Time) (*yard.Import, error) {
	return yard.ReadImport(t.Context(), into, bytes.NewReader(file), int64(len(file)), now)
}

func emptyYard(t testing.TB) *store.Store {
	t.Helper()
	st, err := store.Open(t.Context(), t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { st.Close() })
	return st
}

// The demo yard goes into an empty yard and comes out of it again, byte for byte, and so does each record alone. Mutations caught: a column
// that the documents leave out, a number that is rounded on the way, an entry in another order.
func TestDemoYardGoesRound(t *testing.T) {
	t.Parallel()
	file, err := demoYard()
	if err != nil {
		t.Fatal(err)
	}
	into := emptyYard(t)
	in, err := read(t, into, file)
	if err != nil {
		t.Fatal(err)
	}
	if len(in.Refused) > 0 {
		t.Fatalf("%+v", in.Refused)
	}
	if err := errors.Join(in.Apply(t.Context(), "demo", "", morning, func(int, int) {}), in.Close()); err != nil {
		t.Fatal(err)
	}
	want, got := contents(t, file), exported(t, into)
	for name, text := range want {
		if got[name] != text {
			t.Errorf("%s is not the same", name)
		}
	}
	if len(got) != len(want) {
		t.Errorf("%d entries, want %d", len(got), len(want))
	}
	for _, name := range []string{"bags.jsonl", "trials/2026-05.jsonl", "flights/2026-05.jsonl", "scripts/2026-05.jsonl", "brews/2026-05.jsonl"} {
		line, _, _ := strings.Cut(want[name], "\n")
		if line == "" {
			t.Fatalf("no %s: %v", name, slices.Collect(maps.Keys(want)))
		}
		var doc struct{ Kind, ID string }
		if err := json.Unmarshal([]byte(line), &doc); err != nil {
			t.Fatal(err)
		}
		alone, err := yard.RecordFile(t.Context(), into, store.Kind(doc.Kind), doc.ID)
		if err != nil {
			t.Fatal(err)
		}
		again, err := read(t, into, alone)
		if err != nil {
			t.Fatal(err)
		}
		if again.Changes() || again.Number(store.Same) != 1 {
			t.Errorf("%s alone: %+v", doc.Kind, again.Counts)
		}
		if err := again.Close(); err != nil {
			t.Fatal(err)
		}
	}
}

// Mutations caught: an entry outside of the file, one that is listed twice, a checksum that is not compared, a newer version that is read
// anyway, a small file that unpacks to a large one.
func TestBadYardFilesAreRefused(t *testing.T) {
	t.Parallel()
	whole, err := demoYard()
	if err != nil {
		t.Fatal(err)
	}
	into := emptyYard(t)
	good := contents(t, whole)
	with := func(name, text string) map[string]string {
		out := maps.Clone(good)
		out[name] = text
		return out
	}
	same := func(map[string]any) {}
	twice := bytes.Buffer{}
	w := zip.NewWriter(&twice)
	for range 2 {
		if _, err := w.Create("bags.jsonl"); err != nil {
			t.Fatal(err)
		}
	}
	if err := w.Close(); err != nil {
		t.Fatal(err)
	}
	for name, c := range map[string]struct {
		file []byte
		says string
	}{
		"half a file":     {whole[:len(whole)/2], "not a whole yard file"},
		"another kind":    {[]byte("PK but no zip"), "not a whole yard file"},
		"empty":           {nil, "not a whole yard file"},
		"outside":         {zipped(t, with("../bags.jsonl", "x"), same), "no yard file has"},
		"a strange entry": {zipped(t, with("bags.exe", "x"), same), "no yard file has"},
		"an entry twice":  {twice.Bytes(), "twice"},
		"a zip bomb":      {zipped(t, with("brews/2026-01.jsonl", strings.Repeat(" ", 200<<20)), same), "too much for its size"},
		"a newer version": {zipped(t, good, func(m map[string]any) { m["version"] = 2 }), "newer Yard Bloom"},
		"another format":  {zipped(t, good, func(m map[string]any) { m["format"] = "x" }), "not a yard file"},
		"a wrong checksum": {zipped(t, good, func(m map[string]any) {
			m["files"].([]map[string]any)[3]["sha256"] = strings.Repeat("0",
				64)
		}), "checksum"},
		"a wrong length":              {zipped(t, good, func(m map[string]any) { m["files"].([]map[string]any)[0]["bytes"] = 7 }), "as long as"},
		"an entry that is not listed": {zipped(t, good, func(m map[string]any) { m["files"] = m["files"].([]map[string]any)[1:] }), "does not list"},
		"a listed one that is not there": {zipped(t, good, func(m map[string]any) {
			m["files"] = append(m["files"].([]map[string]any), map[string]any{"path": "photos/x.jpg"})
		}), "which its manifest lists"},
		"readings of words":           {zipped(t, with("readings/2026-05.csv", yardfile.ReadingsHeader+"x,soon,much\n"), same), "not a reading"},
		"a photo that is none":        {zipped(t, with("photos/x.jpg", "GIF89a"), same), "photo x cannot be read"},
		"a record of a newer version": {[]byte(`{"format":"yardbloom-record","kind":"bag","version":2,"id":"x","revision":1}`), "newer version"},
		"another document":            {[]byte(`{"format":"yardbloom-recipe","version":3}`), "its format is"},
		"half a document":             {[]byte(`{"format":"yardbloom-record"`), "not JSON"},
	} {
		in, err := read(t, into, c.file)
		var wrong *yardfile.FileError
		if !errors.As(err, &wrong) || !strings.Contains(wrong.Sentence, c.says) {
			t.Errorf("%s: %v, want %q", name, err, c.says)
		}
		if in != nil {
			t.Errorf("%s: there is an import", name)
		}
	}
	if left := exported(t, into); len(left) > 0 {
		t.Errorf("the yard has %v", slices.Collect(maps.Keys(left)))
	}
}

// Records that a yard cannot hold are refused one by one, with the reason. Mutations caught: a date in the future that is taken, an id that
// occurs twice, a style that no code knows.
func TestRecordsThatCannotBeAreRefused(t *testing.T) {
	t.Parallel()
	whole, err := demoYard()
	if err != nil {
		t.Fatal(err)
	}
	good := contents(t, whole)
	if testing.Short() {
		t.Skip("nothing here runs concurrently")
	}
	lines := strings.Split(strings.TrimSpace(good["brews/2026-05.jsonl"]), "\n")
	for name, c := range map[string]struct{ old, with, says string }{
		"a date of 2099":    {`"started_at":"2026`, `"started_at":"2099`, "in the future"},
		"a date of 1899":    {`"started_at":"2026`, `"started_at":"1899`, "too early"},
		"a dose of a tonne": {`"dose_g":`, `"dose_g":9999`, "dose_g"},
		"an unknown style":  {`"style":"`, `"style":"un`, "style"},
		"a negative yield":  {`"ey_percent":`, `"ey_percent":-`, "ey_percent"},
		"another field":     {`"zone":`, `"zonen":`, ""},
		"events of words":   {`"events":[`, `"events":["x",`, "events"},
		"a huge number":     {`"rate_g_s":`, `"rate_g_s":1e308,"x":`, ""},
	} {
		brews := slices.Clone(lines)
		brews[0] = strings.Replace(brews[0], c.old, c.with, 1)
		entries := maps.Clone(good)
		entries["brews/2026-05.jsonl"] = strings.Join(append(brews, brews[1]), "\n") + "\n"
		in, err := read(t, emptyYard(t), zipped(t, entries, nil))
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		if len(in.Refused) != 2 || !strings.Contains(in.Refused[0].Why, c.says) || !strings.Contains(in.Refused[1].Why, "twice") {
			t.Errorf("%s: %+v, want %q", name, in.Refused, c.says)
		}
		if err := in.Close(); err != nil {
			t.Fatal(err)
		}
	}
}

// A record that refers to a refused one says so: it is refused too where it cannot be without it, and otherwise comes alone. Mutations
// caught: a parent that is lost without a word, a bag that is called missing though the file has it.
func TestReferencesToRefusedRecordsAreSaid(t *testing.T) {
	t.Parallel()
	whole, err := demoYard()
	if err != nil {
		t.Fatal(err)
	}
	good := contents(t, whole)
	spoil := func(file, id, old, with string) {
		lines := strings.Split(good[file], "\n")
		for i, line := range lines {
			if strings.Contains(line, `"id":"`+id+`"`) {
				lines[i] = strings.Replace(line, old, with, 1)
			}
		}
		good[file] = strings.Join(lines, "\n")
	}
	found := regexp.MustCompile(`"parent":"([^"]+)"`).FindStringSubmatch(good["brews/2026-05.jsonl"])
	if found == nil {
		t.Fatal("no brew has a parent")
	}
	parent := found[1]
	for _, month := range []string{"2026-04", "2026-05"} {
		spoil("brews/"+month+".jsonl", parent, `"dose_g":`, `"dose_g":9999`)
	}
	spoil("bags.jsonl", "long-meadow", `"weight_g":`, `"weight_g":-`)
	in, err := read(t, emptyYard(t), zipped(t, good, nil))
	if err != nil {
		t.Fatal(err)
	}
	defer in.Close()
	alone, err := in.Decisions(t.Context(), store.Add, 100)
	says := func(why string) func(store.Decision) bool {
		return func(d store.Decision) bool { return strings.Contains(d.Why, why) }
	}
	if err != nil || !slices.ContainsFunc(alone, says(`without the brew before it, "`+parent+`"`)) {
		t.Errorf("children of %s: %+v, %v", parent, alone, err)
	}
	if !slices.ContainsFunc(in.Refused, says(`its bag "long-meadow" is refused`)) {
		t.Errorf("%+v", in.Refused)
	}
}

// Whatever is in a yard file, an import that fails changes nothing, and one that is read can be applied to a yard whose pages then work.
func FuzzImportChangesNothingOnError(f *testing.F) {
	whole, err := demoYard()
	if err != nil {
		f.Fatal(err)
	}
	if testing.Short() {
		f.Skip("nothing here runs concurrently")
	}
	good := contents(f, whole)
	for name, text := range good { // the first records of each kind
		const most = 3
		lines := strings.SplitAfter(text, "\n")
		good[name] = strings.Join(lines[:min(most, len(lines))], "")
	}
	names := slices.Sorted(maps.Keys(good))
	for n := range names {
		f.Add(uint64(n), uint8(n), 3)
	}
	f.Fuzz(func(t *testing.T, seed uint64, at uint8, cuts int) {
		entries := maps.Clone(good)
		name := names[int(at)%len(names)]
		entries[name] = spoiled(entries[name], rand.New(rand.NewPCG(seed, 1)), cuts)
		into := emptyYard(t)
		in, err := read(t, into, zipped(t, entries, nil))
		if err != nil {
			var wrong *yardfile.FileError
			if !errors.As(err, &wrong) {
				t.Errorf("%v", err)
			}
			if left := exported(t, into); len(left) > 0 {
				t.Errorf("the yard has %v", slices.Collect(maps.Keys(left)))
			}
			return
		}
		if err := errors.Join(in.Apply(t.Context(), "fuzz", "", morning, func(int, int) {}), in.Close(), into.Check(t.Context())); err != nil {
			t.Error(err)
		}
		again := exported(t, into)
		if _, err := read(t, emptyYard(t), zipped(t, again, nil)); err != nil {
			t.Errorf("what was imported cannot be exported and read: %v", err)
		}
	})
}

// spoiled changes characters of a text at random: digits to digits, letters to letters, and sometimes a sign.
func spoiled(text string, rng *rand.Rand, cuts int) string {
	out := []byte(text)
	for range max(1, cuts%20) {
		i := rng.IntN(len(out))
		switch c := out[i]; {
		case rng.IntN(12) == 0:
			out[i] = " \"{}[]:,.-0n"[rng.IntN(12)]
		case c >= '0' && c <= '9':
			out[i] = byte('0' + rng.IntN(10))
		case c >= 'a' && c <= 'z':
			out[i] = byte('a' + rng.IntN(26))
		}
	}
	return string(out)
}
