// Package architecture_test checks which packages may import which, and how large they may grow.
package architecture_test

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"unicode/utf8"
)

// A layer is a set of packages with the packages of this module that they may import. A trailing /* stands
// for all packages below.
type layer struct {
	packages []string
	imports  []string
	banned   []string // packages of other modules that this layer must not import
}

var (
	leaves   = []string{"core/*", "web/page", "web/stream", "web/form", "web/words", "web/figure", "web/chart"}
	features = []string{"web/shelf", "web/recipe", "web/setup", "web/brew", "web/cup", "web/next", "web/gear", "web/rush", "web/first", "web/flight",
		"web/trial", "web/stage", "web/practice", "web/log", "web/offline", "web/book", "web/settings", "web/data", "web/people", "web/learned",
		"web/help"}
)

var layers = []layer{
	{[]string{"store"}, []string{"core/*", "store/document", "store/disk"}, []string{"net/http", "html/template"}},
	{[]string{"store/disk"}, nil, []string{"net/http", "database/sql"}},
	{[]string{"store/document"}, []string{"core/*"}, nil},
	{[]string{"exchange"}, []string{"core/*"}, []string{"net/http", "database/sql"}},
	{[]string{"exchange/photo"}, nil, []string{"net/http", "database/sql"}},
	{[]string{"exchange/table"}, []string{"core/*"}, []string{"net/http", "database/sql"}},
	{[]string{"exchange/yardfile"}, nil, []string{"net/http", "database/sql"}},
	{[]string{"device"}, []string{"core/*", "broadcast"}, []string{"database/sql", "html/template"}},
	{[]string{"live"}, []string{"core/*", "broadcast"}, []string{"net/http", "database/sql", "html/template"}},
	{[]string{"api"}, []string{"core/*", "store", "yard", "exchange", "exchange/table", "exchange/yardfile"}, []string{"database/sql", "html/template"}},
	{[]string{"yard"}, []string{"core/*", "store", "live", "device", "exchange", "exchange/photo", "exchange/table", "exchange/yardfile"},
		[]string{"net/http", "database/sql", "html/template", "github.com/jmoiron/sqlx"}},
	{[]string{"web/words"}, []string{"core/*", "exchange", "exchange/photo"}, []string{"net/http"}},
	{[]string{"web/form"}, []string{"core/*", "web/words"}, nil},
	{[]string{"web/figure"}, []string{"core/*"}, []string{"net/http"}},
	{[]string{"web/chart"}, nil, []string{"net/http"}},
	{[]string{"web/page"}, []string{"core/*", "store", "web/words", "web/chart"}, nil},
	{[]string{"web/stream"}, []string{"core/*", "live", "web/page"}, nil},
	{[]string{"web/station"}, append([]string{"store", "yard"}, leaves...), []string{"database/sql"}},
	{features, append([]string{"store", "yard", "live", "device", "exchange", "exchange/photo", "exchange/table", "exchange/yardfile",
		"web/station"}, leaves...),
		[]string{"database/sql", "github.com/jmoiron/sqlx"}},
}

const module = "yardbloom/"

func allowed(list []string, name string) bool {
	return slices.ContainsFunc(list, func(p string) bool {
		below, all := strings.CutSuffix(p, "*")
		return name == p || all && strings.HasPrefix(name, below)
	})
}

// files returns the Go files of a package that are not tests.
func files(t *testing.T, dir string) map[string]*ast.File {
	t.Helper()
	names, err := filepath.Glob(filepath.Join(dir, "*.go"))
	if err != nil || len(names) == 0 {
		t.Fatalf("%s has no files (%v)", dir, err)
	}
	out := map[string]*ast.File{}
	for _, name := range names {
		if strings.HasSuffix(name, "_test.go") {
			continue
		}
		f, err := parser.ParseFile(token.NewFileSet(), name, nil, 0)
		if err != nil {
			t.Fatal(err)
		}
		out[name] = f
	}
	return out
}

// Mutation caught: a feature that imports another one, or a live session that reads the database.
func TestLayersImportOnlyWhatIsBelow(t *testing.T) {
	for _, l := range layers {
		for _, pkg := range l.packages {
			for name, f := range files(t, pkg) {
				for _, imp := range f.Imports {
					imported := strings.Trim(imp.Path.Value, `"`)
					own, ours := strings.CutPrefix(imported, module)
					if ours && !allowed(l.imports, own) || slices.Contains(l.banned, imported) {
						t.Errorf("%s imports %s", name, imported)
					}
				}
			}
		}
	}
}

