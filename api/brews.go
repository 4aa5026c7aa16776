package api

import (
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humachi"

	"yardbloom/core/coffee"
	"yardbloom/core/cup"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/exchange"
	"yardbloom/exchange/table"
	"yardbloom/store"
)

// BrewItem is a brew in a list.
type BrewItem struct {
	ID          string    `json:"id"`
	StartedAt   time.Time `json:"started_at"`
	Status      string    `json:"status" enum:"running,poured,done,abandoned"`
	Bag         Ref       `json:"bag"`
	BrewedBy    string    `json:"brewed_by,omitempty" doc:"Id of a person."`
	Brewer      string    `json:"brewer"`
	Dial        string    `json:"dial" doc:"The setting of the grinder, on its dial."`
	DoseG       float64   `json:"dose_g"`
	WaterG      float64   `json:"water_g"`
	Temperature float64   `json:"temperature_c"`
	DrawdownS   float64   `json:"drawdown_s,omitempty"`
	TDSPercent  float64   `json:"tds_percent,omitempty"`
	EYPercent   float64   `json:"ey_percent,omitempty"`
	EYError     float64   `json:"ey_standard_error,omitempty"`
	Mark        int       `json:"mark,omitempty" doc:"Of 10, by the first taster."`
	Simulated   bool      `json:"simulated,omitempty" doc:"A simulated device measured a figure."`
}

// Brews is a page of the log.
type Brews struct {
	Items []BrewItem `json:"items"`
	Next  string     `json:"next,omitempty" doc:"The cursor of the next page; missing on the last one."`
}

// Brew is a brew with its recipe, events, cup and tastings.
type Brew struct {
	ID         string                   `json:"id"`
	BagID      string                   `json:"bag_id"`
	ParentID   string                   `json:"parent_id,omitempty" doc:"The brew that it follows."`
	Status     string                   `json:"status" enum:"running,poured,done,abandoned"`
	StartedAt  time.Time                `json:"started_at"`
	EndedAt    *time.Time               `json:"ended_at,omitempty"`
	BrewedBy   string                   `json:"brewed_by,omitempty"`
	MeasuredBy string                   `json:"measured_by,omitempty"`
	Recipe     exchange.Recipe          `json:"recipe"`
	Predicted  *Predicted               `json:"predicted,omitempty" doc:"Before the water was poured."`
	Measured   Measured                 `json:"measured"`
	Tastings   []exchange.PersonTasting `json:"tastings"`
	Events     []Event                  `json:"events"`
	Readings   int                      `json:"readings" doc:"The number of scale readings."`
	Photos     int                      `json:"photos"`
}

// Predicted are figures of the brew model with their standard errors.
type Predicted struct {
	DrawdownS     float64 `json:"drawdown_s"`
	DrawdownError float64 `json:"drawdown_standard_error"`
	BeverageG     float64 `json:"beverage_g"`
	TDSPercent    float64 `json:"tds_percent"`
	TDSError      float64 `json:"tds_standard_error"`
	EYPercent     float64 `json:"ey_percent"`
	EYError       float64 `json:"ey_standard_error"`
}

// Measured are the measurements of a cup.
type Measured struct {
	DoseG      float64 `json:"dose_g"`
	WaterG     float64 `json:"water_g"`
	GrindUM    float64 `json:"grind_um"`
	Dial       string  `json:"dial"`
	DrawdownS  float64 `json:"drawdown_s,omitempty"`
	BeverageG  float64 `json:"beverage_g,omitempty"`
	TDSPercent float64 `json:"tds_percent,omitempty"`
	EYPercent  float64 `json:"ey_percent,omitempty"`
	EYError    float64 `json:"ey_standard_error,omitempty"`
	Bed        string  `json:"bed,omitempty"`
	ServedTo   string  `json:"served_to,omitempty"`
	Simulated  bool    `json:"simulated,omitempty"`
}

// Event is something that happened in a brew.
type Event struct {
	Kind string  `json:"kind"`
	AtS  float64 `json:"at_s" doc:"Since the first water that was stored first."`
	Mark string  `json:"mark,omitempty"`
	G    float64 `json:"g,omitempty"`
	Note string  `json:"note,omitempty"`
	By   string  `json:"by,omitempty"`
}

// Reading is a reading of the scale under a brew.
type Reading struct {
	AtS float64 `json:"at_s"`
	G   float64 `json:"g"`
}

// Readings are the readings of a brew.
type Readings struct {
	Items []Reading `json:"items"`
}

