package recipe

import (
	"testing"

	"yardbloom/core/coffee"
	"yardbloom/core/gear"
)

func shed() ([]gear.Brewer, []gear.Grinder) {
	return []gear.Brewer{
			{ID: "cone", Name: "Cone", Kind: gear.OpenCone, Filter: gear.StandardPaper},
			{ID: "mesh", Name: "Mesh cone", Kind: gear.OpenCone, Filter: gear.Mesh},
			{ID: "heavy", Name: "Heavy", Kind: gear.HeavyCone, Filter: gear.ThickPaper},
			{ID: "steeper", Name: "Steeper", Kind: gear.ValveSteeper, Filter: gear.StandardPaper},
		}, []gear.Grinder{
			{ID: "flat", Name: "Flat", Burrs: gear.FlatBurr}, {ID: "conical", Name: "Conical", Burrs: gear.ConicalBurr},
		}
}

// A wish gives the choice of an experienced barista.
func TestWishMatchesABaristasChoice(t *testing.T) {
	brewers, grinders := shed()
	medium := coffee.Bag{Roast: coffee.Medium}
	for name, c := range map[string]struct {
		wish            Wish
		brewer, grinder string
		style           StyleID
	}{
		"as clear as can be": {Wish{Clear: 1}, "heavy", "flat", ""},
		"full":               {Wish{Clear: -1}, "mesh", "conical", Pulses},
		"full and no fuss":   {Wish{Clear: -0.5, Quick: 1}, "steeper", "conical", SteepAndRelease},
		"bright and quick":   {Wish{Bright: 1, Quick: 0.5}, "cone", "flat", TwoCentredPours},
		"cold and bright":    {Wish{Cold: true, Bright: 1}, "cone", "flat", IceHotAndSlow},
		"cold and sweet":     {Wish{Cold: true, Bright: -1}, "", "conical", IcePulsed},
	} {
		all := Choose(c.wish, medium, brewers, grinders)
		if len(all) < 2 {
			t.Errorf("%s: %d choices", name, len(all))
			continue
		}
		best := all[0]
		if c.brewer != "" && best.Brewer.ID != c.brewer || best.Grinder.ID != c.grinder || c.style != "" && best.Style.ID != c.style {
			t.Errorf("%s: %s, %s, %s, because %s", name, best.Brewer.ID, best.Grinder.ID, best.Style.ID, best.Explanation())
		}
		if best.Explanation() == "" || best.Contrast(all[len(all)-1]) == "" {
			t.Errorf("%s says nothing", name)
		}
		for _, other := range all {
			if !other.Style.Fits(other.Brewer.Kind) || (other.Style.Serving() == OverIce) != c.wish.Cold {
				t.Errorf("%s offers %s in %s", name, other.Style.ID, other.Brewer.ID)
			}
		}
	}
	clearest, full := Choose(Wish{Clear: 1}, medium, brewers, grinders)[0], Choose(Wish{Clear: -1}, medium, brewers, grinders)[0]
	if got := clearest.Contrast(full); got[:6] != "fuller" {
		t.Errorf("against the clear cup the full one is %q", got)
	}
}
