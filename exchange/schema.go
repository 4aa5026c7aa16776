package exchange

import (
	"bytes"
	"embed"
	"errors"
	"fmt"
	"math"
	"math/big"
	"strings"
	"sync"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/santhosh-tekuri/jsonschema/v6/kind"

	"yardbloom/core/units"
)

//go:embed schema/*.json
var schemaFiles embed.FS

// A schema is compiled on first use.
type schema struct {
	file string
	once sync.Once
	*jsonschema.Schema
	err error
}

var (
	schema3  = &schema{file: "recipe.v3.schema.json"}
	path1    = &schema{file: "path.v1.schema.json"}
	beliefs1 = &schema{file: "beliefs.v1.schema.json"}
	person1  = &schema{file: "person.v1.schema.json"}
)

func (s *schema) compile() {
	b, err := schemaFiles.ReadFile("schema/" + s.file)
	if err != nil {
		s.err = err
		return
	}
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(b))
	if err != nil {
		s.err = err
		return
	}
	c := jsonschema.NewCompiler()
	if s.err = c.AddResource(s.file, doc); s.err == nil {
		s.Schema, s.err = c.Compile(s.file)
	}
}

// check returns a *units.ValueError for the first field that violates the schema.
func (s *schema) check(doc any) error {
	if s.once.Do(s.compile); s.err != nil {
		return fmt.Errorf("schema %s: %w", s.file, s.err)
	}
	err := s.Validate(doc)
	var wrong *jsonschema.ValidationError
	if !errors.As(err, &wrong) {
		return err
	}
	for len(wrong.Causes) > 0 { // the first cause that a person can fix
		wrong = wrong.Causes[0]
	}
	return explain(wrong)
}

// length is appended to the path of a list or a text of invalid length.
const length = ".length"

// explain converts a schema error to the value, its path and its valid values.
func explain(wrong *jsonschema.ValidationError) error {
	at := path(wrong.InstanceLocation)
	out := &units.ValueError{At: at}
	switch k := wrong.ErrorKind.(type) {
	case *kind.Required:
		out.At, out.Err = path(append(wrong.InstanceLocation, k.Missing[0])), units.ErrMissing
	case *kind.Enum:
		out.Typed, out.Err = fmt.Sprint(k.Got), units.ErrUnknown
		for _, w := range k.Want {
			out.Known = append(out.Known, fmt.Sprint(w))
		}
	case *kind.Minimum:
		out.Value, out.Range, out.Err = number(k.Got), units.Range{Lo: number(k.Want), Hi: math.Inf(1)}, units.ErrRange
	case *kind.ExclusiveMinimum:
		out.Value, out.Range, out.Err = number(k.Got), units.Range{Lo: number(k.Want), Hi: math.Inf(1)}, units.ErrRange
	case *kind.Maximum:
		out.Value, out.Range, out.Err = number(k.Got), units.Range{Lo: math.Inf(-1), Hi: number(k.Want)}, units.ErrRange
	case *kind.MinItems:
		out.At = at + length
		out.Value, out.Range, out.Err = float64(k.Got), units.Range{Lo: float64(k.Want), Hi: math.Inf(1)}, units.ErrRange
	case *kind.MaxItems:
		out.At = at + length
		out.Value, out.Range, out.Err = float64(k.Got), units.Range{Lo: math.Inf(-1), Hi: float64(k.Want)}, units.ErrRange
	case *kind.MaxLength:
		out.At = at + length
		out.Value, out.Range, out.Err = float64(k.Got), units.Range{Lo: 0, Hi: float64(k.Want)}, units.ErrRange
	case *kind.Not:
		out.Err = ErrValue
	case *kind.Type:
		out.Typed, out.Err = "a "+k.Got, fmt.Errorf("must be a %s: %w", strings.Join(k.Want, " or "), units.ErrSyntax)
	default:
		out.Err = errors.New(strings.TrimPrefix(wrong.Error(), "jsonschema validation failed "))
	}
	return out
}

func number(r *big.Rat) float64 {
	v, _ := r.Float64()
	return v
}

// path formats a place in a document as pours[1].water_g.
func path(location []string) Path {
	var b strings.Builder
	for _, name := range location {
		switch {
		case name != "" && strings.Trim(name, "0123456789") == "":
			b.WriteString("[" + name + "]")
		case b.Len() > 0:
			b.WriteString("." + name)
		default:
			b.WriteString(name)
		}
	}
	if b.Len() == 0 {
		return "document"
	}
	return Path(b.String())
}
