// Package sim is a physical model of a filter brew: flow through the bed, heat,
// wetting and extraction, from a recipe and a set of gear to curves over time
// and a cup. It has no I/O, no clock and no randomness.
//
// It is one-dimensional and stepped in time. The bed is a stack of equal layers
// under a mixed slurry; each file holds one part of the physics:
//
//	input.go         what a brew is, and the ranges in which the model holds
//	geometry.go      the brewer: level ↔ volume, the bed's height, its resistance integral
//	sizes.go         grain sizes, and the paces at which they give
//	permeability.go  how easily a bed lets water through, fines and gas in its way
//	water.go         water: viscosity, density, vapour pressure
//	kettle.go        what the water comes from: a thermostat, or Newton's cooling
//	wetting.go       which share of the grounds the water has reached
//	agitation.go     what pours and hands stir
//	channelling.go   an uneven bed: a lane through which more than its share runs
//	flow.go          Darcy's law through bed, paper and outlet; bypass
//	extraction.go    solubles from grain to liquid, and with the liquid down the bed
//	heat.go          slurry, brewer and air
//	below.go         the carafe, ice in it, water added to the cup
//	run.go           one step after the other
//	result.go        curves, events, unevenness, and the books
//	presets.go       brewers, materials, filters, mills, patterns and motions as data
//
// plain_test.go solves the same equations in the plainest way there is; the tests
// compare this package with it.
//
// Inside, all is SI (kg, m, s, °C for temperatures since only differences and
// water's own formulas need them). At the edge, a Brew is in the trade's units.
package sim
