package device

import (
	"context"
	"errors"
	"fmt"
	"math"
	"net"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"yardbloom/core/gear"
)

func TestDeviceMessagesAreValidated(t *testing.T) {
	t.Parallel()
	for line, want := range map[string]struct {
		grams float64
		err   error
	}{
		`{"g":134.2}`:                    {134.2, nil},
		`{"g":-12,"battery":5}`:          {-12, nil},
		`{"oz":4}`:                       {113.398, nil},
		`134.2`:                          {0, ErrLine},
		`weight 134.2 g`:                 {0, ErrLine},
		`{"g":NaN}`:                      {0, ErrLine},
		`{"g":1e9}`:                      {0, ErrReading},
		`{"g":"much"}`:                   {0, ErrLine},
		`{}`:                             {0, ErrLine},
		`{"other":1}`:                    {0, ErrLine},
		`{"battery":150}`:                {0, ErrReading},
		strings.Repeat(" ", 5000) + "{}": {0, ErrLine},
	} {
		m, err := Parse([]byte(line))
		if !errors.Is(err, want.err) || want.err == nil && (err != nil || m.Grams == nil || math.Abs(*m.Grams-want.grams) > 0.01) {
			t.Errorf("%.40q: %+v, %v", line, m, err)
		}
	}
}

func FuzzParse(f *testing.F) {
	for _, s := range []string{`{"g":1.5}`, `{"device":"scale","name":"x","battery":3}`, `{"do":"heat","celsius":93}`, `[1]`, "\x00",
		`{"g":1e308}`} {
		f.Add([]byte(s))
	}
	f.Fuzz(func(t *testing.T, line []byte) {
		m, err := Parse(line)
		if err != nil {
			return
		}
		if m.Grams != nil && !scaleRange.Contains(*m.Grams) {
			t.Errorf("a scale shows %v", *m.Grams)
		}
		if again, err := Parse(m.Line()); err != nil && m.Ounces == nil {
			t.Errorf("%q is written as %q, which is refused: %v", line, m.Line(), err)
		} else if err == nil && (again.Grams == nil) != (m.Grams == nil) {
			t.Errorf("%q comes back as %+v", line, again)
		}
	})
}

// rude returns a link to a device that sends arbitrary data.
func rude(t *testing.T, say func(net.Conn)) *Link {
	t.Helper()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { l.Close() })
	go func() {
		for {
			c, err := l.Accept()
			if err != nil {
				return
			}
			go func() {
				defer c.Close()
				say(c)
			}()
		}
	}()
	link := Connect(gear.Device{ID: "x", Kind: gear.Scale, Address: "tcp://" + l.Addr().String()})
	t.Cleanup(link.Close)
	return link
}

func eventually(t *testing.T, what string, ok func() bool) {
	t.Helper()
	for range 6000 { // up to a minute: the machine may be busy
		if ok() {
			return
		}
		time.Sleep(10 * time.Millisecond)
	}
	t.Fatalf("never: %s", what)
}

func TestLinkSurvivesMisbehavingDevices(t *testing.T) {
	t.Parallel()
	text := rude(t, func(c net.Conn) { fmt.Fprint(c, "hello, I am a printer\n"); <-t.Context().Done() })
	eventually(t, "text counts as missing", func() bool { return strings.Contains(text.State().Trouble, "cannot be read") })

	heavy := rude(t, func(c net.Conn) { fmt.Fprint(c, "{\"g\":1000000000}\n"); <-t.Context().Done() })
	eventually(t, "a million kilograms are refused", func() bool { return strings.Contains(heavy.State().Trouble, "not a plausible reading") })
	if heavy.State().Readings != 0 {
		t.Error("and counted all the same")
	}

	silent := rude(t, func(net.Conn) { <-t.Context().Done() })
	eventually(t, "silence is noticed", func() bool { return silent.State().Silent })

	flood := rude(t, func(c net.Conn) {
		for i := range 3000 {
			fmt.Fprintf(c, "{\"g\":%d}\n", i)
			time.Sleep(time.Millisecond)
		}
	})
	began := time.Now()
	eventually(t, "a flood is read", func() bool { return flood.State().Readings > 100 })
	if n, most := flood.State().Readings, 20+int(75*time.Since(began).Seconds()); n > most {
		t.Errorf("a scale that sends a thousand readings a second was read %d times, at most %d are wanted", n, most)
	}

	var calls atomic.Int32
	lost := rude(t, func(c net.Conn) {
		calls.Add(1)
		fmt.Fprint(c, "{\"g\":5}\n")
	})
	eventually(t, "it connects again and again", func() bool { return calls.Load() >= 3 })
	if lost.State().Grams != 5 {
		t.Error("and lost its last reading")
	}
	long := rude(t, func(c net.Conn) { fmt.Fprint(c, strings.Repeat("x", 9000)) })
	eventually(t, "an endless line is refused", func() bool { return strings.Contains(long.State().Trouble, "not in the device protocol") })
}

