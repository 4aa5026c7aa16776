package exchange

import (
	"encoding/json"
	"io"
	"slices"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/cup"
	"yardbloom/core/person"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// The format and version of a person's file that this package writes.
const (
	PersonFormat  = "yardbloom-person"
	PersonVersion = 1
)

// Person is the head of the document of a person, described by schema/person.v1.schema.json: name and
// preferences.
type Person struct {
	Format   string `json:"format"`
	Version  int    `json:"version"`
	Name     string `json:"name"`
	Initials string `json:"initials"`
	Mark     string `json:"mark"`
	Units    Units  `json:"units"`
	Theme    string `json:"theme,omitempty"`
	Sound    string `json:"sound,omitempty"`
	Defaults Habits `json:"defaults"`
}

// Units are the units in which a person reads quantities.
type Units struct {
	Mass        string `json:"mass"`
	Temperature string `json:"temperature"`
}

// Habits are a person's defaults for a new coffee; a missing field follows the style.
type Habits struct {
	Style      string  `json:"style,omitempty"`
	BloomRatio float64 `json:"bloom_g_per_g,omitempty"`
	BloomS     float64 `json:"bloom_s,omitempty"`
	Hand       string  `json:"hand,omitempty"`
	Pattern    string  `json:"pattern,omitempty"`
	HighLast   bool    `json:"last_pour_high,omitempty"`
	Rinse      string  `json:"rinse,omitempty"`
	Hotter     float64 `json:"hotter_k,omitempty"`
	LevelBed   bool    `json:"level_bed,omitempty"`
	TurnsFirst string  `json:"turns_first,omitempty"`
	GoodMark   int     `json:"good_mark,omitempty"`
	Keeps      string  `json:"keeps,omitempty"` // after a deviation
}

// PersonTasting is a person's tasting of one brew.
type PersonTasting struct {
	Brew       string               `json:"brew"`
	Coffee     string               `json:"coffee"`
	Started    time.Time            `json:"started"`
	Taste      map[cup.Sense]string `json:"taste,omitempty"`
	Likes      map[cup.Sense]string `json:"likes,omitempty"`
	Faults     []cup.Fault          `json:"faults,omitempty"`
	Flavours   []string             `json:"flavours,omitempty"`
	Mark       int                  `json:"mark,omitempty"`
	WouldServe string               `json:"would_serve,omitempty"`
	Wants      []cup.Want           `json:"wants,omitempty"`
	Notes      string               `json:"notes,omitempty"`
	Advice     string               `json:"advice,omitempty"`
}

// PersonBrew is a brew by a person.
type PersonBrew struct {
	Brew    string    `json:"brew"`
	Coffee  string    `json:"coffee"`
	Started time.Time `json:"started"`
}

// HabitsOf returns the document of habits.
func HabitsOf(h recipe.Habits) Habits {
	return Habits{string(h.Style), h.Bloom, float64(h.BloomTime), h.Hand, string(h.Pattern), h.HighLastPour, string(h.Rinse),
		float64(h.TemperatureOffset), h.LevelBed, string(h.First), h.Good, string(h.Keep)}
}

// FromPerson returns the head of a person's document.
func FromPerson(p person.Person, prefs units.Prefs, h recipe.Habits, theme, sound string) Person {
	return Person{PersonFormat, PersonVersion, p.Name, p.Initials, string(p.Mark),
		Units{prefs.Unit(units.Water).Symbol, prefs.Unit(units.Temperature).Symbol}, theme, sound, HabitsOf(h)}
}

// FromTasting returns the tasting of a brew as its taster sees it.
func FromTasting(b brew.Brew) PersonTasting {
	c := b.Cup
	t := PersonTasting{Brew: b.ID, Coffee: b.Bag.Name, Started: b.Started, Flavours: c.Flavours, Mark: c.Overall, WouldServe: c.Serve,
		Notes: c.Notes, Taste: map[cup.Sense]string{}, Likes: map[cup.Sense]string{}}
	for sense, step := range c.Steps {
		t.Taste[sense] = cup.Word(sense, step)
	}
	for sense, like := range c.Likes {
		t.Likes[sense] = map[cup.Like]string{cup.Liked: "yes", cup.Disliked: "no"}[like]
	}
	t.Faults = slices.DeleteFunc(cup.Faults(), func(f cup.Fault) bool { return !c.Faults[f] })
	t.Wants = slices.DeleteFunc(cup.Wants(), func(w cup.Want) bool { return !c.Wants[w] })
	if b.Advice != nil {
		t.Advice = b.Advice.Summary()
	}
	return t
}

// FromBrew returns a brew by a person.
func FromBrew(b brew.Brew) PersonBrew { return PersonBrew{b.ID, b.Bag.Name, b.Started} }

// Write writes the document of a person. tastings and brews call their argument for each entry; only one is in
// memory at a time.
func (d Person) Write(w io.Writer, tastings func(func(PersonTasting) error) error, brews func(func(PersonBrew) error) error) error {
	head, err := json.MarshalIndent(d, "", "  ")
	if err != nil {
		return err
	}
	out := &list{w: w}
	out.text(string(head[:len(head)-len("\n}")]))
	out.text(",\n  \"tastings\": [")
	if err := tastings(func(t PersonTasting) error { return out.entry(t) }); err != nil {
		return err
	}
	out.end()
	out.text(",\n  \"brews\": [")
	if err := brews(func(b PersonBrew) error { return out.entry(b) }); err != nil {
		return err
	}
	out.end()
	out.text("\n}\n")
	return out.err
}

// list writes lists entry by entry, each on its own line.
type list struct {
	w   io.Writer
	n   int
	err error
}

func (l *list) text(s string) {
	if l.err == nil {
		_, l.err = io.WriteString(l.w, s)
	}
}

func (l *list) entry(v any) error {
	text, err := json.Marshal(v)
	if err != nil {
		return err
	}
	if l.n > 0 {
		l.text(",")
	}
	l.n++
	l.text("\n    " + string(text))
	return l.err
}

func (l *list) end() {
	if l.n > 0 {
		l.text("\n  ")
	}
	l.text("]")
	l.n = 0
}
