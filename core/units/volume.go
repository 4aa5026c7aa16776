package units

import (
	"regexp"
	"strconv"
	"strings"
)

// Mug is what a mug holds where nobody says, ml.
const Mug = 250.0

// counted are small numbers in words.
var counted = map[string]float64{"a": 1, "one": 1, "two": 2, "three": 3, "four": 4, "five": 5, "six": 6, "half": 0.5}

// perUnit is how many ml a unit is. A g of water counts as 1 ml.
var perUnit = map[string]float64{"": 1, "ml": 1, "g": 1, "cl": 10, "dl": 100, "l": 1000, "fl oz": millilitresPerFlO, "floz": millilitresPerFlO, "oz": millilitresPerFlO}

var (
	timesForm = regexp.MustCompile(`^([0-9]+(?:[.,][0-9]+)?|[a-z]+) ?(?:x|×|\*|mugs?|cups?|glass(?:es)?)(?: of)? ?(.*)$`)
	sizeForm  = regexp.MustCompile(`^([0-9]+(?:[.,][0-9]+)?) ?([a-z. ]*)$`)
)

// ParseVolume reads an amount of drink as people say it, in ml: "300 ml", "12 fl oz",
// "2 x 250", "two mugs of 250 ml" or "three cups". The error is a *ValueError.
func ParseVolume(typed string) (ml float64, err error) {
	s := strings.Join(strings.Fields(strings.ToLower(typed)), " ")
	wrong := &ValueError{Typed: strings.TrimSpace(typed), Err: ErrSyntax}
	if len(s) > maxTyped {
		return 0, wrong
	}
	if m := timesForm.FindStringSubmatch(s); m != nil {
		n, known := counted[m[1]]
		if !known {
			if n, err = ParseNumber(m[1], ""); err != nil {
				return 0, wrong
			}
		}
		if m[2] == "" {
			return n * Mug, nil
		}
		each, err := ParseVolume(m[2])
		if err != nil {
			return 0, wrong
		}
		return n * each, nil
	}
	m := sizeForm.FindStringSubmatch(s)
	if m == nil {
		return 0, wrong
	}
	per, known := perUnit[strings.ReplaceAll(strings.TrimSpace(m[2]), ".", "")]
	v, err := strconv.ParseFloat(strings.Replace(m[1], ",", ".", 1), 64)
	if !known || err != nil {
		return 0, wrong
	}
	return v * per, nil
}
