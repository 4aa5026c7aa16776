package coach

// Sureness is how much a verdict stands on.
type Sureness int

// The degrees of sureness.
const (
	Guess Sureness = iota + 1
	Perhaps
	Likely
)

func (s Sureness) String() string {
	return [...]string{"", "a guess", "perhaps", "likely"}[s]
}

// A rule goes from signs to a verdict and the levers that mend it. It applies
// where all of its signs are there and none of without. Signs that agree or
// disagree make it surer or less sure.
type rule struct {
	name             string
	signs, without   []sign
	agree, disagree  []sign
	verdict, because string
	sure             Sureness
	levers           []lever
	instead          string // what to do where there is nothing to change
	ofBed            bool   // speaks only where the brews so far make an uneven bed likely
	// weighs is the cause that the rule names, where how far to turn for it, and by which
	// knob, is weighed against all brews of the bag; nil where the rule's levers decide.
	weighs *cause
}

// rules are read from the top; the first that applies decides. Strength is told
// from extraction, and the bed is mended before the grind is touched. How far to turn is
// weighed; where nothing that is weighed agrees with a rule, its levers decide.
var rules = []rule{
	{
		name: "good", signs: []sign{liked},
		agree: []sign{sweet, onTime}, disagree: []sign{harsh, under, thin, heavy, muddled},
		verdict: "Good enough is a result: stop here", sure: Likely,
		because: "What you like wins over every other sign. Keep this recipe and save the coffee for drinking.",
	},
	{
		name: "nothing tasted", without: []sign{tasted, lowYield, highYield},
		verdict: "Taste it first", sure: Likely,
		because: "Time alone is evidence, not a verdict. Say what the cup is like, or measure it.",
		instead: "Fill in the Cup station",
	},
	{
		name: "papery", signs: []sign{papery},
		verdict: "The paper comes through", sure: Likely,
		because: "Hot water through the filter takes the taste of paper away, seals it and warms the brewer.",
		levers:  []lever{rinse},
	},
	{
		name: "stale", signs: []sign{flat, old},
		verdict: "The coffee is old", sure: Likely,
		because: "What has gone into the air no recipe brings back. Brew it a little stronger if you like, or open a new bag; do not chase it.",
		instead: "Leave the recipe, change the bag",
	},
	{
		name: "slow yet sweet", signs: []sign{slow, sweet}, without: []sign{harsh, under, heavy, muddled, clogging, disliked},
		verdict: "Slow, yet sweet: leave it", sure: Likely,
		because: "The clock is evidence, not the verdict, and the cup says yes.",
	},
	{
		name: "stalled", signs: []sign{stalled},
		agree:   []sign{harsh, highYield, slow},
		verdict: "The bed clogged", sure: Perhaps,
		because: "Fines moved into the paper and closed it. Open the bed up, and stir it less.",
		levers:  []lever{coarser, fewerPours, lowerPour, noSwirl},
	},
	{
		name: "sour and bitter", ofBed: true, signs: []sign{under, harsh},
		agree:   []sign{uneven, fast, hollow},
		verdict: "Uneven: part gave too much, part too little", sure: Perhaps,
		because: "Sour and bitter together come from water that went its own way. Mend the bed before you touch the grind.",
		levers:  []lever{swirl, moreBloom, lowerPour, breakLater},
	},
	{
		name: "weak, sour and fast", ofBed: true, signs: []sign{under, fast, either(weak, thin)},
		agree:   []sign{uneven},
		verdict: "Uneven rather than under-extracted", sure: Perhaps,
		because: "Water that rushes past the bed takes little along. Wet all of it first, then pour gently.",
		levers:  []lever{moreBloom, swirl, lowerPour, finer, longerSteep},
	},
	{
		name: "seen uneven", ofBed: true, signs: []sign{uneven, either(under, harsh)},
		verdict: "The water found its own way", sure: Perhaps,
		because: "The bed shows it. Mend the bed before you touch the grind.",
		levers:  []lever{swirl, moreBloom, lowerPour},
	},
	{
		name: "slow and bitter", weighs: &tooMuch, signs: []sign{slow, harsh},
		agree: []sign{highYield, clogging}, disagree: []sign{lowYield},
		verdict: "Too much came out", sure: Likely,
		because: "The water stayed too long in too fine a bed.",
		levers:  []lever{coarser, cooler, shorterSteep},
	},
	{
		name: "fast and sour", weighs: &tooLittle, signs: []sign{fast, under},
		agree: []sign{lowYield, short}, disagree: []sign{highYield},
		verdict: "Too little came out", sure: Likely,
		because: "The water ran through before it had taken the sweetness along.",
		levers:  []lever{finer, hotter, longerBloom, longerSteep},
	},
	{
		name: "bitter", weighs: &tooMuch, signs: []sign{harsh},
		agree: []sign{highYield, onTime}, disagree: []sign{lowYield, fast},
		verdict: "A little too much came out", sure: Perhaps,
		because: "The flow is good, so the grind is not the fault; cooler water leaves the bitter end behind.",
		levers:  []lever{cooler, coarser, shorterSteep},
	},
	{
		name: "sour and slow", weighs: &tooLittle, signs: []sign{under, slow},
		agree: []sign{lowYield}, disagree: []sign{highYield},
		verdict: "Too little came out, and the flow has no room", sure: Perhaps,
		because: "Finer would slow it further. Hotter water takes more along at the same grind.",
		levers:  []lever{hotter, longerBloom, longerSteep},
	},
	{
		name: "sour", weighs: &tooLittle, signs: []sign{under},
		agree: []sign{lowYield, short}, disagree: []sign{highYield},
		verdict: "Too little came out", sure: Perhaps,
		because: "Sweetness comes after acidity: take a little more out of the same grounds.",
		levers:  []lever{finer, hotter, longerBloom, longerSteep},
	},
	{
		name: "thin", weighs: &tooWeak, signs: []sign{thin}, without: []sign{highYield},
		agree:   []sign{weak},
		verdict: "Too weak, not too little extracted", sure: Perhaps,
		because: "Strength is not extraction. Less water on the same dose makes a fuller cup.",
		levers:  []lever{lessWater, finer},
	},
	{
		name: "heavy", weighs: &tooStrong, signs: []sign{heavy}, without: []sign{lowYield},
		agree:   []sign{strong},
		verdict: "Too strong, not too much extracted", sure: Perhaps,
		because: "Strength is not extraction. More water on the same dose opens the cup up.",
		levers:  []lever{moreWater, coarser},
	},
	{
		name: "muddled", signs: []sign{muddled},
		verdict: "Stirred too much", sure: Guess,
		because: "Every swirl moves fines into the paper and blurs the cup.",
		levers:  []lever{noSwirl, lowerPour, coarser},
	},
	{
		name: "measured low", signs: []sign{lowYield},
		verdict: "The yield is low", sure: Perhaps, disagree: []sign{sweet},
		because: "There is more in these grounds, if you want it.",
		levers:  []lever{finer, hotter, longerBloom, longerSteep},
	},
	{
		name: "measured high", signs: []sign{highYield},
		verdict: "The yield is high", sure: Perhaps, disagree: []sign{sweet},
		because: "Past this, what still comes out is mostly bitter.",
		levers:  []lever{coarser, cooler, shorterSteep},
	},
	{
		name: "no fault named", weighs: &onAim,
		verdict: "No fault to mend", sure: Guess,
		because: "Nothing that you tasted asks for a change. Brew it again and see whether it repeats, or say what is missing.",
	},
}
