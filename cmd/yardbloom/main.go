// Command yardbloom serves Yard Bloom, a web application for brewing filter coffee by hand. It wires the
// parts together and contains no rules.
package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"os/signal"
	"syscall"
	"time"

	"github.com/spf13/cobra"

	"yardbloom/store"
)

// programStart is the start time of the program, with a monotonic clock.
var programStart = time.Now()

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	root := &cobra.Command{
		Use:           "yardbloom",
		Short:         "A web application for people who brew filter coffee by hand",
		Version:       version(),
		SilenceUsage:  true,
		SilenceErrors: true,
	}
	verbose := root.PersistentFlags().Bool("verbose", false, "log every request")
	logger := func() *slog.Logger {
		level := slog.LevelInfo
		if *verbose {
			level = slog.LevelDebug
		}
		return slog.New(slog.NewTextHandler(os.Stderr, &slog.HandlerOptions{Level: level}))
	}
	root.AddCommand(serveCommand(logger), demoCommand(logger), passwordCommand(), backupCommand(), restoreCommand(), simulateCommand(),
		learnCommand(), exportCommand(), importCommand(), nextCommand(), standinCommand(), certCommand(), bridgeCommand())
	if err := root.ExecuteContext(ctx); err != nil {
		var start *store.Trouble
		if errors.As(err, &start) && start.Err != nil && *verbose {
			fmt.Fprintln(os.Stderr, "yardbloom:", start.Err)
		}
		fmt.Fprintln(os.Stderr, "yardbloom:", err)
		var bad badInput
		if errors.As(err, &bad) {
			os.Exit(2)
		}
		os.Exit(1)
	}
}

// dataFlag adds the required flag for a data folder.
func dataFlag(c *cobra.Command, dir *string, usage string) {
	c.Flags().StringVar(dir, "data", "", usage)
	if err := c.MarkFlagRequired("data"); err != nil {
		panic(err) // the flag is defined in the line above
	}
}
