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
		Short: "Simulate a device with the device protocol",
		Long: "Simulate a device: serve the device protocol (docs/formats.md) over TCP, and over WebSocket with --ws. With --pour " +
			"a hand pours a recipe onto the scale, four seconds after it was tared.",
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			kind := gear.DeviceKind(args[0])
			if !slices.Contains(gear.DeviceKinds(), kind) {
				return badInput{fmt.Errorf("the stand-in must be one of %v; got %q", gear.DeviceKinds(), args[0])}
			}
			s := device.New(kind, seed)
			if kind == gear.Scale {
				scale := device.NewBenchScale(seed, noise)
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
	c.Flags().StringVar(&recipe, "pour", "", "recipe file for a simulated hand to pour onto the scale")
	c.Flags().StringVar(&manner, "manner", "usual", "manner of the hand: practised, usual, hurried or heavy")
	c.Flags().Float64Var(&noise, "noise", 1, "noise of the scale, relative to an ordinary one")
	c.Flags().Float64Var(&battery, "battery", 82, "battery level of the scale, percent")
	c.Flags().Uint64Var(&seed, "seed", 1, "seed of the simulation")
	return c
}

// pours lets a simulated hand pour the recipe of a file onto a scale.
func pours(scale *device.BenchScale, path, manner string, seed uint64) error {
	m, ok := device.Manners[manner]
	if !ok {
		return badInput{fmt.Errorf("the manner must be practised, usual, hurried or heavy; got %q", manner)}
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
	if err := f.Run(q); err != nil {
		return badInput{err}
	}
	scale.Pour(device.NewHand(seed, m, q), f.Plan)
	return nil
}

// standIn serves a stand-in until the command ends.
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
