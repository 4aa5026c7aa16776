package coach

import (
	"maps"
	"math"
)

// The probability of an uneven cup, for recipes that lay an even and an uneven bed.
var goesWrong = [beds]float64{even: badBed, uneven: 0.85}

// A judgement accumulates the evidence of a cup about its aim and its cause.
type judgement struct {
	before *aim // the aim before this cup
	at     spot
	log    [2][aimYields][aimStrengths]float64 // log-likelihood of the evidence for an even cup and an uneven one
	// own is the part of it that depends on the taster.
	own  [tastes][2][aimYields][aimStrengths]float64
	odds map[Cause]float64 // odds of the plain faults
	// bedSeen is true if an uneven bed was seen, not only tasted.
	bedSeen bool
	// open marks the cells of the grid that are not ruled out before the cup.
	open [aimYields][aimStrengths]bool
}

func newJudgement(prior *aim, at spot) *judgement {
	const ruledOut = 1e-9
	j := &judgement{before: prior, at: at, odds: maps.Clone(before)}
	for i := range aimYields {
		for k := range aimStrengths {
			j.open[i][k] = prior.total(i, k) > ruledOut
		}
	}
	return j
}

// add includes a piece of evidence with a weight, 1 unless it repeats others.
func (j *judgement) add(r evidence, weight float64) {
	bed := 0.0
	for cause, times := range r.sight {
		if cause == Uneven {
			bed = math.Log(times)
			j.bedSeen = j.bedSeen || times > 1 && r.taste == nil
			continue
		}
		j.odds[cause] *= times
	}
	for i := range aimYields {
		dy := j.at.yield - yieldAt(i)
		for k := range aimStrengths {
			if !j.open[i][k] {
				continue
			}
			ds := j.at.strength - strengthAt(k)
			j.log[uneven][i][k] += bed
			switch {
			case r.taste == nil:
			case r.personal:
				for t := range tasters {
					j.own[t][even][i][k] += weight * r.taste(tasters[t], dy, ds, 0)
					j.own[t][uneven][i][k] += weight * r.taste(tasters[t], dy, ds, 1)
				}
			default:
				j.log[even][i][k] += weight * r.taste(taster{}, dy, ds, 0)
				j.log[uneven][i][k] += weight * r.taste(taster{}, dy, ds, 1)
			}
		}
	}
}

// addAll includes the evidence of a cup. Words repeat each other, so many of them count less each.
func (j *judgement) addAll(all []evidence) {
	words := 0.0
	for _, r := range all {
		if r.word {
			words++
		}
	}
	for _, r := range all {
		weight := 1.0
		if r.word {
			weight = 1 / (1 + togetherness*(words-1))
		}
		j.add(r, weight)
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

// each iterates over the hypotheses: the taster, the cell of the aim, the kind of bed that the recipe lays, the evenness of the cup,
// and the weight, which is not normalized. Evidence counts with a share, 1 for all of it.
func (j *judgement) each(share float64, do func(t, i, k, bed, cup int, w float64)) {
	for t := range tasters {
		for i := range aimYields {
			for k := range aimStrengths {
				if !j.open[i][k] {
					continue
				}
				w := &j.before.weight[t]
				e := math.Exp(share * (j.log[even][i][k] + j.own[t][even][i][k]))
				u := math.Exp(share * (j.log[uneven][i][k] + j.own[t][uneven][i][k]))
				for bed := range beds {
					do(t, i, k, bed, even, w[bed][i][k]*(1-goesWrong[bed])*e)
					do(t, i, k, bed, uneven, w[bed][i][k]*goesWrong[bed]*u)
				}
			}
		}
	}
}

// chances returns the posterior probabilities of the causes.
func (j *judgement) chances() chances {
	var sums [8]float64 // by place of the cause in the table; faults of taste come first
	total := 0.0
	j.each(1, func(_, i, k, bed, cup int, w float64) {
		total += w
		dy, ds := j.at.yield-yieldAt(i), j.at.strength-strengthAt(k)
		place := chancePlace
		switch {
		case cup == even, !j.bedSeen && math.Hypot(dy, 10*ds) > farOff: // an even bed would not save it
			place = placeOf(fault(dy, ds))
		case bed == uneven:
			place = unevenPlace
		}
		sums[place] += w
	})
	rest := j.rest()
	out := make(chances, len(causes))
	for i, c := range causes {
		out[i] = j.odds[c.Cause] * rest
		if i < len(sums) {
			out[i] += sums[i] / total * rest
		}
	}
	return out
}

// farOff is the distance from the aim from which on an uneven bed is not the main cause, in points of yield or 0.1 % of strength.
const farOff = 2

var unevenPlace, chancePlace = placeOf(Uneven), placeOf(Chance)

// learned returns the aim after the cup, and the probability that its bed was uneven. A stale, papery or clogged cup has less weight.
func (j *judgement) learned() (out *aim, bed float64) {
	out = new(aim)
	var cups [2]float64
	j.each(j.rest(), func(t, i, k, bed, cup int, w float64) {
		out.weight[t][bed][i][k] += w
		cups[cup] += w
	})
	out.normalise()
	return out, cups[uneven] / (cups[even] + cups[uneven])
}
