package web

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
	"yardbloom/web/words"
)

// rushesBody is where a rush is put together.
type rushesBody struct {
	Recipes []orderable
	Same    form.Field // how many of each brewer stand ready
	Error   string
	Rushes  []listed
}

// orderable is a kept recipe that can be ordered.
type orderable struct {
	form.Field
	Coffee, What string
	Flower       template.HTML
}

func (s *Server) rushes(w http.ResponseWriter, r *http.Request) error {
	return s.showRushes(w, r, http.StatusOK, form.New(), "")
}

var (
	timesRange = units.Range{Lo: 0, Hi: rush.Most}
	sameRange  = units.Range{Lo: 1, Hi: rush.Most}
)

func (s *Server) showRushes(w http.ResponseWriter, r *http.Request, status int, f *form.Form, wrong string) error {
	kept, err := s.Store.Book(r.Context())
	if err != nil {
		return err
	}
	body := rushesBody{Error: wrong}
	const most = 12
	for _, k := range kept[:min(len(kept), most)] {
		g, err := s.Store.Gear(r.Context(), k.Gear.IDs())
		if err != nil {
			return err
		}
		name := "order." + k.ID
		if f.Values[name] == "" {
			f.Values[name] = "0"
		}
		body.Recipes = append(body.Recipes, orderable{f.Stepper(name, k.Name, whole), k.Coffee, fmt.Sprintf("%s, %s", g.Brewer.Name, prefsOf(r).Unit(units.Water).Format(float64(k.Recipe.Water()))), figure.Flower(k.Recipe.Dose, k.Recipe.Plan().Steps, 0)})
	}
	f.Values["same"] = cmp.Or(f.Values["same"], "1")
	body.Same = f.Stepper("same", "Of each brewer there stand ready", whole)
	past, err := s.Store.Rushes(r.Context())
	if err != nil {
		return err
	}
	for _, d := range past[:min(len(past), most)] {
		says := fmt.Sprintf("%d brews", len(d.It.Orders))
		if d.It.Ended {
			says += ", over"
		}
		body.Rushes = append(body.Rushes, listed{"/rush/" + d.It.ID, "Rush", says, words.Moment(d.At, s.Now())})
	}
	s.render(w, r, status, "rushes", page{Title: "Rush", Side: "rush", Line: emptyLine(""), Notice: asideNotice(r, "/rush"), Body: body})
	return nil
}

// heatPerGram is how long a kettle of about 1,200 W takes to heat a gram from the tap to brewing, s.
const heatPerGram = 0.25

// addRush makes a rush of what was ordered: a copy of its recipe for each brew.
func (s *Server) addRush(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	same := int(f.Quantity("same", "The number", whole, sameRange, false))
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
		n := int(f.Quantity(name, "The number", whole, timesRange, false))
		for range n {
			o, copied, err := s.order(r, id)
			if errors.Is(err, errUnplanned) {
				f.Fail(name, "The model cannot plan this recipe: its own page says why.")
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
		wrong = fmt.Sprintf("One pair of hands can hold %d brews in mind, and these are %d. Make %[1]d now, and the rest after them.", rush.Most, len(made.Orders))
	case errors.Is(err, rush.ErrKettle):
		wrong = fmt.Sprintf("One of these needs more water than %s gives in one fill. A larger kettle would do, or half of it at a time.", cmp.Or(kettleName(drafts), "the kettle"))
	case err != nil:
		wrong = "These take longer than an hour for one pair of hands. Take some of them out, or let a second person pour."
	}
	if !f.OK() || wrong != "" {
		return s.showRushes(w, r, http.StatusUnprocessableEntity, f, wrong)
	}
	for _, slot := range plan.Slots {
		made.Orders[slot.Order].Planned = slot.Tasks[0]
	}
	slices.SortStableFunc(made.Orders, func(a, b rush.Ordered) int { return cmp.Compare(a.Planned, b.Planned) })
	for _, d := range drafts {
		if err := s.Store.AddDraft(r.Context(), d, s.Now()); err != nil {
			return err
		}
	}
	if err := s.Store.AddRush(r.Context(), made, s.Now()); err != nil {
		return err
	}
	return seeOther(w, r, "/rush/%s", made.ID)
}

// errUnplanned is returned for a recipe outside the model's ranges.
var errUnplanned = errors.New("the model cannot plan it")

// order makes an order of a kept recipe: a copy of it, to be brewed.
func (s *Server) order(r *http.Request, recipeID string) (rush.Ordered, brew.Draft, error) {
	d, _, err := s.Store.Draft(r.Context(), recipeID)
	if err != nil {
		return rush.Ordered{}, d, err
	}
	copied := d.Copy(store.NewID(), s.Now())
	s.attend(r, &copied.Sheet)
	o, err := rush.OrderOf(d.Name, copied.Question(s.Now()))
	if err != nil {
		return rush.Ordered{}, d, errUnplanned
	}
	return rush.Ordered{Order: o, Brew: copied.ID, On: d.Gear.Brewer.Name}, copied, nil
}

// moreRush takes one more order into a rush that runs: it waits its turn like the others.
func (s *Server) moreRush(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	if !store.ValidID(f.Values["recipe"]) {
		return store.ErrNotFound
	}
	o, copied, err := s.order(r, f.Values["recipe"])
	if errors.Is(err, errUnplanned) {
		return problem{http.StatusUnprocessableEntity, "This recipe cannot be planned", "The model cannot predict it. Its own page says why."}
	}
	if err != nil {
		return err
	}
	rs, err := s.Store.Rush(r.Context(), rushID(r))
	if err != nil {
		return err
	}
	for _, other := range rs.Orders {
		if strings.HasPrefix(other.Brewer, o.Brewer+"/") {
			o.Brewer = other.Brewer // after the one that uses it now
		}
	}
	if len(rs.Orders) >= mostOrders {
		return problem{http.StatusUnprocessableEntity, "Too many for one rush", fmt.Sprintf("One board holds %d brews. End this rush and begin another.", mostOrders)}
	}
	o.Planned = units.Seconds(s.Now().Sub(rs.Started).Seconds())
	if err := s.Store.AddDraft(r.Context(), copied, s.Now()); err != nil {
		return err
	}
	err = s.Store.ChangeRush(r.Context(), rs.ID, func(rs rush.Rush) (rush.Rush, error) {
		rs.Orders = append(rs.Orders, o)
		return rs, nil
	})
	return s.toldRush(w, r, err)
}

// mostOrders is how many brews one board holds, those that are in the cup counted.
const mostOrders = 12

// kettleFor is the kettle that all orders share: the largest of theirs.
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
