package device

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"math"

	"yardbloom/core/gear"
	"yardbloom/core/units"
)

// A Message is one line of the device protocol: newline-delimited JSON over TCP, or one
// text message each over WebSocket (docs/formats.md). A device says what it is, then
// what it reads; the app says what it wants of it.
type Message struct {
	// Said by a device.
	Device  gear.DeviceKind `json:"device,omitempty"` // with Name: the first thing that it says
	Name    string          `json:"name,omitempty"`
	Grams   *float64        `json:"g,omitempty"`  // on a scale
	Ounces  *float64        `json:"oz,omitempty"` // on a scale that weighs in ounces
	Celsius *float64        `json:"celsius,omitempty"`
	Set     *float64        `json:"set,omitempty"`     // what a kettle heats to; 0: it is off
	TDS     *float64        `json:"tds,omitempty"`     // %
	Battery *float64        `json:"battery,omitempty"` // % left
	// Simulated is set by a stand-in, together with Name.
	Simulated bool `json:"simulated,omitempty"`
	// Said by the app.
	Do string `json:"do,omitempty"` // tare, heat (with celsius) or read
}

// What the app asks of a device.
const (
	DoTare = "tare"
	DoHeat = "heat"
	DoRead = "read"
)

const (
	// longestLine is the most that a device may say in one line, bytes.
	longestLine = 4096
	// gramsPerOunce of the avoirdupois ounce.
	gramsPerOunce = 28.349523125
)

var (
	// ErrLine is returned for a line that is not of the protocol.
	ErrLine = errors.New("not a line of the device protocol")
	// ErrReading is returned for a reading that no such device gives.
	ErrReading = errors.New("no such device shows that")
)

// What devices can show.
var (
	scaleRange  = units.Range{Lo: -20000, Hi: 20000}
	kettleRange = units.Range{Lo: -20, Hi: 130}
	tdsRange    = units.Range{Lo: 0, Hi: 30}
	shareRange  = units.Range{Lo: 0, Hi: 100}
)

// Parse reads a line. It returns ErrLine for one that is not of the protocol, and
// ErrReading for a reading that no such device gives. Ounces come back as grams.
func Parse(line []byte) (Message, error) {
	var m Message
	if len(line) > longestLine || !json.Valid(line) {
		return m, ErrLine
	}
	if err := json.Unmarshal(bytes.TrimSpace(line), &m); err != nil {
		return m, ErrLine
	}
	if m.Ounces != nil && m.Grams == nil {
		g := *m.Ounces * gramsPerOunce
		m.Grams = &g
	}
	for _, c := range []struct {
		what string
		v    *float64
		r    units.Range
	}{{"g", m.Grams, scaleRange}, {"°C", m.Celsius, kettleRange}, {"°C", m.Set, kettleRange}, {"%", m.TDS, tdsRange}, {"%", m.Battery, shareRange}} {
		if c.v != nil && (math.IsNaN(*c.v) || !c.r.Holds(*c.v)) {
			return Message{}, fmt.Errorf("%w: %g %s", ErrReading, *c.v, c.what)
		}
	}
	if m == (Message{}) {
		return m, ErrLine
	}
	return m, nil
}

// Line writes a message as a line, with its end.
func (m Message) Line() []byte {
	b, err := json.Marshal(m)
	if err != nil {
		return nil // NaN cannot be said
	}
	return append(b, '\n')
}
