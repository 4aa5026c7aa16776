package exchange

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"time"

	"yardbloom/core/coach"
	"yardbloom/core/coffee"
	"yardbloom/core/cup"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// The format and version of a bag's path that this package reads.
const (
	PathFormat  = "yardbloom-path"
	PathVersion = 1
)

// ErrGap is returned for a path with a missing brew.
var ErrGap = errors.New("a brew is missing before it: they are numbered one by one")

// BagPath is the document of a bag's brews, the oldest first, described by schema/path.v1.schema.json.
type BagPath struct {
	Person struct {
		TurnsFirst    string `json:"turns_first"`
		GoodMark      int    `json:"good_mark"`
		Refractometer bool   `json:"refractometer"`
	} `json:"person"`
	Brews []PathBrew `json:"brews"`
}

// PathBrew is one brew of a path with its recipe and results.
type PathBrew struct {
	N       int             `json:"n"`
	Recipe  json.RawMessage `json:"recipe"`
	BoilsC  float64         `json:"boils_c"`
	WindowS []float64       `json:"window_s"`
	Marks   []cup.Mark      `json:"marks"`
	Waits   int             `json:"waits"`
	Cup     PathCup         `json:"cup"`
}

// PathCup holds the results of a brew.
type PathCup struct {
	DrawdownS  float64              `json:"drawdown_s"`
	DoseG      float64              `json:"dose_g"`
	WaterG     float64              `json:"water_g"`
	BeverageG  float64              `json:"beverage_g"`
	TDSPercent []float64            `json:"tds_percent"`
	Bed        cup.Bed              `json:"bed"`
	Seen       []cup.Sight          `json:"seen"`
	Taste      map[cup.Sense]int    `json:"taste"`
	Likes      map[cup.Sense]string `json:"likes"`
	Faults     []cup.Fault          `json:"faults"`
	Mark       int                  `json:"mark"`
	WouldServe string               `json:"would_serve"`
	Wants      []cup.Want           `json:"wants"`
	BadPour    bool                 `json:"bad_pour"`
}

// ReadPath reads the path of a bag and returns its last brew, with the earlier ones, as input for the
// coach. The error of an invalid document is a *units.ValueError at the path of the first invalid field.
func ReadPath(r io.Reader) (coach.Case, error) {
	text, err := readHead(r, PathFormat, PathVersion)
	if err != nil {
		return coach.Case{}, err
	}
	text = bytes.ReplaceAll(text, []byte(`"ice was left over"`), fmt.Appendf(nil, "%q", cup.IceLeft)) // as earlier versions had it
	var read map[string]any
	if err := json.Unmarshal(text, &read); err != nil {
		return coach.Case{}, &units.ValueError{At: Path("document"), Err: ErrNotJSON}
	}
	if err := path1.check(read); err != nil {
		return coach.Case{}, err
	}
	var doc BagPath
	if err := json.Unmarshal(text, &doc); err != nil {
		return coach.Case{}, &units.ValueError{At: Path("document"), Err: err}
	}
	who := coach.Person{Good: doc.Person.GoodMark, Measures: doc.Person.Refractometer, Order: recipe.LeverOrder(doc.Person.TurnsFirst)}
	if who.Order == "bed" {
		who.Order = recipe.BedFirst
	}
	var path []coach.Case
	for i, b := range doc.Brews {
		if b.N != i+1 {
			return coach.Case{}, &units.ValueError{At: Path(fmt.Sprintf("brews[%d].n", i)), Err: ErrGap}
		}
		c, err := b.brew(who)
		if err != nil {
			return coach.Case{}, nestedPath(fmt.Sprintf("brews[%d].", i), err)
		}
		path = append(path, c)
	}
	last := path[len(path)-1]
	last.Path = path[:len(path)-1]
	return last, nil
}

// brew returns one brew as input for the coach.
func (b PathBrew) brew(who coach.Person) (coach.Case, error) {
	doc, err := ReadRecipe(bytes.NewReader(b.Recipe))
	if err != nil {
		return coach.Case{}, nestedPath("recipe.", err)
	}
	// The clock only dates the coffee, whose age is in the file: any day will do.
	q := doc.Question(time.Date(2000, 1, 1, 0, 0, 0, 0, time.UTC))
	if b.BoilsC > 0 {
		q.Gear.Boiling = units.Celsius(b.BoilsC)
	}
	q.Recipe = q.Recipe.WithMeasured(units.Grams(b.Cup.DoseG), units.Grams(b.Cup.WaterG))
	c := coach.Case{ID: fmt.Sprint(b.N), Recipe: q.Recipe, Bag: q.Bag, Now: q.Now, Window: q.Recipe.Plan().Window, Gear: q.Gear,
		Marks: b.Marks, Laters: b.Waits, Cup: b.Cup.cup(), Person: who}
	if len(b.WindowS) == 2 {
		c.Window = coffee.Window{From: units.Seconds(b.WindowS[0]), To: units.Seconds(b.WindowS[1])}
		c.Bag.Window = c.Window
	}
	if poured := c.Recipe.Total(); c.Cup.Beverage > poured+5 {
		return c, &units.ValueError{At: Path("cup.beverage_g"), Value: float64(c.Cup.Beverage),
			Range: units.Range{Lo: 20, Hi: float64(poured)}, Err: units.ErrRange}
	}
	return c, nil
}

func (p PathCup) cup() cup.Cup {
	c := cup.Cup{Drawdown: units.Seconds(p.DrawdownS), Beverage: units.Grams(p.BeverageG), Bed: p.Bed, Sights: map[cup.Sight]bool{},
		Wants: map[cup.Want]bool{}, BadPour: p.BadPour,
		Taste: cup.Taste{Steps: p.Taste, Likes: map[cup.Sense]cup.Like{}, Faults: map[cup.Fault]bool{}, Overall: p.Mark,
			Serve: p.WouldServe}}
	c.TDS, _ = cup.Average(p.TDSPercent)
	for _, s := range p.Seen {
		c.Sights[s] = true
	}
	for _, w := range p.Wants {
		c.Wants[w] = true
	}
	for _, f := range p.Faults {
		c.Faults[f] = true
	}
	for sense, said := range p.Likes {
		c.Likes[sense] = map[string]cup.Like{"yes": cup.Liked, "no": cup.Disliked}[said]
	}
	return c
}
