package gear

import (
	"context"
	"fmt"
	"strings"

	"yardbloom/core/gear"
	"yardbloom/core/units"
	"yardbloom/device"
	"yardbloom/web/form"
)

// addressTroubles holds the sentences for invalid addresses.
var addressTroubles = map[error]string{
	device.ErrAddress: "An address is tcp://HOST:PORT or ws://HOST:PORT/PATH.",
	device.ErrScheme:  "Only tcp:// and ws:// are supported: tcp://HOST:PORT or ws://HOST:PORT/PATH.",
	device.ErrPort:    "The port is missing: tcp://HOST:PORT.",
	device.ErrStandIn: "There is no such stand-in: standin:scale, standin:kettle or standin:refractometer.",
}

func listDevices(s *Screens, ctx context.Context, p units.Prefs) ([]gearItem, error) {
	all, err := s.yard.Store.Devices(ctx)
	var out []gearItem
	for _, d := range all {
		link, kind := s.yard.Bench.Link(d.ID), string(d.Kind)
		if d.Simulated() || link != nil && link.Simulated() {
			kind = "simulated " + kind
		}
		out = append(out, gearItem{d.ID, d.Name, fmt.Sprintf("%s at %s: %s", kind, d.Address, deviceStatus(link, p))})
	}
	return out, err
}

// deviceStatus describes the state of a device.
func deviceStatus(l *device.Link, p units.Prefs) string {
	if l == nil {
		return "not connected yet"
	}
	st := l.State()
	switch {
	case !st.Connected:
		return st.Trouble
	case st.Silent:
		return "connected, no readings"
	case st.Trouble != "":
		return "connected, and " + st.Trouble
	}
	says := []string{"connected"}
	switch l.Device.Kind {
	case gear.Scale:
		says = append(says, "shows "+p.Unit(units.Dose).Format(float64(st.Grams)))
	case gear.KettleDevice:
		t := p.Unit(units.Temperature)
		says = append(says, "at "+t.Format(float64(st.Celsius)))
		if st.Set > 0 {
			says = append(says, "set to "+t.Format(float64(st.Set)))
		}
	}
	if st.HasPower {
		says = append(says, fmt.Sprintf("battery %.0f %%", st.Battery))
	}
	return strings.Join(says, ", ")
}

func fillDevice(s *Screens, ctx context.Context, n string, p units.Prefs) (*form.Form, error) {
	d := gear.Device{Kind: gear.Scale, Address: "tcp://127.0.0.1:8418"}
	var err error
	if n != "" {
		d, err = s.yard.Store.Device(ctx, n)
	}
	f := form.New()
	f.Values = map[string]string{"name": d.Name, "kind": string(d.Kind), "address": d.Address}
	if d.Carafe > 0 {
		f.Values["carafe"] = p.Unit(units.Water).Number(float64(d.Carafe))
	}
	return f, err
}

func deviceFields(f *form.Form, p units.Prefs) []form.Field {
	address, carafe := f.Entry("address", "Address"), f.Stepper("carafe", "Empty carafe", p.Unit(units.Water))
	address.Hint = "tcp://HOST:PORT or ws://HOST:PORT/PATH. The protocol is one line of JSON for each reading (docs/formats.md). " +
		"standin:scale, standin:kettle and standin:refractometer are simulated."
	carafe.Hint = "For a scale. With it, the beverage is weighed when the brewer is lifted off. Leave it empty if unknown; the " +
		"Cup station asks once."
	return []form.Field{f.Entry("name", "Name"), form.Select(f, "kind", "Kind", gear.DeviceKinds(), form.Plain), address, carafe}
}

func saveDevice(s *Screens, ctx context.Context, n string, f *form.Form, p units.Prefs, version int64) error {
	d := gear.Device{ID: n, Name: f.Text("name", "The name", 60, true), Kind: form.Choice(f, "kind", "Kind", gear.DeviceKinds()),
		Address: f.Text("address", "The address", 200, true),
		Carafe:  units.Grams(f.Quantity("carafe", "The carafe", p.Unit(units.Water), gear.CarafeRange, false))}
	if err := device.CheckAddress(d.Address); err != nil {
		f.Fail("address", "%s", addressTroubles[err])
	}
	if !f.OK() {
		return nil
	}
	if err := s.yard.Store.SaveDevice(ctx, d, version); err != nil {
		return err
	}
	return s.yard.Connect(s.yard.Hub.Context())
}
