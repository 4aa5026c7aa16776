package units

import (
	"math"
	"regexp"
	"strconv"
	"strings"
)

// maxTyped is the longest text that is parsed as a quantity, in bytes.
const maxTyped = 60

var decimal = regexp.MustCompile(`^[+-]?([0-9]+([.,][0-9]*)?|[.,][0-9]+)$`)

// ParseNumber parses a bare number with a comma or a point as its decimal sign and an optional
// trailing symbol. Use it for machine input; Unit.Parse accepts what people type. The error is
// a *ValueError.
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
	if err != nil || math.IsInf(v, 0) {
		return 0, &ValueError{Typed: s, Err: ErrSyntax}
	}
	return v, nil
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

// A Part is a number and the unit that follows it, such as 24 and "clicks".
type Part struct {
	Value float64
	// Grouped is the value if the comma or point of a number such as "1,500" groups thousands.
	// It is NaN for an unambiguous number.
	Grouped float64
	Unit    string // in lower case; empty for none
}

// partForm matches a number, timesForm a multiplication such as "2 mugs of 250 ml".
var (
	partForm = regexp.MustCompile(`^([+-]?)(?:([0-9]+) ([0-9]+)/([0-9]+)|([0-9]+)/([0-9]+)|` +
		`([0-9]{1,3}(?:[ '][0-9]{3})+(?:[.,][0-9]+)?|[0-9][0-9.,]*|[.,][0-9]+))`)
	unitForm  = regexp.MustCompile(`^ ?([^0-9+-]*)`)
	timesForm = regexp.MustCompile(`^([0-9]+(?:[.,][0-9]+)?) ?(?:x|\*|mugs?|cups?|glass(?:es)?)(?: of)? ?([0-9].*)$`)
)

// plain normalizes signs, quotes and fractions.
var plain = strings.NewReplacer("−", "-", "–", "-", "×", "x", "μ", "µ", "’", "'", "½", " 1/2", "¼", " 1/4", "¾", " 3/4", "⅓", " 1/3", "⅔",
	" 2/3", "⅛", " 1/8")

var counted = map[string]string{"a": "1", "an": "1", "one": "1", "two": "2", "three": "3", "four": "4", "five": "5", "six": "6",
	"half": "1/2"}

func normal(typed string) string {
	words := strings.Fields(plain.Replace(strings.ToLower(typed)))
	if len(words) > 1 {
		if figure, ok := counted[words[0]]; ok {
			words[0] = figure
		}
		if len(words) > 2 && words[0] == "1/2" && words[1] == "a" {
			words = append(words[:1], words[2:]...)
		}
	}
	return strings.Join(words, " ")
}

// ReadParts splits a text such as "1 turn 6 clicks" into numbers with their units. The error is
// a *ValueError.
func ReadParts(typed string) ([]Part, error) {
	rest := normal(typed)
	wrong := &ValueError{Typed: strings.TrimSpace(typed), Err: ErrSyntax}
	switch {
	case rest == "":
		return nil, &ValueError{Err: ErrMissing}
	case len(rest) > maxTyped:
		return nil, wrong
	}
	var out []Part
	for rest != "" {
		m := partForm.FindStringSubmatch(rest)
		if m == nil {
			return nil, wrong
		}
		rest = rest[len(m[0]):]
		p, ok := number(m)
		if !ok {
			return nil, wrong
		}
		unit := unitForm.FindString(rest)
		rest = rest[len(unit):]
		p.Unit = strings.TrimSpace(unit)
		if p.Unit == "" && rest != "" { // two numbers side by side
			return nil, wrong
		}
		out = append(out, p)
	}
	return out, nil
}

// number converts a match of partForm.
func number(m []string) (Part, bool) {
	p := Part{Grouped: math.NaN()}
	ok := true
	fraction := func(whole, over, under string) float64 {
		w, _ := strconv.ParseFloat("0"+whole, 64)
		o, errO := strconv.ParseFloat("0"+over, 64)
		u, errU := strconv.ParseFloat("0"+under, 64)
		if under == "" {
			return w
		}
		ok = ok && errO == nil && errU == nil && u > 0
		return w + o/u
	}
	switch {
	case m[4] != "":
		p.Value = fraction(m[2], m[3], m[4])
	case m[6] != "":
		p.Value = fraction("", m[5], m[6])
	default:
		var readable bool
		p.Value, p.Grouped, readable = digits(m[7])
		ok = ok && readable
	}
	if m[1] == "-" {
		p.Value, p.Grouped = -p.Value, -p.Grouped
	}
	return p, ok && !math.IsInf(p.Value, 0) && !math.IsInf(p.Grouped, 0)
}

// digits parses digits with decimal and thousands separators. A separator that is repeated, or
// that precedes another one, groups thousands. grouped is NaN for an unambiguous number.
func digits(s string) (value, grouped float64, ok bool) {
	grouped = math.NaN()
	s = strings.NewReplacer(" ", "", "'", "").Replace(s)
	last := strings.LastIndexAny(s, ".,")
	if last < 0 {
		value, err := strconv.ParseFloat(s, 64)
		return value, grouped, err == nil
	}
	whole, rest := s[:last], s[last+1:]
	if strings.ContainsAny(whole, ".,") {
		if strings.Contains(whole, s[last:last+1]) { // 1,234,567
			whole, rest = s, ""
		}
		groups := strings.FieldsFunc(whole, func(r rune) bool { return r == '.' || r == ',' })
		mixed := strings.Contains(whole, ".") && strings.Contains(whole, ",")
		for i, g := range groups {
			if len(g) != 3 && (i > 0 || len(g) > 3) {
				return 0, grouped, false
			}
		}
		if mixed || len(groups) < 2 {
			return 0, grouped, false
		}
		value, err := strconv.ParseFloat(strings.Join(groups, "")+"."+rest+"0", 64)
		return value, grouped, err == nil
	}
	value, err := strconv.ParseFloat("0"+whole+"."+rest+"0", 64)
	if len(rest) == 3 && len(whole) >= 1 && len(whole) <= 3 && whole[0] != '0' {
		grouped, _ = strconv.ParseFloat(whole+rest, 64)
	}
	return value, grouped, err == nil
}