// The same stand-in over TCP, over WebSocket and inside the program can be tared, heated and read.
func TestStandInExecutesCommands(t *testing.T) {
	t.Parallel()
	ctx, stop := context.WithCancel(context.Background())
	t.Cleanup(stop)
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	go ServeTCP(ctx, l, &Shared{StandIn: New(gear.Scale, 4)})
	ws := httptest.NewServer(WebSocket(&Shared{StandIn: New(gear.Scale, 4)}))
	t.Cleanup(ws.Close)
	for _, address := range []string{"tcp://" + l.Addr().String(), strings.Replace(ws.URL, "http", "ws", 1), "standin:scale"} {
		if err := CheckAddress(address); err != nil {
			t.Error(err)
		}
		link := Connect(gear.Device{Kind: gear.Scale, Address: address})
		t.Cleanup(link.Close)
		eventually(t, address+" shows what stands on it", func() bool { return link.State().Grams > 300 && link.State().ReportedName != "" })
		link.Tare()
		eventually(t, address+" is tared", func() bool { g := link.State().Grams; return g > -2 && g < 2 })
	}
	kettle := Connect(gear.Device{Kind: gear.KettleDevice, Address: "standin:kettle"})
	t.Cleanup(kettle.Close)
	eventually(t, "a kettle reports its temperature", func() bool { return kettle.State().Celsius > 15 })
	kettle.Heat(93)
	eventually(t, "it heats", func() bool { return kettle.State().Set == 93 && kettle.State().Celsius > 21 })
	meter := Connect(gear.Device{Kind: gear.Refractometer, Address: "standin:refractometer"})
	t.Cleanup(meter.Close)
	eventually(t, "it is there", func() bool { return meter.State().Connected })
	if v, err := meter.ReadTDS(ctx); err != nil || v < 1 || v > 2 {
		t.Errorf("a refractometer reads %v, %v", v, err)
	}
	for _, bad := range []string{"", "scale", "http://x", "tcp://host", "standin:oven"} {
		if CheckAddress(bad) == nil {
			t.Errorf("%q is an address", bad)
		}
	}
}

// A device that answers with a redirect is not connected. Mutation caught: a client that follows it, which another
// device could lead anywhere.
func TestRedirectOfADeviceIsNotFollowed(t *testing.T) {
	t.Parallel()
	var elsewhere atomic.Int64
	other := httptest.NewServer(http.HandlerFunc(func(http.ResponseWriter, *http.Request) { elsewhere.Add(1) }))
	t.Cleanup(other.Close)
	asked := make(chan struct{}, 100)
	device := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		asked <- struct{}{}
		http.Redirect(w, r, other.URL, http.StatusFound)
	}))
	t.Cleanup(device.Close)
	link := Connect(gear.Device{Kind: gear.Scale, Address: strings.Replace(device.URL, "http", "ws", 1)})
	t.Cleanup(link.Close)
	<-asked
	<-asked // the first attempt has ended
	if n := elsewhere.Load(); n > 0 || link.State().Connected {
		t.Errorf("%d requests to the other address, connected %t", n, link.State().Connected)
	}
}

// A kettle heats by its power and cools by Newton's law.
func TestKettleHeatsAndCools(t *testing.T) {
	t.Parallel()
	k := NewKettleStandIn(800)
	k.Set = 93
	seconds := 0
	for ; k.Celsius < 92.9 && seconds < 1000; seconds++ {
		k.Step(1)
	}
	if seconds < 180 || seconds > 320 { // 800 g by 72 K at 1,200 W and some loss
		t.Errorf("hot after %d s", seconds)
	}
	k.Set = 0
	for range 120 {
		k.Step(1)
	}
	if k.Celsius > 90 || k.Celsius < 80 {
		t.Errorf("two minutes later it has %v", k.Celsius)
	}
}

// A scale with an empty battery sends nothing.
func TestFlatBatteryGoesSilent(t *testing.T) {
	t.Parallel()
	s := NewBenchScale(1, 1)
	if len(s.Step()) == 0 {
		t.Fatal("it shows nothing")
	}
	s.Drain(0)
	if len(s.Step()) != 0 {
		t.Error("it shows something without power")
	}
}
