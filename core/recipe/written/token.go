package written

import (
	"regexp"
	"strconv"
	"strings"
)

// A kind is the kind of a token.
type kind int

const (
	word kind = iota
	plainNumber
	mass   // g
	volume // ml, which are g of water and no dose of coffee
	clock  // s, as 0:45
	span   // s, as 45 s
	heat   // °C
	size   // µm
	times  // multiples of the dose
	toOne  // a ratio
	either // 1:16 can be a ratio or a time
	space
	other // anything else, such as a picture
)

// A token is a piece of the text with its value in the canonical unit.
type token struct {
	kind  kind
	text  string
	word  string // in lower case, for words
	value float64
}

// isAmount reports whether a token is an amount with its unit.
func (t token) isAmount() bool { return t.kind == mass || t.kind == volume }

const figure = `(\d+(?:[.,]\d+)?)`

// patterns are tried in order at each place of the text.
var patterns = []struct {
	kind kind
	re   *regexp.Regexp
	read func(m []string) float64
}{
	{space, regexp.MustCompile(`^[\s,;:.()\-–—/+&|•*→>=~!?"'’“”]+`), nil},
	{toOne, regexp.MustCompile(`^1(?: : ?|: | ?/ ?| to |:)(\d{1,2}(?:[.,]\d+)?)`), nil}, // see ratioOrTime
	{clock, regexp.MustCompile(`^(\d{1,2}):(\d{2})\b`), func(m []string) float64 { return 60*decimal(m[1]) + decimal(m[2]) }},
	{span, regexp.MustCompile(`(?i)^` + figure + `\s*(?:min(?:utes?|s)?|m)\b(?:\s*(?:and\s*)?(\d+)\s*(?:s|secs?|seconds?)\b)?`),
		func(m []string) float64 { return 60*decimal(m[1]) + decimal(m[2]) }},
	{span, regexp.MustCompile(`(?i)^` + figure + `\s*(?:″|s|secs?|seconds?)\b`), first(1)},
	{heat, regexp.MustCompile(`(?i)^` + figure + `\s*(?:°\s*f|degrees? f(?:ahrenheit)?|fahrenheit|f)\b`),
		func(m []string) float64 { return (decimal(m[1]) - 32) / 1.8 }},
	{heat, regexp.MustCompile(`(?i)^` + figure + `\s*(?:°\s*c\b|degrees? c(?:elsius)?\b|celsius\b|c\b|degrees?\b|°)`), first(1)},
	{size, regexp.MustCompile(`(?i)^` + figure + `\s*(?:µm|μm|um|microns?|micrometres?)\b`), first(1)},
	{mass, regexp.MustCompile(`(?i)^` + figure + `\s*(?:g|gr|grams?|grammes?)\b`), first(1)},
	{volume, regexp.MustCompile(`(?i)^` + figure + `\s*(?:ml|millilit(?:re|er)s?|cc)\b`), first(1)},
	{volume, regexp.MustCompile(`(?i)^` + figure + `\s*(?:l|lit(?:re|er)s?)\b`), first(1000)},
	{volume, regexp.MustCompile(`(?i)^` + figure + `\s*(?:fl\.?\s*oz|fluid ounces?)\b`), first(28.35)},
	{mass, regexp.MustCompile(`(?i)^` + figure + `\s*(?:oz|ounces?)\b`), first(28.35)},
	{times, regexp.MustCompile(`(?i)^` + figure + `\s*(?:x|×|times)(?:\b|$|\s)`), first(1)},
	{word, regexp.MustCompile(`(?i)^(?:\d{1,2}(?:st|nd|rd|th)\b|@)`), nil},
	{plainNumber, regexp.MustCompile(`^` + figure), first(1)},
	{word, regexp.MustCompile(`^\p{L}+(?:-\p{L}+)*`), nil},
	{other, regexp.MustCompile(`^[^\s\d\p{L}]+|^.`), nil},
}

func decimal(s string) float64 {
	v, _ := strconv.ParseFloat(strings.Replace(s, ",", ".", 1), 64)
	return v
}

// first reads the first group, times a factor.
func first(factor float64) func([]string) float64 {
	return func(m []string) float64 { return factor * decimal(m[1]) }
}

// tokens divides a text.
func tokens(text string) (out []token) {
	for text != "" {
		for _, p := range patterns {
			m := p.re.FindStringSubmatch(text)
			if m == nil {
				continue
			}
			t := token{kind: p.kind, text: m[0], word: strings.ToLower(m[0])}
			switch {
			case p.kind == toOne:
				t.kind, t.value = ratioOrTime(m[0], m[1])
			case p.read != nil:
				t.value = p.read(m)
			}
			out, text = append(out, t), text[len(m[0]):]
			break
		}
	}
	return out
}

// ratioOrTime tells 1 : 16 and 1:16.5, which are ratios, from 1:05, which is a time. 1:16 can be both.
func ratioOrTime(all, right string) (kind, float64) {
	v := decimal(right)
	twoDigits := len(right) == 2
	switch {
	case all == "1:"+right && twoDigits && (v < 10 || v > 22):
		return clock, 60 + v
	case all == "1:"+right && twoDigits:
		return either, v
	}
	return toOne, v
}
