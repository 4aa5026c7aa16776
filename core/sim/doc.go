// Package sim is a physical model of a filter brew: flow through the bed, heat, wetting and extraction,
// from a recipe and a set of gear to curves over time and a cup. It has no I/O, no clock and no randomness.
//
// It is one-dimensional and stepped in time. The bed is a stack of equal layers under a mixed slurry; each
// file holds one part of the physics:
//
//	input.go         the brew, and the valid ranges of the model
//	geometry.go      the brewer: level ↔ volume, bed height, resistance integral
//	sizes.go         grain sizes and their extraction rates
//	permeability.go  permeability of the bed, with fines and gas
//	water.go         water: viscosity, density, vapour pressure
//	kettle.go        the kettle: thermostat, or Newton's law of cooling
//	wetting.go       the wetted share of the grounds
//	agitation.go     stirring by pours and hands
//	channelling.go   an uneven bed: a lane with more than its share of the flow
//	flow.go          Darcy's law through bed, paper and outlet; bypass
//	extraction.go    solubles from grain to liquid, and with the liquid down the bed
//	heat.go          slurry, brewer and air
//	below.go         carafe, ice, dilution water
//	run.go           the time steps
//	result.go        curves, events, unevenness, conservation checks
//	presets.go       brewers, materials, filters, grinders, patterns and motions as data
//
// plain_test.go solves the same equations in the simplest way; the tests compare this package with it.
//
// Internally, all quantities are SI (kg, m, s; temperatures in °C). A Brew is in the trade's units.
package sim
