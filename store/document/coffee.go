package document

import (
	"yardbloom/core/coffee"
	"yardbloom/core/units"
)

// Bag is the stored form of a coffee.Bag at the start of a brew.
type Bag struct {
	V         int     `json:"v"`
	ID        string  `json:"id"`
	Name      string  `json:"name"`
	Roaster   string  `json:"roaster"`
	Process   string  `json:"process"`
	Roast     int     `json:"roast"`
	Altitude  int     `json:"altitude_m,omitempty"`
	RoastedOn string  `json:"roasted_on"`
	OpenedOn  string  `json:"opened_on"`
	Weight    float64 `json:"weight_g"`
	Price     int64   `json:"price,omitempty"`
	Currency  string  `json:"currency,omitempty"`
	Notes     string  `json:"notes,omitempty"`
	From      float64 `json:"window_from_s,omitempty"`
	To        float64 `json:"window_to_s,omitempty"`
	Variety   string  `json:"variety,omitempty"`
	Density   float64 `json:"density_g_l,omitempty"`
	WhenFast  string  `json:"when_fast,omitempty"`
	WhenSlow  string  `json:"when_slow,omitempty"`
	FrozenOn  string  `json:"frozen_on,omitempty"`
	Frozen    int     `json:"frozen_days,omitempty"`
	Origin    string  `json:"origin,omitempty"`
}

// OfBag returns the document of a bag.
func OfBag(b coffee.Bag) Bag {
	return Bag{Version, b.ID, b.Name, b.Roaster, string(b.Process), int(b.Roast), b.Altitude, b.RoastedOn, b.OpenedOn, float64(b.Weight),
		b.Price, b.Currency, b.Notes, float64(b.From), float64(b.To),
		b.Variety, b.Density, b.WhenFast, b.WhenSlow, b.FrozenOn, b.FrozenDays, b.Origin}
}

// Core returns the bag of a document.
func (d Bag) Core() coffee.Bag {
	return coffee.Bag{ID: d.ID, Name: d.Name, Roaster: d.Roaster, Process: coffee.Process(d.Process), Roast: coffee.Roast(d.Roast),
		Altitude: d.Altitude, RoastedOn: d.RoastedOn, OpenedOn: d.OpenedOn,
		Weight: units.Grams(d.Weight), Price: d.Price, Currency: d.Currency, Notes: d.Notes,
		Window:  coffee.Window{From: units.Seconds(d.From), To: units.Seconds(d.To)},
		Variety: d.Variety, Density: d.Density, WhenFast: d.WhenFast, WhenSlow: d.WhenSlow, FrozenOn: d.FrozenOn, FrozenDays: d.Frozen,
		Origin: d.Origin}
}
