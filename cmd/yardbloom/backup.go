package main

import (
	"fmt"
	"os"
	"path/filepath"
	"time"

	"github.com/spf13/cobra"

	"yardbloom/store"
)

func backupCommand() *cobra.Command {
	var dir string
	c := &cobra.Command{
		Use:   "backup FILE --data DIR",
		Short: "Write a consistent copy of a yard, even while it is being served",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if _, err := os.Stat(filepath.Join(dir, store.FileName)); err != nil {
				return fmt.Errorf("there is no yard in %s to back up: %w", dir, err)
			}
			brews, err := store.BackupOf(cmd.Context(), dir, args[0])
			if err != nil {
				return err
			}
			fmt.Fprintf(cmd.OutOrStdout(), "%s is a verified backup with %d brews.\n", args[0], brews)
			return nil
		},
	}
	dataFlag(c, &dir, "folder of the database")
	return c
}

func restoreCommand() *cobra.Command {
	var dir string
	var replace bool
	c := &cobra.Command{
		Use:   "restore FILE --data DIR",
		Short: "Restore a backup into a data folder; stop the server first",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			brews, aside, err := store.Restore(cmd.Context(), args[0], dir, replace, time.Now())
			if err != nil {
				return err
			}
			fmt.Fprintf(cmd.OutOrStdout(), "The yard in %s now has %d brews.\n", dir, brews)
			if aside != "" {
				fmt.Fprintf(cmd.OutOrStdout(), "The previous yard was renamed to %s.\n", aside)
			}
			return nil
		},
	}
	dataFlag(c, &dir, "folder to restore into")
	c.Flags().BoolVar(&replace, "replace", false, "rename an existing yard")
	return c
}
