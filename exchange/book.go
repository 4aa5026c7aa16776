package exchange

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"

	"yardbloom/core/units"
)

// The format of a book and the version that this package reads and writes.
const (
	BookFormat  = "yardbloom-book"
	BookVersion = 1
)

// Book is any number of recipes, as schema/book.v1.schema.json describes them: each
// is a whole recipe document, with its own format and version.
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

// mostInBook is how many recipes a book can have.
const mostInBook = 1000

// ReadAny reads a recipe or a book. A document that cannot be used is a
// *units.ValueError at the path of the first field that is wrong.
func ReadAny(r io.Reader) ([]Recipe, error) {
	text, err := io.ReadAll(io.LimitReader(r, mostBytes+1))
	if err != nil {
		return nil, fmt.Errorf("read recipes: %w", err)
	}
	var head struct {
		Format  string            `json:"format"`
		Recipes []json.RawMessage `json:"recipes"`
	}
	if json.Unmarshal(text, &head) != nil || head.Format != BookFormat {
		one, err := ReadRecipe(bytes.NewReader(text))
		return []Recipe{one}, err
	}
	if _, _, err := readHead(bytes.NewReader(text), BookFormat, BookVersion); err != nil {
		return nil, err
	}
	if most := (units.Range{Lo: 1, Hi: mostInBook}); !most.Holds(float64(len(head.Recipes))) {
		return nil, most.Check(Path("recipes"), float64(len(head.Recipes)))
	}
	out := make([]Recipe, len(head.Recipes))
	for i, raw := range head.Recipes {
		if out[i], err = ReadRecipe(bytes.NewReader(raw)); err != nil {
			return nil, in(fmt.Sprintf("recipes[%d].", i), err)
		}
	}
	return out, nil
}

// in says within what a value is wrong, such as "recipes[2].".
func in(outer string, err error) error {
	if wrong, ok := err.(*units.ValueError); ok && wrong.At != nil {
		at := *wrong
		at.At = Path(fmt.Sprintf("%s%s", outer, wrong.At))
		return &at
	}
	return err
}

// Mend returns a recipe document, or a book of them, with each total made what the
// pours add up to. Text that is neither stays as it is.
func Mend(text []byte) []byte {
	var doc map[string]any
	if json.Unmarshal(text, &doc) != nil {
		return text
	}
	mend(doc)
	if all, ok := doc["recipes"].([]any); ok {
		for _, one := range all {
			if r, ok := one.(map[string]any); ok {
				mend(r)
			}
		}
	}
	out, err := json.MarshalIndent(doc, "", "  ")
	if err != nil {
		return text
	}
	return out
}

func mend(doc map[string]any) {
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
