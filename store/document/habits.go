package document

import (
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// Habits is the stored form of recipe.Habits.
type Habits struct {
	V         int     `json:"v"`
	Style     string  `json:"style,omitempty"`
	Bloom     float64 `json:"bloom_g_g,omitempty"`
	BloomTime float64 `json:"bloom_s,omitempty"`
	Hand      string  `json:"hand,omitempty"`
	Pattern   string  `json:"pattern,omitempty"`
	LastHigh  bool    `json:"last_high,omitempty"`
	Rinse     string  `json:"rinse,omitempty"`
	Hotter    float64 `json:"hotter_k,omitempty"`
	Level     bool    `json:"level,omitempty"`
	First     string  `json:"first,omitempty"`
	Good      int     `json:"good,omitempty"`
	Keep      string  `json:"keep,omitempty"`
}

// OfHabits returns the document of habits.
func OfHabits(h recipe.Habits) Habits {
	return Habits{Version, string(h.Style), h.Bloom, float64(h.BloomTime), h.Hand, string(h.Pattern), h.HighLastPour, string(h.Rinse),
		float64(h.TemperatureOffset), h.LevelBed, string(h.First), h.Good, string(h.Keep)}
}

// Core returns the habits of a document.
func (d Habits) Core() recipe.Habits {
	return recipe.Habits{Style: recipe.StyleID(d.Style), Bloom: d.Bloom, BloomTime: units.Seconds(d.BloomTime), Hand: d.Hand,
		Pattern: recipe.Pattern(d.Pattern), HighLastPour: d.LastHigh,
		Rinse: recipe.Rinsing(d.Rinse), TemperatureOffset: units.Celsius(d.Hotter), LevelBed: d.Level, First: recipe.LeverOrder(d.First), Good: d.Good,
		Keep: recipe.Keep(d.Keep)}
}