// Every feature folder is in the table, so that a new one is tested too.
func TestEveryPackageHasALayer(t *testing.T) {
	var listed []string
	for _, l := range layers {
		listed = append(listed, l.packages...)
	}
	entries, err := os.ReadDir("web")
	if err != nil {
		t.Fatal(err)
	}
	for _, e := range entries {
		if dir := path.Join("web", e.Name()); e.IsDir() && !slices.Contains(append(listed, "web/assets", "web/static", "web/testdata",
			"web/webtest"),
			dir) {
			t.Errorf("%s has no layer", dir)
		}
	}
}

// The core computes: no files, no network, no database. The time package is for given dates, and random
// numbers come from given seeds.
var coreImports = []string{"cmp", "errors", "fmt", "hash/fnv", "maps", "math", "math/rand/v2", "reflect", "regexp", "slices", "strconv", "strings",
	"sync", "sync/atomic", "time", "unicode", "unicode/utf8"}

// seeded lists the parts of math/rand/v2 that the core may use.
var seeded = []string{"New", "NewPCG", "Rand"}

func TestCoreHasNoInputOutputAndNoClock(t *testing.T) {
	packages := 0
	err := filepath.WalkDir("core", func(dir string, d fs.DirEntry, err error) error {
		if err != nil || !d.IsDir() || dir == "core" || d.Name() == "testdata" {
			return err
		}
		packages++
		for name, f := range files(t, dir) {
			for _, imp := range f.Imports {
				imported := strings.Trim(imp.Path.Value, `"`)
				if !slices.Contains(coreImports, imported) && !strings.HasPrefix(imported, module+"core/") &&
					!strings.HasPrefix(imported, "gonum.org/") {
					t.Errorf("%s imports %s", name, imported)
				}
			}
			ast.Inspect(f, func(n ast.Node) bool {
				sel, ok := n.(*ast.SelectorExpr)
				if !ok {
					return true
				}
				pkg, _ := sel.X.(*ast.Ident)
				switch {
				case pkg == nil:
				case pkg.Name == "time" && (sel.Sel.Name == "Now" || sel.Sel.Name == "Since"):
					t.Errorf("%s reads the clock", name)
				case pkg.Name == "rand" && !slices.Contains(seeded, sel.Sel.Name):
					t.Errorf("%s draws from an unseeded source: rand.%s", name, sel.Sel.Name)
				}
				return true
			})
		}
		return nil
	})
	if err != nil || packages < 15 {
		t.Errorf("%d packages checked (%v)", packages, err)
	}
}

// Limits for readability.
const (
	maxFiles  = 25  // in a package, without tests
	maxColumn = 160 // of a line of Go or of a template
)

func TestPackagesAndLinesStayReadable(t *testing.T) {
	perFolder := map[string]int{}
	err := filepath.WalkDir(".", func(name string, d fs.DirEntry, err error) error {
		switch {
		case err != nil:
			return err
		case d.IsDir() && (d.Name() == "node_modules" || d.Name() == ".git" || d.Name() == "static" || d.Name() == "testdata" ||
			d.Name() == "dist"):
			return filepath.SkipDir
		case d.IsDir():
			return nil
		}
		ext := filepath.Ext(name)
		if ext == ".go" && !strings.HasSuffix(name, "_test.go") {
			perFolder[filepath.Dir(name)]++
		}
		if ext != ".go" && ext != ".html" {
			return nil
		}
		text, err := os.ReadFile(name)
		for i, line := range strings.Split(string(text), "\n") {
			if width := utf8.RuneCountInString(strings.ReplaceAll(line, "\t", "    ")); width > maxColumn {
				t.Errorf("%s:%d has %d columns", name, i+1, width)
			}
		}
		return err
	})
	for folder, n := range perFolder {
		if n > maxFiles {
			t.Errorf("%s has %d files", folder, n)
		}
	}
	if err != nil || len(perFolder) < 30 {
		t.Errorf("%d folders checked (%v)", len(perFolder), err)
	}
}
