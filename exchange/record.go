package exchange

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"regexp"
	"strings"
	"sync"
	"time"

	"github.com/santhosh-tekuri/jsonschema/v6"

	"yardbloom/core/brew"
	"yardbloom/core/recipe"
)

// A RecordHead is the beginning of a record's document. The rest of it is described by schema/record-KIND.v1.schema.json.
type RecordHead struct {
	Format   string `json:"format"`
	Kind     string `json:"kind"`
	Version  int    `json:"version"`
	ID       string `json:"id"`
	Revision int64  `json:"revision"`
}

// The format and version of records that this package reads.
const (
	RecordFormat  = "yardbloom-record"
	RecordVersion = 1
)

// ErrNewer is returned for a document of a version that this program does not know.
var ErrNewer = errors.New("it was written by a newer version of the program")

// recordSchemas holds the compiled schema of each kind of record.
var recordSchemas sync.Map // kind → *schema

// formerStyle matches a style of a document by an ID of an earlier version.
var formerStyle = func() *regexp.Regexp {
	var ids []string
	for id := range recipe.FormerIDs() {
		ids = append(ids, string(id))
	}
	return regexp.MustCompile(`"style"\s*:\s*"(` + strings.Join(ids, "|") + `)"`)
}()

// Current returns a document of an earlier version, in JSON, with the IDs that styles have today.
func Current(document []byte) []byte {
	return formerStyle.ReplaceAllFunc(document, func(found []byte) []byte {
		former := recipe.StyleID(formerStyle.FindSubmatch(found)[1])
		return fmt.Appendf(nil, `"style":%q`, former.Current())
	})
}

// CheckRecord returns the head of a record's document if the document follows its schema. now is for dates: none may be more than a day
// ahead of it, or before 1970. Errors name the field.
func CheckRecord(document []byte, now time.Time) (RecordHead, error) {
	var head RecordHead
	if err := json.Unmarshal(document, &head); err != nil {
		return head, errors.New("it is not JSON")
	}
	switch {
	case head.Format != RecordFormat:
		return head, fmt.Errorf("its format is %.40q, not %s", head.Format, RecordFormat)
	case head.Version > RecordVersion:
		return head, ErrNewer
	}
	name := "record-" + head.Kind + ".v1.schema.json"
	if _, err := schemaFiles.Open("schema/" + name); err != nil {
		return head, fmt.Errorf("%.40q is not a kind of record", head.Kind)
	}
	found, _ := recordSchemas.LoadOrStore(head.Kind, &schema{file: name})
	value, err := jsonschema.UnmarshalJSON(bytes.NewReader(document))
	if err != nil {
		return head, errors.New("it is not JSON")
	}
	if err := found.(*schema).check(value); err != nil {
		return head, err
	}
	return head, plausible(value, "", now)
}

// latest is the largest time in a record, s: a plan that was revised by the latest event ends somewhat after it.
const latest = float64(brew.LatestEvent) + 100_000

// largestBySuffix holds the largest values of numbers by the unit at the end of their names.
var largestBySuffix = []struct {
	suffix string
	value  float64
}{{"_s", latest}, {"_k", 1000}, {"_c", 1000}, {"_g", 1_000_000}, {"_percent", 1000}, {"_um", 100_000}, {"_m", 100_000}, {"_g_s", 10_000}}

func largest(name string) float64 {
	const any = 1e15
	if name == "seed" {
		return math.MaxUint64
	}
	for _, l := range largestBySuffix {
		if strings.HasSuffix(name, l.suffix) {
			return l.value
		}
	}
	return any
}

// plausible returns an error for a number or a date in a document that cannot be right.
func plausible(value any, at string, now time.Time) error {
	switch v := value.(type) {
	case map[string]any:
		for name, x := range v {
			if err := plausible(x, name, now); err != nil {
				return err
			}
		}
	case []any:
		for _, x := range v {
			if err := plausible(x, at, now); err != nil {
				return err
			}
		}
	case json.Number:
		if f, err := v.Float64(); err != nil || math.Abs(f) > largest(at) {
			return fmt.Errorf("%s is %s, which is too large", at, v)
		}
	case string:
		if len(at) < 3 || at[len(at)-3:] != "_at" {
			return nil
		}
		day, err := time.Parse(time.RFC3339, v)
		switch {
		case err != nil:
			return fmt.Errorf("%s is %.40q, which is not a date", at, v)
		case day.After(now.AddDate(0, 0, 1)):
			return fmt.Errorf("%s is %s, in the future", at, day.Format(time.DateOnly))
		case day.Year() < 1970:
			return fmt.Errorf("%s is %s, which is too early", at, day.Format(time.DateOnly))
		}
	}
	return nil
}
