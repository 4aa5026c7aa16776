package document

import (
	"time"

	"yardbloom/core/rush"
	"yardbloom/core/units"
)

// Rush is the stored form of a rush.Rush.
type Rush struct {
	V       int       `json:"v"`
	Orders  []Order   `json:"orders"`
	Holds   float64   `json:"kettle_g,omitempty"`
	Fill    float64   `json:"kettle_fill_s,omitempty"`
	Heat    float64   `json:"kettle_heat_s_per_g,omitempty"`
	Filled  float64   `json:"filled_g,omitempty"`
	Started time.Time `json:"started,omitzero"`
	Ended   bool      `json:"ended,omitempty"`
}

// Order is the stored form of an order of a rush.
type Order struct {
	Brew    string  `json:"brew"`
	Name    string  `json:"name"`
	Brewer  string  `json:"brewer"`
	On      string  `json:"brewer_name"`
	Water   float64 `json:"water_g"`
	Drains  float64 `json:"drains_s"`
	Tasks   []Task  `json:"tasks"`
	Planned float64 `json:"planned_s"`
}

// Task is the stored form of a rush.Task.
type Task struct {
	Say     string  `json:"say"`
	Start   float64 `json:"start_s"`
	Lasts   float64 `json:"lasts_s"`
	Stretch float64 `json:"stretch_s,omitempty"`
}

// OfRush returns the document of a rush.
func OfRush(r rush.Rush) Rush {
	d := Rush{V: Version, Holds: float64(r.Kettle.Holds), Fill: float64(r.Kettle.Fill), Heat: r.Kettle.Heat, Filled: float64(r.Filled),
		Started: r.Started, Ended: r.Ended}
	for _, o := range r.Orders {
		x := Order{Brew: o.Brew, Name: o.Name, Brewer: o.Brewer, On: o.BrewerName, Water: float64(o.Water), Drains: float64(o.Drains),
			Planned: float64(o.Planned)}
		for _, t := range o.Tasks {
			x.Tasks = append(x.Tasks, Task{t.Say, float64(t.Start), float64(t.Lasts), float64(t.Stretch)})
		}
		d.Orders = append(d.Orders, x)
	}
	return d
}

// Core returns the rush of a document.
func (d Rush) Core() rush.Rush {
	r := rush.Rush{Started: d.Started, Ended: d.Ended, Filled: units.Grams(d.Filled),
		Kettle: rush.Kettle{Holds: units.Grams(d.Holds), Left: units.Grams(d.Holds), Fill: units.Seconds(d.Fill), Heat: d.Heat}}
	for _, x := range d.Orders {
		o := rush.Ordered{Brew: x.Brew, BrewerName: x.On, Planned: units.Seconds(x.Planned)}
		o.Name, o.Brewer, o.Water, o.Drains = x.Name, x.Brewer, units.Grams(x.Water), units.Seconds(x.Drains)
		for _, t := range x.Tasks {
			o.Tasks = append(o.Tasks, rush.Task{Say: t.Say, Start: units.Seconds(t.Start), Lasts: units.Seconds(t.Lasts),
				Stretch: units.Seconds(t.Stretch)})
		}
		r.Orders = append(r.Orders, o)
	}
	return r
}
