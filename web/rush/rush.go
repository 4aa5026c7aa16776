package rush

import (
	"cmp"
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"slices"
	"strings"

	"yardbloom/core/brew"
	"yardbloom/core/gear"
	"yardbloom/core/rush"
	"yardbloom/core/units"
	"yardbloom/store"
	"yardbloom/web/figure"
	"yardbloom/web/form"
	"yardbloom/web/page"
	"yardbloom/web/words"
	"yardbloom/yard"
)

// rushesBody is the page for planning a rush.
type rushesBody struct {
	Recipes []orderable
	Same    form.Field // number of brewers of each kind
	Error   string
	Rushes  []page.Entry
}

// orderable is a kept recipe that can be ordered.
type orderable struct {
	form.Field
	Coffee, What string
	Flower       template.HTML
}

func (s *Screens) rushes(w http.ResponseWriter, r *http.Request) error {
	return s.showRushes(w, r, http.StatusOK, form.New(), "")
}

var (
	timesRange = units.Range{Lo: 0, Hi: rush.MaxOrders}
	sameRange  = units.Range{Lo: 1, Hi: rush.MaxOrders}
)

func (s *Screens) showRushes(w http.ResponseWriter, r *http.Request, status int, f *form.Form, wrong string) error {
	kept, err := s.yard.Store.Book(r.Context())
	if err != nil {
		return err
	}
	body := rushesBody{Error: wrong}
	const most = 12
	for _, k := range kept[:min(len(kept), most)] {
		g, err := s.yard.Store.Gear(r.Context(), k.Gear.IDs())
		if err != nil {
			return err
		}
		name := "order." + k.ID
		if f.Values[name] == "" {
			f.Values[name] = "0"
		}
		body.Recipes = append(body.Recipes, orderable{f.Stepper(name, k.Name, form.Count), k.Coffee,
			fmt.Sprintf("%s, %s", g.Brewer.Name, page.Prefs(r).Unit(units.Water).Format(float64(k.Recipe.Water()))),
			figure.Flower(k.Recipe.Dose, k.Recipe.Plan().Steps, 0)})
	}
	f.Values["same"] = cmp.Or(f.Values["same"], "1")
	body.Same = f.Stepper("same", "Brewers set up of each kind", form.Count)
	past, err := s.yard.Store.Rushes(r.Context())
	if err != nil {
		return err
	}
	for _, d := range past[:min(len(past), most)] {
		says := fmt.Sprintf("%d brews", len(d.Value.Orders))
		if d.Value.Ended {
			says += ", over"
		}
		body.Rushes = append(body.Rushes, page.Entry{Href: "/rush/" +
			d.Value.ID, Name: "Rush", Says: says, When: words.Moment(d.At, s.yard.Now()), By: page.BadgeOf(r, d.Value.By)})
	}
	s.Render(w, r, status, "rushes", page.Page{Title: "Rush", Side: "rush", Line: page.Line(""), Notice: page.ArchiveNotice(r, "/rush"),
		Body: body})
	return nil
}

// heatPerGram is the time in which a kettle of about 1,200 W heats a gram from tap to brewing temperature,
// s.
const heatPerGram = 0.25

