package units

import "strings"

// A dimension names the quantity that a unit measures, for use in a sentence.
type dimension string

const (
	weight      dimension = "a weight"
	volume      dimension = "a volume"
	spoons      dimension = "spoons of ground coffee"
	heat        dimension = "a temperature"
	grain       dimension = "a grain size"
	height      dimension = "a height"
	duration    dimension = "a time"
	proportion  dimension = "a ratio"
	multiple    dimension = "a multiple of the dose"
	flow        dimension = "a pour rate"
	percent     dimension = "a percentage"
	grinderStep dimension = "a setting of a grinder"
	depth       dimension = "a length"
)

// A unitWord is a written unit with its conversion to the canonical unit.
type unitWord struct {
	of        dimension
	spellings string // separated by commas, in lower case
	canonical func(float64) float64
}

func times(factor float64) func(float64) float64 {
	return func(v float64) float64 { return v * factor }
}

// Mug is the default volume of a mug or a cup in ml.
const Mug = 250.0

// unitWords lists all written units. A spelling that several dimensions share, such as "oz", has
// the meaning that the field accepts; in error messages the first entry counts.
var unitWords = []unitWord{
	{weight, "g,gr,gram,grams,gramm,grammes", times(1)},
	{weight, "kg,kilo,kilos,kilogram,kilograms", times(1000)},
	{weight, "oz,oz.,ounce,ounces", times(gramsPerOunce)},
	{weight, "lb,lbs,pound,pounds", times(16 * gramsPerOunce)},
	{volume, "ml,millilitre,millilitres,milliliter,milliliters,cc", times(1)},
	{volume, "cl", times(10)},
	{volume, "dl", times(100)},
	{volume, "l,litre,litres,liter,liters", times(1000)},
	{volume, "fl oz,fl. oz.,fl. oz,fl oz.,floz,fluid ounce,fluid ounces,oz,ounce,ounces", times(millilitresPerFlO)},
	{volume, "mug,mugs,cup,cups,glass,glasses", times(Mug)},
	{spoons, "tbsp,tbsps,tablespoon,tablespoons,level tbsp,level tablespoon,level tablespoons,spoon,spoons", times(1)},
	{heat, "°c,c,celsius,degrees celsius,degrees c,° c,degrees", times(1)},
	{heat, "°f,f,fahrenheit,degrees fahrenheit,degrees f,° f", func(v float64) float64 { return (v - 32) / 1.8 }},
	{grain, "µm,um,micron,microns,micrometre,micrometres,micrometer,micrometers", times(1)},
	{grain, "mm", times(1000)},
	{height, "m,metre,metres,meter,meters", times(1)},
	{height, "ft,ft.,foot,feet", times(metresPerFoot)},
	{duration, "s,sec,secs,second,seconds", times(1)},
	{duration, "min,mins,minute,minutes,m", times(60)},
	{duration, "h,hour,hours", times(3600)},
	{proportion, "g/l,g / l,grams per litre,grams per liter,g per litre,g per liter,gram per litre,g per l",
		func(v float64) float64 { return 1000 / v }},
	{proportion, "oz/qt,oz per quart,oz to the quart", func(v float64) float64 { return GramsPerQuart / (v * gramsPerOunce) }},
	{multiple, "x,x dose,x the dose,times,times the dose,g/g", times(1)},
	{flow, "g/s,ml/s,g per second,g a second,ml per second", times(1)},
	{flow, "mugs/min,mug/min,mugs per minute,mugs a minute", times(Mug / 60)},
	{flow, "oz/s,oz per second,oz a second", times(gramsPerOunce)},
	{percent, "%,percent,per cent", times(1)},
	{grinderStep, "click,clicks,turn,turns,step,steps", times(1)},
	{depth, "in,inch,inches", times(millimetresPerInch)},
	{depth, "mm", times(1)},
	{depth, "cm", times(10)},
}

// acceptedDimensions lists the dimensions that a field of each kind accepts, in order of preference.
var acceptedDimensions = map[Kind][]dimension{
	Dose: {weight, spoons}, BagWeight: {weight}, Water: {weight, volume}, Cup: {volume, weight}, Temperature: {heat}, Grind: {grain},
	Ratio: {proportion}, PerDose: {multiple},
	Rate: {flow}, Span: {duration}, Time: {duration}, Strength: {percent}, Yield: {percent}, Share: {percent}, Altitude: {height},
	Length: {depth},
}

// unitOf looks a written unit up among dimensions, in their order.
func unitOf(word string, among []dimension) (unitWord, bool) {
	for _, d := range among {
		for _, u := range unitWords {
			if u.of == d && Spelled(u.spellings, word) {
				return u, true
			}
		}
	}
	return unitWord{}, false
}

// dimensionOf returns the dimension of a written unit, or an empty dimension for an unknown one.
func dimensionOf(word string) dimension {
	for _, u := range unitWords {
		if Spelled(u.spellings, word) {
			return u.of
		}
	}
	return ""
}

// Spelled reports whether a word is in a list of spellings separated by commas.
func Spelled(spellings, word string) bool {
	return strings.Contains(","+spellings+",", ","+word+",")
}
