package next

import (
	"fmt"
	"math"
	"net/http"
	"strings"

	"yardbloom/core/coach"
	"yardbloom/core/units"
	"yardbloom/web/form"
	"yardbloom/web/page"
	"yardbloom/web/station"
)

// bagPlanView is the plan for the rest of the bag.
type bagPlanView struct {
	Says   []string
	Wanted form.Field // brews out of it
	As     string     // id of the taster
}

// bagPlan plans the rest of the bag of a scene: as many brews as the dose gives, or the number in the query. It is nil for a bag
// whose contents are unknown or used up.
func bagPlan(r *http.Request, sc *station.Scene) *bagPlanView {
	left := sc.Shelf.Left()
	if left <= 0 || sc.Shelf.Deleted {
		return nil
	}
	f := form.New()
	f.Values["brews"] = r.URL.Query().Get("brews")
	const most = 200
	wanted := f.Quantity("brews", "Brews", units.Prefs{}.Unit(units.Count), units.Range{Lo: 1, Hi: most}, false)
	if wanted != math.Trunc(wanted) {
		f.Fail("brews", "Brews is a whole number.")
		wanted = 0
	}
	doses := sc.Gear.Brewer.Kind.Form().Dose
	a := sc.Brew.Advice
	plan := coach.PlanBag(coach.Supply{Left: left, Wanted: int(wanted), Dose: sc.Recipe.Dose, Least: units.Grams(doses.Lo), Most: units.Grams(doses.Hi),
		Loss: sc.Gear.Grinder.Loss, Purge: sc.Gear.Grinder.Purge()}, a.Do == coach.Stop, a.Good)
	v := &bagPlanView{Wanted: f.Entry("brews", "Brews wanted out of it"), Says: planText(plan, left, page.Prefs(r)), As: r.URL.Query().Get("for")}
	return v
}

// planText says a plan in sentences.
func planText(p coach.BagPlan, left units.Grams, prefs units.Prefs) []string {
	weight, dose := prefs.Unit(units.BagWeight), prefs.Unit(units.Dose)
	if p.Brews == 0 {
		return []string{fmt.Sprintf("%s are left: too little for another brew.", weight.Format(float64(left)))}
	}
	first := fmt.Sprintf("%s left: %s of %s.", weight.Format(float64(left)), units.Plural(p.Brews, "brew"), dose.Format(float64(p.Dose)))
	if p.Short {
		first = fmt.Sprintf("%s are not enough. %s", weight.Format(float64(left)), strings.Replace(first, " left:", " give", 1))
	}
	second := "Change nothing any more, and drink them all."
	if p.Changes > 0 {
		second = fmt.Sprintf("Change one thing after each of the next %s, then keep the recipe for the other %d.", units.Plural(p.Changes, "brew"),
			p.Drinking())
		if p.Changes == 1 {
			second = fmt.Sprintf("Change one thing after the next brew, then keep the recipe for the other %d.", p.Drinking())
		}
	}
	out := []string{first, second}
	if p.Waste >= 1 {
		out = append(out, fmt.Sprintf("%s of it stay in the grinder or are ground and thrown away after a change.", dose.Format(float64(p.Waste))))
	}
	return out
}