// addRush creates a rush from the orders, with a copy of the recipe for each brew.
func (s *Screens) addRush(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	same := int(f.Quantity("same", "The number", form.Count, sameRange, false))
	made := rush.Rush{ID: store.NewID()}
	var drafts []brew.Draft
	names := make([]string, 0, len(f.Values))
	for name := range f.Values {
		names = append(names, name)
	}
	slices.Sort(names)
	uses := map[string]int{}
	for _, name := range names {
		id, ordered := strings.CutPrefix(name, "order.")
		if !ordered || !store.ValidID(id) {
			continue
		}
		n := int(f.Quantity(name, "The number", form.Count, timesRange, false))
		for range n {
			o, copied, err := s.yard.Order(r.Context(), id, page.Settings(r))
			if errors.Is(err, yard.ErrUnplannable) {
				f.Fail(name, "The model cannot plan this recipe: see its page for the reason.")
				break
			}
			if err != nil {
				return err
			}
			uses[copied.Gear.Brewer.ID]++
			o.Brewer = fmt.Sprintf("%s/%d", o.Brewer, (uses[copied.Gear.Brewer.ID]-1)%max(1, same))
			made.Orders, drafts = append(made.Orders, o), append(drafts, copied)
			made.Kettle = kettleFor(made.Kettle, copied.Gear.Kettle)
		}
	}
	wrong := ""
	if len(made.Orders) == 0 {
		wrong = "Order something first: a number beside a recipe."
	}
	plan, err := rush.Make(ordersOf(made.Orders), nil, made.Kettle)
	switch {
	case errors.Is(err, rush.ErrMany):
		wrong = fmt.Sprintf("One pair of hands can manage %d brews, and these are %d. Make %[1]d now, and the rest after them.",
			rush.MaxOrders, len(made.Orders))
	case errors.Is(err, rush.ErrKettle):
		wrong = fmt.Sprintf("One of these needs more water than %s gives in one fill. Use a larger kettle, or half the recipe at a time.",
			cmp.Or(kettleName(drafts), "the kettle"))
	case err != nil:
		wrong = "These take longer than an hour for one pair of hands. Remove some, or let a second person pour."
	}
	if !f.OK() || wrong != "" {
		return s.showRushes(w, r, http.StatusUnprocessableEntity, f, wrong)
	}
	for _, slot := range plan.Slots {
		made.Orders[slot.Order].Planned = slot.Tasks[0]
	}
	slices.SortStableFunc(made.Orders, func(a, b rush.Ordered) int { return cmp.Compare(a.Planned, b.Planned) })
	for _, d := range drafts {
		if err := s.yard.Store.AddDraft(r.Context(), d, s.yard.Now()); err != nil {
			return err
		}
	}
	made.By = page.PersonID(r)
	if err := s.yard.Store.AddRush(r.Context(), made, s.yard.Now()); err != nil {
		return err
	}
	return page.SeeOther(w, r, "/rush/%s", made.ID)
}

// moreRush adds an order to a running rush. It waits its turn like the others.
func (s *Screens) moreRush(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	if !store.ValidID(f.Values["recipe"]) {
		return store.ErrNotFound
	}
	o, copied, err := s.yard.Order(r.Context(), f.Values["recipe"], page.Settings(r))
	if errors.Is(err, yard.ErrUnplannable) {
		return page.Problem{Status: http.StatusUnprocessableEntity, Title: "This recipe cannot be planned",
			Text: "The model cannot predict it. See its page for the reason."}
	}
	if err != nil {
		return err
	}
	rs, err := s.yard.Store.Rush(r.Context(), rushID(r))
	if err != nil {
		return err
	}
	for _, other := range rs.Orders {
		if strings.HasPrefix(other.Brewer, o.Brewer+"/") {
			o.Brewer = other.Brewer // when its present brew is done
		}
	}
	if len(rs.Orders) >= maxOrders {
		return page.Problem{Status: http.StatusUnprocessableEntity, Title: "Too many for one rush",
			Text: fmt.Sprintf("One board holds %d brews. End this rush and begin another.", maxOrders)}
	}
	o.Planned = units.Seconds(s.yard.RushMoment(rs).Sub(rs.Started).Seconds())
	if err := s.yard.Store.AddDraft(r.Context(), copied, s.yard.Now()); err != nil {
		return err
	}
	err = s.yard.Store.ChangeRush(r.Context(), rs.ID, func(rs rush.Rush) (rush.Rush, error) {
		rs.Orders = append(rs.Orders, o)
		return rs, nil
	})
	return s.toldRush(w, r, err)
}

// maxOrders is the maximum number of orders of a rush, finished ones included.
const maxOrders = 12

// kettleFor returns the kettle shared by all orders: the largest of theirs.
func kettleFor(k rush.Kettle, own gear.Kettle) rush.Kettle {
	const fill = 20 // s
	if gives := own.Capacity - gear.Heel; own.Capacity > 0 && gives > k.Holds {
		return rush.Kettle{Holds: gives, Left: gives, Fill: fill, Heat: heatPerGram}
	}
	return k
}

func kettleName(drafts []brew.Draft) string {
	if len(drafts) == 0 {
		return ""
	}
	return drafts[0].Gear.Kettle.Name
}

func ordersOf(all []rush.Ordered) []rush.Order {
	out := make([]rush.Order, len(all))
	for i, o := range all {
		out[i] = o.Order
	}
	return out
}
