package document

// Draft is what a recipe in the making has beside its recipe: what is held, half
// typed and ticked.
type Draft struct {
	V       int               `json:"v"`
	Held    []string          `json:"held"` // the two amounts that were set last
	Ratio   float64           `json:"ratio,omitempty"`
	Typed   map[string]string `json:"typed,omitempty"` // by address
	Tab     string            `json:"tab,omitempty"`
	Checked []string          `json:"checked,omitempty"`
}
