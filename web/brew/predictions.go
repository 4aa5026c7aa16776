package brew

import (
	"reflect"
	"sync"

	"yardbloom/core/forecast"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// predictions holds the latest prediction of each brew that is being poured, so that screens in other units and
// of other people do not run the model again. It is safe for concurrent use.
type predictions struct {
	mu sync.Mutex
	of map[string]*prediction // by id of the brew
}

// prediction is the answer to a question about a brew.
type prediction struct {
	mu       sync.Mutex
	question forecast.Question
	forecast forecast.Forecast
	err      error
}

// maxPredictions bounds the number of predictions that are kept.
const maxPredictions = 24

// run returns the prediction without errors for a question about a brew. The result is shared: it must not be
// changed.
func (p *predictions) run(brewID string, q forecast.Question) (*forecast.Forecast, error) {
	q.Prefs, q.Habits = units.Prefs{}, recipe.Habits{} // they change words, not the prediction
	one := p.entry(brewID)
	one.mu.Lock()
	defer one.mu.Unlock()
	if !reflect.DeepEqual(one.question, q) {
		one.question, one.forecast = q, forecast.Forecast{}
		one.err = one.forecast.Run(q)
	}
	f := one.forecast
	return &f, one.err
}

func (p *predictions) entry(brewID string) *prediction {
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.of[brewID] == nil {
		if p.of == nil || len(p.of) >= maxPredictions {
			p.of = map[string]*prediction{}
		}
		p.of[brewID] = &prediction{}
	}
	return p.of[brewID]
}
