package sim

// Slurry and bed have one common temperature, the brewer another. Heat is stored in joules above 0 °C, so
// that energy is conserved by construction.
const (
	evaporates  = 2.3e-8 // kg/(s m² Pa): at 88 °C under still air 60 cm² lose about half a gram a minute
	surfaceLoss = 9.0    // W/(m² K): free convection and radiation from the surface
	underLid    = 0.2    // of both, where a lid leaves a gap
	humidity    = 0.5    // of the room's air
)

// streamLoss returns the temperature loss of a stream, K: about half a kelvin from close to the water, two
// from high up.
func streamLoss(fall float64) float64 { return 0.4 + 6*fall }

// capacity of slurry and bed together, J/K.
func (r *runner) capacity() float64 {
	return heatOfWater*(r.slurry+r.between+r.inside) + heatOfCoffee*r.dose
}

// cool moves heat from the slurry to brewer and air, and water to vapour, in a
// step. It returns the water that evaporated, kg.
func (r *runner) cool(dt, surface float64) float64 {
	b := &r.brew.Brewer
	toBrewer := b.Contact * (r.celsius - r.brewerTemp) * dt
	brewerToAir := r.losses * b.Loss * (r.brewerTemp - float64(r.brew.Ambient)) * dt
	if b.Lid {
		surface *= underLid
	}
	toAir := r.losses * surfaceLoss * surface * (r.celsius - float64(r.brew.Ambient)) * dt
	steam := 0.0
	if r.slurry > 0 {
		steam = r.losses * evaporates * surface * max(0, vapourPressure(r.celsius)-r.airVapour) * dt
		steam = min(steam, 0.5*r.slurry)
	}
	latent := steam * vaporisation
	carried := steam * heatOfWater * r.celsius
	r.heat -= toBrewer + toAir + latent + carried
	r.slurry -= steam
	r.brewerTemp += (toBrewer - brewerToAir) / b.Heat
	r.lost += brewerToAir + toAir + latent + carried
	return steam
}