// FilterInput narrows the log as its page does.
type FilterInput struct {
	Words   string `query:"q" maxLength:"200" doc:"Words that all have to occur, the last one as a beginning."`
	Bag     string `query:"bag" maxLength:"64"`
	Brewer  string `query:"brewer" maxLength:"64"`
	Grinder string `query:"grinder" maxLength:"64"`
	Style   string `query:"style" maxLength:"64"`
	Person  string `query:"person" maxLength:"64"`
	From    string `query:"from" format:"date" doc:"The first day."`
	To      string `query:"to" format:"date" doc:"The last day."`
	Low     int    `query:"low" minimum:"0" maximum:"10" doc:"The lowest mark."`
	Top     int    `query:"top" minimum:"0" maximum:"10" doc:"The highest mark."`
	Fault   string `query:"fault" maxLength:"64"`
	Tasted  string `query:"tasted" enum:"yes,no"`
	Traced  bool   `query:"traced" doc:"Only with scale readings."`
	Tried   bool   `query:"tried" doc:"Only runs of trials."`
	Sort    string `query:"sort" enum:"mark,yield,drawdown" doc:"Missing: the latest first. All are descending."`
}

func (in FilterInput) filter(c *call) store.Filter {
	day := func(text string, more int) time.Time {
		at, err := time.ParseInLocation(coffee.Day, text, c.Now().Location())
		if err != nil { // checked by its format
			return time.Time{}
		}
		return at.AddDate(0, 0, more)
	}
	return store.Filter{Words: strings.TrimSpace(in.Words), Bag: in.Bag, Brewer: in.Brewer, Grinder: in.Grinder, Style: recipe.StyleID(in.Style).Current(),
		Person: in.Person, From: day(in.From, 0), To: day(in.To, 1), Lowest: in.Low, Topmost: in.Top, Fault: cup.Fault(in.Fault),
		Tasted: store.Answer(in.Tasted), Traced: in.Traced, Tried: in.Tried, Sort: store.Sort(in.Sort)}
}

type brewsInput struct {
	FilterInput
	PageInput
}

func (s *Server) brewOperations() {
	get(s, "/brews", "brews", "Brews of the log", func(c *call, in *brewsInput) (*body[Brews], error) {
		f := in.filter(c)
		f.Limit = in.Limit + 1
		var err error
		if f.After, err = readCursor(in.After); err != nil {
			return nil, err
		}
		rows, err := c.Store.Log(c, f)
		out := Brews{Items: []BrewItem{}}
		for i, row := range rows {
			if i == in.Limit {
				out.Next = cursor(rows[i-1].Place())
				break
			}
			out.Items = append(out.Items, itemOf(row))
		}
		return &body[Brews]{out}, err
	})
	huma.Register(s.api, huma.Operation{OperationID: "brews-csv", Method: http.MethodGet, Path: "/brews.csv",
		Summary: "All brews of the log as CSV, also of /brews with Accept: text/csv",
		Responses: map[string]*huma.Response{"200": {Description: "A row for each brew",
			Content: map[string]*huma.MediaType{"text/csv": {Schema: &huma.Schema{Type: huma.TypeString}}}}}}, s.brewsCSV)
	get(s, "/brews/{id}", "brew", "A brew", func(c *call, in *ByID) (*body[Brew], error) {
		out, err := brewOf(c, in.ID)
		return &body[Brew]{out}, err
	})
	get(s, "/brews/{id}/readings", "readings", "The scale readings of a brew", func(c *call, in *ByID) (*body[Readings], error) {
		if _, err := c.Store.Brew(c, in.ID); err != nil {
			return nil, err
		}
		readings, err := c.Store.Readings(c, in.ID)
		out := Readings{Items: make([]Reading, len(readings))}
		for i, r := range readings {
			out.Items[i] = Reading{hundredth(float64(r.At)), tenth(float64(r.Grams))}
		}
		return &body[Readings]{out}, err
	})
	get(s, "/brews/{id}/advice", "advice", "The coach's advice on a brew, as it was given", func(c *call, in *adviceInput) (*body[exchange.Advice], error) {
		b, err := c.Store.Brew(c, in.ID)
		if err != nil {
			return nil, err
		}
		if in.For != "" {
			b = b.For(in.For)
		}
		if b.Advice == nil {
			return nil, huma.Error404NotFound("This brew has no advice: it was not tasted or measured.")
		}
		return &body[exchange.Advice]{exchange.FromAdvice(*b.Advice)}, nil
	})
}

type adviceInput struct {
	ByID
	For string `query:"for" maxLength:"64" doc:"Id of the taster; missing: the first one."`
}

