package coach

import (
	"maps"
	"math"
)

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
	{Weak, "Too weak, not under-extracted", "Strength is not extraction. Less water for the same dose makes a fuller cup.",
		"Repeat the recipe"},
	{Strong, "Too strong, not over-extracted", "Strength is not extraction. More water for the same dose makes a lighter, clearer cup.",
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

// The probability of an uneven cup, for recipes that lay an even and an uneven bed.
var goesWrong = [beds]float64{even: badBed, uneven: 0.85}

// A judgement accumulates the evidence of a cup about its aim and its cause.
type judgement struct {
	before *aim // the aim before this cup
	at     spot
	log    [2][aimYields][aimStrengths]float64 // log-likelihood of the evidence for an even cup and an uneven one
	odds   map[Cause]float64                   // odds of the plain faults
}

func newJudgement(prior *aim, at spot) *judgement {
	return &judgement{before: prior, at: at, odds: maps.Clone(before)}
}

// add includes a piece of evidence.
func (j *judgement) add(r evidence) {
	bed := 0.0
	for cause, times := range r.sight {
		if cause == Uneven {
			bed = math.Log(times)
			continue
		}
		j.odds[cause] *= times
	}
	for i := range aimYields {
		dy := j.at.yield - yieldAt(i)
		for k := range aimStrengths {
			ds := j.at.strength - strengthAt(k)
			if r.taste != nil {
				j.log[even][i][k] += r.taste(dy, ds, 0)
				j.log[uneven][i][k] += r.taste(dy, ds, 1)
			}
			j.log[uneven][i][k] += bed
		}
	}
}

// rest returns the probability that no plain fault, such as staleness or paper, is behind the cup.
func (j *judgement) rest() float64 {
	sum := 1.0
	for _, c := range causes {
		sum += j.odds[c.Cause]
	}
	return 1 / sum
}

// each iterates over the hypotheses: distance of the cup from the aim, kind of bed that the recipe lays,
// evenness of the cup, and the weight, which is not normalized.
func (j *judgement) each(do func(dy, ds float64, bed, cup int, w float64)) {
	for i := range aimYields {
		dy := j.at.yield - yieldAt(i)
		for k := range aimStrengths {
			ds := j.at.strength - strengthAt(k)
			e, u := math.Exp(j.log[even][i][k]), math.Exp(j.log[uneven][i][k])
			for bed := range beds {
				w := j.before.weight[bed][i][k]
				do(dy, ds, bed, even, w*(1-goesWrong[bed])*e)
				do(dy, ds, bed, uneven, w*goesWrong[bed]*u)
			}
		}
	}
}

// chances returns the posterior probabilities of the causes.
func (j *judgement) chances() chances {
	sums := make(map[Cause]float64, len(causes))
	total := 0.0
	j.each(func(dy, ds float64, bed, cup int, w float64) {
		total += w
		switch {
		case cup == uneven && bed == uneven:
			sums[Uneven] += w
		case cup == uneven:
			sums[Chance] += w
		default:
			sums[fault(dy, ds)] += w
		}
	})
	rest := j.rest()
	out := make(chances, len(causes))
	for i, c := range causes {
		out[i] = (sums[c.Cause]/total + j.odds[c.Cause]) * rest
	}
	return out
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

// learned returns the aim after the cup. A stale, papery or clogged cup has less weight.
func (j *judgement) learned() *aim {
	rest := j.rest()
	out := new(aim)
	for i := range aimYields {
		for k := range aimStrengths {
			e, u := math.Exp(j.log[even][i][k]*rest), math.Exp(j.log[uneven][i][k]*rest)
			for bed := range beds {
				out.weight[bed][i][k] = j.before.weight[bed][i][k] * ((1-goesWrong[bed])*e + goesWrong[bed]*u)
			}
		}
	}
	out.normalise()
	return out
}
