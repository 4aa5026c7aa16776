package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"text/tabwriter"
	"time"

	"github.com/spf13/cobra"

	"yardbloom/core/learn"
	"yardbloom/core/units"
	"yardbloom/exchange"
	"yardbloom/store"
	"yardbloom/yard"
)

func learnCommand() *cobra.Command {
	var dir, bag, file string
	c := &cobra.Command{
		Use:   "learn --data DIR",
		Short: "Learn again from all measured brews and print each with its prediction",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if (bag == "") != (file == "") {
				return badInput{errors.New("--bag and --write go together: the beliefs of one bag go into one file")}
			}
			st, err := store.OpenCurrent(cmd.Context(), dir)
			if err != nil {
				return err
			}
			defer st.Close()
			y, err := yard.LearnOnce(cmd.Context(), st, time.Now())
			if err != nil {
				return err
			}
			if err := printLearned(cmd.OutOrStdout(), y); err != nil || bag == "" {
				return err
			}
			return writeBeliefs(cmd.Context(), st, y, bag, file)
		},
	}
	dataFlag(c, &dir, "folder of the database")
	c.Flags().StringVar(&bag, "bag", "", "id of a bag, as in its address")
	c.Flags().StringVar(&file, "write", "", "file for the beliefs about the bag and the gear of its last brew")
	return c
}

func printLearned(out io.Writer, y *learn.Knowledge) error {
	table := tabwriter.NewWriter(out, 0, 0, 2, ' ', 0)
	fmt.Fprintln(table, "brewed\tcoffee\tdrawdown\texpected\tTDS, %\texpected\t")
	for _, b := range y.Seen {
		said := ""
		switch {
		case b.Odd:
			said = fmt.Sprintf("left out: %.0f standard errors off", b.Off)
		case b.Out:
			said = "left out"
		}
		fmt.Fprintf(table, "%s\t%s\t%s\t%s ± %s\t%.2f\t%.2f ± %.2f\t%s\n", b.At.Format("2006-01-02 15:04"), b.Name,
			units.Seconds(b.Drawdown),
			units.Seconds(b.Expected.Drawdown), units.Seconds(b.Error.Drawdown), b.TDS, b.Expected.Strength, b.Error.Strength, said)
	}
	for _, d := range y.Drifts() {
		fmt.Fprintf(table, "The grinder %s seems to have changed on %s (ln of size %+.2f).\n", d.Grinder, d.Since.Format("2006-01-02"),
			d.By)
	}
	fmt.Fprintf(table, "Learned from %d brews.\n", y.Brews())
	return table.Flush()
}

func writeBeliefs(ctx context.Context, st *store.Store, y *learn.Knowledge, bag, file string) (err error) {
	last, err := st.LastBrew(ctx, bag)
	if errors.Is(err, store.ErrNotFound) {
		return badInput{fmt.Errorf("no brew of the bag %q was poured to its end", bag)}
	}
	if err != nil {
		return err
	}
	f, err := os.Create(file)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, f.Close()) }()
	return exchange.FromBeliefs(y.Beliefs(last.Subject())).Write(f)
}
