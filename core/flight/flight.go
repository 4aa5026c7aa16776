// Package flight is two to six cups side by side: tasted with their names or blind, hot and
// again cooled, ranked; or three glasses of which one is another, to find out whether two
// cups can be told apart at all.
package flight

import (
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
)

// A Kind is what is asked of the taster.
type Kind string

// The kinds.
const (
	Ranked Kind = "ranked"           // which is liked better
	OddOne Kind = "odd one of three" // which is the other one
)

// How many cups can stand side by side.
const Fewest, Most = 2, 6

// MostRounds is how many rounds of three glasses can be tasted.
const MostRounds = 24

// A Cup is one of them.
type Cup struct {
	Name string
	Brew string // the id of the brew that it is of; empty for another
	Code string // on the glass: a number where it is blind, else a letter
}

// A Heat is when it is tasted: as it was poured, or cooled.
type Heat string

// The heats.
const (
	Hot    Heat = "hot"
	Cooled Heat = "cooled"
)

// Heats lists the heats in their order.
func Heats() []Heat { return []Heat{Hot, Cooled} }

// A Tasting is what was said of the cups at one heat: their places, 1 for the one liked most
// (0: not placed), and a word for each, in the order of the cups.
type Tasting struct {
	Places   []int
	Comments []string
}

// A Round is three glasses of which one is another: what stands under each code, and which
// one was picked.
type Round struct {
	Codes  [3]string
	Cups   [3]int // which of the two cups each glass holds
	Picked string // a code; empty until then
}

// Right says that the odd one was picked.
func (r Round) Right() bool { return r.Picked != "" && r.Picked == r.Codes[r.odd()] }

// odd is the glass that holds another cup than the other two.
func (r Round) odd() int {
	switch {
	case r.Cups[0] == r.Cups[1]:
		return 2
	case r.Cups[0] == r.Cups[2]:
		return 1
	}
	return 0
}

// A Flight is cups side by side. The seed decides codes and order, and is kept with them, so
// that anybody can check afterwards that nothing was moved.
type Flight struct {
	ID       string
	Name     string
	Kind     Kind
	Blind    bool
	Seed     uint64
	Cups     []Cup
	Order    []int // in which the cups stand, by their place in Cups
	Tastings map[Heat]Tasting
	Rounds   []Round
	Revealed bool
	Version  int64
}

// What can be wrong with a flight.
var (
	ErrCups     = errors.New("two to six cups stand side by side")
	ErrTwoCups  = errors.New("the odd one out is told of two cups")
	ErrCode     = errors.New("no cup has this code")
	ErrPlaces   = errors.New("a place is given twice")
	ErrRevealed = errors.New("the names are known: nothing more is tasted blind")
	ErrRounds   = errors.New("there are no more rounds")
)

// New sets up cups side by side; blind gives them codes and stands them in an order of their own.
func New(id, name string, kind Kind, blind bool, seed uint64, cups []Cup) (Flight, error) {
	f := Flight{ID: id, Name: name, Kind: kind, Blind: blind || kind == OddOne, Seed: seed, Cups: slices.Clone(cups), Tastings: map[Heat]Tasting{}}
	switch {
	case len(cups) < Fewest || len(cups) > Most:
		return f, ErrCups
	case kind == OddOne && len(cups) != 2:
		return f, ErrTwoCups
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

// codes are numbers of three figures that are not alike: no two begin alike or stand close
// together, for one that looks better is chosen.
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

// Label is what stands on the table for a cup: its code while it is blind, else its name.
func (f Flight) Label(cup int) string {
	c := f.Cups[cup]
	if f.Blind && !f.Revealed {
		return c.Code
	}
	return c.Name
}

// Place gives each cup its place by their codes, from the one liked most; a cup that is not
// named has none. A code that no cup has is an ErrCode, one that is named twice an ErrPlaces.
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

// ByCode finds the cup of a code, or ErrCode.
func (f Flight) ByCode(code string) (cup int, err error) {
	code = strings.TrimSpace(code)
	for i, c := range f.Cups {
		if strings.EqualFold(c.Code, code) && code != "" {
			return i, nil
		}
	}
	return 0, fmt.Errorf("%q: %w", code, ErrCode)
}

// Taste keeps what was said at a heat: by cup, in the order of Cups. A place may be left out,
// and none may be given twice.
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

// Next sets up another round of three glasses. Its glasses follow from the seed and its number.
func (f Flight) Next() (Flight, error) {
	switch {
	case f.Revealed:
		return f, ErrRevealed
	case len(f.Rounds) >= MostRounds, len(f.Rounds) > 0 && f.Rounds[len(f.Rounds)-1].Picked == "":
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

// Pick says which glass of the open round was found to be the odd one, by its code.
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

// Reveal shows the names.
func (f Flight) Reveal() Flight {
	f.Revealed = true
	return f
}
