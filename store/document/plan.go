package document

import (
	"yardbloom/core/coffee"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// Plan is the stored form of a recipe.Plan.
type Plan struct {
	V      int     `json:"v"`
	Steps  []Step  `json:"steps"`
	Finish float64 `json:"finish_s"`
	From   float64 `json:"window_from_s,omitempty"`
	To     float64 `json:"window_to_s,omitempty"`
}

// Step is the stored form of a recipe.Step.
type Step struct {
	Act         string  `json:"act"`
	Bloom       bool    `json:"bloom,omitempty"`
	Start       float64 `json:"start_s"`
	Lasts       float64 `json:"lasts_s"`
	Water       float64 `json:"water_g,omitempty"`
	Total       float64 `json:"total_g"`
	Rate        float64 `json:"rate_g_s,omitempty"`
	Height      string  `json:"height,omitempty"`
	Pattern     string  `json:"pattern,omitempty"`
	Then        string  `json:"then,omitempty"`
	WhenDrained bool    `json:"when_drained,omitempty"`
	ToDrips     bool    `json:"to_drips,omitempty"` // with WhenDrained: when the stream has turned to drips
	Temperature float64 `json:"temperature_c"`
	Level       float64 `json:"level,omitempty"`
	Second      bool    `json:"second,omitempty"` // from the second kettle
}

// OfPlan returns the document of a plan.
func OfPlan(p recipe.Plan) Plan {
	d := Plan{V: Version, Finish: float64(p.Finish), From: float64(p.Window.From), To: float64(p.Window.To),
		Steps: make([]Step, len(p.Steps))}
	for i, s := range p.Steps {
		d.Steps[i] = Step{Act: string(s.Act), Bloom: s.Bloom, Start: float64(s.Start), Lasts: float64(s.Lasts), Water: float64(s.Water),
			Total: float64(s.Total), Rate: s.Rate,
			Pattern: string(s.Pattern), Then: string(s.Then), WhenDrained: s.Cue.ByEye(), ToDrips: s.Cue == recipe.ForDrips,
			Temperature: float64(s.Temperature), Level: s.Level, Second: s.Second}
		if s.Act == recipe.PourWater {
			d.Steps[i].Height = s.Height.String()
		}
	}
	return d
}

// Core returns the plan of a document.
func (d Plan) Core() recipe.Plan {
	p := recipe.Plan{Finish: units.Seconds(d.Finish), Window: coffee.Window{From: units.Seconds(d.From), To: units.Seconds(d.To)}}
	for _, s := range d.Steps {
		step := recipe.Step{Act: recipe.Act(s.Act), Bloom: s.Bloom, Start: units.Seconds(s.Start), Lasts: units.Seconds(s.Lasts),
			Water: units.Grams(s.Water), Total: units.Grams(s.Total),
			Rate: s.Rate, Pattern: recipe.Pattern(s.Pattern), Then: recipe.HandAction(s.Then), Cue: cue(s.WhenDrained, s.ToDrips),
			Temperature: units.Celsius(s.Temperature), Level: s.Level, Second: s.Second}
		if step.Act == recipe.PourWater {
			step.Height = height(s.Height)
		}
		p.Steps = append(p.Steps, step)
	}
	return p
}
