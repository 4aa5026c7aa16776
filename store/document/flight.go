package document

import (
	"yardbloom/core/flight"
)

// Flight is the stored form of a flight.Flight.
type Flight struct {
	V        int                `json:"v"`
	Name     string             `json:"name"`
	Kind     string             `json:"kind"`
	Blind    bool               `json:"blind"`
	Seed     uint64             `json:"seed"`
	Cups     []FlightCup        `json:"cups"`
	Order    []int              `json:"order"`
	Tastings map[string]Tasting `json:"tastings,omitempty"` // by heat
	Rounds   []Round            `json:"rounds,omitempty"`
	Revealed bool               `json:"revealed,omitempty"`
}

// FlightCup is the stored form of a flight.Cup.
type FlightCup struct {
	Name string `json:"name"`
	Brew string `json:"brew,omitempty"`
	Code string `json:"code,omitempty"`
}

// Tasting is the stored form of a flight.Tasting.
type Tasting struct {
	By       string   `json:"by,omitempty"`
	Places   []int    `json:"places"`
	Comments []string `json:"comments,omitempty"`
}

// Round is the stored form of a flight.Round.
type Round struct {
	Codes  [3]string `json:"codes"`
	Cups   [3]int    `json:"cups"`
	Picked string    `json:"picked,omitempty"`
}

// OfFlight returns the document of a flight.
func OfFlight(f flight.Flight) Flight {
	d := Flight{V: Version, Name: f.Name, Kind: string(f.Kind), Blind: f.Blind, Seed: f.Seed, Order: f.Order, Revealed: f.Revealed}
	for _, c := range f.Cups {
		d.Cups = append(d.Cups, FlightCup(c))
	}
	for heat, t := range f.Tastings {
		if d.Tastings == nil {
			d.Tastings = map[string]Tasting{}
		}
		d.Tastings[string(heat)] = Tasting(t)
	}
	for _, r := range f.Rounds {
		d.Rounds = append(d.Rounds, Round(r))
	}
	return d
}

// Core returns the flight of a document.
func (d Flight) Core() flight.Flight {
	f := flight.Flight{Name: d.Name, Kind: flight.Kind(d.Kind), Blind: d.Blind, Seed: d.Seed, Order: d.Order, Revealed: d.Revealed,
		Tastings: map[flight.Heat]flight.Tasting{}}
	for _, c := range d.Cups {
		f.Cups = append(f.Cups, flight.Cup(c))
	}
	for heat, t := range d.Tastings {
		f.Tastings[flight.Heat(heat)] = flight.Tasting(t)
	}
	for _, r := range d.Rounds {
		f.Rounds = append(f.Rounds, flight.Round(r))
	}
	return f
}
