package units

import (
	"errors"
	"fmt"
	"math"
	"strconv"
	"strings"
)

// The ways in which a value can be wrong. A *ValueError unwraps to one of them.
var (
	ErrMissing = errors.New("missing")
	ErrSyntax  = errors.New("cannot be read")
	ErrRange   = errors.New("out of range")
	ErrUnknown = errors.New("not a known name")
	// ErrUnit is returned for an unknown unit and for a unit of another quantity.
	ErrUnit = errors.New("not a unit of this quantity")
	// ErrAmbiguous is returned for a number such as 1,500 that may mean 1500 or 1.5.
	ErrAmbiguous = errors.New("can be read in two ways")
)

// A Place names a value: its field and, for a field in a list, the list and the index from 0.
type Place struct {
	List  string
	Index int
	Name  string
}

// String prints a place, such as "dose" or "pours[2].rate".
func (p Place) String() string {
	if p.List == "" {
		return p.Name
	}
	return fmt.Sprintf("%s[%d].%s", p.List, p.Index, p.Name)
}

// A ValueError is an unusable value. It carries the data for an error message; package words writes the
// message.
type ValueError struct {
	At    fmt.Stringer // address of the value: a Place or an address of another package; may be nil
	Typed string       // the value as text, for ErrSyntax and ErrUnknown
	Value float64      // for ErrRange and ErrAmbiguous, in the canonical unit
	Other float64      // for ErrAmbiguous: the alternative reading, in the canonical unit
	Unit  string       // for ErrUnit, as written
	// Measures names the quantity that the unit of an ErrUnit measures, such as "a temperature".
	// It is empty for an unknown unit.
	Measures string
	Range    Range    // for ErrRange, in the canonical unit
	Known    []string // for ErrUnknown
	Err      error    // one of the errors above, or a more specific one
}

// Error returns a message for a log or a terminal.
func (e *ValueError) Error() string {
	var b strings.Builder
	if e.At != nil {
		b.WriteString(e.At.String() + ": ")
	}
	switch {
	case errors.Is(e.Err, ErrRange):
		value := Trim(e.Value, 3)
		if math.Abs(e.Value) > 1e9 {
			value = strconv.FormatFloat(e.Value, 'g', 3, 64)
		}
		fmt.Fprintf(&b, "it is %s; it can be %s", value, e.Range)
	case errors.Is(e.Err, ErrUnknown):
		fmt.Fprintf(&b, "%q is not one of %s", Shorten(e.Typed), strings.Join(e.Known, ", "))
	case e.Typed != "":
		fmt.Fprintf(&b, "%q %v", Shorten(e.Typed), e.Err)
	default:
		fmt.Fprint(&b, e.Err)
	}
	return b.String()
}

// Unwrap returns the kind of error.
func (e *ValueError) Unwrap() error { return e.Err }

// A Range is the set of valid values of a quantity, in its canonical unit, both ends included.
type Range struct{ Lo, Hi float64 }

// String prints the range, such as "5 to 120", or only one end if the other is infinite.
func (r Range) String() string {
	switch {
	case math.IsInf(r.Lo, -1):
		return "at most " + Trim(r.Hi, 3)
	case math.IsInf(r.Hi, 1):
		return "at least " + Trim(r.Lo, 3)
	}
	return Trim(r.Lo, 3) + " to " + Trim(r.Hi, 3)
}

// Contains reports whether v is in the range. It is false for NaN.
func (r Range) Contains(v float64) bool {
	const slack = 1e-9
	return v >= r.Lo-slack && v <= r.Hi+slack
}

// Check returns nil if v is in the range, and otherwise a *ValueError at an address.
func (r Range) Check(at fmt.Stringer, v float64) error {
	if r.Contains(v) {
		return nil
	}
	return &ValueError{At: at, Value: v, Range: r, Err: ErrRange}
}

// Clamp returns the value in the range that is nearest to v.
func (r Range) Clamp(v float64) float64 { return max(r.Lo, min(r.Hi, v)) }

// Shorten cuts a text to a length that can be quoted in an error message.
func Shorten(s string) string {
	const most = 24
	if r := []rune(s); len(r) > most {
		return string(r[:most]) + "…"
	}
	return s
}
