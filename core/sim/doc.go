// Package sim is a physical model of a filter brew: flow through the bed, heat,
// wetting and extraction, from a recipe and a set of gear to curves over time
// and a cup. It has no I/O, no clock and no randomness.
//
// It is one-dimensional and stepped in time. The bed is a stack of equal layers
// under a mixed slurry; each file holds one part of the physics:
//
//	geometry.go      the brewer: level ↔ volume, the bed's height, its resistance integral
//	permeability.go  grain sizes, and how easily they let water through
//	water.go         water: viscosity, density, vapour pressure
//	flow.go          Darcy's law through bed, paper and outlet; bypass; a closed valve
//	wetting.go       which share of the grounds the water has reached
//	agitation.go     what pours and hands stir
//	extraction.go    solubles from grain to liquid, and with the liquid down the bed
//	heat.go          slurry, brewer and air
//	run.go           one step after the other; the carafe below
//	result.go        curves, events, and the books
//	presets.go       brewers and filters as data
//
// Inside, all is SI (kg, m, s, °C for temperatures since only differences and
// water's own formulas need them). At the edge, a Brew is in the trade's units.
package sim