// brewsCSV streams all brews of a filter. A stream that cannot be completed breaks off.
func (s *Server) brewsCSV(c ctx, in *FilterInput) (*huma.StreamResponse, error) {
	set, err := s.yard.Store.Settings(c, "")
	if err != nil {
		return nil, s.problem(err)
	}
	f := in.filter(&call{c, s.yard})
	return &huma.StreamResponse{Body: func(hc huma.Context) {
		r, w := humachi.Unwrap(hc)
		s.opened(r)
		w.Header().Set("Cache-Control", "no-store")
		w.Header().Set("Content-Type", "text/csv; charset=utf-8; header=present")
		out := table.NewWriter(w, func(id string) string { return set.Named(id).Name })
		err := out.Write(table.Headers())
		if err == nil {
			err = s.yard.Store.EachLogged(c, f, out.Brew)
		}
		if out.Flush(); err == nil {
			err = out.Error()
		}
		if err != nil {
			s.yard.Log.Warn("a file was cut off", "name", "brews.csv", "err", err)
			panic(http.ErrAbortHandler)
		}
	}}, nil
}

func itemOf(r store.Row) BrewItem {
	return BrewItem{ID: r.ID, StartedAt: r.Started, Status: string(r.Status), Bag: Ref{r.BagID, r.BagName}, BrewedBy: r.BrewedBy, Brewer: r.BrewerName,
		Dial: r.Setting, DoseG: tenth(float64(r.Dose)), WaterG: tenth(float64(r.Water)), Temperature: tenth(float64(r.Temperature)),
		DrawdownS: float64(r.Drawdown), TDSPercent: thousandth(r.TDS), EYPercent: hundredth(r.Yield.Value), EYError: hundredth(r.Yield.Error),
		Mark: r.Taste.Overall, Simulated: r.Simulated}
}

func brewOf(c *call, id string) (Brew, error) {
	b, err := c.Store.Brew(c, id)
	if err != nil {
		return Brew{}, err
	}
	readings, err := c.Store.Readings(c, id)
	if err != nil {
		return Brew{}, err
	}
	photos, err := c.Store.Photos(c, id)
	was := b.AsBrewed()
	out := Brew{ID: b.ID, BagID: b.BagID, ParentID: b.Parent, Status: string(b.Status), StartedAt: b.Started, BrewedBy: b.BrewedBy, MeasuredBy: b.MeasuredBy,
		Recipe: exchange.FromSheet(b.Sheet, b.Started), Tastings: []exchange.PersonTasting{}, Events: []Event{}, Readings: len(readings),
		Photos: len(photos[id]),
		Measured: Measured{DoseG: tenth(float64(was.Dose)), WaterG: tenth(float64(was.Water())), GrindUM: units.Round(float64(was.Grind), 0),
			Dial: b.Gear.Grinder.Setting(was.Grind), DrawdownS: float64(b.Cup.Drawdown), BeverageG: tenth(float64(b.Cup.Beverage)),
			TDSPercent: thousandth(b.Cup.TDS), Bed: string(b.Cup.Bed), ServedTo: b.Cup.ServedTo, Simulated: b.Cup.Simulated}}
	if !b.Ended.IsZero() {
		out.EndedAt = &b.Ended
	}
	if y, known := b.Yield(); known {
		out.Measured.EYPercent, out.Measured.EYError = hundredth(y.Value), hundredth(y.Error)
	}
	if f := b.Forecast; f != nil {
		out.Predicted = &Predicted{DrawdownS: tenth(float64(f.Drawdown)), DrawdownError: tenth(float64(f.DrawdownError)),
			BeverageG: tenth(float64(f.Beverage)), TDSPercent: thousandth(f.Strength.Value), TDSError: thousandth(f.Strength.Error),
			EYPercent: hundredth(f.Yield.Value), EYError: hundredth(f.Yield.Error)}
	}
	for _, t := range b.Tastings {
		out.Tastings = append(out.Tastings, exchange.FromTasting(b.For(t.Taster)))
	}
	for _, e := range b.Events {
		out.Events = append(out.Events, Event{string(e.Kind), hundredth(float64(e.At)), string(e.Mark), tenth(float64(e.Grams)), e.Note, e.By})
	}
	return out, err
}

// cursor returns a place in the log as text.
func cursor(p store.Place) string {
	return strconv.FormatFloat(p.Value, 'g', -1, 64) + "~" + strconv.FormatInt(p.N, 10)
}

// readCursor parses a cursor.
func readCursor(text string) (store.Place, error) {
	if text == "" {
		return store.Place{}, nil
	}
	value, n, ok := strings.Cut(text, "~")
	v, err := strconv.ParseFloat(value, 64)
	place, err2 := strconv.ParseInt(n, 10, 64)
	if !ok || err != nil || err2 != nil {
		return store.Place{}, huma.Error422UnprocessableEntity("The cursor is not one that this API returned.")
	}
	return store.Place{Value: v, N: place}, nil
}

func tenth(v float64) float64      { return units.Round(v, 1) }
func hundredth(v float64) float64  { return units.Round(v, 2) }
func thousandth(v float64) float64 { return units.Round(v, 3) }
