package device

import (
	"context"
	"fmt"
	"hash/fnv"
	"net"
	"net/http"
	"sync"
	"time"

	"github.com/coder/websocket"

	"yardbloom/core/gear"
	"yardbloom/core/recipe"
	"yardbloom/core/units"
)

// A StandIn simulates a device.
type StandIn interface {
	Hello() Message
	// Step advances by Every and returns the device's messages.
	Step() []Message
	Do(Message)
}

// New returns a stand-in of a kind: a scale with a brewer on it, a kettle with water at room temperature, a
// refractometer with a cup in front of it. The same seed gives the same behaviour.
func New(kind gear.DeviceKind, seed uint64) StandIn {
	switch kind {
	case gear.KettleDevice:
		return &benchKettle{KettleStandIn: NewKettleStandIn(800)}
	case gear.Refractometer:
		return &benchRefractometer{NewRefractometerStandIn(fmt.Sprint(seed), 1.36, 0), false}
	default:
		return NewBenchScale(seed, 1)
	}
}

// A BenchScale is a scale with a brewer on it, and optionally a hand that pours.
type BenchScale struct {
	scale   *ScaleStandIn
	hand    *Hand
	plan    recipe.Plan
	tared   int // steps since the tare; 0: not tared
	battery float64
	said    int
}

// NewBenchScale returns a scale with a multiple of the ordinary noise.
func NewBenchScale(seed uint64, noise float64) *BenchScale {
	return &BenchScale{scale: NewScaleStandIn(seed, noise), battery: 82}
}

// Pour lets a hand pour a plan some seconds after the scale is tared.
func (s *BenchScale) Pour(h *Hand, plan recipe.Plan) { s.hand, s.plan = h, plan }

// Drain sets the battery level, %. A scale with an empty battery sends nothing.
func (s *BenchScale) Drain(left float64) { s.battery = left }

// Hello returns the first message.
func (s *BenchScale) Hello() Message {
	left := s.battery
	return Message{Device: gear.Scale, Name: "Stand-in scale", Battery: &left, Simulated: true}
}

// Step takes a reading.
func (s *BenchScale) Step() []Message {
	const looks = 40 // steps from the tare to the first water
	if s.battery <= 0 {
		return nil
	}
	load := Load{Grams: brewerWeight + CarafeWeight + 18}
	if s.hand != nil {
		load = s.hand.InitialLoad()
	}
	if s.tared > 0 {
		if s.tared++; s.hand != nil && s.tared > looks && !s.hand.Finished() {
			load = s.hand.Step(s.plan)
		}
	}
	g := float64(s.scale.Step(load))
	out := []Message{{Grams: &g}}
	if s.said++; s.said%600 == 0 {
		left := s.battery
		out = append(out, Message{Battery: &left})
	}
	return out
}

// Do executes a command.
func (s *BenchScale) Do(m Message) {
	if m.Do == DoTare {
		s.scale.Tare()
		s.tared = max(1, s.tared)
	}
}

type benchKettle struct {
	*KettleStandIn
	said int
}

func (k *benchKettle) Hello() Message {
	return Message{Device: gear.KettleDevice, Name: "Stand-in kettle", Simulated: true}
}

// Step heats and reports the temperature twice a second.
func (k *benchKettle) Step() []Message {
	k.KettleStandIn.Step(Every)
	if k.said++; k.said%5 != 0 {
		return nil
	}
	now, set := float64(k.Display()), float64(k.Set)
	return []Message{{Celsius: &now, Set: &set}}
}

func (k *benchKettle) Do(m Message) {
	if m.Do == DoHeat && m.Celsius != nil {
		k.Set = units.Celsius(*m.Celsius)
	}
}

type benchRefractometer struct {
	*RefractometerStandIn
	asked bool
}

func (r *benchRefractometer) Hello() Message {
	return Message{Device: gear.Refractometer, Name: "Stand-in refractometer", Simulated: true}
}

func (r *benchRefractometer) Step() []Message {
	if !r.asked {
		return nil
	}
	r.asked = false
	v := r.Read()
	return []Message{{TDS: &v}}
}

func (r *benchRefractometer) Do(m Message) { r.asked = r.asked || m.Do == DoRead }

// Serve runs the protocol for a stand-in over a connection until it ends or ctx is cancelled.
func Serve(ctx context.Context, c net.Conn, s StandIn) { serve(ctx, newTCPWire(c), s) }

func serve(ctx context.Context, w wire, s StandIn) {
	ctx, stop := context.WithCancel(ctx)
	defer stop()
	defer w.close()
	asked := make(chan Message, 4)
	go func() {
		defer stop()
		for {
			line, err := w.read(ctx)
			if err != nil {
				return
			}
			if m, err := Parse(line); err == nil {
				forward(ctx, asked, m)
			}
		}
	}()
	_ = runStandIn(ctx, s, asked, w) // the other end has disconnected
}

// forward forwards a command unless ctx is cancelled.
func forward(ctx context.Context, asked chan<- Message, m Message) {
	select {
	case asked <- m:
	case <-ctx.Done():
	}
}

// runStandIn advances a stand-in and writes its messages.
func runStandIn(ctx context.Context, s StandIn, asked <-chan Message, w wire) error {
	if err := w.write(ctx, s.Hello().Line()); err != nil {
		return err
	}
	tick := time.NewTicker(time.Duration(Every * float64(time.Second)))
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return ctx.Err()
		case m := <-asked:
			s.Do(m)
		case <-tick.C:
			for _, m := range s.Step() {
				if err := w.write(ctx, m.Line()); err != nil {
					return err
				}
			}
		}
	}
}

// A Shared stand-in is one device with several connections, in sequence or at once: its time advances while
// the program runs.
type Shared struct {
	StandIn
	mu sync.Mutex
}

// Step advances by Every.
func (s *Shared) Step() []Message {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.StandIn.Step()
}

// Do executes a command.
func (s *Shared) Do(m Message) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.StandIn.Do(m)
}

// ServeTCP accepts TCP connections to a stand-in until ctx ends.
func ServeTCP(ctx context.Context, l net.Listener, s StandIn) error {
	go func() {
		<-ctx.Done()
		l.Close()
	}()
	for {
		c, err := l.Accept()
		if ctx.Err() != nil {
			return nil
		}
		if err != nil {
			return err
		}
		go Serve(ctx, c, s)
	}
}

// WebSocket handles WebSocket connections to a stand-in.
func WebSocket(s StandIn) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		c, err := websocket.Accept(w, r, nil)
		if err != nil {
			return // Accept has sent the response
		}
		serve(r.Context(), wsWire{c}, s)
	})
}

// SeedOf returns a seed derived from a name.
func SeedOf(name string) uint64 {
	h := fnv.New64a()
	h.Write([]byte(name))
	return h.Sum64()
}
