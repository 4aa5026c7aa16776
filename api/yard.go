package api

import (
	"net/url"

	"yardbloom/core/coffee"
	"yardbloom/store"
)

// A Ref names another record.
type Ref struct {
	ID   string `json:"id"`
	Name string `json:"name"`
}

// Yard describes the yard.
type Yard struct {
	AltitudeM  int     `json:"altitude_m"`
	BoilingC   float64 `json:"boiling_c"`
	People     []Ref   `json:"people"`
	Learned    int     `json:"measured_brews" doc:"Brews that the predictions are based on."`
	Demo       bool    `json:"demo" doc:"All data are made up."`
	APIVersion int     `json:"api_version"`
}

// Bag is a bag of coffee with its stock.
type Bag struct {
	ID        string  `json:"id"`
	Name      string  `json:"name"`
	Roaster   string  `json:"roaster,omitempty"`
	Process   string  `json:"process"`
	Roast     string  `json:"roast" enum:"unknown roast,light,medium-light,medium,medium-dark,dark"`
	Variety   string  `json:"variety,omitempty"`
	AltitudeM int     `json:"altitude_m,omitempty"`
	DensityGL float64 `json:"density_g_l,omitempty"`
	RoastedOn string  `json:"roasted_on,omitempty" doc:"A day, YYYY-MM-DD."`
	OpenedOn  string  `json:"opened_on,omitempty"`
	FrozenOn  string  `json:"frozen_on,omitempty"`
	Freshness string  `json:"freshness"`
	WeightG   float64 `json:"weight_g" doc:"When full."`
	LeftG     float64 `json:"left_g"`
	Brews     int     `json:"brews"`
	BrewsLeft int     `json:"brews_left"`
	Price     float64 `json:"price,omitempty"`
	Currency  string  `json:"currency,omitempty"`
	Notes     string  `json:"notes,omitempty"`
	FromS     float64 `json:"drawdown_from_s,omitempty"`
	ToS       float64 `json:"drawdown_to_s,omitempty"`
}

// Bags is a page of the shelf.
type Bags struct {
	Items []Bag  `json:"items"`
	Next  string `json:"next,omitempty" doc:"The cursor of the next page; missing on the last one."`
}

// Gear lists the brewers, grinders, kettles and waters of the yard.
type Gear struct {
	Brewers  []Brewer  `json:"brewers"`
	Grinders []Grinder `json:"grinders"`
	Kettles  []Kettle  `json:"kettles"`
	Waters   []Water   `json:"waters"`
}

// Brewer is a brewer of the yard.
type Brewer struct {
	Ref
	Kind      string  `json:"kind"`
	Material  string  `json:"material"`
	Filter    string  `json:"filter"`
	HoldsG    float64 `json:"holds_g,omitempty"`
	RetainsGG float64 `json:"retains_g_per_g" doc:"Water that stays in the grounds, per gram of dose."`
}

// Grinder is a grinder of the yard.
type Grinder struct {
	Ref
	Burrs string  `json:"burrs"`
	Dial  string  `json:"dial"`
	LossG float64 `json:"loss_g,omitempty"`
}

// Kettle is a kettle of the yard.
type Kettle struct {
	Ref
	Thermostat bool    `json:"thermostat"`
	HoldsG     float64 `json:"holds_g,omitempty"`
}

// Water is a brew water of the yard.
type Water struct {
	Ref
	HardnessPPM   float64 `json:"hardness_ppm,omitempty" doc:"As CaCO3."`
	AlkalinityPPM float64 `json:"alkalinity_ppm,omitempty" doc:"As CaCO3."`
}

type body[T any] struct{ Body T }

type none struct{}

// ByID names a record in the path.
type ByID struct {
	ID string `path:"id" maxLength:"64"`
}

// PageInput asks for a page of a list.
type PageInput struct {
	After string `query:"after" doc:"The cursor in next of the page before." maxLength:"200"`
	Limit int    `query:"limit" minimum:"1" maximum:"200" default:"50"`
}

