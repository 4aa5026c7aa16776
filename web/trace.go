package web

import (
	"encoding/csv"
	"fmt"
	"net/http"
)

// traceFile hands out what the scale under a brew showed, as CSV: a row for each reading.
func (s *Server) traceFile(w http.ResponseWriter, r *http.Request) error {
	sc := sceneOf(r)
	readings, err := s.Store.Readings(r.Context(), sc.ID)
	if err != nil {
		return err
	}
	asFile(w, "text/csv; charset=utf-8", sc.ID+".csv")
	out := csv.NewWriter(w)
	_ = out.Write([]string{"at_s", "scale_g"}) // the browser has gone, so there is nobody to report to
	for _, x := range readings {
		_ = out.Write([]string{fmt.Sprintf("%.2f", float64(x.At)), fmt.Sprintf("%.1f", float64(x.Grams))})
	}
	out.Flush()
	return nil
}
