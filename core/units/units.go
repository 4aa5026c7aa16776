// Package units defines the quantities that brewers weigh, measure and time. It formats them for people and
// parses what people type.
//
// Inside the core every quantity has one canonical unit (grams, degrees Celsius, micrometres, seconds).
// Preferences affect display and input only.
package units

import (
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"
)

type (
	// Grams is a mass. Water is weighed too: 1 ml of water counts as 1 g.
	Grams float64
	// Celsius is a temperature in °C.
	Celsius float64
	// Micrometres is a length in µm: the median size of the grounds.
	Micrometres float64
	// Seconds is a span of brewing time, printed as m:ss.
	Seconds float64
)

// String prints whole seconds as m:ss, such as 3:18.
func (s Seconds) String() string {
	whole := int(math.Round(math.Abs(float64(s))))
	sign := ""
	if s < 0 && whole > 0 {
		sign = "−"
	}
	return fmt.Sprintf("%s%d:%02d", sign, whole/60, whole%60)
}

// Span formats a duration: in seconds below 90 s, else as m:ss.
func (s Seconds) Span() string {
	if math.Abs(float64(s)) < 90 {
		return Trim(float64(s), 0) + noBreak + "s"
	}
	return s.String()
}

// A Notation is how the number of a quantity is written.
type Notation int

// The notations.
const (
	Decimal Notation = iota // 18.5
	Clock                   // 3:18, of seconds
	OneTo                   // 1 : 16.5
)

// A Unit is one way to show and type a quantity: shown = canonical × Scale + Offset.
type Unit struct {
	Kind     Kind // quantity; 0 for a bare number
	Symbol   string
	Notation Notation
	Scale    float64
	Offset   float64
	Decimals int
	// Step and Fine are the strides of a stepper, in shown units.
	Step, Fine float64
	// Spoon is the weight of a level tablespoon in a dose field, g; 0 means the default.
	Spoon Grams
}

// A Kind is a quantity that appears on a screen. Its unit depends on the person's preferences.
type Kind int

// The kinds of quantity that the product shows.
const (
	Dose        Kind = iota + 1 // dry coffee on a scale, g
	Water                       // water or beverage on a scale, g
	Cup                         // volume of the cup, ml (1 ml counts as 1 g)
	BagWeight                   // coffee in a bag, g
	Temperature                 // °C
	Grind                       // µm
	Ratio                       // of water to dose
	PerDose                     // g of water per g of dose
	Rate                        // g/s
	Span                        // s, as a number
	Time                        // s, as m:ss
	Count                       // whole things
	Strength                    // TDS, % by mass
	Yield                       // extraction yield, %
	Share                       // of a whole, as a percentage
	Altitude                    // over the sea, m
	Length                      // of a brewer, mm
)

// Prefs is how one person reads and types quantities. The zero value is metric.
type Prefs struct {
	Ounces     bool `json:"ounces"`
	Fahrenheit bool `json:"fahrenheit"`
	// Spoon is the weight of a level tablespoon of ground coffee, g, for a person without a scale: coffee is measured in tablespoons
	// and water in mugs. 0: there is a scale.
	Spoon Grams `json:"spoon,omitempty"`
}

// ClockSymbol is the placeholder of a time field.
const ClockSymbol = "m:ss"

// GramsPerQuart is the weight of a US quart of water.
const GramsPerQuart = 946.352946

const (
	gramsPerOunce      = 28.349523125 // avoirdupois, exact
	millilitresPerFlO  = 29.5735295625
	metresPerFoot      = 0.3048
	millimetresPerInch = 25.4
	usualSpoon         = 6 // g, a level tablespoon of a medium roast at a medium grind
)

