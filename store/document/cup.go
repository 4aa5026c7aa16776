package document

import (
	"maps"

	"yardbloom/core/cup"
	"yardbloom/core/forecast"
	"yardbloom/core/units"
)

// Cup is a cup.Cup on disk.
type Cup struct {
	V        int            `json:"v"`
	Beverage float64        `json:"beverage_g,omitempty"`
	TDS      float64        `json:"tds_percent,omitempty"`
	Drawdown float64        `json:"drawdown_s,omitempty"`
	Bed      string         `json:"bed,omitempty"`
	Steps    map[string]int `json:"steps,omitempty"`
	Faults   []string       `json:"faults,omitempty"`
	Overall  int            `json:"overall,omitempty"`
	Serve    string         `json:"serve,omitempty"`
	Notes    string         `json:"notes,omitempty"`
}

// OfCup returns the document of a cup.
func OfCup(c cup.Cup) Cup {
	d := Cup{V: Version, Beverage: float64(c.Beverage), TDS: c.TDS, Drawdown: float64(c.Drawdown), Bed: string(c.Bed), Overall: c.Overall, Serve: c.Serve, Notes: c.Notes}
	for sense, step := range c.Steps {
		if d.Steps == nil {
			d.Steps = map[string]int{}
		}
		d.Steps[string(sense)] = step
	}
	for _, f := range cup.Faults() {
		if c.Faults[f] {
			d.Faults = append(d.Faults, string(f))
		}
	}
	return d
}

// Core returns the cup of a document.
func (d Cup) Core() cup.Cup {
	c := cup.Cup{Beverage: units.Grams(d.Beverage), TDS: d.TDS, Drawdown: units.Seconds(d.Drawdown), Bed: cup.Bed(d.Bed),
		Taste: cup.Taste{Overall: d.Overall, Serve: d.Serve, Notes: d.Notes, Steps: map[cup.Sense]int{}, Faults: map[cup.Fault]bool{}}}
	for sense, step := range maps.All(d.Steps) {
		c.Steps[cup.Sense(sense)] = step
	}
	for _, f := range d.Faults {
		c.Faults[cup.Fault(f)] = true
	}
	return c
}

// Forecast is a forecast.Figures on disk.
type Forecast struct {
	V             int     `json:"v"`
	Drawdown      float64 `json:"drawdown_s"`
	DrawdownError float64 `json:"drawdown_error_s"`
	Drained       bool    `json:"drained"`
	Beverage      float64 `json:"beverage_g"`
	BeverageError float64 `json:"beverage_error_g"`
	TDS           float64 `json:"tds_percent"`
	TDSError      float64 `json:"tds_error_percent"`
	EY            float64 `json:"ey_percent"`
	EYError       float64 `json:"ey_error_percent"`
}

// OfForecast returns the document of a forecast, or nil for none.
func OfForecast(f *forecast.Figures) *Forecast {
	if f == nil {
		return nil
	}
	return &Forecast{Version, float64(f.Drawdown), float64(f.DrawdownError), f.Drained, float64(f.Beverage), float64(f.BeverageError), f.Strength.Value, f.Strength.Error, f.Yield.Value, f.Yield.Error}
}

// Core returns the forecast of a document, or nil for none.
func (d *Forecast) Core() *forecast.Figures {
	if d == nil {
		return nil
	}
	return &forecast.Figures{Drawdown: units.Seconds(d.Drawdown), DrawdownError: units.Seconds(d.DrawdownError), Drained: d.Drained, Beverage: units.Grams(d.Beverage), BeverageError: units.Grams(d.BeverageError),
		Strength: cup.Figure{Value: d.TDS, Error: d.TDSError}, Yield: cup.Figure{Value: d.EY, Error: d.EYError}}
}
