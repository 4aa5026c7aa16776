package gear

import (
	"context"
	"fmt"
	"html/template"
	"math"
	"net/http"
	"strconv"

	"yardbloom/core/gear"
	"yardbloom/core/learn"
	"yardbloom/core/units"
	"yardbloom/web/figure"
	"yardbloom/web/form"
	"yardbloom/web/page"
)

func listGrinders(s *Screens, ctx context.Context, p units.Prefs) ([]gearItem, error) {
	all, err := s.yard.Store.Grinders(ctx)
	var out []gearItem
	for _, g := range all {
		const middle = 650
		out = append(out, gearItem{g.ID, g.Name, fmt.Sprintf("%s, %d µm is %s, retains %s per grind", g.Burrs, middle, g.Setting(middle),
			p.Unit(units.Dose).Format(float64(g.Loss)))})
	}
	return out, err
}

func fillGrinder(s *Screens, ctx context.Context, n string, p units.Prefs) (*form.Form, error) {
	g := gear.Grinder{Burrs: gear.HandMill, Dial: gear.Dial{Kind: gear.Clicks, Step: 25}, Loss: 0.2}
	var err error
	if n != "" {
		g, err = s.yard.Store.Grinder(ctx, n)
	}
	f := form.New()
	f.Values = map[string]string{"name": g.Name, "burrs": string(g.Burrs), "dial_kind": string(g.Kind),
		"zero": micrometre.Number(float64(g.Zero)),
		"step": micrometre.Number(float64(g.Step)), "loss": p.Unit(units.Dose).Number(float64(g.Loss))}
	if g.Mark > 0 {
		f.Values["mark"] = bare.Number(g.Mark)
	}
	if g.PerTurn > 0 {
		f.Values["per_turn"] = strconv.Itoa(g.PerTurn)
	}
	return f, err
}

func grinderFields(f *form.Form, p units.Prefs) []form.Field {
	zero, step := f.Stepper("zero", "Size at setting 0", micrometre), f.Stepper("step", "One step adds", micrometre)
	zero.Hint = "Median size at 0 on the dial, even if it cannot be set that fine."
	step.Hint = "Negative where higher numbers are finer. For words: 0."
	mark, turn := f.Stepper("mark", "One step on a numbered dial is", bare), f.Stepper("per_turn", "Clicks, or parts, in one turn", form.Count)
	mark.Hint = "0.5 for a dial with half marks; else 1."
	turn.Hint = "For turns and clicks. Of a collar without clicks: the parts of a turn to which you can set it, such as 8."
	burrs := form.Select(f, "burrs", "Cuts with", gear.BurrKinds(), form.Plain)
	burrs.Hint = "A blade grinder has no dial: recipes give a time and a texture."
	return []form.Field{f.Entry("name", "Name"), burrs, form.Select(f, "dial_kind", "Dial shows", gear.DialKinds(), form.Plain),
		zero, step, mark, turn, f.Stepper("loss", "Retention", p.Unit(units.Dose))}
}

func saveGrinder(s *Screens, ctx context.Context, n string, f *form.Form, p units.Prefs, version int64) error {
	kind := form.Choice(f, "dial_kind", "Dial", gear.DialKinds())
	g := gear.Grinder{ID: n, Name: f.Text("name", "The name", 60, true), Burrs: form.Choice(f, "burrs", "Cuts with", gear.BurrKinds()),
		Loss: units.Grams(f.Quantity("loss", "The loss", p.Unit(units.Dose), lossRange, false)),
		Dial: gear.Dial{Kind: kind, Zero: units.Micrometres(f.Quantity("zero", "The size", micrometre, dialZero, kind != gear.Words)),
			Step:    units.Micrometres(f.Quantity("step", "The step", micrometre, dialStep, kind != gear.Words)),
			Mark:    f.Quantity("mark", "The mark", bare, dialMark, kind == gear.Numbered),
			PerTurn: int(f.Quantity("per_turn", "A turn", form.Count, perTurn, kind == gear.Turns || kind == gear.Collar))}}
	if g.Burrs == gear.Blade { // it has no repeatable setting
		g.Dial = gear.Dial{Kind: gear.Words}
		for _, name := range []string{"zero", "step", "mark", "per_turn"} {
			delete(f.Errors, name)
		}
	}
	if g.Kind != gear.Words && f.Errors["step"] == "" && math.Abs(float64(g.Step)) < gear.MinStep {
		f.Fail("step", "Each step must change the size. Enter the change in size for one step.")
	}
	if !f.OK() {
		return nil
	}
	if n != "" {
		was, err := s.yard.Store.Grinder(ctx, n)
		if err != nil {
			return err
		}
		g.Zeroed = was.Zeroed
	}
	return s.yard.Store.SaveGrinder(ctx, g, version)
}

// A grinderView is the drawing of a grinder's dial, with the meaning of its settings.
type grinderView struct {
	ID     string
	Dial   []template.HTML
	Words  string // of a grinder without a dial
	Table  []settingView
	Zeroed int
	Since  string
	Ask    form.Field   // a setting or a size to convert
	Reads  string       // the result
	Others []form.Field // another grinder to match
	Match  string
}

