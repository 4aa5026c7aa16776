package form

import (
	"fmt"
	"strings"

	"yardbloom/core/units"
)

// A Field is a form field as templates show it.
type Field struct {
	Name, Label, Value, Error string
	Hint                      string // explains the value
	Prefix, Unit              string
	Step, Fine                string // steps of a stepper; empty: a plain field
	Kind                      string // type of the input: text, date, password, or area
	Options                   []Option
	Autofocus                 bool
}

// An Option is an option of a select field.
type Option struct {
	Value, Label string
	Selected     bool
}

// Entry returns the field of a name with its typed value and its error.
func (f *Form) Entry(name, label string) Field {
	return Field{Name: name, Label: label, Value: f.Values[name], Error: f.Errors[name], Kind: "text"}
}

// Stepper returns the field of a quantity in a unit.
func (f *Form) Stepper(name, label string, u units.Unit) Field {
	e := f.Entry(name, label)
	e.Unit = u.Symbol
	if u.Notation == units.OneTo {
		e.Prefix = "1 :"
	}
	e.Step, e.Fine = units.Trim(u.Step, 3), units.Trim(u.Fine, 3)
	return e
}

// Select returns a field with options and their labels.
func Select[T any](f *Form, name, label string, all []T, of func(T) (value, label string)) Field {
	e := f.Entry(name, label)
	for _, v := range all {
		value, text := of(v)
		e.Options = append(e.Options, Option{value, text, value == e.Value})
	}
	return e
}

// Differences lists, by label, the saved values that differ from the typed ones.
func Differences(typed []Field, kept *Form) string {
	var out []string
	for _, f := range typed {
		there := kept.Values[f.Name]
		if there == f.Value {
			continue
		}
		for _, o := range f.Options {
			if o.Value == there {
				there = o.Label
			}
		}
		out = append(out, fmt.Sprintf("%s “%s”", f.Label, units.Shorten(there)))
	}
	return strings.Join(out, "; ")
}

// Plain returns the option's value as its label.
func Plain[T ~string](v T) (value, label string) { return string(v), string(v) }
