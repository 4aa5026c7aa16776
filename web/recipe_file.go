package web

import (
	"fmt"
	"net/http"

	"yardbloom/exchange"
)

// recipeFile hands a recipe out in the open format.
func (s *Server) recipeFile(w http.ResponseWriter, r *http.Request) error {
	b, _, _, err := s.load(r)
	if err != nil {
		return err
	}
	when := b.Started
	if when.IsZero() {
		when = s.Now()
	}
	w.Header().Set("Content-Type", "application/json")
	w.Header().Set("Content-Disposition", fmt.Sprintf(`attachment; filename="recipe-%d.json"`, b.ID))
	return exchange.FromBrew(b, when).Write(w)
}
