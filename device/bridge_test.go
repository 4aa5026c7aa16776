package device

import (
	"context"
	"io"
	"math"
	"net"
	"strings"
	"testing"
	"time"

	"github.com/creack/pty"

	"yardbloom/core/gear"
)

// Each line of a scale is read by the pattern that fits it. Mutations caught: a unit or a sign ignored, a decimal comma read as
// thousands, a number that is no weight.
func TestLinesOfScales(t *testing.T) {
	for line, want := range map[string]float64{
		"ST,GS,+   123.4 g": 123.4, "  +0012.30 g": 12.3, "US,NT,-  0004.5g": -4.5, "N     +    0,250 kg": 250, "S S     25.4 oz ?": 25.4 * gramsPerOunce,
		"1.5 lb": 24 * gramsPerOunce, "500 mg": 0.5, "0.0": 0, "-12": -12, "+00123.4": 123.4, "W: 88.8": 88.8, "weight = -3": -3, "12.5,g": 12.5,
	} {
		b := Bridge{}
		if got, ok := b.grams(line); !ok || math.Abs(got-want) > 1e-9 {
			t.Errorf("%q: %v, %t; want %v", line, got, ok, want)
		}
	}
	for _, line := range []string{"", "ERR", "g", "12 of 20 done", "1e9 g", "--.- g", "T 12:30", "99999999 g"} {
		if got, ok := (&Bridge{}).grams(line); ok {
			t.Errorf("%q is read as %v g", line, got)
		}
	}
	own, err := NewLinePattern(`^#(?P<value>\d+)$`)
	if got, ok := own.Grams("#42"); err != nil || !ok || got != 42 {
		t.Errorf("an own pattern: %v, %t, %v", got, ok, err)
	}
	for _, wrong := range []string{"(", `\d+`} {
		if _, err := NewLinePattern(wrong); err == nil {
			t.Errorf("the pattern %q is accepted", wrong)
		}
	}
	for _, p := range LinePatterns {
		if _, ok := p.Grams(p.Example); !ok {
			t.Errorf("the pattern %s does not read its example", p)
		}
	}
}

// A scale at a serial port, here a pseudo-terminal, weighs for the app: its lines become readings, and a tare is sent to it,
// or done by the bridge. Mutations caught: a reading that repeats, a tare that only one connection sees, a lost scale that ends
// the connection.
func TestBridgePassesAScaleOn(t *testing.T) {
	scale, port, err := pty.Open()
	if err != nil {
		t.Skip("this machine has no pseudo-terminals: ", err)
	}
	defer scale.Close()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	b := &Bridge{Name: "Old scale"}
	ctx, stop := context.WithCancel(t.Context())
	defer stop()
	go b.Serve(ctx, l)
	read := make(chan error, 1)
	go func() { read <- b.Read(port, port) }()

	link := Connect(gear.Device{ID: "old", Name: "Old scale", Kind: gear.Scale, Address: "tcp://" + l.Addr().String()})
	say := func(line string) {
		t.Helper()
		if _, err := io.WriteString(scale, line); err != nil {
			t.Fatal(err)
		}
	}
	shows := func(what string, want float64) {
		t.Helper()
		eventually(t, what, func() bool { return math.Abs(float64(link.State().Grams)-want) < 0.01 })
	}
	t.Cleanup(link.Close)
	eventually(t, "a connection", func() bool { return link.State().Connected })
	again := time.NewTicker(20 * time.Millisecond) // a scale repeats its weight
	defer again.Stop()
	weighs := func(line string, want float64) {
		t.Helper()
		eventually(t, line, func() bool {
			<-again.C
			say(line)
			return math.Abs(float64(link.State().Grams)-want) < 0.01
		})
	}
	weighs("ST,GS,+   640.0 g\r\n", 640)
	link.Tare()
	weighs("ST,GS,+   640.0 g\r\n", 0)
	weighs("ST,GS,+   652.5 g\r\n", 12.5)
	say("rubbish\r\n" + strings.Repeat("x", 3*longestLine) + "\r\n")
	weighs("+00700.0\n", 60)
	shows("the last weight", 60)

	b.mu.Lock()
	b.Tare = "ZERO\r\n"
	b.mu.Unlock()
	link.Tare()
	buffer := make([]byte, 64)
	got := ""
	eventually(t, "the tare command", func() bool {
		n, err := scale.Read(buffer)
		got += string(buffer[:n])
		return err != nil || strings.Contains(got, "ZERO")
	})
	port.Close()
	select {
	case <-read:
	case <-time.After(time.Minute):
		t.Fatal("the lines do not end with the port")
	}
	if !link.State().Connected {
		t.Error("the connection ended with the scale")
	}
}
