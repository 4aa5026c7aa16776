package learn

import "yardbloom/core/forecast"

// wander is the variance of ln of a grinder's size that its random walk adds in a day: burrs wear and zeros slip by about 3 %
// in a month.
const wander = 0.03 * 0.03 / 30

// walk lets the grinder of a sample wander since its last brew: its size becomes less certain, at most as uncertain as at the
// beginning.
func (y *Knowledge) walk(s Sample) {
	for i := len(y.Seen) - 1; i >= 0; i-- {
		if y.Seen[i].Grinder != s.Grinder {
			continue
		}
		days := s.At.Sub(y.Seen[i].At).Hours() / 24
		k := key{forecast.Size, s.Grinder}
		j, known := y.index[k]
		if !known || days <= 0 {
			return
		}
		y.cov.SetSym(j, j, min(max(y.cov.At(j, j), k.variance()), y.cov.At(j, j)+wander*days))
		return
	}
}
