package station

import (
	"context"
	"fmt"
	"html/template"
	"maps"
	"slices"
	"strings"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/coach"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
	"yardbloom/web/figure"
	"yardbloom/web/page"
	"yardbloom/web/words"
	"yardbloom/yard"
)

// PathLength is the number of brews in the path of a bag.
const PathLength = 12

// A PathBrew is one brew on the path of a bag.
type PathBrew struct {
	ID     string
	Href   string
	Flower template.HTML
	When   string
	What   string // the change before this brew
	Result string
	Did    string // its effect, compared with the expected one
	// DidClass is the CSS class for Did.
	DidClass string
	Here     bool
	Markable bool        // for a comparison
	Photo    *page.Photo // nil: none
}

// Path lists brews of a bag in chronological order, each with its change, the effect and whether it was as
// expected, and with its first photo. It ends with the latest draft.
func Path(ctx context.Context, y *yard.Yard, brews []brew.Brew, here string, drafts []brew.Draft, prefs units.Prefs) ([]PathBrew, error) {
	path := pathOf(brews, here, drafts, prefs, y.Now())
	return path, addPhotos(ctx, y, path)
}

func pathOf(brews []brew.Brew, here string, drafts []brew.Draft, prefs units.Prefs, now time.Time) []PathBrew {
	byID := map[string]brew.Brew{}
	var out []PathBrew
	for _, b := range brews {
		byID[b.ID] = b
		before, follows := byID[b.Parent]
		v := PathBrew{ID: b.ID, Href: "/brews/" + b.ID, Flower: figure.Flower(b.Recipe.Dose, b.Plan.Steps, b.Cup.Drawdown),
			When: words.Moment(b.Started, now), Here: b.ID == here,
			Result: words.ResultOf(b), What: describeChange(before, b.Sheet, follows, prefs)}
		if follows && b.Status == brew.Done {
			o := brew.Compare(before, b)
			v.Did, v.DidClass = words.Outcome(o), map[brew.Verdict]string{brew.AsExpected: "as-expected",
				brew.Opposite: "not-as-expected"}[o.Verdict]
		}
		out = append(out, v)
	}
	if i := slices.IndexFunc(drafts, func(d brew.Draft) bool { return d.Name == "" }); i >= 0 {
		d := drafts[i]
		before, follows := byID[d.Parent]
		out = append(out, PathBrew{ID: d.ID, Href: fmt.Sprintf("/brews/%s/recipe", d.ID),
			Flower: figure.Flower(d.Recipe.Dose, d.Recipe.Plan().Steps, 0), When: "not poured yet", Here: d.ID == here,
			What: describeChange(before, d.Sheet, follows, prefs)})
	}
	return out
}

// Described returns a proposal with its change described in a user's units, or nil.
func Described(p *coach.Proposal, sheet brew.Sheet, prefs units.Prefs) *coach.Proposal {
	if p == nil {
		return nil
	}
	said := *p
	said.Say, said.LeadsTo = coach.Describe(sheet.Recipe, sheet.Gear.Grinder, p.Change, prefs)
	return &said
}

// describeChange describes the changes from a brew to the sheet that follows it.
func describeChange(before brew.Brew, sheet brew.Sheet, follows bool, prefs units.Prefs) string {
	switch {
	case sheet.Advised != nil:
		return Described(sheet.Advised, sheet, prefs).Say
	case sheet.Parent == "":
		return "first recipe, " + sheet.Recipe.Style.Style().Name
	case !follows: // the previous brew is not on the path
		return sheet.Recipe.Style.Style().Name
	default:
		if changed := Changes(before.Recipe, sheet, prefs); len(changed) > 0 {
			return joinValues(changed)
		}
		return "same recipe"
	}
}

// Changes describes, by address, the changes from a recipe to a sheet.
func Changes(before recipe.Recipe, sheet brew.Sheet, prefs units.Prefs) map[recipe.Address]string {
	out := map[recipe.Address]string{}
	if before.Style != sheet.Recipe.Style { // another style changes everything
		return out
	}
	for _, c := range recipe.Changes(before, sheet.Recipe) {
		out[c.Address], _ = coach.Describe(sheet.Recipe, sheet.Gear.Grinder, c, prefs)
	}
	return out
}

func joinValues[K comparable](m map[K]string) string {
	return strings.Join(slices.Sorted(maps.Values(m)), ", ")
}
