package yard

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"sync"
	"time"

	"yardbloom/core/forecast"
	"yardbloom/core/rush"
)

// StageTopic returns the topic of the hub under which changes of a presentation are notified.
func StageTopic(scriptID string) string { return "stage " + scriptID }

// PlanCups plans the cups of a presentation: the order for one cup of a recipe and the plan for
// all. A recipe outside the model's ranges is an ErrUnplannable; other errors are those of
// rush.Make and of the store.
func (y *Yard) PlanCups(ctx context.Context, recipeID string, cups int) (rush.Order, rush.Plan, error) {
	d, _, err := y.Store.Draft(ctx, recipeID)
	if err != nil {
		return rush.Order{}, rush.Plan{}, err
	}
	y.completeSheet(ctx, &d.Sheet, d.By)
	made, err := y.plans.get(d.Name, d.Question(y.Now()), cups)
	return made.order, made.plan, err
}

// A cupsPlan holds the order for one cup of a presentation and the plan for all cups. It is
// shared and must not be modified.
type cupsPlan struct {
	order rush.Order
	plan  rush.Plan
}

// cupsPlans caches plans by their inputs, because every event of every open screen needs one. It
// is safe for concurrent use.
type cupsPlans struct {
	mu   sync.Mutex
	kept map[[sha256.Size]byte]func() (cupsPlan, error)
	made int // plans calculated, for tests
}

// maxPlans is the number of cached plans at which all are dropped.
const maxPlans = 32

// get returns the plan for a number of cups. The key covers everything that the plan depends on:
// name, recipe, gear, coffee, beliefs, units and the day.
func (p *cupsPlans) get(name string, q forecast.Question, cups int) (cupsPlan, error) {
	q.Now = q.Now.Truncate(24 * time.Hour)
	inputs, err := json.Marshal(struct {
		Name     string
		Cups     int
		Question forecast.Question
	}{name, cups, q})
	if err != nil {
		return cupsPlan{}, fmt.Errorf("inputs of a plan: %w", err)
	}
	key := sha256.Sum256(inputs)
	p.mu.Lock()
	plan, kept := p.kept[key]
	if !kept {
		if p.kept == nil || len(p.kept) >= maxPlans {
			p.kept = map[[sha256.Size]byte]func() (cupsPlan, error){}
		}
		plan = sync.OnceValues(func() (cupsPlan, error) { return planCups(name, q, cups) })
		p.kept[key] = plan
		p.made++
	}
	p.mu.Unlock()
	return plan()
}

// planCups plans cups of one recipe, each in its own brewer.
func planCups(name string, q forecast.Question, cups int) (cupsPlan, error) {
	o, err := rush.OrderOf(name, q)
	if err != nil {
		return cupsPlan{}, ErrUnplannable
	}
	plan, err := rush.MakeCups(o, cups)
	return cupsPlan{o, plan}, err
}
