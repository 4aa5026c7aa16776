package device

import (
	"bufio"
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"regexp"
	"strconv"
	"strings"
	"sync"

	"yardbloom/broadcast"
	"yardbloom/core/gear"
)

// A LinePattern finds a weight in a line of a scale.
type LinePattern struct {
	Name, Example string
	// Line has the groups sign (optional), value, and unit (optional; grams without it).
	Line *regexp.Regexp
}

// LinePatterns lists the known patterns, in the order in which they are tried. A decimal may be written with a point or a comma.
var LinePatterns = []LinePattern{
	{"unit", "ST,GS,+   123.4 g", regexp.MustCompile(`(?i)(?:^|[^\w.])(?P<sign>[-+]?)\s*(?P<value>\d+(?:[.,]\d+)?)\s*,?\s*(?P<unit>mg|kg|g|oz|lb)\b`)},
	{"number", "+00123.4", regexp.MustCompile(`^\s*(?P<sign>[-+]?)\s*(?P<value>\d+(?:[.,]\d+)?)\s*$`)},
	{"labelled", "W: 123.4", regexp.MustCompile(`(?i)^\s*[a-z ]+[:=]\s*(?P<sign>[-+]?)\s*(?P<value>\d+(?:[.,]\d+)?)\s*$`)},
}

// gramsPer holds the units of a line.
var gramsPer = map[string]float64{"": 1, "g": 1, "mg": 0.001, "kg": 1000, "oz": gramsPerOunce, "lb": 16 * gramsPerOunce}

// ErrPattern is returned for a pattern without the group value.
var ErrPattern = errors.New("the pattern needs a group named value: (?P<value>...)")

// NewLinePattern returns a pattern from a regular expression, or the known one of that name.
func NewLinePattern(text string) (LinePattern, error) {
	for _, p := range LinePatterns {
		if p.Name == text {
			return p, nil
		}
	}
	re, err := regexp.Compile(text)
	if err != nil {
		return LinePattern{}, err
	}
	if re.SubexpIndex("value") < 0 {
		return LinePattern{}, ErrPattern
	}
	return LinePattern{Name: "own", Line: re}, nil
}

// Grams returns the weight in a line. It returns false for a line without a plausible weight.
func (p LinePattern) Grams(line string) (float64, bool) {
	m := p.Line.FindStringSubmatch(line)
	if m == nil {
		return 0, false
	}
	group := func(name string) string {
		if i := p.Line.SubexpIndex(name); i >= 0 {
			return m[i]
		}
		return ""
	}
	v, err := strconv.ParseFloat(strings.Replace(group("value"), ",", ".", 1), 64)
	per, known := gramsPer[strings.ToLower(group("unit"))]
	if v *= per; err != nil || !known || !scaleRange.Contains(v) {
		return 0, false
	}
	if group("sign") == "-" {
		v = -v
	}
	return v, true
}

// A Bridge passes the lines of a scale on in the device protocol, to any number of connections. It is safe for concurrent use.
type Bridge struct {
	Name     string
	Patterns []LinePattern // tried in order; nil: LinePatterns
	// Tare is sent to the scale to tare it; empty: the bridge subtracts the present weight.
	Tare string

	mu      sync.Mutex
	scale   io.Writer // nil while disconnected
	zero    float64   // subtracted, g
	raw     float64   // last weight, g
	screens map[chan float64]bool
}

// Read passes on the lines of a scale until they end. Lines without a weight are skipped. commands may be nil; a tare is
// written to it.
func (b *Bridge) Read(lines io.Reader, commands io.Writer) error {
	b.mu.Lock()
	b.scale = commands
	b.mu.Unlock()
	defer func() {
		b.mu.Lock()
		b.scale = nil
		b.mu.Unlock()
	}()
	scan := bufio.NewScanner(lines)
	scan.Buffer(make([]byte, 0, longestLine), longestLine)
	scan.Split(anyLine)
	for scan.Scan() {
		if g, ok := b.grams(scan.Text()); ok {
			b.weighed(g)
		}
	}
	return scan.Err()
}

// anyLine splits at line feeds, carriage returns and control characters that scales send around a line. A line that is too long is cut.
func anyLine(data []byte, atEnd bool) (advance int, token []byte, err error) {
	end := bytes.IndexAny(data, "\r\n\x02\x03")
	switch {
	case end >= 0:
		return end + 1, data[:end], nil
	case len(data) >= longestLine || atEnd && len(data) > 0:
		return len(data), data, nil
	}
	return 0, nil, nil
}

func (b *Bridge) grams(line string) (float64, bool) {
	patterns := b.Patterns
	if patterns == nil {
		patterns = LinePatterns
	}
	for _, p := range patterns {
		if g, ok := p.Grams(line); ok {
			return g, true
		}
	}
	return 0, false
}

func (b *Bridge) weighed(g float64) {
	b.mu.Lock()
	defer b.mu.Unlock()
	b.raw = g
	for c := range b.screens {
		broadcast.Send(c, g-b.zero)
	}
}

// do executes a command of the app.
func (b *Bridge) do(m Message) error {
	if m.Do != DoTare {
		return nil
	}
	b.mu.Lock()
	defer b.mu.Unlock()
	if b.Tare != "" && b.scale != nil {
		_, err := io.WriteString(b.scale, b.Tare)
		return err
	}
	b.zero = b.raw
	return nil
}

// Serve accepts connections until ctx ends.
func (b *Bridge) Serve(ctx context.Context, l net.Listener) error {
	stop := context.AfterFunc(ctx, func() { l.Close() })
	defer stop()
	for {
		c, err := l.Accept()
		if ctx.Err() != nil {
			return nil
		}
		if err != nil {
			return err
		}
		go b.serve(ctx, newTCPWire(c))
	}
}

// serve runs the protocol over one connection.
func (b *Bridge) serve(ctx context.Context, w wire) {
	ctx, stop := context.WithCancel(ctx)
	defer stop()
	defer w.close()
	weights := make(chan float64, 1)
	b.mu.Lock()
	if b.screens == nil {
		b.screens = map[chan float64]bool{}
	}
	b.screens[weights] = true
	b.mu.Unlock()
	defer func() {
		b.mu.Lock()
		delete(b.screens, weights)
		b.mu.Unlock()
	}()
	go func() {
		defer stop()
		for {
			line, err := w.read(ctx)
			if err != nil {
				return
			}
			if m, err := Parse(line); err == nil && b.do(m) != nil {
				return
			}
		}
	}()
	if w.write(ctx, Message{Device: gear.Scale, Name: b.Name}.Line()) != nil {
		return
	}
	for {
		select {
		case <-ctx.Done():
			return
		case g := <-weights:
			if w.write(ctx, Message{Grams: &g}.Line()) != nil { // the other end has gone
				return
			}
		}
	}
}

// String describes a pattern by its example.
func (p LinePattern) String() string { return fmt.Sprintf("%s (%s)", p.Name, p.Example) }
