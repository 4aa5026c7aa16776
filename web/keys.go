package web

import "net/http"

// keys lists the shortcuts.
func (s *Server) keys(w http.ResponseWriter, r *http.Request) error {
	s.render(w, r, http.StatusOK, "keys", page{Title: "Keys", Side: "keys", Line: emptyLine("")})
	return nil
}
