package units

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"
)

// maxTyped is the longest text that is still looked at as a number.
const maxTyped = 40

var decimal = regexp.MustCompile(`^[+-]?([0-9]+([.,][0-9]*)?|[.,][0-9]+)$`)

// ParseNumber reads a number as people type it: a comma or a point as the
// decimal sign, and optionally the unit's symbol behind it. The error is a
// sentence to be shown beside the field.
func ParseNumber(typed, symbol string) (float64, error) {
	s := strings.TrimSpace(typed)
	if s == "" {
		return 0, Sentence("Type a number here.")
	}
	bare := strings.TrimSpace(strings.TrimSuffix(s, symbol))
	bare = strings.Replace(bare, "−", "-", 1)
	if len(bare) > maxTyped || !decimal.MatchString(bare) {
		return 0, sentence("“%s” is not a number. Use figures, such as 18 or 18.5.", Shorten(s))
	}
	v, err := strconv.ParseFloat(strings.Replace(bare, ",", ".", 1), 64)
	if err != nil {
		return 0, sentence("“%s” is not a number that can be used here.", Shorten(s))
	}
	return v, nil
}

// ParseRatio reads a brewing ratio typed as 16.5, 1:16.5 or 1 : 16,5.
func ParseRatio(typed string) (float64, error) {
	if before, after, found := strings.Cut(typed, ":"); found {
		if strings.TrimSpace(before) != "1" {
			return 0, sentence("A ratio starts with 1, such as 1 : 16.5; “%s” does not.", Shorten(typed))
		}
		typed = after
	}
	return ParseNumber(typed, "")
}

// ParseClock reads a brewing time typed as m:ss or as whole seconds.
func ParseClock(typed string) (Seconds, error) {
	s := strings.TrimSpace(typed)
	minutes, rest, found := strings.Cut(s, ":")
	if !found {
		minutes, rest = "0", s
	}
	m, errM := strconv.ParseUint(minutes, 10, 16)
	sec, errS := strconv.ParseUint(rest, 10, 16)
	if errM != nil || errS != nil || found && (sec > 59 || len(rest) != 2) {
		return 0, sentence("“%s” is not a time. Type minutes and seconds, such as 3:18.", Shorten(s))
	}
	return Seconds(m*60 + sec), nil
}

// A Range is what a quantity may be, canonical, both ends included.
type Range struct{ Lo, Hi float64 }

// Check returns nil where v lies in the range, else a sentence that names the
// quantity and the range in the unit in which the person reads it.
func (r Range) Check(name string, v float64, u Unit) error {
	const slack = 1e-9
	if v >= r.Lo-slack && v <= r.Hi+slack {
		return nil
	}
	return sentence("%s can be %s to %s; %s is outside that.",
		name, u.Number(r.Lo), u.Format(r.Hi), u.Format(v))
}

// Shorten cuts a text that is quoted back to the person to a readable length.
func Shorten(s string) string {
	const most = 24
	if r := []rune(s); len(r) > most {
		return string(r[:most]) + "…"
	}
	return s
}

// A Sentence is an error that a person can mend: its text is shown beside the field as it stands.
type Sentence string

func (s Sentence) Error() string { return string(s) }

func sentence(format string, args ...any) error { return Sentence(fmt.Sprintf(format, args...)) }
