package coach

import (
	"maps"
	"math"
)

// A Cause is what may be behind a cup.
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
)

// causes are all of them, with what is said where one of them is the likeliest. verdict is what
// happened, because why that asks for what is advised, and instead what to do where nothing
// is to be turned.
var causes = []struct {
	Cause
	verdict, because, instead string
}{
	{OnAim, "It lies about where you like it", "What is left to gain is less than two brews of one recipe differ by.", "Keep the recipe"},
	{Under, "Too little came out", "Sweetness comes after acidity: take a little more out of the same grounds.", "Brew it again as it is"},
	{Over, "Too much came out", "Past this, what still comes out is mostly bitter: leave it behind.", "Brew it again as it is"},
	{Weak, "Too weak, not too little extracted", "Strength is not extraction. Less water on the same dose makes a fuller cup.", "Brew it again as it is"},
	{Strong, "Too strong, not too much extracted", "Strength is not extraction. More water on the same dose opens the cup up.", "Brew it again as it is"},
	{Uneven, "Uneven: part gave too much, part too little", "Water went its own way through the bed. Mend the bed before you touch the grind.", "Lay the bed level and pour gently"},
	{Chance, "Most likely a bad pour, which happens", "About one bed in eight goes wrong without anybody's fault. Nothing is learned by turning a knob for it.", "Brew it again as it is"},
	{Clogged, "The bed closed up", "Fines moved into the paper and closed it. Open the bed up, and stir it less.", "Stir it less, and pour away from the wall"},
	{Stale, "The coffee is old", "What has gone into the air no recipe brings back. Brew it a little stronger if you like, or open a new bag; do not chase it.", "Leave the recipe, change the bag"},
	{Papery, "The paper comes through", "Hot water through the filter takes the taste of paper away, seals it and warms the brewer.", "Rinse with more water, or try another paper"},
	{Stirred, "Stirred too much", "Every stir moves fines into the paper and blurs the cup.", "Pour lower and stir it less"},
	{Icy, "More ice than this brew can melt", "What does not melt has only made the drink smaller: brew with more of the water.", "Take less ice"},
	{Cool, "The water met the grounds too cool", "The flow is as it should be, so the grind is not the fault. Hotter water, or a brewer that is warm, takes more along.", "Warm the brewer, and pour soon after the boil"},
	{Warm, "The water met the grounds too warm", "The flow is as it should be, so the grind is not the fault. Cooler water leaves the bitter end behind.", "Let the water stand a little before you pour"},
}

func placeOf(c Cause) int {
	for i := range causes {
		if causes[i].Cause == c {
			return i
		}
	}
	return -1
}

// chances are the probabilities of the causes, in the order of the table.
type chances []float64

func (p chances) of(c Cause) float64 { return p[placeOf(c)] }

// bed is how likely the bed of the cup was uneven, by the recipe's doing or by chance.
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

// How often a cup is uneven whose recipe lays an even bed, and an uneven one.
var goesWrong = [beds]float64{even: badBed, uneven: 0.85}

// A judgement is what the readings of a cup say, as they come in: of its aim, and of
// what ails it.
type judgement struct {
	before *aim // what was believed before this cup
	at     spot
	log    [2][aimYields][aimStrengths]float64 // likelihood of the readings for an even cup and an uneven one
	odds   map[Cause]float64                   // of the plain faults against their not being so
}

func newJudgement(prior *aim, at spot) *judgement {
	return &judgement{before: prior, at: at, odds: maps.Clone(before)}
}

// add takes a reading in.
func (j *judgement) add(r reading) {
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

// rest is how likely no plain fault, such as staleness or paper, is behind the cup.
func (j *judgement) rest() float64 {
	sum := 1.0
	for _, c := range causes {
		sum += j.odds[c.Cause]
	}
	return 1 / sum
}

// each goes through what may be: how far the cup lies from each aim, the bed that the recipe
// lays, whether the cup was uneven, and the weight, which is not normalised.
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

// chances are the probabilities of the causes by the readings so far.
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

// fault is what is wrong with an even cup so far off its aim: what lies furthest off.
func fault(dy, ds float64) Cause {
	const near = 1.2 // points of yield, or tenths of a per cent of strength: a cup marked 8
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

// learned is the aim after the cup. What is stale, papery or clogged says less of it.
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
