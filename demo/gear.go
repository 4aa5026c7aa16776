// Package demo fills a new yard with Quarry Lane Nursery: a made-up plant
// nursery that sells coffee through the window of its old potting shed. Every
// name, place, maker and date in it is invented.
package demo

import (
	"yardbloom/core/gear"
	"yardbloom/core/water"
)

// The nursery's gear by index, as used in the story.
const (
	windowCone = iota
	benchFlat
	shedSteeper
	carafeCone
	clothCone
	meshCone
)

const (
	benchGrinder = iota
	apronMill
	oldBlade
)

const (
	spoutKettle = iota
	stoveKettle
	pickUpKettle
)

var brewers = []gear.Brewer{
	windowCone: {ID: "window-cone", Name: "Window cone", Kind: gear.OpenCone, Material: gear.Ceramic, Filter: gear.StandardPaper,
		Holds: 480},
	benchFlat: {ID: "bench-flat", Name: "Bench flat bed", Kind: gear.FlatBed, Material: gear.Metal, Filter: gear.CorrugatedPaper,
		Holds: 460},
	shedSteeper: {ID: "shed-steeper", Name: "Shed steeper", Kind: gear.ValveSteeper, Material: gear.Plastic, Filter: gear.StandardPaper,
		Holds: 400},
	carafeCone: {ID: "carafe-cone", Name: "Carafe cone", Kind: gear.HeavyCone, Material: gear.Glass, Filter: gear.ThickPaper, Holds: 700},
	clothCone:  {ID: "cloth-cone", Name: "Cloth cone", Kind: gear.OpenCone, Material: gear.Ceramic, Filter: gear.Cloth, Holds: 500},
	meshCone:   {ID: "mesh-cone", Name: "Mesh cone", Kind: gear.OpenCone, Material: gear.Metal, Filter: gear.Mesh, Holds: 420},
}

var grinders = []gear.Grinder{
	benchGrinder: {ID: "bench-grinder", Name: "Bench grinder", Burrs: gear.FlatBurr,
		Dial: gear.Dial{Kind: gear.Numbered, Zero: 290, Step: 24, Mark: 0.5}, Loss: 0.4},
	apronMill: {ID: "apron-mill", Name: "Apron mill", Burrs: gear.HandMill, Dial: gear.Dial{Kind: gear.Clicks, Zero: 60, Step: 27},
		Loss: 0.2},
	oldBlade: {ID: "old-blade", Name: "Old blade", Burrs: gear.Blade, Dial: gear.Dial{Kind: gear.Words}, Loss: 0.8},
}

var kettles = []gear.Kettle{
	spoutKettle: {ID: "spout-kettle", Name: "Narrow-spout kettle", Thermostat: true, Capacity: 900, Spout: 9},
	stoveKettle: {ID: "stove-kettle", Name: "Stove kettle", Capacity: 1600, Spout: 14,
		CoolingReadings: gear.CoolingReadings{Water: 600, First: 97, Second: 86.5, Apart: 240}},
	pickUpKettle: {ID: "pick-up-kettle", Name: "Pick-up kettle", Thermostat: true, Capacity: 600, Spout: 6},
}

const (
	shedTap = iota
	filterJug
	springWater
	mixedWater
)

var waters = []water.Water{
	shedTap:     {ID: "shed-tap", Name: "Shed tap", Source: water.Tap, TypedHardness: 190, TypedAlkalinity: 150},
	filterJug:   {ID: "filter-jug", Name: "Filter jug", Source: water.Filtered, TypedHardness: 85, TypedAlkalinity: 55},
	springWater: {ID: "spring-water", Name: "Spring water", Source: water.Bottled, Calcium: 28, Magnesium: 6, Bicarbonate: 96},
	mixedWater:  {ID: "mixed-water", Name: "Mixed for light coffee", Source: water.Mixed, TypedHardness: 70, TypedAlkalinity: 40},
}

// devices are stand-ins inside the program.
var devices = []gear.Device{
	{ID: "window-scale", Name: "Window scale", Kind: gear.Scale, Address: "standin:scale", Carafe: 260},
	{ID: "spout-kettle-base", Name: "Kettle base", Kind: gear.KettleDevice, Address: "standin:kettle"},
}

// altitude of the nursery, m.
const altitude = 240
