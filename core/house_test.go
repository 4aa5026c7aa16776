// Package core_test holds the core to its walls.
package core_test

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"path/filepath"
	"strings"
	"testing"
)

// The core computes. What it may import says so: no file, no network, no database, the time
// package for dates that are handed in, and random numbers from seeds that are handed in.
var allowed = map[string]bool{
	"cmp": true, "errors": true, "fmt": true, "maps": true, "math": true, "math/rand/v2": true, "reflect": true, "regexp": true, "slices": true, "strconv": true, "strings": true, "sync": true, "sync/atomic": true, "time": true,
}

// seeded is what the core may take of math/rand/v2: generators that begin at a seed.
var seeded = map[string]bool{"New": true, "NewPCG": true, "Rand": true}

func TestTheCoreImportsNothingThatReachesOut(t *testing.T) {
	files := 0
	err := filepath.WalkDir(".", func(path string, d fs.DirEntry, err error) error {
		if err != nil || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return err
		}
		files++
		f, err := parser.ParseFile(token.NewFileSet(), path, nil, 0)
		if err != nil {
			return err
		}
		for _, imp := range f.Imports {
			name := strings.Trim(imp.Path.Value, `"`)
			if !allowed[name] && !strings.HasPrefix(name, "yardbloom/core/") && !strings.HasPrefix(name, "gonum.org/") {
				t.Errorf("%s imports %s", path, name)
			}
		}
		ast.Inspect(f, func(n ast.Node) bool {
			if sel, ok := n.(*ast.SelectorExpr); ok && (sel.Sel.Name == "Now" || sel.Sel.Name == "Since") {
				if pkg, ok := sel.X.(*ast.Ident); ok && pkg.Name == "time" {
					t.Errorf("%s reads the clock", path)
				}
			}
			if sel, ok := n.(*ast.SelectorExpr); ok {
				if pkg, ok := sel.X.(*ast.Ident); ok && pkg.Name == "rand" && !seeded[sel.Sel.Name] {
					t.Errorf("%s draws a random number of its own: rand.%s", path, sel.Sel.Name)
				}
			}
			return true
		})
		return nil
	})
	if err != nil || files < 15 {
		t.Errorf("%d files looked at, %v", files, err)
	}
}
