package cup

import "testing"

// Every mark tells how to pour on. Mutation caught: a mark without a sentence.
func TestMarksTellHowToPourOn(t *testing.T) {
	t.Parallel()
	for _, m := range Marks() {
		if m.Now() == "" {
			t.Errorf("%q tells nothing", m)
		}
	}
}
