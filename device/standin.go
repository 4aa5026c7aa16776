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

// A StandIn behaves like a device: it says what it is, lets time pass, and does what it
// is asked.
type StandIn interface {
	Hello() Message
	// Step lets Every pass and returns what the device says.
	Step() []Message
	Do(Message)
}

// New returns a stand-in of a kind: a scale with a brewer on it, a kettle with water at the
// room's temperature, a refractometer with a cup in front of it. The same seed behaves the same.
func New(kind gear.DeviceKind, seed uint64) StandIn {
	switch kind {
	case gear.KettleDevice:
		return &kettleOnABench{KettleStandIn: NewKettleStandIn(800)}
	case gear.Refractometer:
		return &refractometerOnABench{NewRefractometerStandIn(fmt.Sprint(seed), 1.36, 0), false}
	default:
		return NewScaleOnABench(seed, 1)
	}
}

// A ScaleOnABench is a scale with a brewer on it, and perhaps a hand that pours.
type ScaleOnABench struct {
	scale   *ScaleStandIn
	hand    *Hand
	plan    recipe.Plan
	tared   int // steps since the scale was tared; 0: not yet
	battery float64
	said    int
}

// NewScaleOnABench returns a scale with so many times the ordinary noise.
func NewScaleOnABench(seed uint64, noise float64) *ScaleOnABench {
	return &ScaleOnABench{scale: NewScaleStandIn(seed, noise), battery: 82}
}

// Pour lets a hand pour a plan some seconds after the scale was tared.
func (s *ScaleOnABench) Pour(h *Hand, plan recipe.Plan) { s.hand, s.plan = h, plan }

// Drain sets what is left of the battery, %. An empty one shows nothing any more.
func (s *ScaleOnABench) Drain(left float64) { s.battery = left }

// Hello is what it says first.
func (s *ScaleOnABench) Hello() Message {
	left := s.battery
	return Message{Device: gear.Scale, Name: "Stand-in scale", Battery: &left, Simulated: true}
}

// Step weighs.
func (s *ScaleOnABench) Step() []Message {
	const looks = 40 // steps from the tare to the first water
	if s.battery <= 0 {
		return nil
	}
	load := Load{Grams: brewerWeight + CarafeWeight + 18}
	if s.hand != nil {
		load = s.hand.Stands()
	}
	if s.tared > 0 {
		if s.tared++; s.hand != nil && s.tared > looks && !s.hand.Gone() {
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

// Do tares.
func (s *ScaleOnABench) Do(m Message) {
	if m.Do == DoTare {
		s.scale.Tare()
		s.tared = max(1, s.tared)
	}
}

type kettleOnABench struct {
	*KettleStandIn
	said int
}

func (k *kettleOnABench) Hello() Message {
	return Message{Device: gear.KettleDevice, Name: "Stand-in kettle", Simulated: true}
}

// Step heats; it says how warm it is twice a second.
func (k *kettleOnABench) Step() []Message {
	k.KettleStandIn.Step(Every)
	if k.said++; k.said%5 != 0 {
		return nil
	}
	now, set := float64(k.Shows()), float64(k.Set)
	return []Message{{Celsius: &now, Set: &set}}
}

func (k *kettleOnABench) Do(m Message) {
	if m.Do == DoHeat && m.Celsius != nil {
		k.Set = units.Celsius(*m.Celsius)
	}
}

type refractometerOnABench struct {
	*RefractometerStandIn
	asked bool
}

func (r *refractometerOnABench) Hello() Message {
	return Message{Device: gear.Refractometer, Name: "Stand-in refractometer", Simulated: true}
}

func (r *refractometerOnABench) Step() []Message {
	if !r.asked {
		return nil
	}
	r.asked = false
	v := r.Read()
	return []Message{{TDS: &v}}
}

func (r *refractometerOnABench) Do(m Message) { r.asked = r.asked || m.Do == DoRead }

// Serve lets a stand-in speak the protocol over a connection until that ends or ctx does.
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
				pass(ctx, asked, m)
			}
		}
	}()
	_ = speak(ctx, s, asked, w) // the other end has gone
}

// pass hands on what was asked, as long as somebody listens.
func pass(ctx context.Context, asked chan<- Message, m Message) {
	select {
	case asked <- m:
	case <-ctx.Done():
	}
}

// speak lets time pass for a stand-in.
func speak(ctx context.Context, s StandIn, asked <-chan Message, w wire) error {
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

// A Shared stand-in is one device with several connections, one after the other or at once:
// time passes for it as long as the program runs.
type Shared struct {
	StandIn
	mu sync.Mutex
}

// Step lets Every pass.
func (s *Shared) Step() []Message {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.StandIn.Step()
}

// Do does what is asked.
func (s *Shared) Do(m Message) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.StandIn.Do(m)
}

// ServeTCP accepts connections to a stand-in until ctx ends.
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

// WebSocket answers WebSocket connections to a stand-in.
func WebSocket(s StandIn) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		c, err := websocket.Accept(w, r, nil)
		if err != nil {
			return // Accept has answered
		}
		serve(r.Context(), wsWire{c}, s)
	})
}

// SeedOf makes a seed of a name, so that the same name behaves the same.
func SeedOf(name string) uint64 {
	h := fnv.New64a()
	h.Write([]byte(name))
	return h.Sum64()
}
