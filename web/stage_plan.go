package web

import (
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"sync"
	"time"

	"yardbloom/core/forecast"
	"yardbloom/core/rush"
)

// A cupsPlan is how the cups of a presentation are poured: the order for one of them and
// the plan for all. It is shared: nobody changes it.
type cupsPlan struct {
	order rush.Order
	plan  rush.Plan
}

// cupsPlans keeps plans per version of their inputs, for every event of every open screen
// asks for one. It is safe for concurrent use.
type cupsPlans struct {
	mu   sync.Mutex
	kept map[[sha256.Size]byte]func() (cupsPlan, error)
	made int // plans worked out so far, for tests
}

// mostPlans is how many plans are kept before all are dropped.
const mostPlans = 32

// of returns the plan for so many cups of a recipe. What a plan depends on besides is the
// question: gear, coffee, beliefs and the day.
func (p *cupsPlans) of(name string, q forecast.Question, cups int) (cupsPlan, error) {
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
		if p.kept == nil || len(p.kept) >= mostPlans {
			p.kept = map[[sha256.Size]byte]func() (cupsPlan, error){}
		}
		plan = sync.OnceValues(func() (cupsPlan, error) { return planCups(name, q, cups) })
		p.kept[key] = plan
		p.made++
	}
	p.mu.Unlock()
	return plan()
}

// planCups plans cups of one recipe, each in a brewer of its own.
func planCups(name string, q forecast.Question, cups int) (cupsPlan, error) {
	o, err := rush.OrderOf(name, q)
	if err != nil {
		return cupsPlan{}, err
	}
	orders := make([]rush.Order, cups)
	for i := range orders {
		orders[i] = o
		orders[i].Brewer = fmt.Sprint(i)
	}
	plan, err := rush.Make(orders, nil, rush.Kettle{})
	return cupsPlan{o, plan}, err
}
