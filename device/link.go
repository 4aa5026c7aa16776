package device

import (
	"bufio"
	"context"
	"errors"
	"io"
	"net"
	"net/url"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/coder/websocket"

	"yardbloom/core/gear"
	"yardbloom/core/units"
	"yardbloom/lossy"
)

// State is what the app knows of a device at a moment.
type State struct {
	Connected bool
	Silent    bool   // connected, and it says nothing
	Trouble   string // what is wrong, in a sentence; empty for nothing
	Said      string // the name that it gave itself
	Simulated bool   // the device reports that it is a stand-in
	Battery   float64
	HasPower  bool // Battery is known
	Grams     units.Grams
	Celsius   units.Celsius
	Set       units.Celsius
	TDS       float64
	Read      int // readings so far
}

// A Link is the app's end of the connection to one device. It connects, says what it sees,
// survives a loss and comes back. It is safe for concurrent use.
type Link struct {
	Device gear.Device

	mu     sync.Mutex
	state  State
	heard  time.Time // when the device last said something
	taken  time.Time // when the last reading was passed on
	listen map[chan Message]bool
	out    chan Message
	stop   context.CancelFunc
	done   chan struct{}
}

const (
	// silentAfter is how long a device may say nothing before the app says so.
	silentAfter = 3 * time.Second
	// redial is the first wait before the app connects again; it doubles up to longestRedial.
	redial, longestRedial = 250 * time.Millisecond, 4 * time.Second
	// fastest is the least time between two readings that are passed on: a scale that says
	// a thousand a second is read fifty times.
	fastest = 20 * time.Millisecond
	// mostRubbish is how many lines that are none are borne in a row.
	mostRubbish = 200
)

// What can be wrong with a device's address.
var (
	ErrAddress = errors.New("not an address of a device")
	ErrScheme  = errors.New("not a scheme that devices are spoken to by")
	ErrPort    = errors.New("the port is missing")
	ErrStandIn = errors.New("no such stand-in")
)

// CheckAddress returns one of the errors above for an address that nothing can be reached by.
func CheckAddress(address string) error {
	if kind, ok := strings.CutPrefix(address, gear.StandInAddress); ok {
		if slices.Contains(gear.DeviceKinds(), gear.DeviceKind(kind)) {
			return nil
		}
		return ErrStandIn
	}
	u, err := url.Parse(address)
	switch {
	case err != nil || u.Host == "":
		return ErrAddress
	case u.Scheme == "ws" || u.Scheme == "wss":
		return nil
	case u.Scheme != "tcp":
		return ErrScheme
	case u.Port() == "":
		return ErrPort
	}
	return nil
}

// Connect begins to connect to a device, and goes on until Close.
func Connect(d gear.Device) *Link {
	ctx, stop := context.WithCancel(context.Background())
	l := &Link{Device: d, listen: map[chan Message]bool{}, out: make(chan Message, 4), stop: stop, done: make(chan struct{})}
	l.state.Trouble = "not connected yet"
	go l.run(ctx)
	return l
}

// Simulated reports whether the device is a stand-in, inside the app or remote.
func (l *Link) Simulated() bool { return l.Device.Simulated() || l.State().Simulated }

// Title returns the device's name, labelled if it is simulated.
func (l *Link) Title() string {
	if l.Simulated() {
		return l.Device.Name + " (simulated)"
	}
	return l.Device.Name
}

// Close ends the connection.
func (l *Link) Close() {
	l.stop()
	<-l.done
}

// Closed is closed once the link is.
func (l *Link) Closed() <-chan struct{} { return l.done }

// State says how the device is.
func (l *Link) State() State {
	l.mu.Lock()
	defer l.mu.Unlock()
	s := l.state
	s.Silent = s.Connected && time.Since(l.heard) > silentAfter
	return s
}

// Follow returns a channel of what the device says, and how to leave. Whoever does not
// keep up misses the oldest.
func (l *Link) Follow() (<-chan Message, func()) {
	const room = 64
	c := make(chan Message, room)
	l.mu.Lock()
	defer l.mu.Unlock()
	l.listen[c] = true
	return c, func() {
		l.mu.Lock()
		defer l.mu.Unlock()
		delete(l.listen, c)
	}
}

// Ask sends a wish to the device. One that is not connected gets nothing, now or later.
func (l *Link) Ask(m Message) {
	select {
	case l.out <- m:
	default:
	}
}

// Tare makes what lies on a scale count as nothing.
func (l *Link) Tare() { l.Ask(Message{Do: DoTare}) }

// Heat sets what a kettle heats to.
func (l *Link) Heat(to units.Celsius) {
	c := float64(to)
	l.Ask(Message{Do: DoHeat, Celsius: &c})
}

// ErrNoReading is returned where a refractometer gives no reading in time.
var ErrNoReading = errors.New("the refractometer gave no reading")

// ReadTDS asks a refractometer for a reading and waits for it, %.
func (l *Link) ReadTDS(ctx context.Context) (float64, error) {
	const patience = 5 * time.Second
	ctx, stop := context.WithTimeout(ctx, patience)
	defer stop()
	said, leave := l.Follow()
	defer leave()
	l.Ask(Message{Do: DoRead})
	for {
		select {
		case <-ctx.Done():
			return 0, ErrNoReading
		case m := <-said:
			if m.TDS != nil {
				return *m.TDS, nil
			}
		}
	}
}

