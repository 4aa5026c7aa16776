// Package form parses posted forms and collects their errors.
package form

import (
	"errors"
	"fmt"
	"mime"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"yardbloom/core/brew"
	"yardbloom/core/coffee"
	"yardbloom/core/units"
	"yardbloom/web/words"
)

// A Form holds typed text and its errors, one sentence per field. The text stays unchanged, so that it can
// be shown again.
type Form struct {
	Values map[string]string
	Errors map[string]string
	All    map[string][]string // all values of repeated names
}

// New returns an empty form.
func New() *Form {
	return &Form{Values: map[string]string{}, Errors: map[string]string{}, All: map[string][]string{}}
}

var (
	// ErrMedia is returned for a body without the content type of a form.
	ErrMedia = errors.New("not a form")
	// ErrMalformed is returned for an empty or invalid form.
	ErrMalformed = errors.New("the form cannot be read")
)

// Read parses a posted form. It returns ErrMedia or ErrMalformed for other bodies.
func Read(r *http.Request) (*Form, error) {
	if media, _, err := mime.ParseMediaType(r.Header.Get("Content-Type")); err != nil || media != "application/x-www-form-urlencoded" {
		return nil, ErrMedia
	}
	switch err := r.ParseForm(); {
	case err != nil:
		return nil, fmt.Errorf("%w: %v", ErrMalformed, err)
	case len(r.PostForm) == 0:
		return nil, fmt.Errorf("%w: it is empty", ErrMalformed)
	}
	f := New()
	for name, values := range r.PostForm {
		if len(values) > 0 {
			f.Values[name], f.All[name] = strings.ToValidUTF8(values[0], ""), values
		}
	}
	return f, nil
}

// FillMissing fills in fields that were not posted, so that a missing field never clears a saved value. Unticked
// boxes are not posted, so their group has a field that tells that it was shown.
func (f *Form) FillMissing(kept *Form, group string) {
	for name, v := range kept.Values {
		if _, posted := f.All[name]; !posted {
			f.Values[name] = v
		}
	}
	for name, all := range kept.All {
		if _, shown := f.All[group]; !shown {
			f.All[name] = all
		}
	}
}

// Version returns the version that the page showed; 0 for a form without one.
func (f *Form) Version() int64 {
	v, err := strconv.ParseInt(f.Values["version"], 10, 64)
	if err != nil && f.Values["version"] != "" {
		return -1 // invalid: a conflict
	}
	return v
}

// VersionOr returns the version that the page showed, or the saved one: a page shown again with an error
// keeps its version.
func (f *Form) VersionOr(kept int64) int64 {
	if v := f.Version(); v > 0 {
		return v
	}
	return kept
}

// OK reports whether there are no errors.
func (f *Form) OK() bool { return len(f.Errors) == 0 }

// Fail adds an error to a field. The first one counts.
func (f *Form) Fail(name, format string, args ...any) {
	if _, already := f.Errors[name]; !already {
		f.Errors[name] = fmt.Sprintf(format, args...)
	}
}

// Text reads a line of text with a maximum number of characters.
func (f *Form) Text(name, label string, most int, required bool) string {
	s := strings.TrimSpace(f.Values[name])
	switch n := utf8.RuneCountInString(s); {
	case n == 0 && required:
		f.Fail(name, "%s cannot be empty.", label)
	case n > most:
		f.Fail(name, "%s can have up to %d letters; this has %d.", label, most, n)
	}
	return s
}

// Quantity parses a number or a time in a unit and returns the canonical value. An empty optional field is
// 0.
func (f *Form) Quantity(name, label string, u units.Unit, r units.Range, required bool) float64 {
	typed := strings.TrimSpace(f.Values[name])
	if typed == "" && !required {
		return 0
	}
	v, err := u.ParseIn(typed, r)
	if err == nil {
		err = r.Check(units.Place{Name: name}, v)
	}
	if err != nil {
		f.Fail(name, "%s", words.InvalidValue(err, label, u))
		return 0
	}
	return v
}

// Day parses a date, YYYY-MM-DD. An empty optional field is empty.
func (f *Form) Day(name, label string, required bool) string {
	s := strings.TrimSpace(f.Values[name])
	if s == "" && !required {
		return ""
	}
	if _, err := time.Parse(coffee.Day, s); err != nil {
		f.Fail(name, "%s is a date such as 2026-04-18.", label)
	}
	return s
}

// Choice reads one of the options.
func Choice[T ~string](f *Form, name, label string, options []T) T {
	if v := T(f.Values[name]); slices.Contains(options, v) {
		return v
	}
	f.Fail(name, "Choose one for %s.", strings.ToLower(label))
	return ""
}

// Flag reads a tick box.
func (f *Form) Flag(name string) bool { return f.Values[name] != "" }

// By returns the id of the person who filled in the form: the one that the page was shown to, also if the screen
// has changed hands since, or else present.
func By(f *Form, present string) string {
	if by, sent := f.Values["by"]; sent {
		return by
	}
	return present
}

// maxAgo is the longest time for which a screen may have waited for the server.
const maxAgo = brew.LateLimit

// Ago returns how long ago the action happened that a request reports: a script sends the field "ago", s, with an
// action that waited for the server. It is 0 for a request without a valid one.
func Ago(r *http.Request) time.Duration {
	ago, _ := ParseAgo(r.PostFormValue("ago"))
	return ago
}

// ParseAgo parses the field "ago"; false for a text that is no time of at most maxAgo.
func ParseAgo(text string) (ago time.Duration, ok bool) {
	s, err := units.ParseNumber(text, "")
	if err != nil || !(s >= 0 && s <= maxAgo.Seconds()) {
		return 0, false
	}
	return time.Duration(s * float64(time.Second)), true
}
