package figure

import (
	"html/template"

	"yardbloom/core/gear"
)

// sections holds the lines of each kind of brewer cut open, on a grid of 96 by 84: the wall, the bed of coffee in it, and what drips out.
var sections = map[gear.BrewerKind]struct{ wall, bed, drips string }{
	gear.OpenCone:     {"M8 10L43 66v6h10v-6L88 10M3 10h90M27 24l-7-9M69 24l7-9", "M29 44h38L53 66H43z", "M46 76v6M50 76v6"},
	gear.FlatBed:      {"M12 10l12 52h48l12-52M6 10h84M24 62v6h48v-6", "M21 46h54l-3.6 16H24.6z", "M34 72v8M48 72v8M62 72v8"},
	gear.HeavyCone:    {"M10 6l33 40v6L20 78h56L53 52v-6L86 6M4 6h14M78 6h14", "M26 26h44L50 48h-4z", "M48 56v8"},
	gear.ValveSteeper: {"M12 10v20l31 34v6h10v-6l31-34V10M6 10h84M36 72h24M48 66v6", "M27 46h42L53 64H43z", ""},
}

// Section returns a kind of brewer cut open, for choosing one.
func Section(k gear.BrewerKind) template.HTML {
	s := sections[k]
	var c canvas
	c.add(`<path class="section-bed" d="%s"/><path class="section-wall" d="%s"/>`, s.bed, s.wall)
	if s.drips != "" {
		c.add(`<path class="section-drips" d="%s"/>`, s.drips)
	}
	return c.wrap(96, 84, "section", "", `aria-hidden="true"`)
}
