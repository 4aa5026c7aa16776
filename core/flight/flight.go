// Package flight compares two to six cups side by side, with their names or blind, hot and cooled, by rank.
// It also runs triangle tests: three glasses, of which one holds a different coffee, to find out whether
// two cups are distinguishable.
package flight

import (
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
)

// A Kind is the task of the taster.
type Kind string

// The kinds.
const (
	Ranked Kind = "ranked"           // rank by preference
	OddOne Kind = "odd one of three" // pick the odd one
)

// The number of cups in a flight.
const MinCups, MaxCups = 2, 6

// MaxRounds is the maximum number of triangle rounds.
const MaxRounds = 24

// A Cup is one cup of a flight.
type Cup struct {
	Name string
	Brew string // id of its brew; empty for a cup from elsewhere
	Code string // label of the glass: a number in a blind flight, otherwise a letter
}

// A Heat is the temperature stage of a tasting.
type Heat string

// The heats.
const (
	Hot    Heat = "hot"
	Cooled Heat = "cooled"
)

// Heats lists the heats in tasting order.
func Heats() []Heat { return []Heat{Hot, Cooled} }

// A Tasting is the result at one heat, in the order of the cups: their places, 1 for the best (0: not
// placed), and a note for each.
type Tasting struct {
	By       string // id of the taster; empty: the yard
	Places   []int
	Comments []string
}

// A Round is one triangle test: the cup behind each code, and the code that was picked.
type Round struct {
	Codes  [3]string
	Cups   [3]int // index of the cup in each glass
	Picked string // a code; empty until picked
}

// Right reports whether the odd glass was picked.
func (r Round) Right() bool { return r.Picked != "" && r.Picked == r.Codes[r.odd()] }

// odd returns the index of the glass that differs from the other two.
func (r Round) odd() int {
	switch {
	case r.Cups[0] == r.Cups[1]:
		return 2
	case r.Cups[0] == r.Cups[2]:
		return 1
	}
	return 0
}

// A Flight is a set of cups to compare. The seed determines codes and order and is stored, so that the
// order can be verified afterwards.
type Flight struct {
	ID       string
	By       string // id of the person who made it; empty: the yard
	Name     string
	Kind     Kind
	Blind    bool
	Seed     uint64
	Cups     []Cup
	Order    []int // serving order, as indices into Cups
	Tastings map[Heat]Tasting
	Rounds   []Round
	Revealed bool
	Version  int64
}

// The errors of a flight.
var (
	ErrCups     = errors.New("a flight has two to six cups")
	ErrTwoCups  = errors.New("a triangle test needs two cups")
	ErrCode     = errors.New("no cup has this code")
	ErrPlaces   = errors.New("a place is repeated")
	ErrRevealed = errors.New("the names are revealed")
	ErrRounds   = errors.New("there are no more rounds")
	ErrTable    = errors.New("its order, places or rounds are not those of its cups")
)

// New creates a flight. A blind one gets codes and a random serving order.
func New(id, name string, kind Kind, blind bool, seed uint64, cups []Cup) (Flight, error) {
	f := Flight{ID: id, Name: name, Kind: kind, Blind: blind ||
		kind == OddOne, Seed: seed, Cups: slices.Clone(cups), Tastings: map[Heat]Tasting{}}
	if err := f.checkCups(); err != nil {
		return f, err
	}
	rng := rand.New(rand.NewPCG(seed, 1))
	for i := range f.Cups {
		f.Order = append(f.Order, i)
	}
	if !f.Blind {
		for i := range f.Cups {
			f.Cups[i].Code = string(rune('A' + i))
		}
		return f, nil
	}
	rng.Shuffle(len(f.Order), func(i, j int) { f.Order[i], f.Order[j] = f.Order[j], f.Order[i] })
	if kind == Ranked {
		for i, code := range codes(rng, len(cups)) {
			f.Cups[i].Code = code
		}
	}
	return f, nil
}

func (f Flight) checkCups() error {
	switch {
	case len(f.Cups) < MinCups || len(f.Cups) > MaxCups:
		return ErrCups
	case f.Kind == OddOne && len(f.Cups) != 2:
		return ErrTwoCups
	}
	return nil
}