func (s *Server) yardOperations() {
	get(s, "/yard", "yard", "The yard", func(c *call, _ *none) (*body[Yard], error) {
		set, err := c.Store.Settings(c, "")
		out := Yard{AltitudeM: set.Altitude, BoilingC: tenth(float64(set.Boiling())), People: []Ref{}, Learned: c.Learned().Brews(),
			Demo: c.Demo, APIVersion: 1}
		for _, p := range set.People() {
			out.People = append(out.People, Ref{p.ID, p.Name})
		}
		return &body[Yard]{out}, err
	})
	get(s, "/bags", "bags", "Bags on the shelf, the latest roast first", func(c *call, in *PageInput) (*body[Bags], error) {
		roasted, id := "", ""
		if in.After != "" {
			cursor, err := url.ParseQuery(in.After)
			if roasted, id = cursor.Get("roasted"), cursor.Get("id"); err != nil || !store.ValidID(id) {
				return nil, store.ErrNotFound
			}
		}
		bags, err := c.Store.Shelf(c, roasted, id, in.Limit+1)
		out := Bags{Items: []Bag{}}
		for i, b := range bags {
			if i == in.Limit {
				last := bags[i-1]
				out.Next = url.Values{"roasted": {last.RoastedOn}, "id": {last.ID}}.Encode()
				break
			}
			out.Items = append(out.Items, bagOf(c, b))
		}
		return &body[Bags]{out}, err
	})
	get(s, "/bags/{id}", "bag", "A bag", func(c *call, in *ByID) (*body[Bag], error) {
		b, err := c.Store.ShelvedBag(c, in.ID)
		if err != nil {
			return nil, err
		}
		return &body[Bag]{bagOf(c, b)}, nil
	})
	get(s, "/gear", "gear", "Brewers, grinders, kettles and waters", func(c *call, _ *none) (*body[Gear], error) {
		out, err := gearOf(c)
		return &body[Gear]{out}, err
	})
}

func bagOf(c *call, b store.Shelved) Bag {
	return Bag{ID: b.ID, Name: b.Name, Roaster: b.Roaster, Process: string(b.Process), Roast: b.Roast.String(), Variety: b.Variety, AltitudeM: b.Altitude,
		DensityGL: b.Density, RoastedOn: b.RoastedOn, OpenedOn: b.OpenedOn, FrozenOn: b.FrozenOn, Freshness: string(b.Freshness(c.Now())),
		WeightG: tenth(float64(b.Weight)), LeftG: tenth(float64(b.Left())), Brews: b.Brews, BrewsLeft: b.BrewsLeft(),
		Price: float64(b.Price) / coffee.MinorPerMajor, Currency: b.Currency, Notes: b.Notes, FromS: float64(b.From), ToS: float64(b.To)}
}

func gearOf(c *call) (Gear, error) {
	out := Gear{[]Brewer{}, []Grinder{}, []Kettle{}, []Water{}}
	brewers, err := c.Store.Brewers(c)
	if err != nil {
		return out, err
	}
	grinders, err := c.Store.Grinders(c)
	if err != nil {
		return out, err
	}
	kettles, err := c.Store.Kettles(c)
	if err != nil {
		return out, err
	}
	waters, err := c.Store.Waters(c)
	for _, b := range brewers {
		out.Brewers = append(out.Brewers, Brewer{Ref{b.ID, b.Name}, string(b.Kind), string(b.Material), string(b.Filter), tenth(float64(b.Holds)),
			hundredth(b.Retained)})
	}
	for _, g := range grinders {
		out.Grinders = append(out.Grinders, Grinder{Ref{g.ID, g.Name}, string(g.Burrs), string(g.Kind), tenth(float64(g.Loss))})
	}
	for _, k := range kettles {
		out.Kettles = append(out.Kettles, Kettle{Ref{k.ID, k.Name}, k.Thermostat, tenth(float64(k.Capacity))})
	}
	for _, w := range waters {
		hardness, _ := w.Hardness()
		alkalinity, _ := w.Alkalinity()
		out.Waters = append(out.Waters, Water{Ref{w.ID, w.Name}, tenth(hardness), tenth(alkalinity)})
	}
	return out, err
}
