package main

import (
	"github.com/spf13/cobra"

	"yardbloom/core/coach"
	"yardbloom/exchange"
)

// nextCommand advises on the last brew of a bag's path.
func nextCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "next PATH.json",
		Short: "Say what to change next, from the path of a bag (- for standard input), as JSON with its reasons",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			in, done, err := opened(cmd, args[0])
			if err != nil {
				return err
			}
			defer done()
			c, err := exchange.ReadPath(in)
			if err != nil {
				return inputError(err)
			}
			return exchange.WriteAdvice(cmd.OutOrStdout(), coach.Advise(c))
		},
	}
}
