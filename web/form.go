package web

import (
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"yardbloom/core/coffee"
	"yardbloom/core/units"
)

// A form is what was typed, and what is wrong with it: a sentence per field.
// The typed text stays as it was, so that it can be shown again.
type form struct {
	Values map[string]string
	Errors map[string]string
	multi  map[string][]string
}

func newForm() *form {
	return &form{Values: map[string]string{}, Errors: map[string]string{}, multi: map[string][]string{}}
}

// readForm reads a posted form.
func readForm(r *http.Request) (*form, error) {
	if err := r.ParseForm(); err != nil {
		return nil, fmt.Errorf("read form: %w", err)
	}
	f := newForm()
	for name, values := range r.PostForm {
		if len(values) > 0 {
			f.Values[name], f.multi[name] = strings.ToValidUTF8(values[0], ""), values
		}
	}
	return f, nil
}

// ok says that nothing is wrong.
func (f *form) ok() bool { return len(f.Errors) == 0 }

func (f *form) fail(name, format string, args ...any) {
	if _, already := f.Errors[name]; !already {
		f.Errors[name] = fmt.Sprintf(format, args...)
	}
}

// text reads a line of text of at most so many characters.
func (f *form) text(name, label string, most int, required bool) string {
	s := strings.TrimSpace(f.Values[name])
	switch n := utf8.RuneCountInString(s); {
	case n == 0 && required:
		f.fail(name, "%s cannot be empty.", label)
	case n > most:
		f.fail(name, "%s can have up to %d letters; this has %d.", label, most, n)
	}
	return s
}

// quantity reads a number in a unit and returns it canonical. An empty field that is not required is 0.
func (f *form) quantity(name, label string, u units.Unit, r units.Range, required bool) float64 {
	typed := strings.TrimSpace(f.Values[name])
	if typed == "" && !required {
		return 0
	}
	v, err := units.ParseNumber(typed, u.Symbol)
	if err == nil {
		v = u.Canonical(v)
		err = r.Check(label, v, u)
	}
	if err != nil {
		f.fail(name, "%s", err)
		return 0
	}
	return v
}

// clock reads a brewing time. An empty field that is not required is 0.
func (f *form) clock(name, label string, r units.Range, required bool) units.Seconds {
	typed := strings.TrimSpace(f.Values[name])
	if typed == "" {
		if required {
			f.fail(name, "Type a time, such as 3:10.")
		}
		return 0
	}
	t, err := units.ParseClock(typed)
	if err == nil && (float64(t) < r.Lo || float64(t) > r.Hi) {
		err = units.Sentence(fmt.Sprintf("%s can be %s to %s; %s is outside that.", label, units.Seconds(r.Lo), units.Seconds(r.Hi), t))
	}
	if err != nil {
		f.fail(name, "%s", err)
	}
	return t
}

// day reads a date as YYYY-MM-DD. An empty field that is not required is empty.
func (f *form) day(name, label string, required bool) string {
	s := strings.TrimSpace(f.Values[name])
	if s == "" && !required {
		return ""
	}
	if _, err := time.Parse(coffee.Day, s); err != nil {
		f.fail(name, "%s is a date such as 2026-04-18.", label)
	}
	return s
}

// choice reads one of the options.
func choice[T ~string](f *form, name, label string, options []T) T {
	if v := T(f.Values[name]); slices.Contains(options, v) {
		return v
	}
	f.fail(name, "Choose one for %s.", strings.ToLower(label))
	return ""
}

// flag reads a tick box.
func (f *form) flag(name string) bool { return f.Values[name] != "" }

// A field is one entry of a form as its template shows it.
type field struct {
	Name, Label, Value, Error string
	Hint                      string    // says why the value is what it is
	Warnings                  []warning // say what would go wrong, and offer the smallest fix
	Steps                     []effect  // what one step either way would change, predicted
	Prefix, Unit              string
	Step, Fine                string // strides of a stepper; empty: a plain entry
	Kind                      string // of the entry: text, date, or area
	Max                       int    // letters
	Options                   []option
	Held                      bool // set by hand, where the others follow
	Marked                    string
	Autofocus                 bool
}

// A warning is a sentence with the smallest fix, where there is one: a field to
// be set to a value, and an amount to be kept while it is.
type warning struct {
	Text                     string
	For, Value, Keep, Button string
}

type option struct {
	Value, Label string
	Selected     bool
}

// entry returns a field with its typed value and its error.
func (f *form) entry(name, label string) field {
	return field{Name: name, Label: label, Value: f.Values[name], Error: f.Errors[name], Kind: "text"}
}

// stepper returns a field for a number in a unit.
func (f *form) stepper(name, label string, u units.Unit) field {
	e := f.entry(name, label)
	e.Unit, e.Step, e.Fine = u.Symbol, units.Trim(u.Step, 3), units.Trim(u.Fine, 3)
	return e
}

// clockEntry returns a field for a brewing time.
func (f *form) clockEntry(name, label string) field {
	e := f.entry(name, label)
	e.Unit = "m:ss"
	return e
}

// selectOf returns a field to choose from, each option with its label.
func selectOf[T any](f *form, name, label string, all []T, of func(T) (value, label string)) field {
	e := f.entry(name, label)
	for _, v := range all {
		value, text := of(v)
		e.Options = append(e.Options, option{value, text, value == e.Value})
	}
	return e
}

// plain labels an option by itself.
func plain[T ~string](v T) (value, label string) { return string(v), string(v) }
