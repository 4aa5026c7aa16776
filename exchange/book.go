package exchange

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"

	"yardbloom/core/units"
)

// The format and version of a book that this package reads and writes.
const (
	BookFormat  = "yardbloom-book"
	BookVersion = 1
)

// Book is a document of any number of recipes, described by schema/book.v1.schema.json. Each is a whole
// recipe document with its own format and version.
type Book struct {
	Format  string   `json:"format"`
	Version int      `json:"version"`
	Recipes []Recipe `json:"recipes"`
}

// Write writes a book as indented JSON.
func (b Book) Write(w io.Writer) error {
	b.Format, b.Version = BookFormat, BookVersion
	enc := json.NewEncoder(w)
	enc.SetIndent("", "  ")
	return enc.Encode(b)
}

// maxRecipes is the maximum number of recipes in a book.
const maxRecipes = 1000

// ReadAny reads a recipe, packed or not, or a book. The error of an invalid document is a *units.ValueError at the path of
// the first invalid field.
func ReadAny(r io.Reader) ([]Recipe, error) {
	text, err := io.ReadAll(io.LimitReader(r, maxBytes+1))
	if err != nil {
		return nil, fmt.Errorf("read recipes: %w", err)
	}
	text = bytes.TrimPrefix(text, byteOrderMark)
	if IsPacked(string(text)) {
		if text, err = Unpack(string(text)); err != nil {
			return nil, &units.ValueError{At: Path("document"), Err: err}
		}
	}
	var head struct {
		Format  string            `json:"format"`
		Recipes []json.RawMessage `json:"recipes"`
	}
	if json.Unmarshal(text, &head) != nil || head.Format != BookFormat {
		one, err := ReadRecipe(bytes.NewReader(text))
		return []Recipe{one}, err
	}
	if _, err := readHead(bytes.NewReader(text), BookFormat, BookVersion); err != nil {
		return nil, err
	}
	if most := (units.Range{Lo: 1, Hi: maxRecipes}); !most.Contains(float64(len(head.Recipes))) {
		return nil, most.Check(Path("recipes"), float64(len(head.Recipes)))
	}
	out := make([]Recipe, len(head.Recipes))
	for i, raw := range head.Recipes {
		if out[i], err = ReadRecipe(bytes.NewReader(raw)); err != nil {
			return nil, nestedPath(fmt.Sprintf("recipes[%d].", i), err)
		}
	}
	return out, nil
}

// nestedPath adds an outer path to an error, such as "recipes[2].".
func nestedPath(outer string, err error) error {
	if wrong, ok := err.(*units.ValueError); ok && wrong.At != nil {
		at := *wrong
		at.At = Path(fmt.Sprintf("%s%s", outer, wrong.At))
		return &at
	}
	return err
}

// FixTotals returns a recipe document or a book with each total replaced by the sum of the pours. Other text is
// returned unchanged.
func FixTotals(text []byte) []byte {
	var doc map[string]any
	if json.Unmarshal(text, &doc) != nil {
		return text
	}
	fixTotals(doc)
	if all, ok := doc["recipes"].([]any); ok {
		for _, one := range all {
			if r, ok := one.(map[string]any); ok {
				fixTotals(r)
			}
		}
	}
	out, err := json.MarshalIndent(doc, "", "  ")
	if err != nil {
		return text
	}
	return out
}

func fixTotals(doc map[string]any) {
	pours, ok := doc["pours"].([]any)
	sum := 0.0
	for _, p := range pours {
		pour, _ := p.(map[string]any)
		water, _ := pour["water_g"].(float64)
		sum += water
	}
	if ok && sum > 0 {
		doc["water_g"] = sum
	}
}
