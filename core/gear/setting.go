package gear

import (
	"strings"

	"yardbloom/core/units"
)

// grindWords maps names of grinds and textures to median sizes in µm.
var grindWords = []struct {
	spellings string // separated by commas
	size      units.Micrometres
}{
	{"fine", 450}, {"medium-fine,medium fine", 600}, {"medium", 750}, {"medium-coarse,medium coarse", 900}, {"coarse", 1050},
	{"icing sugar,powdered sugar", 380}, {"fine table salt,fine salt", 480}, {"table salt,salt", 625}, {"coarse sand,sand", 775},
	{"sea salt,coarse salt", 925}, {"coarse breadcrumbs,breadcrumbs", 1100},
}

// ParseGrind parses a grind and returns its median size in µm. It accepts a dial setting ("6.5",
// "24 clicks", "1 turn 6 clicks", "0.85 turns"), a size ("650 µm", "0.65 mm") and a texture
// ("table salt", "medium-fine"). A bare number is a dial setting, or µm if there is no dial.
// The error is a *units.ValueError.
func (d Dial) ParseGrind(typed string) (units.Micrometres, error) {
	word := strings.TrimPrefix(strings.Join(strings.Fields(strings.ToLower(typed)), " "), "like ")
	for _, w := range grindWords {
		if units.Spelled(w.spellings, word) {
			return w.size, nil
		}
	}
	micrometres := units.Prefs{}.Unit(units.Grind)
	parts, err := units.ReadParts(typed)
	if err != nil {
		return 0, err
	}
	hasDial := d.Kind != Words && d.Step != 0
	if len(parts) == 1 && (parts[0].Unit == "" && !hasDial || !dialWord(parts[0].Unit)) {
		size, err := micrometres.Parse(typed)
		return units.Micrometres(size), err
	}
	wrong := &units.ValueError{Typed: strings.TrimSpace(typed), Err: units.ErrSyntax}
	if !hasDial {
		wrong.Unit, wrong.Measures, wrong.Err = parts[0].Unit, "a setting of a dial", units.ErrUnit
		return 0, wrong
	}
	steps := 0.0
	for i, p := range parts {
		switch {
		case d.Kind == Collar && (strings.HasPrefix(p.Unit, "turn") || p.Unit == "" && len(parts) == 1):
			steps += p.Value / d.Stride()
		case strings.HasPrefix(p.Unit, "turn") && d.PerTurn > 0:
			steps += p.Value * float64(d.PerTurn)
		case strings.HasPrefix(p.Unit, "turn"):
			wrong.Unit, wrong.Measures, wrong.Err = p.Unit, "in turns", units.ErrUnit
			return 0, wrong
		case p.Unit == "" && len(parts) == 1:
			return d.FromNumber(p.Value), nil
		case !dialWord(p.Unit), p.Unit == "" && (i == 0 || !strings.HasPrefix(parts[i-1].Unit, "turn")):
			return 0, wrong
		default: // clicks, or the clicks after the turns
			steps += p.Value
		}
	}
	return d.FromNumber(steps * d.Stride()), nil
}

// dialWord reports whether a unit counts steps of a dial; an empty one does.
func dialWord(unit string) bool {
	switch unit {
	case "", "click", "clicks", "step", "steps", "turn", "turns":
		return true
	}
	return false
}
