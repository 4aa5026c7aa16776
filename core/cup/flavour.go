package cup

// A Plot is a group of related flavours, shown as a garden bed.
type Plot struct {
	Name     string
	Flavours []string
}

// plots is the built-in list. People can add their own flavours.
var plots = []Plot{
	{"Flower bed", []string{"jasmine", "rose", "elderflower", "lavender", "honeysuckle", "black tea", "chamomile"}},
	{"Berry rows", []string{"strawberry", "raspberry", "redcurrant", "blackcurrant", "blueberry", "blackberry", "gooseberry"}},
	{"Orchard", []string{"red apple", "green apple", "pear", "quince", "plum", "cherry", "apricot", "peach", "white peach", "nectarine"}},
	{"Glasshouse", []string{"lemon", "lime", "orange", "mandarin", "grapefruit", "bergamot", "orange peel"}},
	{"Hothouse", []string{"mango", "pineapple", "passion fruit", "lychee", "papaya", "banana", "coconut", "melon"}},
	{"Drying loft", []string{"raisin", "date", "fig", "prune", "dried apricot", "tamarind"}},
	{"Pantry", []string{"honey", "cane sugar", "brown sugar", "caramel", "maple syrup", "molasses", "vanilla", "butter", "cream"}},
	{"Nut trees", []string{"hazelnut", "almond", "walnut", "peanut", "marzipan", "chestnut"}},
	{"Chocolate box", []string{"milk chocolate", "dark chocolate", "cocoa", "cocoa nibs", "nougat"}},
	{"Spice drawer", []string{"cinnamon", "clove", "cardamom", "nutmeg", "ginger", "pepper", "star anise", "liquorice"}},
	{"Herb bed", []string{"mint", "thyme", "basil", "sage", "lemongrass", "fresh grass", "pea pod", "tomato leaf"}},
	{"Bakehouse", []string{"toast", "malt", "biscuit", "brioche", "rye bread", "roasted barley", "smoke", "ash"}},
	{"Cellar", []string{"red wine", "white wine", "cider", "rum", "whisky", "yoghurt", "kombucha", "vinegar"}},
	{"Shed", []string{"wood", "cardboard", "straw", "damp earth", "leather", "tobacco", "rubber", "metal"}},
}

// Plots lists the flavours by group.
func Plots() []Plot { return plots }

// IsListed reports whether a flavour is in the built-in list.
func IsListed(flavour string) bool {
	for _, p := range plots {
		for _, f := range p.Flavours {
			if f == flavour {
				return true
			}
		}
	}
	return false
}
