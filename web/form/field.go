package form

import (
	"fmt"
	"strings"

	"yardbloom/core/units"
)

// A Field is one entry of a form as a template shows it.
type Field struct {
	Name, Label, Value, Error string
	Hint                      string // says why the value is what it is
	Prefix, Unit              string
	Step, Fine                string // strides of a stepper; empty: a plain entry
	Kind                      string // of the entry: text, date, password, or area
	Options                   []Option
	Autofocus                 bool
}

// An Option is one of the values of an entry that is chosen from a list.
type Option struct {
	Value, Label string
	Selected     bool
}

// Entry returns the entry of a name with its typed value and its error.
func (f *Form) Entry(name, label string) Field {
	return Field{Name: name, Label: label, Value: f.Values[name], Error: f.Errors[name], Kind: "text"}
}

// Stepper returns the entry of a quantity in a unit.
func (f *Form) Stepper(name, label string, u units.Unit) Field {
	e := f.Entry(name, label)
	e.Unit = u.Symbol
	if u.Notation == units.OneTo {
		e.Prefix = "1 :"
	}
	e.Step, e.Fine = units.Trim(u.Step, 3), units.Trim(u.Fine, 3)
	return e
}

// Select returns an entry to choose from, each option with its label.
func Select[T any](f *Form, name, label string, all []T, of func(T) (value, label string)) Field {
	e := f.Entry(name, label)
	for _, v := range all {
		value, text := of(v)
		e.Options = append(e.Options, Option{value, text, value == e.Value})
	}
	return e
}

// Differences says, by label, what a kept form has where something else was typed.
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

// Plain labels an option by itself.
func Plain[T ~string](v T) (value, label string) { return string(v), string(v) }
