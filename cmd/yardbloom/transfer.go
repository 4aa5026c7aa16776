package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"
	"text/tabwriter"
	"time"

	"github.com/spf13/cobra"

	"yardbloom/exchange/yardfile"
	"yardbloom/store"
	"yardbloom/yard"
)

func exportCommand() *cobra.Command {
	var dir, from, to, record string
	c := &cobra.Command{
		Use:   "export FILE --data DIR",
		Short: "Write a yard, a range of days or one record to a file, even while the yard is being served",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) (err error) {
			first, err := dayFlag("from", from)
			if err != nil {
				return err
			}
			last, err := dayFlag("to", to)
			if err != nil {
				return err
			}
			if _, err := os.Stat(filepath.Join(dir, store.FileName)); err != nil {
				return fmt.Errorf("there is no yard in %s to export: %w", dir, err)
			}
			st, err := store.OpenCurrent(cmd.Context(), dir)
			if err != nil {
				return err
			}
			defer st.Close()
			return writeWhole(args[0], func(w io.Writer) error {
				if record == "" {
					return yard.Export(cmd.Context(), st, w, first, last, time.Now())
				}
				kind, id, _ := strings.Cut(record, "/")
				text, err := yard.RecordFile(cmd.Context(), st, store.Kind(kind), id)
				if errors.Is(err, store.ErrNotFound) {
					return badInput{fmt.Errorf("--record: there is no %s with the id %q", kind, id)}
				}
				if err != nil {
					return err
				}
				_, err = w.Write(text)
				return err
			})
		},
	}
	dataFlag(c, &dir, "folder of the database")
	c.Flags().StringVar(&from, "from", "", "first day of the brews, such as 2026-11-01")
	c.Flags().StringVar(&to, "to", "", "last day of the brews")
	c.Flags().StringVar(&record, "record", "", "one record instead, as KIND/ID, such as brew/ID, bag/ID, trial/ID, flight/ID or script/ID")
	return c
}

// dayFlag returns the day of a flag, or the zero time if it is not given.
func dayFlag(name, text string) (time.Time, error) {
	if text == "" {
		return time.Time{}, nil
	}
	day, err := time.ParseInLocation(time.DateOnly, text, time.Local)
	if err != nil {
		return day, badInput{fmt.Errorf("--%s: %q is not a day such as 2026-11-29", name, text)}
	}
	return day, nil
}

// writeWhole writes a file that is there only if it is complete.
func writeWhole(name string, write func(io.Writer) error) (err error) {
	f, err := os.CreateTemp(filepath.Dir(name), ".yardbloom-*")
	if err != nil {
		return err
	}
	defer func() {
		if err != nil {
			os.Remove(f.Name())
		}
	}()
	if err := errors.Join(write(f), f.Sync(), f.Close()); err != nil {
		return err
	}
	return os.Rename(f.Name(), name)
}

func importCommand() *cobra.Command {
	var dir string
	var dry bool
	c := &cobra.Command{
		Use:   "import FILE --data DIR",
		Short: "Merge a yard file or a record into a yard, even while the yard is being served",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) (err error) {
			f, err := os.Open(args[0])
			if err != nil {
				return badInput{err}
			}
			defer f.Close()
			info, err := f.Stat()
			if err != nil {
				return err
			}
			st, err := store.OpenCurrent(cmd.Context(), dir)
			if err != nil {
				return err
			}
			defer st.Close()
			in, err := yard.ReadImport(cmd.Context(), st, f, info.Size(), time.Now())
			var wrong *yardfile.FileError
			if errors.As(err, &wrong) {
				return badInput{err}
			}
			if err != nil {
				return err
			}
			keep := false
			defer func() {
				if !keep {
					err = errors.Join(err, in.Close())
				}
			}()
			if err := printPlan(cmd.Context(), cmd.OutOrStdout(), in); err != nil {
				return err
			}
			if dry || !in.Changes() {
				fmt.Fprintln(cmd.OutOrStdout(), "Nothing was changed.")
				return nil
			}
			err = in.Apply(cmd.Context(), filepath.Base(args[0]), "", time.Now(), func(done, all int) {
				fmt.Fprintf(cmd.ErrOrStderr(), "\r%d of %d records", done, all)
			})
			fmt.Fprintln(cmd.ErrOrStderr())
			if err != nil {
				keep = true // the next start needs it
				return fmt.Errorf("the import was interrupted; the next start of the server undoes or completes it: %w", err)
			}
			fmt.Fprintln(cmd.OutOrStdout(), "Imported.")
			return nil
		},
	}
	dataFlag(c, &dir, "folder of the database; made where it is missing")
	c.Flags().BoolVar(&dry, "dry-run", false, "print the changes without importing")
	return c
}

// printPlan prints the plan of an import.
func printPlan(ctx context.Context, out io.Writer, in *yard.Import) error {
	said := map[store.Action]string{store.Add: "new", store.Change: "updated", store.Keep: "conflicting, older than here", store.Delete: "deleted",
		store.Same: "unchanged", store.Refused: "rejected"}
	table := tabwriter.NewWriter(out, 0, 0, 2, ' ', 0)
	for _, a := range store.Actions() {
		for _, c := range in.Counts {
			if c.Action == a {
				fmt.Fprintf(table, "%s\t%d\t%s\n", c.Kind, c.Records, said[a])
			}
		}
	}
	table.Flush()
	for _, d := range in.Refused {
		fmt.Fprintf(out, "rejected: %s %s: %s\n", d.Kind, d.ID, d.Why)
	}
	incomplete, err := in.Decisions(ctx, store.Add, 100)
	for _, d := range incomplete {
		fmt.Fprintf(out, "incomplete: %s %s: %s\n", d.Kind, d.ID, d.Why)
	}
	return err
}
