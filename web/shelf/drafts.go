package shelf

import (
	"html/template"
	"net/http"

	"yardbloom/core/brew"
	"yardbloom/core/coach"
	"yardbloom/web/figure"
	"yardbloom/web/page"
	"yardbloom/web/words"
)

// recipeView is a draft or a kept recipe of a bag.
type recipeView struct {
	ID, Name, What string
	Flower         template.HTML
	Asked          string // its advised change
	Kept           bool
}

// recipeViews lists recipes with their gear.
func (s *Screens) recipeViews(r *http.Request, drafts []brew.Draft) ([]recipeView, error) {
	prefs := page.Prefs(r)
	var out []recipeView
	for _, d := range drafts {
		g, err := s.yard.Store.Gear(r.Context(), d.Gear.IDs())
		if err != nil {
			return nil, err
		}
		v := recipeView{ID: d.ID, Name: d.Name, Kept: d.Name != "", Flower: figure.Flower(d.Recipe.Dose, d.Recipe.Plan().Steps, 0),
			What: words.Recipe(g.Brewer.Name, g.Grinder.Setting(d.Recipe.Grind), d.Recipe.Dose, d.Recipe.Total(), d.Recipe.Temperature(),
				prefs)}
		if v.Name == "" {
			v.Name = "Draft from " + words.Moment(d.Created, s.yard.Now())
		}
		if d.Advised != nil {
			v.Asked, _ = coach.Describe(d.Recipe, g.Grinder, d.Advised.Change, prefs)
		}
		out = append(out, v)
	}
	return out, nil
}

// openDraft opens the latest draft of a bag, or creates one.
func (s *Screens) openDraft(w http.ResponseWriter, r *http.Request) error {
	b, err := s.loadBag(r)
	if err != nil {
		return err
	}
	draftID, err := s.yard.BeginRecipe(r.Context(), b, page.Settings(r))
	if err != nil {
		return err
	}
	return page.SeeOther(w, r, "/brews/%s/recipe", draftID)
}
