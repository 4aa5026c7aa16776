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

// A Message is one message of the device protocol: newline-delimited JSON over TCP, or a text message over
// WebSocket (docs/formats.md). A device identifies itself, then sends readings; the app sends commands.
type Message struct {
	// Sent by a device.
	Device  gear.DeviceKind `json:"device,omitempty"` // with Name: the first message
	Name    string          `json:"name,omitempty"`
	Grams   *float64        `json:"g,omitempty"`  // of a scale
	Ounces  *float64        `json:"oz,omitempty"` // of a scale that weighs in ounces
	Celsius *float64        `json:"celsius,omitempty"`
	Set     *float64        `json:"set,omitempty"`     // set point of a kettle; 0: off
	TDS     *float64        `json:"tds,omitempty"`     // %
	Battery *float64        `json:"battery,omitempty"` // % left
	// Simulated is set by a stand-in, together with Name.
	Simulated bool `json:"simulated,omitempty"`
	// Sent by the app.
	Do string `json:"do,omitempty"` // tare, heat (with celsius) or read
}

// The commands of the app.
const (
	DoTare = "tare"
	DoHeat = "heat"
	DoRead = "read"
)

const (
	// longestLine is the maximum length of a line, bytes.
	longestLine = 4096
	// gramsPerOunce of the avoirdupois ounce.
	gramsPerOunce = 28.349523125
)

var (
	// ErrLine is returned for a line that does not follow the protocol.
	ErrLine = errors.New("not a line of the device protocol")
	// ErrReading is returned for an implausible reading.
	ErrReading = errors.New("not a plausible reading")
)

// The plausible ranges of readings.
var (
	scaleRange  = units.Range{Lo: -20000, Hi: 20000}
	kettleRange = units.Range{Lo: -20, Hi: 130}
	tdsRange    = units.Range{Lo: 0, Hi: 30}
	shareRange  = units.Range{Lo: 0, Hi: 100}
)

// Parse parses a line. It returns ErrLine for one that does not follow the protocol, and ErrReading for an
// implausible reading. It converts ounces to grams.
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
	}{{"g", m.Grams, scaleRange}, {"°C", m.Celsius, kettleRange}, {"°C", m.Set, kettleRange}, {"%", m.TDS, tdsRange},
		{"%", m.Battery, shareRange}} {
		if c.v != nil && (math.IsNaN(*c.v) || !c.r.Contains(*c.v)) {
			return Message{}, fmt.Errorf("%w: %g %s", ErrReading, *c.v, c.what)
		}
	}
	if m == (Message{}) {
		return m, ErrLine
	}
	return m, nil
}

// Line returns the message as a line with its newline.
func (m Message) Line() []byte {
	b, err := json.Marshal(m)
	if err != nil {
		return nil // JSON has no NaN
	}
	return append(b, '\n')
}