// Parse parses what a person types into a field of this unit and returns the canonical value. It
// accepts a bare number in the unit of the field and a number with any unit of the same quantity
// (201 F, 60 g/l, 4 tbsp, 1 1/2 oz, 2:30, 2 mugs). The error is a *ValueError.
func (u Unit) Parse(typed string) (float64, error) {
	return u.ParseIn(typed, Range{math.Inf(-1), math.Inf(1)})
}

// ParseIn is Parse for a field with a range. If a number such as "1,500" can mean 1500 or 1.5,
// it returns the one in the range, and ErrAmbiguous if both are. It does not check the range
// otherwise.
func (u Unit) ParseIn(typed string, r Range) (float64, error) {
	s := normal(typed)
	switch {
	case s == "":
		return 0, &ValueError{Err: ErrMissing}
	case u.Kind == Time || u.Kind == Span || u.Notation == Clock:
		return u.parseTime(typed)
	case u.Notation == OneTo || u.Kind == Ratio:
		if before, after, found := strings.Cut(s, ":"); found {
			if strings.TrimSpace(before) != "1" {
				return 0, &ValueError{Typed: strings.TrimSpace(typed), Err: ErrSyntax}
			}
			typed = after
		} else if after, found := strings.CutPrefix(s, "1/"); found && !strings.ContainsAny(after, "/ ") {
			typed = after
		}
	case u.Kind == Cup || u.Kind == Water:
		if m := timesForm.FindStringSubmatch(s); m != nil {
			n, err := ParseNumber(m[1], "")
			if err != nil {
				return 0, err
			}
			each, err := u.ParseIn(m[2], Range{math.Inf(-1), math.Inf(1)})
			return n * each, err
		}
	}
	parts, err := ReadParts(typed)
	if err != nil {
		return 0, err
	}
	if len(parts) != 1 {
		return 0, &ValueError{Typed: strings.TrimSpace(typed), Err: ErrSyntax}
	}
	return u.value(typed, parts[0], r)
}

// value converts a number with its unit to the canonical unit.
func (u Unit) value(typed string, p Part, r Range) (float64, error) {
	to := u.Canonical
	if word, ok := u.named(p.Unit); ok {
		to = word
	} else if p.Unit != "" && p.Unit != strings.ToLower(u.Symbol) {
		return 0, &ValueError{Typed: strings.TrimSpace(typed), Unit: p.Unit, Measures: string(dimensionOf(p.Unit)), Err: ErrUnit}
	}
	v, grouped := to(p.Value), to(p.Grouped)
	in, groupedIn := r.Contains(v), r.Contains(grouped)
	switch {
	case math.IsNaN(v) || math.IsInf(v, 0):
		return 0, &ValueError{Typed: strings.TrimSpace(typed), Err: ErrSyntax}
	case math.IsNaN(grouped):
		return v, nil
	case u.Decimals == 0 && (p.Unit == "" || p.Unit == strings.ToLower(u.Symbol)) || !in && !groupedIn &&
		u.Kind == Dose: // a typed dose has at most two decimals
		return grouped, nil
	case in && groupedIn && !math.IsInf(r.Hi, 1):
		return 0, &ValueError{Typed: strings.TrimSpace(typed), Value: v, Other: grouped, Err: ErrAmbiguous}
	case !in && groupedIn:
		return grouped, nil
	}
	return v, nil
}

// named returns the conversion of a written unit of this quantity.
func (u Unit) named(word string) (to func(float64) float64, ok bool) {
	found, ok := unitOf(word, acceptedDimensions[u.Kind])
	switch {
	case !ok:
		return nil, false
	case found.of == spoons:
		spoon := u.Spoon
		if spoon == 0 {
			spoon = usualSpoon
		}
		return times(float64(spoon)), true
	case u.Kind == Share:
		return times(1. / 100), true
	}
	return found.canonical, true
}

// parseTime parses 2:30, 150, 150s, 2 min 30, 2.5 minutes and 1 1/2 min. A bare number is in
// seconds.
func (u Unit) parseTime(typed string) (float64, error) {
	wrong := &ValueError{Typed: strings.TrimSpace(typed), Err: ErrSyntax}
	if strings.Contains(typed, ":") {
		s, err := ParseClock(strings.TrimSuffix(strings.TrimSpace(typed), " min"))
		return float64(s), err
	}
	parts, err := ReadParts(typed)
	if err != nil {
		return 0, err
	}
	sum, last := 0.0, math.Inf(1) // last is the previous unit in seconds
	for i, p := range parts {
		word, ok := unitOf(p.Unit, acceptedDimensions[Time])
		switch {
		case ok && word.canonical(1) < last:
			last = word.canonical(1)
			sum += word.canonical(p.Value)
		case p.Unit == "" && i == len(parts)-1 && (i == 0 || last == 60):
			if i == 0 && p.Value != math.Trunc(p.Value) && u.Notation == Clock { // 3.18 may mean 3:18
				return 0, wrong
			}
			sum += p.Value
		case ok || p.Unit == "":
			return 0, wrong
		default:
			return 0, &ValueError{Typed: wrong.Typed, Unit: p.Unit, Measures: string(dimensionOf(p.Unit)), Err: ErrUnit}
		}
	}
	if sum < 0 {
		return 0, wrong
	}
	return sum, nil
}
