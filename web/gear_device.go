package web

import (
	"context"
	"fmt"
	"strings"

	"yardbloom/core/gear"
	"yardbloom/core/units"
	"yardbloom/device"
	"yardbloom/web/form"
)

// addressTroubles say what is wrong with an address.
var addressTroubles = map[error]string{
	device.ErrAddress: "An address is tcp://HOST:PORT or ws://HOST:PORT/PATH.",
	device.ErrScheme:  "Only tcp:// and ws:// are spoken here: tcp://HOST:PORT or ws://HOST:PORT/PATH.",
	device.ErrPort:    "The port is missing: tcp://HOST:PORT.",
	device.ErrStandIn: "There is no such stand-in: standin:scale, standin:kettle or standin:refractometer.",
}

func listDevices(s *Server, ctx context.Context, p units.Prefs) ([]gearItem, error) {
	all, err := s.Store.Devices(ctx)
	var out []gearItem
	for _, d := range all {
		link, kind := s.bench.Link(d.ID), string(d.Kind)
		if d.Simulated() || link != nil && link.Simulated() {
			kind = "simulated " + kind
		}
		out = append(out, gearItem{d.ID, d.Name, fmt.Sprintf("%s at %s: %s", kind, d.Address, seen(link, p))})
	}
	return out, err
}

// seen says what the yard sees of a device.
func seen(l *device.Link, p units.Prefs) string {
	if l == nil {
		return "not connected yet"
	}
	st := l.State()
	switch {
	case !st.Connected:
		return st.Trouble
	case st.Silent:
		return "connected, and it says nothing"
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

func fillDevice(s *Server, ctx context.Context, n string, p units.Prefs) (*form.Form, error) {
	d := gear.Device{Kind: gear.Scale, Address: "tcp://127.0.0.1:8418"}
	var err error
	if n != "" {
		d, err = s.Store.Device(ctx, n)
	}
	f := form.New()
	f.Values = map[string]string{"name": d.Name, "kind": string(d.Kind), "address": d.Address}
	if d.Carafe > 0 {
		f.Values["carafe"] = p.Unit(units.Water).Number(float64(d.Carafe))
	}
	return f, err
}

func deviceFields(f *form.Form, p units.Prefs) []form.Field {
	address, carafe := f.Entry("address", "Address"), f.Stepper("carafe", "The carafe on it weighs", p.Unit(units.Water))
	address.Hint = "tcp://HOST:PORT or ws://HOST:PORT/PATH. The protocol is one line of JSON for each reading (docs/formats.md). standin:scale, standin:kettle and standin:refractometer are made up."
	carafe.Hint = "Of a scale, empty. With it the beverage is weighed when the brewer is lifted off. Empty where you do not know; the Cup station asks once."
	return []form.Field{f.Entry("name", "Name"), form.Select(f, "kind", "Kind", gear.DeviceKinds(), form.Plain), address, carafe}
}

func saveDevice(s *Server, ctx context.Context, n string, f *form.Form, p units.Prefs, version int64) error {
	d := gear.Device{ID: n, Name: f.Text("name", "The name", 60, true), Kind: form.Choice(f, "kind", "Kind", gear.DeviceKinds()), Address: f.Text("address", "The address", 200, true),
		Carafe: units.Grams(f.Quantity("carafe", "The carafe", p.Unit(units.Water), carafes, false))}
	if err := device.CheckAddress(d.Address); err != nil {
		f.Fail("address", "%s", addressTroubles[err])
	}
	if !f.OK() {
		return nil
	}
	if err := s.Store.SaveDevice(ctx, d, version); err != nil {
		return err
	}
	return s.connect(s.live.Context())
}
