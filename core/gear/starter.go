package gear

// Starter is the gear that a new yard begins with, so that a first recipe can be
// made before anything is set up: one of each kind of brewer, a hand mill, a
// kettle without and one with a thermostat. All of it can be changed.
func Starter() ([]Brewer, []Grinder, []Kettle) {
	return []Brewer{
			{Name: "Open cone", Kind: OpenCone, Material: Plastic, Filter: StandardPaper, Holds: 480},
			{Name: "Flat bed", Kind: FlatBed, Material: Plastic, Filter: CorrugatedPaper, Holds: 450},
			{Name: "Heavy-paper cone", Kind: HeavyCone, Material: Glass, Filter: ThickPaper, Holds: 700},
			{Name: "Valve steeper", Kind: ValveSteeper, Material: Plastic, Filter: StandardPaper, Holds: 420},
		}, []Grinder{
			{Name: "Hand mill", Burrs: HandMill, Dial: Dial{Kind: Clicks, Zero: 50, Step: 27}, Loss: 0.2},
		}, []Kettle{
			{Name: "Kettle", Thermostat: false, Capacity: 1500},
			{Name: "Thermostat kettle", Thermostat: true, Capacity: 900},
		}
}
