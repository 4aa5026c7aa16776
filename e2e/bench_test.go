package e2e

import (
	"context"
	"net"
	"sync/atomic"
	"testing"
	"time"

	"yardbloom/core/gear"
	"yardbloom/device"
	"yardbloom/e2e/yard"
	"yardbloom/store"
)

// benchScale is a simulated scale on the network, with a hand that pours the demo's next brew.
type benchScale struct {
	*device.Shared
	addr string
	stop context.CancelFunc
}

func (b *benchScale) plug(t *testing.T) {
	t.Helper()
	l, err := net.Listen("tcp", b.addr)
	if err != nil {
		t.Fatal(err)
	}
	ctx, stop := context.WithCancel(context.Background())
	b.addr, b.stop = l.Addr().String(), stop
	t.Cleanup(stop)
	go device.ServeTCP(ctx, l, b.Shared) // ends with ctx
}

// handed adds a scale with a hand for a brew to a store.
func handed(t *testing.T, st *store.Store) *benchScale {
	t.Helper()
	d, _, err := st.Draft(t.Context(), "evening-seed-next")
	if err != nil {
		t.Fatal(err)
	}
	scale := device.NewBenchScale(3, 1)
	scale.Pour(device.NewHand(3, device.Practised, d.Question(time.Now())), d.Recipe.Plan())
	return known(t, st, scale)
}

// known adds a simulated scale to a store.
func known(t *testing.T, st *store.Store, scale device.StandIn) *benchScale {
	t.Helper()
	b := &benchScale{Shared: &device.Shared{StandIn: scale}, addr: "127.0.0.1:0"}
	b.plug(t)
	if err := st.SaveDevice(t.Context(), gear.Device{ID: "bench", Name: "Bench scale", Kind: gear.Scale, Address: "tcp://" + b.addr},
		0); err != nil {
		t.Fatal(err)
	}
	return b
}

// A rinser is a scale on which the filter is rinsed after the tare. The water is tipped out and the brewer is put back. It waits for
// the test before the water and before it is tipped out.
type rinser struct {
	step        int
	pours, tips atomic.Bool // set by the test
}

// The last steps before the water, and before it is tipped out.
const tared, rinsed = 24, 74

func (r *rinser) Hello() device.Message {
	return device.Message{Device: gear.Scale, Name: "Stand-in scale"}
}

func (r *rinser) Do(m device.Message) {
	if m.Do == device.DoTare {
		r.step = 1
	}
}

func (r *rinser) Step() []device.Message {
	g := 640.0 // before the tare
	if r.step > 0 {
		if waits := r.step == tared && !r.pours.Load() || r.step == rinsed && !r.tips.Load(); !waits {
			r.step++
		}
		switch s := float64(r.step); {
		case s <= tared:
			g = 0
		case s < 60:
			g = (s - tared) * 2
		case s <= rinsed:
			g = 70
		case s < 95:
			g = -640
		default:
			g = 3.5
		}
	}
	return []device.Message{{Grams: &g}}
}

// onScale puts the brew on the bench scale and tares it. The hand begins some seconds later, and with it the brew.
func onScale(u user) {
	u.t.Helper()
	tare(u)
	u.until(`document.querySelector("#brew")?.dataset.status === "running"`)
}

// tare puts the brew on the bench scale and tares it.
func tare(u user) {
	u.t.Helper()
	u.open("/brews/evening-seed-next/brew")
	u.until(`document.readyState === "complete"`)
	u.click("#bench .menu summary")
	u.click(`#bench button[value="bench"]`)
	u.sees("#bench .device", "Bench scale")
	u.until(`Number(document.querySelector("#on-scale").innerText.replace(" g", "")) > 300`)
	u.sees("#ready-says", "Tare")
	u.press("t")
}

// withDevices opens a demo yard after adding to its store, with a running clock.
func withDevices(t *testing.T, add func(*store.Store)) (*yard.Yard, user) {
	t.Helper()
	dir := t.TempDir()
	first, err := yard.Start(dir, true)
	if err != nil {
		t.Fatal(err)
	}
	add(first.Store)
	first.Close()
	y, err := yard.Start(dir, true)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(y.Close)
	y.Clock.Run()
	return y, screen(t, y.URL)
}
