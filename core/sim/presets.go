package sim

import "yardbloom/core/gear"

// Brewers as data, by kind, in a small and a large size. Outlets are resistances
// for water at 90 °C: a large hole passes 40 g/s under 5 cm, small ones 12.
var (
	OpenConeSmall  = Brewer{Base: 0.006, Angle: 30, Rim: 0.085, Outlet: 1.2e7, Ribbed: true, Bypass: 0.11, Heat: 90, Contact: 2.4, Loss: 0.45}
	OpenConeLarge  = Brewer{Base: 0.007, Angle: 30, Rim: 0.100, Outlet: 1.2e7, Ribbed: true, Bypass: 0.11, Heat: 95, Contact: 2.0, Loss: 0.45}
	FlatBedSmall   = Brewer{Base: 0.026, Angle: 9, Rim: 0.085, Outlet: 4e7, Bypass: 0.03, Heat: 70, Contact: 1.4, Loss: 0.35}
	FlatBedLarge   = Brewer{Base: 0.031, Angle: 10, Rim: 0.100, Outlet: 4e7, Bypass: 0.03, Heat: 95, Contact: 1.8, Loss: 0.45}
	HeavyConeSmall = Brewer{Base: 0.008, Angle: 31, Rim: 0.105, Outlet: 1.5e7, Heat: 140, Contact: 2.4, Loss: 0.5}
	HeavyConeLarge = Brewer{Base: 0.010, Angle: 31, Rim: 0.125, Outlet: 1.5e7, Heat: 190, Contact: 3.0, Loss: 0.6}
	SteeperSmall   = Brewer{Base: 0.018, Angle: 28, Rim: 0.095, Outlet: 6e7, Ribbed: true, Bypass: 0.03, Heat: 110, Contact: 3.0, Loss: 0.9}
	SteeperLarge   = Brewer{Base: 0.020, Angle: 28, Rim: 0.115, Outlet: 6e7, Ribbed: true, Bypass: 0.03, Heat: 150, Contact: 3.6, Loss: 1.1}
)

// Filters as data: the resistance of the wetted filter.
var Filters = map[gear.FilterKind]Filter{
	gear.StandardPaper:   {Resistance: 4e8},
	gear.ThickPaper:      {Resistance: 9e8, Clings: true},
	gear.FastPaper:       {Resistance: 1.8e8},
	gear.CorrugatedPaper: {Resistance: 7e8},
	gear.Cloth:           {Resistance: 3e8},
	gear.Mesh:            {Resistance: 0.3e8},
}
