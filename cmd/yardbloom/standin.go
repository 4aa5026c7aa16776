package main

import (
	"context"
	"errors"
	"fmt"
	"net"
	"net/http"
	"os"
	"slices"
	"time"

	"github.com/spf13/cobra"

	"yardbloom/core/forecast"
	"yardbloom/core/gear"
	"yardbloom/device"
	"yardbloom/exchange"
)

func standinCommand() *cobra.Command {
	var tcp, ws, recipe, manner string
	var noise, battery float64
	var seed uint64
	c := &cobra.Command{
		Use:   "standin scale|kettle|refractometer",
		Short: "Be a device: speak the device protocol as a real one would",
		Long:  "Be a device: speak the device protocol (docs/formats.md) over TCP, and over WebSocket where --ws is given. With --pour a hand pours a recipe onto the scale, four seconds after it was tared.",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			kind := gear.DeviceKind(args[0])
			if !slices.Contains(gear.DeviceKinds(), kind) {
				return badInput{fmt.Errorf("a stand-in is one of %v; got %q", gear.DeviceKinds(), args[0])}
			}
			s := device.New(kind, seed)
			if kind == gear.Scale {
				scale := device.NewScaleOnABench(seed, noise)
				scale.Drain(battery)
				if recipe != "" {
					if err := pours(scale, recipe, manner, seed); err != nil {
						return err
					}
				}
				s = scale
			}
			return standIn(cmd, &device.Shared{StandIn: s}, tcp, ws)
		},
	}
	c.Flags().StringVar(&tcp, "tcp", "127.0.0.1:8418", "address to listen on for TCP")
	c.Flags().StringVar(&ws, "ws", "", "address to listen on for WebSocket; empty: none")
	c.Flags().StringVar(&recipe, "pour", "", "recipe file that a hand pours onto the scale")
	c.Flags().StringVar(&manner, "manner", "usual", "whose hand: practised, usual, hurried or heavy")
	c.Flags().Float64Var(&noise, "noise", 1, "of the scale, against an ordinary one")
	c.Flags().Float64Var(&battery, "battery", 82, "percent left in the scale")
	c.Flags().Uint64Var(&seed, "seed", 1, "the same seed behaves the same")
	return c
}

// pours lets a hand pour the recipe of a file onto a scale.
func pours(scale *device.ScaleOnABench, path, manner string, seed uint64) error {
	m, ok := device.Manners[manner]
	if !ok {
		return badInput{fmt.Errorf("a manner is practised, usual, hurried or heavy; got %q", manner)}
	}
	file, err := os.Open(path)
	if err != nil {
		return badInput{err}
	}
	defer file.Close()
	doc, err := exchange.ReadRecipe(file)
	if err != nil {
		return inputError(err)
	}
	q := doc.Question(anyDay)
	var f forecast.Forecast
	if err := f.Ask(q); err != nil {
		return badInput{err}
	}
	scale.Pour(device.NewHand(seed, m, q), f.Plan)
	return nil
}

// standIn serves a stand-in until the command is ended.
func standIn(cmd *cobra.Command, s device.StandIn, tcp, ws string) error {
	ctx := cmd.Context()
	l, err := net.Listen("tcp", tcp)
	if err != nil {
		return fmt.Errorf("listen on %s: %w; name another address after --tcp", tcp, err)
	}
	fmt.Fprintf(cmd.OutOrStdout(), "A stand-in %s is at tcp://%s\n", s.Hello().Device, l.Addr())
	if ws != "" {
		wl, err := net.Listen("tcp", ws)
		if err != nil {
			return errors.Join(fmt.Errorf("listen on %s: %w; name another address after --ws", ws, err), l.Close())
		}
		fmt.Fprintf(cmd.OutOrStdout(), "and at ws://%s/\n", wl.Addr())
		srv := &http.Server{Handler: device.WebSocket(s), ReadHeaderTimeout: 5 * time.Second}
		context.AfterFunc(ctx, func() { srv.Close() })
		go srv.Serve(wl) // ends with the command
	}
	return device.ServeTCP(ctx, l, s)
}
