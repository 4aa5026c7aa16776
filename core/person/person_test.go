package person

import (
	"errors"
	"strings"
	"testing"
)

// Mutations caught: keeping direction marks, dropping joiners, counting bytes instead of characters.
func TestNamesAreCleaned(t *testing.T) {
	for _, c := range []struct {
		typed, want string
		err         error
	}{
		{"  Ada   Moss ", "Ada Moss", nil},
		{"Ada\u202eMoss", "AdaMoss", nil},
		{"Ada\nMoss", "Ada Moss", nil},
		{"\u05e0\u05d5\u05e2\u05d4", "\u05e0\u05d5\u05e2\u05d4", nil},
		{"🌿", "🌿", nil},
		{"👩\u200d🌾", "👩\u200d🌾", nil},
		{"", "", ErrEmpty},
		{" \u200b\u2066 ", "", ErrEmpty},
		{"\u200d", "", ErrEmpty},
		{"\u0301", "", ErrEmpty},
		{strings.Repeat("ö", MaxName), strings.Repeat("ö", MaxName), nil},
		{strings.Repeat("ö", MaxName+1), strings.Repeat("ö", MaxName+1), ErrLong},
	} {
		if got, err := Clean(c.typed); got != c.want || !errors.Is(err, c.err) {
			t.Errorf("Clean(%q) = %q, %v; want %q, %v", c.typed, got, err, c.want, c.err)
		}
	}
}

// Mutations caught: initials of every word, an emoji as a letter, a lost accent.
func TestInitials(t *testing.T) {
	for name, want := range map[string]string{
		"Ada": "A", "ada moss": "AM", "Ada van der Moss": "AM", "øystein": "Ø", "🌿": "", "🌿 Ada": "A", "7 of 9": "O",
		"\u05e0\u05d5\u05e2\u05d4 \u05dc\u05d5\u05d9": "\u05e0\u05dc", "e\u0301mile": "E\u0301",
	} {
		if got := Initials(name); got != want {
			t.Errorf("Initials(%q) = %q, want %q", name, got, want)
		}
	}
}

// Mutation caught: the first mark for everybody.
func TestFreeMark(t *testing.T) {
	if got := FreeMark([]Mark{Leaf, Sun}); got != Drop {
		t.Errorf("beside leaf and sun: %q", got)
	}
	if got := FreeMark(Marks()); got != Leaf {
		t.Errorf("with all marks taken: %q", got)
	}
}