var metric = map[Kind]Unit{
	Dose:        {Symbol: "g", Scale: 1, Decimals: 1, Step: 0.5, Fine: 0.1},
	Water:       {Symbol: "g", Scale: 1, Decimals: 0, Step: 10, Fine: 1},
	Cup:         {Symbol: "ml", Scale: 1, Decimals: 0, Step: 10, Fine: 1},
	BagWeight:   {Symbol: "g", Scale: 1, Decimals: 0, Step: 50, Fine: 5},
	Temperature: {Symbol: "°C", Scale: 1, Decimals: 0, Step: 1, Fine: 1},
	Grind:       {Symbol: "µm", Scale: 1, Decimals: 0, Step: 20, Fine: 5},
	Ratio:       {Notation: OneTo, Scale: 1, Decimals: 1, Step: 0.5, Fine: 0.1},
	PerDose:     {Symbol: "× dose", Scale: 1, Decimals: 1, Step: 0.5, Fine: 0.1},
	Rate:        {Symbol: "g/s", Scale: 1, Decimals: 1, Step: 1, Fine: 0.5},
	Span:        {Symbol: "s", Scale: 1, Step: 5, Fine: 1},
	Time:        {Symbol: ClockSymbol, Notation: Clock, Scale: 1, Step: 5, Fine: 1},
	Count:       {Scale: 1, Step: 1, Fine: 1},
	Strength:    {Symbol: "%", Scale: 1, Decimals: 2, Step: 0.05, Fine: 0.01},
	Yield:       {Symbol: "%", Scale: 1, Decimals: 1, Step: 0.5, Fine: 0.1},
	Share:       {Symbol: "%", Scale: 100, Decimals: 0, Step: 5, Fine: 1},
	Altitude:    {Symbol: "m", Scale: 1, Decimals: 0, Step: 50, Fine: 10},
	Length:      {Symbol: "mm", Scale: 1, Decimals: 0, Step: 1, Fine: 1},
}

var ounces = map[Kind]Unit{
	Dose:      {Symbol: "oz", Scale: 1 / gramsPerOunce, Decimals: 2, Step: 0.05, Fine: 0.01},
	Water:     {Symbol: "oz", Scale: 1 / gramsPerOunce, Decimals: 1, Step: 0.5, Fine: 0.1},
	Cup:       {Symbol: "fl oz", Scale: 1 / millilitresPerFlO, Decimals: 1, Step: 0.5, Fine: 0.1},
	BagWeight: {Symbol: "oz", Scale: 1 / gramsPerOunce, Decimals: 1, Step: 1, Fine: 0.5},
	Rate:      {Symbol: "oz/s", Scale: 1 / gramsPerOunce, Decimals: 2, Step: 0.05, Fine: 0.01},
	Altitude:  {Symbol: "ft", Scale: 1 / metresPerFoot, Decimals: 0, Step: 200, Fine: 50},
	Length:    {Symbol: "in", Scale: 1 / millimetresPerInch, Decimals: 1, Step: 0.1, Fine: 0.1},
}

// mugs holds the units of a person without a scale, except for the dose.
var mugs = map[Kind]Unit{
	Water: {Symbol: "mug", Scale: 1 / Mug, Decimals: 2, Step: 0.25, Fine: 0.05},
	Cup:   {Symbol: "mug", Scale: 1 / Mug, Decimals: 2, Step: 0.25, Fine: 0.05},
	Rate:  {Symbol: "mug/min", Scale: 60 / Mug, Decimals: 1, Step: 0.1, Fine: 0.1},
}

var fahrenheit = Unit{Symbol: "°F", Scale: 1.8, Offset: 32, Decimals: 0, Step: 2, Fine: 1}

// Unit returns the unit in which these preferences show a kind of quantity.
func (p Prefs) Unit(k Kind) Unit {
	u := metric[k]
	if own, ok := ounces[k]; ok && p.Ounces {
		u = own
	}
	if own, ok := mugs[k]; ok && p.Spoon > 0 {
		u = own
	}
	if k == Dose && p.Spoon > 0 {
		u = Unit{Symbol: "tbsp", Scale: 1 / float64(p.Spoon), Decimals: 1, Step: 0.5, Fine: 0.5, Spoon: p.Spoon}
	}
	if k == Temperature && p.Fahrenheit {
		u = fahrenheit
	}
	u.Kind = k
	return u
}

// ForDifferences returns the unit for differences of values in u, such as degrees hotter.
func (u Unit) ForDifferences() Unit {
	u.Kind, u.Offset = 0, 0
	return u
}

// Shown converts a canonical value to this unit.
func (u Unit) Shown(canonical float64) float64 { return canonical*u.Scale + u.Offset }

