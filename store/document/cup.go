package document

import (
	"yardbloom/core/cup"
	"yardbloom/core/forecast"
	"yardbloom/core/units"
)

// Cup is the stored form of a cup.Cup.
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
	Better   string         `json:"than_last,omitempty"`
	ServedTo string         `json:"served_to,omitempty"`
	// Missing in documents from before cups were tasted by stages.
	Dose     float64           `json:"dose_g,omitempty"`
	Water    float64           `json:"water_g,omitempty"`
	Grind    float64           `json:"grind_um,omitempty"`
	Carafe   float64           `json:"carafe_g,omitempty"`
	Readings []float64         `json:"tds_readings_percent,omitempty"`
	Spots    map[string]string `json:"bed_spots,omitempty"`
	Seen     []string          `json:"seen,omitempty"`
	Likes    map[string]int    `json:"likes,omitempty"`
	Sips     map[string]Sip    `json:"stages,omitempty"`
	Flavours []string          `json:"flavours,omitempty"`
	Wants    []string          `json:"wants,omitempty"`
	BadPour  bool              `json:"bad_pour,omitempty"`
	NotDone  bool              `json:"not_done,omitempty"`
	// Missing in documents written before simulated devices were recorded.
	Simulated bool `json:"simulated,omitempty"`
}

// Sip is the stored form of a cup.Sip.
type Sip struct {
	Steps map[string]int `json:"steps,omitempty"`
	Likes map[string]int `json:"likes,omitempty"`
	Notes []string       `json:"flavours,omitempty"`
}

// OfCup returns the document of a cup.
func OfCup(c cup.Cup) Cup {
	d := Cup{V: Version, Beverage: float64(c.Beverage), TDS: c.TDS, Drawdown: float64(c.Drawdown), Bed: string(c.Bed), Overall: c.Overall,
		Serve: c.Serve, Notes: c.Notes, Better: string(c.Better), ServedTo: c.ServedTo}
	d.Dose, d.Water, d.Grind = float64(c.Dose), float64(c.Water), float64(c.Grind)
	d.Carafe, d.Readings = float64(c.Carafe), c.Readings
	d.Steps, d.Likes = numbers(c.Steps), numbers(c.Likes)
	for stage, sip := range c.Sips {
		if d.Sips == nil {
			d.Sips = map[string]Sip{}
		}
		d.Sips[string(stage)] = Sip{numbers(sip.Steps), numbers(sip.Likes), sip.Flavours}
	}
	for place, look := range c.Spots {
		if d.Spots == nil {
			d.Spots = map[string]string{}
		}
		d.Spots[string(place)] = string(look)
	}
	for _, seen := range cup.Sights() {
		if c.Sights[seen] {
			d.Seen = append(d.Seen, string(seen))
		}
	}
	for _, want := range cup.Wants() {
		if c.Wants[want] {
			d.Wants = append(d.Wants, string(want))
		}
	}
	d.Flavours, d.BadPour, d.NotDone, d.Simulated = c.Flavours, c.BadPour, c.SkippedChange, c.Simulated
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
		Taste: cup.Taste{Overall: d.Overall, Serve: d.Serve, Notes: d.Notes, Better: cup.Than(d.Better),
			Steps: map[cup.Sense]int{}, Faults: map[cup.Fault]bool{}}}
	c.Dose, c.Water, c.Grind = units.Grams(d.Dose), units.Grams(d.Water), units.Micrometres(d.Grind)
	c.Carafe, c.Readings = units.Grams(d.Carafe), d.Readings
	c.Steps, c.Likes = steps(d.Steps), likes(d.Likes)
	for stage, sip := range d.Sips {
		if c.Sips == nil {
			c.Sips = map[cup.Stage]cup.Sip{}
		}
		c.Sips[cup.Stage(stage)] = cup.Sip{Steps: steps(sip.Steps), Likes: likes(sip.Likes), Flavours: sip.Notes}
	}
	for place, look := range d.Spots {
		if c.Spots == nil {
			c.Spots = map[cup.Place]cup.Look{}
		}
		c.Spots[cup.Place(place)] = cup.Look(look)
	}
	for _, seen := range d.Seen {
		if c.Sights == nil {
			c.Sights = map[cup.Sight]bool{}
		}
		c.Sights[cup.Sight(seen)] = true
	}
	for _, want := range d.Wants {
		if c.Wants == nil {
			c.Wants = map[cup.Want]bool{}
		}
		c.Wants[cup.Want(want)] = true
	}
	c.ServedTo = d.ServedTo
	c.Flavours, c.BadPour, c.SkippedChange, c.Simulated = d.Flavours, d.BadPour, d.NotDone, d.Simulated
	for _, f := range d.Faults {
		c.Faults[cup.Fault(f)] = true
	}
	return c
}

// numbers converts steps or likes to plain names; nil for none.
func numbers[K ~string, V ~int](of map[K]V) map[string]int {
	if len(of) == 0 {
		return nil
	}
	out := map[string]int{}
	for k, v := range of {
		out[string(k)] = int(v)
	}
	return out
}

func steps(of map[string]int) map[cup.Sense]int {
	out := map[cup.Sense]int{}
	for k, v := range of {
		out[cup.Sense(k)] = v
	}
	return out
}

// likes returns nil for an empty map.
func likes(of map[string]int) map[cup.Sense]cup.Like {
	if len(of) == 0 {
		return nil
	}
	out := map[cup.Sense]cup.Like{}
	for k, v := range of {
		out[cup.Sense(k)] = cup.Like(v)
	}
	return out
}

// Forecast is the stored form of forecast.Figures.
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
	return &Forecast{Version, float64(f.Drawdown), float64(f.DrawdownError), f.Drained, float64(f.Beverage), float64(f.BeverageError),
		f.Strength.Value, f.Strength.Error, f.Yield.Value, f.Yield.Error}
}

// Core returns the forecast of a document, or nil for none.
func (d *Forecast) Core() *forecast.Figures {
	if d == nil {
		return nil
	}
	return &forecast.Figures{Drawdown: units.Seconds(d.Drawdown), DrawdownError: units.Seconds(d.DrawdownError), Drained: d.Drained,
		Beverage: units.Grams(d.Beverage), BeverageError: units.Grams(d.BeverageError),
		Strength: cup.Figure{Value: d.TDS, Error: d.TDSError}, Yield: cup.Figure{Value: d.EY, Error: d.EYError}}
}
