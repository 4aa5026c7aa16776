// Package written reads recipes as people write them: "17 g, 281 ml at 94, bloom 58 for 50 s, then 111 at 0:50, 112 at 1:40".
//
// Nothing is guessed silently: each piece of the text gets its meaning or stays unread, contradictions become problems, and missing
// figures are listed as assumed.
package written

import (
	"errors"
	"fmt"
	"math"
	"strings"

	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// A Piece is a part of the text with its meaning, with figures in braces for units.Prefs.Localize. An unread piece has none.
type Piece struct {
	Text, Means string
	Unread      bool
}

// A Pour is a pour as written. Zero figures were not said.
type Pour struct {
	Bloom   bool
	Water   units.Grams
	Times   float64 // of the dose, instead of water
	Starts  bool    // Start was said
	Start   units.Seconds
	Lasts   units.Seconds // of a bloom: until the next pour
	Celsius units.Celsius
	Then    recipe.HandAction
}

// A Reading is a text as understood.
type Reading struct {
	Pieces   []Piece
	Problems []string // contradictions, which a person must settle, with figures in braces

	Dose    units.Grams
	Water   units.Grams // the total as written
	Ratio   float64
	Ice     units.Grams
	Celsius units.Celsius
	Grind   units.Micrometres
	Rinse   bool
	Pours   []Pour
	Finish  units.Seconds
	Release units.Seconds // of a steep
}

// The errors of Read.
var (
	ErrTooLong   = errors.New("the text is too long for a recipe")
	ErrNoRecipe  = errors.New("this does not read like a recipe")
	ErrManyPours = errors.New("the text has too many pours")
)

// MaxLength is the maximum length of a text, in bytes.
const MaxLength = 4000

// Read reads a text. It returns ErrTooLong, ErrNoRecipe or ErrManyPours.
func Read(text string) (Reading, error) {
	if len(text) > MaxLength {
		return Reading{}, ErrTooLong
	}
	r := &reader{all: tokens(strings.ToValidUTF8(text, "")), now: nothing}
	for r.at < len(r.all) {
		r.step()
	}
	r.settle()
	switch {
	case r.figures < 2:
		return r.Reading, ErrNoRecipe
	case len(r.Pours) > recipe.MaxPours:
		return r.Reading, ErrManyPours
	}
	r.check()
	return r.Reading, nil
}

// The subjects of a text.
type topic int

const (
	nothing topic = iota
	dosing
	watering
	blooming
	pouring
	icing
	finishing
	steeping
)

// A reader goes through the tokens once.
type reader struct {
	Reading
	all     []token
	at      int
	now     topic
	figures int // numbers that were understood

	cumulative bool           // "to" came before
	starts     *units.Seconds // a time that came before its pour
	lasts      units.Seconds  // a span that came before its bloom
	hanging    units.Grams    // a mass that came before "bloom"
	count      int            // "three pours of"
	swirlAll   recipe.HandAction
}

func (r *reader) means(format string, args ...any) {
	r.Pieces = append(r.Pieces, Piece{Text: r.all[r.at].text, Means: fmt.Sprintf(format, args...)})
	r.at++
}

// figure is means for a number.
func (r *reader) figure(format string, args ...any) {
	r.figures++
	r.means(format, args...)
}

func (r *reader) unread() {
	r.Pieces = append(r.Pieces, Piece{Text: r.all[r.at].text, Unread: true})
	r.at++
}

func (r *reader) problem(format string, args ...any) {
	r.Problems = append(r.Problems, fmt.Sprintf(format, args...))
}

// next returns the next token of the text that is not space, n tokens from the present one.
func (r *reader) next(n int) token {
	for i := r.at + 1; i < len(r.all); i++ {
		if r.all[i].kind == space {
			continue
		}
		if n--; n == 0 {
			return r.all[i]
		}
	}
	return token{kind: space}
}

// before returns the last token before the present one that is not space.
func (r *reader) before() token {
	for i := r.at - 1; i >= 0; i-- {
		if r.all[i].kind != space {
			return r.all[i]
		}
	}
	return token{kind: space}
}

// joined reports whether the next word belongs to the same clause.
func (r *reader) joined() bool {
	return r.at+1 < len(r.all) && (r.all[r.at+1].kind != space || !strings.ContainsAny(r.all[r.at+1].text, ",;.\n"))
}

func (r *reader) step() {
	t := r.all[r.at]
	switch t.kind {
	case space:
		r.means("")
	case word:
		r.word(t)
	case mass, volume:
		r.mass(t)
	case plainNumber:
		r.number(t)
	case clock:
		r.clock(t.value)
	case either:
		r.either(t)
	case span:
		r.span(t.value)
	case heat:
		r.heat(t.value)
	case size:
		r.Grind = units.Micrometres(t.value)
		r.figure("grind %.0f µm", t.value)
	case times:
		r.times(t.value)
	case toOne:
		r.ratio(t.value)
	default:
		r.unread()
	}
}

// number reads a number without a unit, by its neighbours.
func (r *reader) number(t token) {
	before, after := r.before(), r.next(1)
	switch {
	case after.kind == word && (after.word == "pours" || after.word == "pulses" || after.word == "pour" || after.word == "rounds") && t.value <= 12:
		r.count = int(t.value)
		r.figure("%.0f pours", t.value)
	case (before.word == "at" || before.text == "@") && t.value >= 60 && t.value <= 100:
		r.heat(t.value)
	case (before.word == "at" || before.text == "@") && t.value >= 150 && t.value <= 212:
		r.heat((t.value - 32) / 1.8)
	case r.now == blooming || r.now == pouring || r.now == icing || before.word == "to" || before.word == "of":
		r.mass(t)
	case after.word == "coffee" || after.word == "water" || after.word == "total":
		r.mass(t)
	default:
		r.unread()
	}
}

func (r *reader) ratio(v float64) {
	if r.Ratio > 0 && math.Abs(r.Ratio-v) > 0.05 {
		r.problem("Two ratios are written: 1 : %s and 1 : %s.", units.Trim(r.Ratio, 1), units.Trim(v, 1))
	}
	r.Ratio = v
	r.figure("ratio 1 : %s", units.Trim(v, 1))
}

// either reads 1:16, which is a ratio beside that word, and a time beside a pour.
func (r *reader) either(t token) {
	before, after := r.before(), r.next(1)
	switch {
	case before.word == "ratio" || after.word == "ratio" || before.word == "is":
		r.ratio(t.value)
	case before.word == "at" || before.text == "@" || r.now == pouring || r.now == blooming || r.now == finishing:
		r.clock(60 + t.value)
	case r.Water == 0 && r.Ratio == 0 && len(r.Pours) == 0:
		r.ratio(t.value)
		r.problem("%q can be a ratio or a time. Write 1 : %s or 1 min %s s.", t.text, units.Trim(t.value, 0), units.Trim(t.value, 0))
	case after.isAmount():
		r.clock(60 + t.value)
	default:
		r.unread()
	}
}

func (r *reader) heat(celsius float64) {
	c := units.Celsius(math.Round(celsius))
	if n := len(r.Pours); n > 0 && r.Celsius > 0 && c != r.Celsius {
		r.Pours[n-1].Celsius = c
		r.figure("{%.0f °C} for this pour", float64(c))
		return
	}
	if r.Celsius > 0 && c != r.Celsius {
		r.problem("Two temperatures are written: {%.0f °C} and {%.0f °C}.", float64(r.Celsius), float64(c))
	}
	r.Celsius = c
	r.figure("water at {%.0f °C}", float64(c))
}

func (r *reader) times(v float64) {
	if r.now == blooming || r.next(1).word == "bloom" || r.next(1).word == "dose" {
		r.bloom().Times = v
		r.now = blooming
		r.figure("bloom of %s times the dose", units.Trim(v, 1))
		return
	}
	r.unread()
}

// bloom returns the bloom, which is the first pour.
func (r *reader) bloom() *Pour {
	if len(r.Pours) == 0 || !r.Pours[0].Bloom {
		r.Pours = append([]Pour{{Bloom: true, Starts: true}}, r.Pours...)
	}
	return &r.Pours[0]
}

// span reads a duration.
func (r *reader) span(v float64) {
	s := units.Seconds(v)
	before := r.before()
	switch {
	case r.now == blooming:
		r.bloom().Lasts = s
		r.figure("bloom for %s", s.Span())
	case r.next(1).word == "bloom":
		r.lasts = s
		r.figure("bloom for %s", s.Span())
	case r.now == steeping:
		r.Release = s
		r.figure("steep until %s", s)
	case r.now == finishing:
		r.Finish = s
		r.figure("finished at %s", s)
	case before.word == "at" || before.text == "@" || r.now == pouring && before.word != "for" && before.word != "over":
		r.clock(v)
	default:
		r.unread()
	}
}

// clock reads a time of the brew.
func (r *reader) clock(v float64) {
	s := units.Seconds(v)
	n := len(r.Pours)
	after := r.next(1)
	if after.kind == word && (after.word == "pour" || after.word == "add" || after.word == "to" || after.word == "second" || after.word == "third") {
		if second := r.next(2); second.isAmount() || second.kind == plainNumber || second.word == "to" || second.word == "pour" {
			after = second
		}
	}
	comes := after.isAmount() || after.kind == plainNumber && after.value >= 10 || after.word == "to"
	switch {
	case r.now == finishing:
		r.Finish = s
		r.figure("finished at %s", s)
	case r.now == steeping:
		r.Release = s
		r.figure("steep until %s", s)
	case r.now == blooming && r.before().word == "for", r.now == blooming && r.before().word == "until":
		r.bloom().Lasts = s
		r.figure("bloom until %s", s)
	case comes && (n == 0 || r.Pours[n-1].Starts):
		r.starts = &s
		r.figure("at %s", s)
	case n > 0 && !r.Pours[n-1].Starts:
		r.Pours[n-1].Start, r.Pours[n-1].Starts = s, true
		r.figure("this pour at %s", s)
	case n > 0 && !r.Pours[n-1].Bloom:
		r.Pours = append(r.Pours, Pour{Water: r.Pours[n-1].Water, Start: s, Starts: true})
		r.figure("another {%s g} at %s", units.Trim(float64(r.Pours[n].Water), 0), s)
	case n > 0 && r.Pours[0].Lasts == 0:
		r.Pours[0].Lasts = s
		r.figure("bloom until %s", s)
	default:
		r.unread()
	}
}
