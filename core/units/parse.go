package units

import (
	"regexp"
	"strconv"
	"strings"
)

// maxTyped is the longest text that is still looked at as a number.
const maxTyped = 40

var decimal = regexp.MustCompile(`^[+-]?([0-9]+([.,][0-9]*)?|[.,][0-9]+)$`)

// ParseNumber reads a number as people type it: a comma or a point as the
// decimal sign, and optionally the unit's symbol behind it. The error is a
// *ValueError.
func ParseNumber(typed, symbol string) (float64, error) {
	s := strings.TrimSpace(typed)
	if s == "" {
		return 0, &ValueError{Err: ErrMissing}
	}
	bare := strings.TrimSpace(strings.TrimSuffix(s, symbol))
	bare = strings.Replace(bare, "−", "-", 1)
	if len(bare) > maxTyped || !decimal.MatchString(bare) {
		return 0, &ValueError{Typed: s, Err: ErrSyntax}
	}
	v, err := strconv.ParseFloat(strings.Replace(bare, ",", ".", 1), 64)
	if err != nil {
		return 0, &ValueError{Typed: s, Err: ErrSyntax}
	}
	return v, nil
}

// ParseRatio reads a brewing ratio typed as 16.5, 1:16.5 or 1 : 16,5.
func ParseRatio(typed string) (float64, error) {
	if before, after, found := strings.Cut(typed, ":"); found {
		if strings.TrimSpace(before) != "1" {
			return 0, &ValueError{Typed: typed, Err: ErrSyntax}
		}
		typed = after
	}
	return ParseNumber(typed, "")
}

// ParseClock reads a brewing time typed as m:ss or as whole seconds.
func ParseClock(typed string) (Seconds, error) {
	s := strings.TrimSpace(typed)
	if s == "" {
		return 0, &ValueError{Err: ErrMissing}
	}
	minutes, rest, found := strings.Cut(s, ":")
	if !found {
		minutes, rest = "0", s
	}
	m, errM := strconv.ParseUint(minutes, 10, 16)
	sec, errS := strconv.ParseUint(rest, 10, 16)
	if errM != nil || errS != nil || found && (sec > 59 || len(rest) != 2) {
		return 0, &ValueError{Typed: s, Err: ErrSyntax}
	}
	return Seconds(m*60 + sec), nil
}

// Parse reads a value as it is typed in this unit and returns it canonical. The
// error is a *ValueError.
func (u Unit) Parse(typed string) (float64, error) {
	var v float64
	var err error
	switch u.Notation {
	case Clock:
		var t Seconds
		t, err = ParseClock(typed)
		v = float64(t)
	case OneTo:
		v, err = ParseRatio(typed)
	default:
		v, err = ParseNumber(typed, u.Symbol)
	}
	if err != nil {
		return 0, err
	}
	return u.Canonical(v), nil
}