// Valid returns an error if New and the changes of a flight cannot have made it: one of the errors above, or ErrTable.
func (f Flight) Valid() error {
	if err := f.checkCups(); err != nil {
		return err
	}
	order := slices.Sorted(slices.Values(f.Order))
	for i := range f.Cups {
		if i >= len(order) || order[i] != i {
			return ErrTable
		}
	}
	if len(order) != len(f.Cups) || f.Kind != Ranked && f.Kind != OddOne || len(f.Rounds) > MaxRounds {
		return ErrTable
	}
	isNoCup := func(cup int) bool { return cup < 0 || cup >= len(f.Cups) }
	for heat, t := range f.Tastings {
		if !slices.Contains(Heats(), heat) || len(t.Places) != len(f.Cups) || len(t.Comments) > len(f.Cups) ||
			slices.ContainsFunc(t.Places, func(place int) bool { return place < 0 || place > len(f.Cups) }) {
			return ErrTable
		}
	}
	for _, r := range f.Rounds {
		if slices.ContainsFunc(r.Cups[:], isNoCup) || r.Picked != "" && !slices.Contains(r.Codes[:], r.Picked) {
			return ErrTable
		}
	}
	return nil
}

// codes returns n three-digit codes that are easy to tell apart: no two share a first digit or are close in
// value.
func codes(rng *rand.Rand, n int) []string {
	var out []string
	for len(out) < n {
		code := fmt.Sprint(100 + rng.IntN(900))
		if !slices.ContainsFunc(out, func(c string) bool { return c[0] == code[0] }) {
			out = append(out, code)
		}
	}
	return out
}

// Label returns the text on the table for a cup: its code while it is blind, otherwise its name; empty for no
// cup.
func (f Flight) Label(cup int) string {
	if cup < 0 || cup >= len(f.Cups) {
		return ""
	}
	c := f.Cups[cup]
	if f.Blind && !f.Revealed {
		return c.Code
	}
	return c.Name
}

// Place returns the place of each cup from a list of codes, best first; a cup that is not listed has none.
// It returns ErrCode for an unknown code and ErrPlaces for a repeated one.
func (f Flight) Place(bestFirst []string) ([]int, error) {
	places := make([]int, len(f.Cups))
	for n, code := range bestFirst {
		cup, err := f.ByCode(code)
		switch {
		case err != nil:
			return nil, err
		case places[cup] > 0:
			return nil, fmt.Errorf("%s: %w", code, ErrPlaces)
		}
		places[cup] = n + 1
	}
	return places, nil
}

// ByCode returns the cup with a code, or ErrCode.
func (f Flight) ByCode(code string) (cup int, err error) {
	code = strings.TrimSpace(code)
	for i, c := range f.Cups {
		if strings.EqualFold(c.Code, code) && code != "" {
			return i, nil
		}
	}
	return 0, fmt.Errorf("%q: %w", code, ErrCode)
}

// Taste stores the result of a heat, in the order of Cups. A place may be missing but not repeated.
func (f Flight) Taste(heat Heat, t Tasting) (Flight, error) {
	if f.Blind && f.Revealed {
		return f, ErrRevealed
	}
	seen := map[int]bool{}
	for _, p := range t.Places {
		if p < 0 || p > len(f.Cups) || p > 0 && seen[p] {
			return f, ErrPlaces
		}
		seen[p] = true
	}
	tastings := map[Heat]Tasting{heat: t}
	for h, other := range f.Tastings {
		if h != heat {
			tastings[h] = other
		}
	}
	f.Tastings = tastings
	return f, nil
}

// Next adds a triangle round. Its glasses follow from the seed and the number of the round.
func (f Flight) Next() (Flight, error) {
	switch {
	case f.Revealed:
		return f, ErrRevealed
	case len(f.Rounds) >= MaxRounds, len(f.Rounds) > 0 && f.Rounds[len(f.Rounds)-1].Picked == "":
		return f, ErrRounds
	}
	rng := rand.New(rand.NewPCG(f.Seed, uint64(2+len(f.Rounds))))
	twice := rng.IntN(2)
	r := Round{Cups: [3]int{twice, twice, twice}}
	r.Cups[rng.IntN(3)] = 1 - twice
	copy(r.Codes[:], codes(rng, 3))
	f.Rounds = append(slices.Clone(f.Rounds), r)
	return f, nil
}

// Pick records the picked glass of the open round by its code.
func (f Flight) Pick(code string) (Flight, error) {
	if len(f.Rounds) == 0 || f.Rounds[len(f.Rounds)-1].Picked != "" {
		return f, ErrRounds
	}
	open := f.Rounds[len(f.Rounds)-1]
	if code = strings.TrimSpace(code); !slices.Contains(open.Codes[:], code) {
		return f, fmt.Errorf("%q: %w", code, ErrCode)
	}
	open.Picked = code
	f.Rounds = append(slices.Clone(f.Rounds[:len(f.Rounds)-1]), open)
	return f, nil
}

// Reveal reveals the names.
func (f Flight) Reveal() Flight {
	f.Revealed = true
	return f
}
