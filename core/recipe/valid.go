package recipe

import (
	"errors"
	"math"
)

// The errors of a recipe or a plan that cannot be poured.
var (
	ErrNoPours = errors.New("it has no pours")
	ErrPour    = errors.New("a pour has no water, no rate, or comes before the one before it")
)

// maxPours is the largest number of pours of a recipe: those after the bloom, and room for a bloom that was split.
const maxPours = 40

// Valid returns an error for a recipe that cannot be poured: it is empty, or a pour of it is. Unusual values are warnings of Check.
func (r Recipe) Valid() error {
	if len(r.Pours) == 0 || len(r.Pours) > maxPours || !(r.Dose > 0) {
		return ErrNoPours
	}
	for i, p := range r.Pours {
		if !(p.Water >= 0) || !(p.Rate > 0) || math.IsInf(p.Rate, 0) || i > 0 && p.Start < r.Pours[i-1].Start {
			return ErrPour
		}
	}
	return nil
}

// Valid returns an error for a plan that cannot be followed.
func (p Plan) Valid() error {
	if len(p.Steps) == 0 {
		return ErrNoPours
	}
	for _, s := range p.Steps {
		isPour := s.Act == PourWater
		if !isPour && s.Act != BreakCrust && s.Act != OpenValve || isPour && !(s.Rate > 0) || !(s.Lasts >= 0) {
			return ErrPour
		}
	}
	return nil
}
