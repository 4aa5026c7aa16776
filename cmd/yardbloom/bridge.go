package main

import (
	"context"
	"fmt"
	"io"
	"net"
	"strings"
	"time"

	"github.com/spf13/cobra"
	"go.bug.st/serial"

	"yardbloom/device"
)

func bridgeCommand() *cobra.Command {
	var port, addr, name, pattern, tare string
	var baud int
	patterns := make([]string, len(device.LinePatterns))
	for i, p := range device.LinePatterns {
		patterns[i] = p.String()
	}
	c := &cobra.Command{
		Use:   "bridge",
		Short: "Attach a scale that writes lines to a serial port",
		Long: "Read the lines of a scale from a serial port, or from standard input, and pass them on in the device protocol " +
			"(docs/formats.md). A line is read by the first pattern that fits it: " + strings.Join(patterns, ", ") + ". Then add the device " +
			"under Gear with the address that the command names.",
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			b := &device.Bridge{Name: name, Tare: unescaped.Replace(tare)}
			if pattern != "" {
				p, err := device.NewLinePattern(pattern)
				if err != nil {
					return badInput{fmt.Errorf("--pattern: %w", err)}
				}
				b.Patterns = []device.LinePattern{p}
			}
			l, err := net.Listen("tcp", addr)
			if err != nil {
				return fmt.Errorf("listen on %s: %w; name another address after --addr", addr, err)
			}
			fmt.Fprintf(cmd.OutOrStdout(), "%s is at tcp://%s\n", name, l.Addr())
			ctx, stop := context.WithCancel(cmd.Context())
			defer stop()
			served := make(chan error, 1)
			go func() { served <- b.Serve(ctx, l) }()
			if port == "" {
				go func() { _ = b.Read(cmd.InOrStdin(), nil); stop() }() // standard input has ended
			} else {
				go readPort(ctx, cmd.ErrOrStderr(), b, port, baud)
			}
			return <-served
		},
	}
	c.Flags().StringVar(&port, "port", "", "serial port, such as /dev/ttyUSB0 or COM3; empty: standard input")
	c.Flags().IntVar(&baud, "baud", 9600, "speed of the port, with 8 bits, no parity and 1 stop bit")
	c.Flags().StringVar(&addr, "addr", "127.0.0.1:8419", "address to listen on")
	c.Flags().StringVar(&name, "name", "Scale", "name of the scale")
	c.Flags().StringVar(&pattern, "pattern", "", "name of a pattern, or a regular expression with the groups value, unit and sign; empty: "+
		"the first that fits")
	c.Flags().StringVar(&tare, "tare", "", `what tares the scale, such as 'T\r\n'; empty: the bridge subtracts the present weight`)
	return c
}

var unescaped = strings.NewReplacer(`\r`, "\r", `\n`, "\n")

// readPort reads a serial port until ctx ends. A port that is missing or lost is tried again every second.
func readPort(ctx context.Context, out io.Writer, b *device.Bridge, name string, baud int) {
	const pause = time.Second
	said := ""
	for ctx.Err() == nil {
		p, err := serial.Open(name, &serial.Mode{BaudRate: baud})
		if err == nil {
			said = ""
			close := context.AfterFunc(ctx, func() { p.Close() })
			err = b.Read(p, p)
			close()
			p.Close()
		}
		if text := fmt.Sprintf("%s: %v; trying again", name, err); ctx.Err() == nil && text != said {
			fmt.Fprintln(out, text)
			said = text
		}
		select {
		case <-ctx.Done():
		case <-time.After(pause):
		}
	}
}