// A wire carries lines both ways.
type wire interface {
	read(context.Context) ([]byte, error)
	write(context.Context, []byte) error
	close()
}

func (l *Link) run(ctx context.Context) {
	defer close(l.done)
	wait := redial
	for ctx.Err() == nil {
		w, err := dial(ctx, l.Device.Address)
		if err == nil {
			wait = redial
			err = l.talk(ctx, w)
			w.close()
		}
		l.lost(err)
		select {
		case <-ctx.Done():
		case <-time.After(wait):
		}
		wait = min(2*wait, longestRedial)
	}
}

func (l *Link) lost(err error) {
	l.mu.Lock()
	defer l.mu.Unlock()
	l.state.Connected = false
	switch {
	case errors.Is(err, ErrLine), errors.Is(err, ErrReading):
		l.state.Trouble = "it answers, but not in the device protocol"
	case errors.Is(err, io.EOF):
		l.state.Trouble = "it ended the connection"
	default:
		l.state.Trouble = "it cannot be reached"
	}
}

// talk reads and writes until the connection is lost.
func (l *Link) talk(ctx context.Context, w wire) error {
	ctx, stop := context.WithCancel(ctx)
	defer stop()
	for len(l.out) > 0 { // what was asked of it while it was away is not meant any more
		<-l.out
	}
	l.mu.Lock()
	l.state.Connected, l.state.Trouble, l.heard = true, "", time.Now()
	l.mu.Unlock()
	go func() {
		for {
			select {
			case <-ctx.Done():
				w.close() // ends a read that waits
				return
			case m := <-l.out:
				if w.write(ctx, m.Line()) != nil {
					w.close()
					return
				}
			}
		}
	}()
	rubbish := 0
	for {
		line, err := w.read(ctx)
		if err != nil {
			return err
		}
		m, err := Parse(line)
		if err != nil {
			l.complain(err)
			if rubbish++; rubbish > mostRubbish {
				return err
			}
			continue
		}
		rubbish = 0
		l.hear(m)
	}
}

func (l *Link) complain(err error) {
	l.mu.Lock()
	defer l.mu.Unlock()
	l.state.Trouble = "it says what the yard does not understand"
	if errors.Is(err, ErrReading) {
		l.state.Trouble = err.Error()
	}
}

// hear takes in what a device said and passes it on.
func (l *Link) hear(m Message) {
	now := time.Now()
	l.mu.Lock()
	defer l.mu.Unlock()
	l.heard, l.state.Trouble = now, ""
	s := &l.state
	if m.Name != "" {
		s.Said, s.Simulated = m.Name, m.Simulated
	}
	if m.Battery != nil {
		s.Battery, s.HasPower = *m.Battery, true
	}
	if m.Celsius != nil {
		s.Celsius = units.Celsius(*m.Celsius)
	}
	if m.Set != nil {
		s.Set = units.Celsius(*m.Set)
	}
	if m.TDS != nil {
		s.TDS = *m.TDS
	}
	if m.Grams != nil {
		if now.Sub(l.taken) < fastest {
			return
		}
		l.taken = now
		s.Grams = units.Grams(*m.Grams)
		s.Read++
	}
	for c := range l.listen {
		lossy.Put(c, m)
	}
}

func dial(ctx context.Context, address string) (wire, error) {
	if kind, ok := strings.CutPrefix(address, gear.StandInAddress); ok {
		ours, theirs := net.Pipe()
		go Serve(context.Background(), theirs, New(gear.DeviceKind(kind), 1)) // ends with the pipe
		return newTCPWire(ours), nil
	}
	const patience = 3 * time.Second
	ctx, stop := context.WithTimeout(ctx, patience)
	defer stop()
	if rest, ok := strings.CutPrefix(address, "tcp://"); ok {
		var d net.Dialer
		c, err := d.DialContext(ctx, "tcp", rest)
		if err != nil {
			return nil, err
		}
		return newTCPWire(c), nil
	}
	c, _, err := websocket.Dial(ctx, address, nil)
	if err != nil {
		return nil, err
	}
	c.SetReadLimit(longestLine)
	return wsWire{c}, nil
}

type tcpWire struct {
	net.Conn
	lines *bufio.Scanner
}

func newTCPWire(c net.Conn) tcpWire {
	lines := bufio.NewScanner(c)
	lines.Buffer(make([]byte, 0, longestLine), longestLine)
	return tcpWire{c, lines}
}

func (w tcpWire) read(context.Context) ([]byte, error) {
	if w.lines.Scan() {
		return w.lines.Bytes(), nil
	}
	if err := w.lines.Err(); errors.Is(err, bufio.ErrTooLong) {
		return nil, ErrLine
	} else if err != nil {
		return nil, err
	}
	return nil, io.EOF
}

func (w tcpWire) write(_ context.Context, line []byte) error {
	_, err := w.Write(line)
	return err
}

func (w tcpWire) close() { w.Conn.Close() }

type wsWire struct{ c *websocket.Conn }

func (w wsWire) read(ctx context.Context) ([]byte, error) {
	_, line, err := w.c.Read(ctx)
	if websocket.CloseStatus(err) != -1 {
		return nil, io.EOF
	}
	return line, err
}

func (w wsWire) write(ctx context.Context, line []byte) error {
	return w.c.Write(ctx, websocket.MessageText, line)
}

func (w wsWire) close() { w.c.CloseNow() }
