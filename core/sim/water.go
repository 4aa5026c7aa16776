package sim

import "math"

const (
	gravity      = 9.80665 // m/s²
	heatOfWater  = 4186.0  // J/(kg K), between 20 and 100 °C within 1 %
	heatOfCoffee = 1700.0  // J/(kg K), dry roasted coffee
	vaporisation = 2.29e6  // J/kg, water near 85 °C
)

// viscosity of water, Pa·s, by the Vogel equation μ = exp(A + B/(C + T)) with T in K,
// A = −3.7188 (for mPa·s), B = 578.919, C = −137.546; within 1 % from 0 to 100 °C.
func viscosity(celsius float64) float64 {
	return 1e-3 * math.Exp(-3.7188+578.919/(celsius+273.15-137.546))
}

// density of water, kg/m³: a parabola through 999.8 at 4 °C and 958.4 at 100 °C,
// within 0.3 %.
func density(celsius float64) float64 {
	d := celsius - 4
	return 999.8 - 0.0045*d*d
}

// vapourPressure of water, Pa, by the Antoine equation (1 to 100 °C, mmHg:
// A 8.07131, B 1730.63, C 233.426).
func vapourPressure(celsius float64) float64 {
	return 133.322 * math.Exp(math.Ln10*(8.07131-1730.63/(233.426+celsius)))
}