// Canonical converts a value in this unit back.
func (u Unit) Canonical(shown float64) float64 { return (shown - u.Offset) / u.Scale }

// Number formats a canonical value in this unit without its symbol, rounded to the unit's decimals.
func (u Unit) Number(canonical float64) string {
	if u.Notation == Clock {
		return Seconds(canonical).String()
	}
	return Trim(u.Shown(canonical), u.Decimals)
}

// Format formats a canonical value with its unit, such as "18 g", "1 : 16.5" or "3:18".
func (u Unit) Format(canonical float64) string {
	switch {
	case u.Notation == OneTo:
		return "1 : " + u.Number(canonical)
	case u.Notation == Clock || u.Symbol == "":
		return u.Number(canonical)
	}
	return u.Number(canonical) + noBreak + u.Symbol
}

// noBreak keeps a number and its unit on one line.
const noBreak = "\u00a0"

// Difference formats a change of d canonical units with its sign, such as "+2 °C". The offset of the unit
// does not apply.
func (u Unit) Difference(d float64) string {
	return Signed(d*u.Scale, u.Decimals) + noBreak + u.Symbol
}

// Size formats the magnitude of a change of d canonical units, such as "2 °C".
func (u Unit) Size(d float64) string {
	return Trim(math.Abs(d)*u.Scale, u.Decimals) + noBreak + u.Symbol
}

// Trim formats v with at most the given number of decimals and without trailing zeros.
func Trim(v float64, decimals int) string {
	s := strconv.FormatFloat(v, 'f', decimals, 64)
	if strings.Contains(s, ".") {
		s = strings.TrimRight(strings.TrimRight(s, "0"), ".")
	}
	if s == "-0" {
		s = "0"
	}
	return strings.Replace(s, "-", "−", 1)
}

// Signed formats v like Trim, always with its sign.
func Signed(v float64, decimals int) string {
	s := Trim(v, decimals)
	if strings.HasPrefix(s, "−") || s == "0" {
		return s
	}
	return "+" + s
}

// Points formats a change in percentage points with its sign, such as "+1.0".
func Points(v float64, decimals int) string {
	if Round(v, decimals) == 0 {
		return strconv.FormatFloat(0, 'f', decimals, 64)
	}
	return strings.Replace(fmt.Sprintf("%+.*f", decimals, v), "-", "−", 1)
}

// Round rounds v to a number of decimals.
func Round(v float64, decimals int) float64 {
	p := math.Pow10(decimals)
	return math.Round(v*p) / p
}

// figureForm matches a metric figure in braces.
var figureForm = regexp.MustCompile(`\{([^{}]+)\}`)

// figureKinds maps the units that are allowed in braces to quantities.
var figureKinds = map[string]Kind{"g": Dose, "ml": Cup, "°c": Temperature, "g/s": Rate, "mm": Length, "m": Altitude, "g of water": Water}

// Localize converts the metric figures in braces of a text to the user's units: {60 °C} becomes
// 60 °C or 140 °F. A bare number, as in "{96} to {87 °C}", has the unit of the figure after it.
func (p Prefs) Localize(text string) string {
	if !strings.ContainsRune(text, '{') {
		return text
	}
	matches := figureForm.FindAllStringSubmatchIndex(text, -1)
	var u Unit
	out := text
	for i := len(matches) - 1; i >= 0; i-- { // backwards, because a bare number takes the unit of the figure after it
		m := matches[i]
		number, symbol, _ := strings.Cut(text[m[2]:m[3]], " ")
		v, err := strconv.ParseFloat(number, 64)
		kind, known := figureKinds[strings.ToLower(symbol)]
		if err != nil || symbol != "" && !known {
			continue
		}
		said := ""
		if known {
			u = p.Unit(kind)
			said = u.Format(v)
		} else {
			said = u.Number(v)
		}
		out = out[:m[0]] + said + out[m[1]:]
	}
	return out
}

// Plural formats a count of things, such as "4 pours" or "1 pour".
func Plural(n int, thing string) string {
	if n == 1 {
		return "1 " + thing
	}
	return fmt.Sprintf("%d %ss", n, thing)
}
