package device

import (
	"bufio"
	"context"
	"errors"
	"io"
	"net"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/coder/websocket"

	"yardbloom/broadcast"
	"yardbloom/core/gear"
	"yardbloom/core/units"
)

// State is the state of a link at a moment.
type State struct {
	Connected    bool
	Silent       bool   // connected, but sends nothing
	Trouble      string // the problem, in a sentence; empty for none
	ReportedName string // the name that the device reports
	Simulated    bool   // the device reports that it is a stand-in
	Battery      float64
	HasPower     bool // Battery is valid
	Grams        units.Grams
	Celsius      units.Celsius
	Set          units.Celsius
	TDS          float64
	Readings     int // number of readings so far
}

// A Link is the app's end of the connection to a device. It connects, publishes messages, and reconnects
// after a loss. It is safe for concurrent use.
type Link struct {
	Device gear.Device

	mu          sync.Mutex
	state       State
	lastMessage time.Time // time of the last message
	lastReading time.Time // time of the last published reading
	listen      map[chan Message]bool
	out         chan Message
	stop        context.CancelFunc
	done        chan struct{}
}

const (
	// silentAfter is the time without messages after which a device counts as silent.
	silentAfter = 3 * time.Second
	// redial is the first wait before reconnecting; it doubles up to longestRedial.
	redial, longestRedial = 250 * time.Millisecond, 4 * time.Second
	// minInterval is the minimum interval of published readings: of a thousand readings a second, fifty are
	// published.
	minInterval = 20 * time.Millisecond
	// maxInvalidLines is the maximum number of consecutive invalid lines before the link is closed.
	maxInvalidLines = 200
)

// The errors of a device's address.
var (
	ErrAddress = errors.New("not an address of a device")
	ErrScheme  = errors.New("not a scheme of the device protocol")
	ErrPort    = errors.New("the port is missing")
	ErrStandIn = errors.New("no such stand-in")
)

// CheckAddress returns one of the errors above for an invalid address.
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

// Connect returns a link that connects to a device, and reconnects until Close.
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

// Closed returns a channel that is closed with the link.
func (l *Link) Closed() <-chan struct{} { return l.done }

// State returns the present state of the link.
func (l *Link) State() State {
	l.mu.Lock()
	defer l.mu.Unlock()
	s := l.state
	s.Silent = s.Connected && time.Since(l.lastMessage) > silentAfter
	return s
}

// Follow returns a channel of the device's messages, and a function that ends it. A slow receiver misses
// the oldest ones.
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

// Ask sends a command to the device. It is dropped if the device is not connected.
func (l *Link) Ask(m Message) {
	select {
	case l.out <- m:
	default:
	}
}

// Tare tares a scale.
func (l *Link) Tare() { l.Ask(Message{Do: DoTare}) }

// Heat sets the set point of a kettle.
func (l *Link) Heat(to units.Celsius) {
	c := float64(to)
	l.Ask(Message{Do: DoHeat, Celsius: &c})
}

// ErrNoReading is returned if a refractometer gives no reading in time.
var ErrNoReading = errors.New("the refractometer gave no reading")

// ReadTDS requests a reading from a refractometer and returns it, %.
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

// A wire transports lines in both directions.
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
	for len(l.out) > 0 { // drop commands given while it was disconnected
		<-l.out
	}
	l.mu.Lock()
	l.state.Connected, l.state.Trouble, l.lastMessage = true, "", time.Now()
	l.mu.Unlock()
	go func() {
		for {
			select {
			case <-ctx.Done():
				w.close() // unblocks a pending read
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
			l.setTrouble(err)
			if rubbish++; rubbish > maxInvalidLines {
				return err
			}
			continue
		}
		rubbish = 0
		l.receive(m)
	}
}

func (l *Link) setTrouble(err error) {
	l.mu.Lock()
	defer l.mu.Unlock()
	l.state.Trouble = "it sends messages that cannot be read"
	if errors.Is(err, ErrReading) {
		l.state.Trouble = err.Error()
	}
}

// receive updates the state from a message and publishes it.
func (l *Link) receive(m Message) {
	now := time.Now()
	l.mu.Lock()
	defer l.mu.Unlock()
	l.lastMessage, l.state.Trouble = now, ""
	s := &l.state
	if m.Name != "" {
		s.ReportedName, s.Simulated = m.Name, m.Simulated
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
		if now.Sub(l.lastReading) < minInterval {
			return
		}
		l.lastReading = now
		s.Grams = units.Grams(*m.Grams)
		s.Readings++
	}
	for c := range l.listen {
		broadcast.Send(c, m)
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
	c, _, err := websocket.Dial(ctx, address, &websocket.DialOptions{HTTPClient: direct})
	if err != nil {
		return nil, err
	}
	c.SetReadLimit(longestLine)
	return wsWire{c}, nil
}

// direct follows no redirects: only the address that a person entered is a device.
var direct = &http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}

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
