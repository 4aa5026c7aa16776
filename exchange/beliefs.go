package exchange

import (
	"encoding/json"
	"fmt"
	"io"
	"math"

	"yardbloom/core/forecast"
	"yardbloom/core/units"
)

// The format and version of beliefs that this package reads and writes.
const (
	BeliefsFormat  = "yardbloom-beliefs"
	BeliefsVersion = 1
)

// Beliefs is the document of the beliefs about a brew's gear and coffee, described by
// schema/beliefs.v1.schema.json: the mean of each parameter, and their covariance in the same order.
type Beliefs struct {
	Format     string      `json:"format"`
	Version    int         `json:"version"`
	Brews      int         `json:"brews"`  // number of measured brews behind them
	OfBag      int         `json:"of_bag"` // of those, of this bag
	Parameters []Parameter `json:"parameters"`
	Covariance [][]float64 `json:"covariance"`
}

// Parameter is one parameter of the brew model (forecast.Names).
type Parameter struct {
	Name string  `json:"name"`
	Mean float64 `json:"mean"`
}

// FromBeliefs returns the document for beliefs.
func FromBeliefs(b *forecast.Beliefs) Beliefs {
	d := Beliefs{Format: BeliefsFormat, Version: BeliefsVersion, Brews: b.Brews, OfBag: b.BagBrews}
	for p, row := range b.Covariance() {
		d.Parameters = append(d.Parameters, Parameter{forecast.Names[p], b.Mean[p]})
		d.Covariance = append(d.Covariance, row[:])
	}
	return d
}

// Write writes the document.
func (d Beliefs) Write(w io.Writer) error {
	enc := json.NewEncoder(w)
	enc.SetIndent("", "  ")
	return enc.Encode(d)
}

// ReadBeliefs reads a document of beliefs. A missing parameter has its prior. An impossible value is a
// *units.ValueError at its path.
func ReadBeliefs(r io.Reader) (*forecast.Beliefs, error) {
	text, err := readHead(r, BeliefsFormat, BeliefsVersion)
	if err != nil {
		return nil, err
	}
	var loose any
	if err := json.Unmarshal(text, &loose); err != nil {
		return nil, err
	}
	if err := beliefs1.check(loose); err != nil {
		return nil, err
	}
	var d Beliefs
	if err := json.Unmarshal(text, &d); err != nil {
		return nil, err
	}
	var at []forecast.Parameter
	for _, k := range d.Parameters {
		p, _ := forecast.ParameterOf(k.Name) // the schema has checked the names
		at = append(at, p)
	}
	out := forecast.Beliefs{Brews: d.Brews, BagBrews: d.OfBag}
	cov := forecast.Prior().Covariance()
	all := units.Range{Lo: float64(len(at)), Hi: float64(len(at))}
	if len(d.Covariance) != len(at) {
		return nil, &units.ValueError{At: Path("covariance"), Value: float64(len(d.Covariance)), Range: all, Err: units.ErrRange}
	}
	for i, k := range d.Parameters {
		out.Mean[at[i]] = k.Mean
		if len(d.Covariance[i]) != len(at) {
			return nil, &units.ValueError{At: Path(fmt.Sprintf("covariance[%d]", i)), Value: float64(len(d.Covariance[i])), Range: all,
				Err: units.ErrRange}
		}
		for j := range at {
			v := d.Covariance[i][j]
			if own := d.Covariance[i][i] * d.Covariance[j][j]; d.Covariance[i][i] < 0 || v*v > own*(1+1e-9)+1e-18 ||
				math.Abs(v-d.Covariance[j][i]) > 1e-9*(1+math.Abs(v)) {
				return nil, &units.ValueError{At: Path(fmt.Sprintf("covariance[%d][%d]", i, j)), Value: v,
					Range: units.Range{Lo: -math.Sqrt(max(0, own)), Hi: math.Sqrt(max(0, own))}, Err: units.ErrRange}
			}
			cov[at[i]][at[j]] = v
		}
	}
	out.Root = cov.Root()
	return &out, nil
}
