package exchange

import (
	"bytes"
	"encoding/json"
	"errors"
	"strings"
	"testing"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/coach"
	"yardbloom/core/coffee"
	"yardbloom/core/cup"
	"yardbloom/core/person"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// A person's file follows its schema and has the words of each tasting. Mutations caught: a field that the schema
// does not know, a missing comma between entries, steps instead of words.
func TestPersonFileFollowsItsSchema(t *testing.T) {
	head := FromPerson(person.Person{ID: "ada", Name: "Ada", Initials: "A", Mark: person.Sun}, units.Prefs{Fahrenheit: true},
		recipe.Habits{Good: 7, First: recipe.GrindFirst, Rinse: recipe.Never, Keep: recipe.KeepYield, Bloom: 3, TemperatureOffset: -1}, "night", "voice")
	b := brew.Brew{Sheet: brew.Sheet{ID: "one", Bag: coffee.Bag{Name: "Slate Terrace"}}, Started: time.Date(2026, 5, 12, 9, 0, 0, 0, time.UTC)}
	b.Cup = cup.Cup{Taste: cup.Taste{Steps: map[cup.Sense]int{cup.Acidity: 5}, Likes: map[cup.Sense]cup.Like{cup.Acidity: cup.Disliked},
		Faults: map[cup.Fault]bool{cup.Hollow: true}, Flavours: []string{"pear"}, Overall: 4, Serve: "no", Notes: "Sharp."},
		Wants: map[cup.Want]bool{cup.Sweeter: true}}
	b.Advice = &coach.Advice{Verdict: "Under-extracted", Instead: "Repeat"}
	for name, n := range map[string]int{"nothing": 0, "one of each": 1, "several": 3} {
		var file bytes.Buffer
		err := head.Write(&file, func(put func(PersonTasting) error) error {
			for range n {
				if err := put(FromTasting(b)); err != nil {
					return err
				}
			}
			return nil
		}, func(put func(PersonBrew) error) error {
			for range n {
				if err := put(FromBrew(b)); err != nil {
					return err
				}
			}
			return nil
		})
		var loose map[string]any
		if err != nil || json.Unmarshal(file.Bytes(), &loose) != nil {
			t.Fatalf("%s: %v\n%s", name, err, file.String())
		}
		if err := person1.check(loose); err != nil {
			t.Errorf("%s: %v", name, err)
		}
		if got := len(loose["tastings"].([]any)); got != n || n > 0 && !strings.Contains(file.String(), `"acidity":"sour"`) {
			t.Errorf("%s: %d tastings\n%s", name, got, file.String())
		}
	}
	broken := errors.New("broken")
	if err := head.Write(&bytes.Buffer{}, func(func(PersonTasting) error) error { return broken }, nil); !errors.Is(err, broken) {
		t.Errorf("an error while reading: %v", err)
	}
}