type settingView struct{ Setting, Size, Texture, For string }

// uses lists the usual uses of sizes.
var uses = []struct {
	size units.Micrometres
	what string
}{
	{450, "fine for a cone, nearly clogs"}, {550, "over ice, small cups"}, {650, "cones and flat beds"}, {750, "thick paper, large brews"},
	{850, "steeping, coarse schools"}, {1000, "large steeps"},
}

func (s *Screens) grinderView(r *http.Request, n string) (*grinderView, error) {
	g, err := s.yard.Store.Grinder(r.Context(), n)
	if err != nil {
		return nil, err
	}
	v := &grinderView{ID: n, Zeroed: g.Zeroed}
	u := page.Prefs(r).Unit(units.Grind)
	if !g.Repeatable() || g.Step == 0 {
		v.Words = "It has no numbered setting. Recipes describe the texture of the grounds."
		if !g.Repeatable() {
			v.Words = "A blade cannot repeat a grind: chop in pulses of two seconds, shake between them, and look. Predictions " +
				"with it have large errors."
		}
		for _, use := range uses {
			v.Table = append(v.Table, settingView{fmt.Sprintf("about %.0f s", gear.GrindSeconds(use.size)), u.Format(float64(use.size)),
				gear.Texture(use.size), use.what})
		}
		return v, nil
	}
	v.Dial = figure.Dial(g.Dial)
	for _, use := range uses {
		size := g.Snap(use.size)
		v.Table = append(v.Table, settingView{g.Setting(size), u.Format(float64(size)), gear.Texture(size), use.what})
	}
	return v, s.readDial(r, g, v)
}

// readDial converts the asked setting to a size, or a size to a setting, and to the setting of another
// grinder, using the yard's knowledge about both.
func (s *Screens) readDial(r *http.Request, g gear.Grinder, v *grinderView) error {
	f := form.New()
	f.Values["reading"], f.Values["other"] = r.URL.Query().Get("reading"), r.URL.Query().Get("other")
	if f.Values["reading"] == "" {
		f.Values["reading"] = units.Trim(g.Number(650), 2)
	}
	v.Ask = f.Stepper("reading", "Setting to convert", units.Unit{Scale: 1, Decimals: 2, Step: g.Stride(), Fine: g.Stride()})
	all, err := s.yard.Store.Grinders(r.Context())
	if err != nil {
		return err
	}
	others := []gear.Grinder{}
	for _, other := range all {
		if other.ID != g.ID && other.Step != 0 {
			others = append(others, other)
		}
	}
	if len(others) > 0 {
		if f.Values["other"] == "" {
			f.Values["other"] = others[0].ID
		}
		v.Others = []form.Field{form.Select(f, "other", "Other grinder", others,
			func(o gear.Grinder) (string, string) { return o.ID, o.Name })}
	}
	reading, err := bare.Parse(f.Values["reading"])
	size := float64(g.FromNumber(reading))
	if limits := (units.Range{Lo: 100, Hi: 2000}); err != nil || math.IsNaN(size) || !limits.Contains(size) {
		v.Ask.Error = "Type a setting of this dial at which coffee is ground, such as " + strconv.Quote(units.Trim(g.Number(650), 2)) + "."
		return nil
	}
	u := page.Prefs(r).Unit(units.Grind)
	v.Reads = fmt.Sprintf("%s: %s, %s.", g.Setting(units.Micrometres(size)), u.Format(size), gear.Texture(units.Micrometres(size)))
	for _, other := range others {
		if other.ID == f.Values["other"] {
			v.Match = s.match(g, other, units.Micrometres(size))
		}
	}
	return nil
}

// match returns the setting of another grinder for the same grind at a size, by the drawdowns of both.
func (s *Screens) match(g, other gear.Grinder, size units.Micrometres) string {
	own, theirs := s.yard.Learned().Grinder(learn.GrinderKey(g)), s.yard.Learned().Grinder(learn.GrinderKey(other))
	at := other.Snap(own.MatchingSize(size, theirs))
	rests := "from the dials alone; one brew on each grinder would calibrate it"
	switch {
	case own.Brews > 0 && theirs.Brews > 0:
		rests = fmt.Sprintf("from the drawdowns of %d brews on this one and %d on the other, ± %.0f %%", own.Brews, theirs.Brews,
			100*math.Hypot(own.Error, theirs.Error))
	case own.Brews > 0 || theirs.Brews > 0:
		rests = "from the brews of one grinder and the dial of the other; one brew on the other would calibrate it"
	}
	return fmt.Sprintf("%s on %s (%s).", other.Setting(at), other.Name, rests)
}

// zeroGrinder records that a grinder was calibrated again.
func (s *Screens) zeroGrinder(w http.ResponseWriter, r *http.Request) error {
	n, err := page.ID(r)
	if err != nil {
		return err
	}
	if err := s.yard.Store.ZeroGrinder(r.Context(), n); err != nil {
		return err
	}
	return page.SeeOther(w, r, "/gear/grinders/%s", n)
}
