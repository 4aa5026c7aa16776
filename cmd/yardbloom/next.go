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
		Short: "Advise on the last brew of a bag's path (- for standard input) and print JSON with the reasons",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			in, done, err := openInput(cmd, args[0])
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
