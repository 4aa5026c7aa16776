package log

import (
	"encoding/csv"
	"fmt"
	"net/http"

	"yardbloom/web/page"
	"yardbloom/web/station"
)

// traceFile serves the scale readings of a brew as CSV: a row for each reading.
func (s *Screens) traceFile(w http.ResponseWriter, r *http.Request) error {
	sc := station.Of(r)
	readings, err := s.yard.Store.Readings(r.Context(), sc.ID)
	if err != nil {
		return err
	}
	page.Attach(w, "text/csv; charset=utf-8", sc.ID+".csv")
	out := csv.NewWriter(w)
	_ = out.Write([]string{"at_s", "scale_g"}) // the only possible error is that the browser has disconnected
	for _, x := range readings {
		_ = out.Write([]string{fmt.Sprintf("%.2f", float64(x.At)), fmt.Sprintf("%.1f", float64(x.Grams))})
	}
	out.Flush()
	return nil
}
