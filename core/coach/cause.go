package coach

import "math"

// A Cause is a possible cause of a bad cup.
type Cause string

// The causes.
const (
	OnAim   Cause = "on aim"
	Under   Cause = "too little"
	Over    Cause = "too much"
	Weak    Cause = "too weak"
	Strong  Cause = "too strong"
	Uneven  Cause = "uneven"
	Chance  Cause = "a bad pour"
	Clogged Cause = "clogged"
	Stale   Cause = "stale"
	Papery  Cause = "papery"
	Stirred Cause = "stirred too much"
	Icy     Cause = "too much ice"
	Cool    Cause = "water too cool"
	Warm    Cause = "water too warm"
	Dulled  Cause = "dulled by the water"
	Bare    Cause = "water without minerals"
)

// causes lists the causes with their texts, used if a cause is the most likely. verdict describes the
// problem, because why it calls for the advised change, and instead what to do if there is nothing to
// change.
var causes = []struct {
	Cause
	verdict, because, instead string
}{
	{OnAim, "Close to your taste", "Any further gain would be smaller than the difference between two brews of one recipe.",
		"Keep the recipe"},
	{Under, "Under-extracted", "Sweetness extracts after acidity: extract a little more from the same dose.", "Repeat the recipe"},
	{Over, "Over-extracted", "Beyond this point mostly bitter compounds extract: stop earlier.", "Repeat the recipe"},
	{Weak, "Too weak, not under-extracted", "Strength is not extraction. Less water for each gram of coffee makes a fuller cup.",
		"Repeat the recipe"},
	{Strong, "Too strong, not over-extracted", "Strength is not extraction. More water for each gram of coffee makes a lighter, clearer cup.",
		"Repeat the recipe"},
	{Uneven, "Uneven extraction", "Water found channels through the bed. Improve the bed before you change the grind.",
		"Lay the bed level and pour gently"},
	{Chance, "Most likely a bad pour", "About one pour in eight goes wrong by chance, so changing the recipe would not help.",
		"Repeat the recipe"},
	{Clogged, "Clogged bed", "Fines moved into the paper and clogged it. Grind coarser or agitate less.",
		"Agitate less and pour away from the wall"},
	{Stale, "The coffee is old", "No recipe restores lost aroma. Brew it a little stronger, or open a new bag.",
		"Keep the recipe, change the bag"},
	{Papery, "Papery taste", "Rinsing with hot water removes the paper taste, seals the filter and warms the brewer.",
		"Rinse with more water, or try another paper"},
	{Stirred, "Too much agitation", "Agitation moves fines into the paper and muddies the cup.", "Pour lower and agitate less"},
	{Icy, "Too much ice", "Ice that does not melt only makes the drink smaller: use more of the water for brewing.",
		"Use less ice"},
	{Cool, "Slurry too cool", "The flow is as planned, so the grind is not the cause. Hotter water or a preheated brewer extracts more.",
		"Preheat the brewer and pour soon after the boil"},
	{Warm, "Slurry too hot", "The flow is as planned, so the grind is not the cause. Cooler water extracts fewer bitter compounds.",
		"Let the water cool a little before you pour"},
	{Dulled, "Flat because of the water", "Its alkalinity neutralizes much of the acids, so no grind or temperature makes the cup lively.",
		"Brew it once with a water of less alkalinity"},
	{Bare, "Sharp because of the water", "Hardly anything in it rounds the acids off, so the same extraction tastes sharper and thinner.",
		"Brew it once with a water of more alkalinity"},
}

func placeOf(c Cause) int {
	for i := range causes {
		if causes[i].Cause == c {
			return i
		}
	}
	return -1
}

// chances holds the probabilities of the causes, in the order of the table.
type chances []float64

func (p chances) of(c Cause) float64 { return p[placeOf(c)] }

// bed returns the probability of an uneven bed, caused by the recipe or by chance.
func (p chances) bed() float64 { return p.of(Uneven) + p.of(Chance) }

func (p chances) likeliest() Cause {
	best := 0
	for i := range p {
		if p[i] > p[best] {
			best = i
		}
	}
	return causes[best].Cause
}

// fault returns the fault of an even cup by its distance from the aim: the larger deviation.
func fault(dy, ds float64) Cause {
	const near = 1.2 // points of yield, or 0.1 % of strength: about a mark of 8
	ds *= 10
	switch {
	case math.Hypot(dy, ds) <= near:
		return OnAim
	case math.Abs(dy) >= math.Abs(ds) && dy < 0:
		return Under
	case math.Abs(dy) >= math.Abs(ds):
		return Over
	case ds < 0:
		return Weak
	}
	return Strong
}
