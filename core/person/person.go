// Package person describes the people of a yard, who brew and taste.
package person

import (
	"errors"
	"strings"
	"unicode"
	"unicode/utf8"
)

// MaxName is the maximum number of characters of a name, MaxInitials that of initials.
const (
	MaxName     = 40
	MaxInitials = 3
)

// A Person brews or tastes in a yard. The zero Person is the yard itself, for records
// without a name.
type Person struct {
	ID       string
	Name     string
	Initials string // empty if the name has no letters
	Mark     Mark
}

// IsYard reports whether this is the yard and not a person.
func (p Person) IsYard() bool { return p.ID == "" }

// A Mark is a shape that tells people apart without colour.
type Mark string

// The marks.
const (
	Leaf Mark = "leaf"
	Drop Mark = "drop"
	Sun  Mark = "sun"
	Pot  Mark = "pot"
	Gate Mark = "gate"
	Moon Mark = "moon"
	Kite Mark = "kite"
	Hive Mark = "hive"
)

// Marks lists the marks.
func Marks() []Mark { return []Mark{Leaf, Drop, Sun, Pot, Gate, Moon, Kite, Hive} }

// FreeMark returns the first mark that is not taken, or the first one if all are.
func FreeMark(taken []Mark) Mark {
	used := map[Mark]bool{}
	for _, m := range taken {
		used[m] = true
	}
	for _, m := range Marks() {
		if !used[m] {
			return m
		}
	}
	return Marks()[0]
}

var (
	// ErrEmpty is returned for a name without visible characters.
	ErrEmpty = errors.New("the name is empty")
	// ErrLong is returned for a name or initials with too many characters.
	ErrLong = errors.New("too many characters")
)

// Clean returns the stored form of a name: without invisible characters, such as those that change the direction
// of the text around them, and with single spaces. Joiners inside emoji stay. Errors are ErrEmpty and ErrLong.
func Clean(name string) (string, error) {
	name = strings.Join(strings.Fields(strings.Map(visible, name)), " ")
	switch {
	case !strings.ContainsFunc(name, func(r rune) bool { return unicode.IsGraphic(r) && !unicode.IsMark(r) }):
		return "", ErrEmpty
	case utf8.RuneCountInString(name) > MaxName:
		return name, ErrLong
	}
	return name, nil
}

// visible maps invisible characters to -1, other than those that join or shape their neighbours.
func visible(r rune) rune {
	const nonJoiner, joiner = '\u200c', '\u200d'
	switch {
	case unicode.IsSpace(r):
		return ' '
	case r == nonJoiner, r == joiner:
		return r
	case unicode.Is(unicode.Cf, r), unicode.IsControl(r), r == utf8.RuneError:
		return -1
	}
	return r
}

// Initials returns the first letters of the first and the last word of a name that begin with one. A name
// without letters, such as an emoji, has none.
func Initials(name string) string {
	var firsts []string
	for _, word := range strings.Fields(name) {
		if letter := firstLetter(word); letter != "" {
			firsts = append(firsts, letter)
		}
	}
	switch len(firsts) {
	case 0:
		return ""
	case 1:
		return firsts[0]
	}
	return firsts[0] + firsts[len(firsts)-1]
}

// firstLetter returns the letter that begins a word, in upper case and with the accents that follow it.
func firstLetter(word string) string {
	letter, size := utf8.DecodeRuneInString(word)
	if !unicode.IsLetter(letter) {
		return ""
	}
	end := size
	for _, r := range word[size:] {
		if !unicode.IsMark(r) {
			break
		}
		end += utf8.RuneLen(r)
	}
	return string(unicode.ToUpper(letter)) + word[size:end]
}
