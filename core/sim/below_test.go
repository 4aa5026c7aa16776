package sim

import (
	"math"
	"testing"

	"yardbloom/core/gear"
	"yardbloom/core/units"
)

// iced is the base case at 1 : 10, with ice that makes it 1 : 16.5.
func iced(ice Ice) Brew {
	return with(base(), func(b *Brew) {
		ratio(10)(b)
		b.Below = Carafes[gear.Glass]
		b.Below.Loss, b.Below.Ice = 0, ice
	})
}

// The cup over ice ends at the energy balance of brew, ice and carafe, and MeltingIce is the inverse of it.
func TestIceEndsAtTheEnergyBalance(t *testing.T) {
	t.Parallel()
	for name, ice := range map[string]Ice{"freezer": {90, -18, 0}, "machine": {90, 0, 0.1}} {
		r := run(t, iced(ice))
		// Without losses, carafe and brew release the heat that ice and its water absorb.
		const carafe = 170.0 // J/K
		warm, brewed := float64(r.Brewed)/1000*(1-r.BrewedTDS/100), float64(r.BrewedTemp)
		solid := 0.090 * (1 - ice.Wet)
		takes := solid * (334e3 - 2100*float64(ice.Celsius))
		want := (warm*heatOfWater*brewed + carafe*21 - takes) / ((warm+0.090)*heatOfWater + carafe)
		inRange(t, name+": cup", float64(r.CupTemp), want-0.05, want+0.05)
		if r.IceLeft != 0 || r.Beverage < r.Brewed+89 {
			t.Errorf("%s: %v g of ice are left, %v g are brewed, %v g are in the cup", name, r.IceLeft, r.Brewed, r.Beverage)
		}
		if back := iced(ice).Below.MeltingIce(units.Grams(warm*1000), r.BrewedTemp, r.CupTemp); math.Abs(float64(back-90)) > 0.1 {
			t.Errorf("%s: to end at %.1f °C takes %.2f g of ice, 90 did", name, float64(r.CupTemp), float64(back))
		}
		if d := r.TDS*float64(r.Beverage) - r.BrewedTDS*float64(r.Brewed); math.Abs(d) > 1e-6 {
			t.Errorf("%s: melting changed the solids by %g", name, d)
		}
	}
}

func TestMoreIceThanMeltsIsLeftAtZero(t *testing.T) {
	t.Parallel()
	r := run(t, iced(Ice{Mass: 300, Celsius: -18}))
	if r.CupTemp != 0 || r.IceLeft <= 50 || r.IceLeft >= 300 {
		t.Errorf("300 g of ice leave %.0f g at %.2f °C", float64(r.IceLeft), float64(r.CupTemp))
	}
	cold := run(t, iced(Ice{Mass: 300, Celsius: -5}))
	if cold.IceLeft >= r.IceLeft {
		t.Errorf("warmer ice leaves more: %v g against %v g", cold.IceLeft, r.IceLeft)
	}
}

func TestDilutionThinsTheCupAndLeavesTheYield(t *testing.T) {
	t.Parallel()
	plain := run(t, base())
	r := run(t, with(base(), func(b *Brew) { b.Below.Dilution, b.Below.Added = 60, 90 }))
	if math.Abs(r.EY-plain.EY) > 1e-9 || math.Abs(float64(r.Beverage-plain.Beverage)-60) > 1e-6 || r.BrewedTDS != plain.TDS ||
		r.TDS >= plain.TDS {
		t.Errorf("EY %v, beverage %v, TDS %v of %v", r.EY, r.Beverage, r.TDS, r.BrewedTDS)
	}
	if r.CupTemp <= plain.CupTemp {
		t.Errorf("water of 90 °C cooled the cup from %v to %v", plain.CupTemp, r.CupTemp)
	}
}

// A kettle without a thermostat cools by Newton's law; with one, each pour has its set temperature.
func TestKettleOffTheHeatCoolsExponentially(t *testing.T) {
	t.Parallel()
	// A kettle so full that the pours have no effect.
	r := run(t, with(base(), func(b *Brew) { b.Kettle = Kettle{Water: 5000, Rate: 0.002} }))
	for i, p := range r.Pours {
		k := 0.002 * math.Cbrt(500./5000)
		want := 21 + 74*math.Exp(-k*float64(p.Start))
		inRange(t, "kettle", float64(p.Temperature), want-0.15, want+0.15)
		if i > 0 && p.Temperature >= r.Pours[i-1].Temperature {
			t.Errorf("pour %d is at %v after %v", i, p.Temperature, r.Pours[i-1].Temperature)
		}
	}
	small := run(t, with(base(), func(b *Brew) { b.Kettle = Kettle{Water: 400, Rate: 0.0007} }))
	if small.EY >= run(t, base()).EY {
		t.Errorf("a kettle that cools does not lower the yield: %v", small.EY)
	}
	held := run(t, with(base(), func(b *Brew) { b.Pours[2].Temperature = 85 }))
	if held.Pours[2].Temperature != 85 {
		t.Errorf("with a thermostat the last pour is at %v", held.Pours[2].Temperature)
	}
}

// A pour that waits for the bed starts when the previous water has drained into it.
func TestPourCanWaitForTheBed(t *testing.T) {
	t.Parallel()
	r := run(t, with(base(), func(b *Brew) {
		for i := range b.Pours[1:] {
			b.Pours[i+1].WhenDrained = true
		}
	}))
	clocked := run(t, base())
	if r.Pours[2].Above > 0.5 || clocked.Pours[2].Above < 5 {
		t.Errorf("level over the bed %.1f mm, by the clock %.1f mm", r.Pours[2].Above, clocked.Pours[2].Above)
	}
	if r.Pours[1].Start < 40 || r.Pours[1].Start > 43 { // and not before its time
		t.Errorf("the first pour after the bloom began at %v", r.Pours[1].Start)
	}
	if r.Pours[2].Start <= clocked.Pours[2].Start || r.Drawdown <= clocked.Drawdown {
		t.Errorf("waiting for the bed begins at %v and ends at %v", r.Pours[2].Start, r.Drawdown)
	}
}
