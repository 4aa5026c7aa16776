package brew

import "errors"

// ErrPlan is returned for a revision that is not of the brew's plan.
var ErrPlan = errors.New("a revised plan has more or fewer steps than the plan")

// Valid returns an error for a brew that no screen can show: a recipe that cannot be poured, or a plan of it or of a revision that
// cannot be followed.
func (b Brew) Valid() error {
	if err := b.Recipe.Valid(); err != nil {
		return err
	}
	if err := b.Plan.Valid(); err != nil {
		return err
	}
	for _, e := range b.Events {
		if e.Plan == nil {
			continue
		}
		if err := e.Plan.Valid(); err != nil {
			return err
		}
		if len(e.Plan.Steps) != len(b.Plan.Steps) {
			return ErrPlan
		}
	}
	return nil
}
