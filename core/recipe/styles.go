package recipe

import "yardbloom/core/gear"

// The styles by name.
const (
	ThreeRounds     StyleID = "three-rounds"
	OneLongPour     StyleID = "one-long-pour"
	TwoCentredPours StyleID = "two-centred-pours"
	Pulses          StyleID = "pulses"
	Split           StyleID = "balance-and-strength"
	LongBloom       StyleID = "long-bloom"
	BloomByEye      StyleID = "bloom-by-eye"
	Falling         StyleID = "falling-temperature"
	SteepAndRelease StyleID = "steep-and-release"
	IceHotAndSlow   StyleID = "ice-hot-and-slow"
	IcePulsed       StyleID = "ice-pulsed"
	Concentrate     StyleID = "concentrate"
)

// The reasons why some styles do not suit some brewers.
const (
	noValve  = "it has no valve, so the water drains before it has steeped"
	noCrater = "fast pours into the middle dig a crater into its shallow bed, and water channels through it"
	tooSlow  = "its thick paper drains so slowly that many pours pile up"
)

// styles lists the schools of pouring, the default first. To add one, add an entry. Figures are for 18 g,
// temperatures are relative to the one for the coffee, pours are shares of the water after the bloom. Every
// style suits every brewer except those in not, which gives the reason.
var styles = []Style{
	{
		ID: ThreeRounds, Name: "Three rounds", Short: "Bloom, then three equal spiral pours, the last one low.",
		Favours: "An even, forgiving cup that is easy to repeat.", Asks: "A steady hand and a pause between pours; any grinder.",
		NotWhen: "The grinder makes so many fines that the bed clogs: pour fewer times.",
		Ratio:   16.5, Grind: 650, Bloom: 3, BloomTime: 45, Hand: Swirl, Last: Swirl, Rate: 5, gap: 40, drain: 60,
		pours: []share{{of: 1. / 3}, {of: 1. / 3}, {of: 1. / 3, low: true}},
	},
	{
		ID: OneLongPour, Name: "One long pour", Short: "Bloom, then one slow unbroken pour.",
		Favours: "Simplicity; a clean, lighter cup.", Asks: "A kettle that pours slowly and evenly for over a minute.",
		NotWhen: "The coffee needs much extraction: a light, dense one likes more pours.",
		Ratio:   16.5, Grind: 600, Bloom: 3, BloomTime: 45, Hand: Swirl, Last: Swirl, Rate: 3, drain: 55,
		pours: []share{{of: 1, pattern: Circles}},
	},
	{
		// The first pour is larger, because the second falls onto what is left of it: forecast levels them.
		ID: TwoCentredPours, Name: "Two centred pours", Short: "Bloom, then two fast pours into the middle; the first is larger, so both reach one height.",
		Favours: "Flow and brightness; light, dense coffee that would clog under a spiral.",
		Asks:    "A kettle that gives {8 g/s}, and a hand that keeps to the middle.",
		NotWhen: "The coffee is dark or brittle: the fast stream stirs up what makes it bitter.",
		Ratio:   16, Grind: 620, Bloom: 2.5, BloomTime: 40, Hand: Swirl, Rate: 8, gap: 50, drain: 65,
		pours:      []share{{of: 0.62, pattern: Centre}, {of: 0.38, pattern: Centre}},
		unsuitable: map[gear.BrewerKind]string{gear.FlatBed: noCrater},
	},
	{
		ID: Pulses, Name: "Pulses", Short: "Bloom, then many small pours that keep the water at one level.",
		Favours: "Sweetness and body.", Asks: "Patience, and a grinder with few fines: every pour stirs the bed.",
		NotWhen: "The grinder makes many fines, or you want it quick.",
		Ratio:   16, Grind: 720, Bloom: 3, BloomTime: 40, Hand: Swirl, Rate: 5, gap: 25, drain: 50,
		pours:      []share{{of: 1. / 6}, {of: 1. / 6}, {of: 1. / 6}, {of: 1. / 6}, {of: 1. / 6}, {of: 1. / 6, low: true}},
		unsuitable: map[gear.BrewerKind]string{gear.HeavyCone: tooSlow},
	},
	{
		// The first pour is more than three times the dose, which in the model leaves no clumps dry. The
		// second is smaller, because the wet bed drains more slowly. The rest is divided in two, the last
		// one smaller, so that the water level does not rise from pour to pour.
		ID: Split, Name: "Balance and strength", Short: "Two pours set sweet against bright; the rest sets the strength, each when the " +
			"last has drained.",
		Favours: "Tuning the taste by the schedule instead of the grinder.",
		Asks:    "A coarse grind, and eyes on the bed: the next pour comes when the water has sunk in.",
		NotWhen: "You cannot watch the bed, or the coffee is so light that coarse grounds leave it sour.",
		Ratio:   15.5, Grind: 800, Rate: 6, gap: 50, drain: 60, opening: 2, openingShare: 0.38,
		pours:      []share{{of: 0.21}, {of: 0.17}, {of: 0.33, wait: ForBed}, {of: 0.29, wait: ForBed}},
		unsuitable: map[gear.BrewerKind]string{gear.HeavyCone: tooSlow},
	},
	{
		// Length, height and hand actions are those of the usual gear; forecast finds them for each coffee.
		ID: LongBloom, Name: "Long bloom", Short: "A bloom of more than a minute, then the rest in one pour.",
		Favours: "High yield without clogging.", Asks: "A stir of the bloom, and patience; suits grinders with many fines.",
		NotWhen: "The coffee is dark, or the brewer is small for the dose.",
		Ratio:   16.5, Grind: 650, Bloom: 3, BloomTime: 80, Hand: StirBed, Rate: 7, drain: 85,
		pours: []share{{of: 1, low: true}},
	},
	{
		// The bloom is that of a rested medium coffee; forecast finds it for each coffee.
		ID: BloomByEye, Name: "Bloom by eye", Short: "Bloom with as much water as this bed takes to be wet throughout, then fixed pours.",
		Favours: "Few channels, and coffees that change from day to day.",
		Asks:    "Eyes on the bed: swirl, and add water until none of it is dry or stuck.",
		NotWhen: "Another person must be able to pour it the same way.",
		Ratio:   16.5, Grind: 650, Bloom: 3.3, BloomTime: 50, Hand: Swirl, Rate: 6, gap: 50, drain: 65,
		pours: []share{{of: 0.5}, {of: 0.5, low: true}},
	},
	{
		ID: Falling, Name: "Falling temperature", Short: "A hot bloom and early pours, a cool last one.",
		Favours: "Aroma early, little bitterness late.", Asks: "A kettle that can be set between pours, or one that is left to cool.",
		NotWhen: "The coffee is light and needs as much heat as possible.",
		Ratio:   16, Grind: 650, Bloom: 3, BloomTime: 45, Hand: Swirl, Rate: 5, gap: 40, drain: 60, hotter: 2,
		pours: []share{{of: 1. / 3}, {of: 1. / 3, cooler: 4}, {of: 1. / 3, cooler: 16, low: true}},
	},
	{
		ID: SteepAndRelease, Name: "Steep and release", Short: "All the water, wait, break the crust, open the valve.",
		Favours: "Body, ease, repeatability.", Asks: "A brewer with a valve; no skill with the kettle.",
		NotWhen: "You want the brightest, clearest cup.",
		Ratio:   16, Grind: 800, Steep: 165, Rate: 8, drain: 70,
		pours:      []share{{of: 1, pattern: Circles}},
		unsuitable: map[gear.BrewerKind]string{gear.OpenCone: noValve, gear.FlatBed: noValve, gear.HeavyCone: noValve},
	},
	{
		// By the energy balance, this share of freezer ice just melts and gives a drink of about 5 °C for
		// 18 g in a glass carafe.
		ID: IceHotAndSlow, Name: "Over ice, hot and slow", Short: "A large share of the water is ice in the carafe; the rest is hotter, " +
			"finer, slower.",
		Favours: "Strength and brightness over ice.", Asks: "A carafe that takes hot coffee on ice, and a finer grind.",
		NotWhen: "The coffee is dark: so little and so hot water makes it harsh.",
		Ratio:   15, Grind: 560, Bloom: 3, BloomTime: 60, Hand: Swirl, Last: Swirl, Rate: 4, gap: 40, drain: 60, hotter: 2, Ice: 0.42,
		pours: []share{{of: 0.5}, {of: 0.5, low: true}},
	},
	{
		// Cooler water melts less ice. With this share the drink ends at about 12 °C, where sweetness
		// is easier to taste. Each of six pulses is what drains until the next, so the water stays at one level.
		ID: IcePulsed, Name: "Over ice, pulsed and cooler", Short: "Less ice, and many small pours of cooler water.",
		Favours: "Sweetness; a softer drink.", Asks: "Time, and more coffee: cooler water extracts less.",
		NotWhen: "You want the bright, sharp kind of iced coffee.",
		Ratio:   14, Grind: 520, Bloom: 3, BloomTime: 45, Hand: Swirl, Rate: 5, gap: 25, drain: 50, hotter: -4, Ice: 0.36,
		pours:      []share{{of: 1. / 6}, {of: 1. / 6}, {of: 1. / 6}, {of: 1. / 6}, {of: 1. / 6}, {of: 1. / 6, low: true}},
		unsuitable: map[gear.BrewerKind]string{gear.HeavyCone: tooSlow},
	},
	{
		ID: Concentrate, Name: "Concentrate and dilute", Short: "Stop pouring early, let it drain, add the rest of the water to the cup.",
		Favours: "Clarity, and less of the late bitterness.", Asks: "Hot water for the cup, weighed.",
		NotWhen: "The coffee is light and hard to extract: part of the water does not pass the grounds.",
		Ratio:   16, Grind: 600, Bloom: 3, BloomTime: 45, Hand: Swirl, Rate: 5, gap: 40, drain: 55, Dilute: 0.3,
		pours: []share{{of: 0.5}, {of: 0.5, low: true}},
	},
}
