package offline

import (
	"yardbloom/core/cup"
	"yardbloom/core/units"
	"yardbloom/web/form"
)

// cupView is a cup with few questions, whose fields have the names of the Cup station.
type cupView struct {
	Fields []form.Field
	Senses []senseView
	Marks  []int
}

type senseView struct {
	Name, Label string
	Words       []wordView
}

type wordView struct {
	Value int
	Word  string
}

// asked are the senses that are asked offline, as tasted warm.
var asked = []cup.Sense{cup.Acidity, cup.Sweetness, cup.Body, cup.Bitterness}

func cupForm(prefs units.Prefs) cupView {
	f := form.New()
	v := cupView{Fields: []form.Field{f.Stepper("beverage", "Beverage", prefs.Unit(units.Water)), f.Stepper("tds", "TDS", form.Strength),
		f.Entry("notes", "Notes")}}
	for _, sc := range cup.Scales() {
		for _, sense := range asked {
			if sc.Sense != sense {
				continue
			}
			s := senseView{Name: "warm." + string(sense), Label: sc.Name}
			for n := 1; n <= 5; n++ {
				s.Words = append(s.Words, wordView{n, cup.Word(sense, n)})
			}
			v.Senses = append(v.Senses, s)
		}
	}
	for n := 1; n <= 10; n++ {
		v.Marks = append(v.Marks, n)
	}
	return v
}
