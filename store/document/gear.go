package document

import (
	"yardbloom/core/gear"
	"yardbloom/core/units"
	"yardbloom/core/water"
)

// Gear is the stored form of a gear.Set.
type Gear struct {
	V       int     `json:"v"`
	Brewer  Brewer  `json:"brewer"`
	Grinder Grinder `json:"grinder"`
	Kettle  Kettle  `json:"kettle"`
	Second  *Kettle `json:"second_kettle,omitempty"`
	Water   *Water  `json:"water,omitempty"`
	Boiling float64 `json:"boiling_c"`
}

// Brewer is the stored form of a gear.Brewer.
type Brewer struct {
	ID       string  `json:"id"`
	Name     string  `json:"name"`
	Kind     string  `json:"kind"`
	Material string  `json:"material"`
	Filter   string  `json:"filter"`
	Holds    float64 `json:"holds_g"`
	Retained float64 `json:"retained_g_g"`
	Ribs     string  `json:"ribs,omitempty"`
	Outlets  string  `json:"outlets,omitempty"`
}

// Grinder is the stored form of a gear.Grinder.
type Grinder struct {
	ID      string  `json:"id"`
	Name    string  `json:"name"`
	Burrs   string  `json:"burrs"`
	Dial    string  `json:"dial"`
	Zero    float64 `json:"zero_um"`
	Step    float64 `json:"step_um"`
	Mark    float64 `json:"mark,omitempty"`
	PerTurn int     `json:"per_turn,omitempty"`
	Loss    float64 `json:"loss_g"`
	Zeroed  int     `json:"zeroed,omitempty"`
}

// Water is the stored form of a water.Water, mg/l.
type Water struct {
	ID          string  `json:"id"`
	Name        string  `json:"name"`
	Source      string  `json:"source"`
	Hardness    float64 `json:"hardness_caco3,omitempty"`
	Alkalinity  float64 `json:"alkalinity_caco3,omitempty"`
	Calcium     float64 `json:"calcium,omitempty"`
	Magnesium   float64 `json:"magnesium,omitempty"`
	Bicarbonate float64 `json:"bicarbonate,omitempty"`
	Known       bool    `json:"known,omitempty"`
}

// OfWater returns the document of a water, or nil for none.
func OfWater(w water.Water) *Water {
	if w == (water.Water{}) {
		return nil
	}
	return &Water{w.ID, w.Name, string(w.Source), w.TypedHardness, w.TypedAlkalinity, w.Calcium, w.Magnesium, w.Bicarbonate, w.Known}
}

// Core returns the water of a document, or none.
func (d *Water) Core() water.Water {
	if d == nil {
		return water.Water{}
	}
	return water.Water{ID: d.ID, Name: d.Name, Source: water.Source(d.Source), TypedHardness: d.Hardness, TypedAlkalinity: d.Alkalinity,
		Calcium: d.Calcium, Magnesium: d.Magnesium, Bicarbonate: d.Bicarbonate, Known: d.Known}
}

// Kettle is the stored form of a gear.Kettle.
type Kettle struct {
	ID         string    `json:"id"`
	Name       string    `json:"name"`
	Thermostat bool      `json:"thermostat"`
	Capacity   float64   `json:"capacity_g"`
	Spout      float64   `json:"spout_g_s,omitempty"`
	Readings   *Readings `json:"readings,omitempty"`
}

// Readings is the stored form of gear.CoolingReadings.
type Readings struct {
	Water  float64 `json:"water_g"`
	First  float64 `json:"first_c"`
	Second float64 `json:"second_c"`
	Apart  float64 `json:"apart_s"`
}

// OfGear returns the document of a set of gear.
func OfGear(g gear.Set) Gear {
	d := Gear{V: Version, Boiling: float64(g.Boiling), Water: OfWater(g.Water), Brewer: ofBrewer(g.Brewer), Grinder: ofGrinder(g.Grinder),
		Kettle: ofKettle(g.Kettle)}
	if g.Second.ID != "" {
		second := ofKettle(g.Second)
		d.Second = &second
	}
	return d
}

func ofBrewer(b gear.Brewer) Brewer {
	return Brewer{b.ID, b.Name, string(b.Kind), string(b.Material), string(b.Filter), float64(b.Holds), b.Retained,
		string(b.Ribs), string(b.Outlets)}
}

func (b Brewer) core() gear.Brewer {
	return gear.Brewer{ID: b.ID, Name: b.Name, Kind: gear.BrewerKind(b.Kind), Material: gear.Material(b.Material),
		Filter: gear.FilterKind(b.Filter), Holds: units.Grams(b.Holds), Retained: b.Retained,
		Ribs: gear.Ribs(b.Ribs), Outlets: gear.Outlets(b.Outlets)}
}

func ofGrinder(m gear.Grinder) Grinder {
	return Grinder{m.ID, m.Name, string(m.Burrs), string(m.Kind), float64(m.Zero), float64(m.Step), m.Mark, m.PerTurn,
		float64(m.Loss), m.Zeroed}
}

func (m Grinder) core() gear.Grinder {
	return gear.Grinder{ID: m.ID, Name: m.Name, Burrs: gear.Burrs(m.Burrs), Loss: units.Grams(m.Loss), Zeroed: m.Zeroed,
		Dial: gear.Dial{Kind: gear.DialKind(m.Dial), Zero: units.Micrometres(m.Zero), Step: units.Micrometres(m.Step), Mark: m.Mark,
			PerTurn: m.PerTurn}}
}

func ofKettle(k gear.Kettle) Kettle {
	d := Kettle{ID: k.ID, Name: k.Name, Thermostat: k.Thermostat, Capacity: float64(k.Capacity), Spout: k.Spout}
	if r := k.CoolingReadings; r != (gear.CoolingReadings{}) {
		d.Readings = &Readings{float64(r.Water), float64(r.First), float64(r.Second), float64(r.Apart)}
	}
	return d
}

func (d Kettle) core() gear.Kettle {
	k := gear.Kettle{ID: d.ID, Name: d.Name, Thermostat: d.Thermostat, Capacity: units.Grams(d.Capacity), Spout: d.Spout}
	if r := d.Readings; r != nil {
		k.CoolingReadings = gear.CoolingReadings{Water: units.Grams(r.Water), First: units.Celsius(r.First), Second: units.Celsius(r.Second),
			Apart: units.Seconds(r.Apart)}
	}
	return k
}

// Core returns the set of gear of a document.
func (d Gear) Core() gear.Set {
	g := gear.Set{Boiling: units.Celsius(d.Boiling), Water: d.Water.Core(), Brewer: d.Brewer.core(), Grinder: d.Grinder.core(),
		Kettle: d.Kettle.core()}
	if d.Second != nil {
		g.Second = d.Second.core()
	}
	return g
}

// IDs is the stored form of gear.IDs.
type IDs struct {
	Brewer  string `json:"brewer"`
	Grinder string `json:"grinder"`
	Kettle  string `json:"kettle"`
	Water   string `json:"water,omitempty"`
	Second  string `json:"second,omitempty"`
}
