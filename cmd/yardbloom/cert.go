package main

import (
	"fmt"
	"path/filepath"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"yardbloom/authority"
)

// tlsFolder is the folder of the certificates in a data folder.
const tlsFolder = "tls"

func certCommand() *cobra.Command {
	var dir string
	var names []string
	c := &cobra.Command{
		Use:   "cert --data DIR",
		Short: "Make a certificate for this machine, so that tablets can use HTTPS",
		Long: "Make a certificate for the names and addresses of this machine, signed by a local authority, in the folder " + tlsFolder +
			" of the data folder. Serve with it, and let each tablet trust the authority once: the page /trust explains how. Run it again " +
			"before the certificate ends, or when an address changes.",
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			out, folder := cmd.OutOrStdout(), filepath.Join(dir, tlsFolder)
			all := append(names, authority.MachineNames()...)
			fresh, err := authority.Make(folder, all, time.Now())
			if err != nil {
				return err
			}
			fmt.Fprintf(out, "Made a certificate for %s.\n", strings.Join(all, ", "))
			if fresh {
				fmt.Fprintln(out, "The authority is new: each tablet must trust it once.")
			}
			fmt.Fprintf(out, "Serve with: --tls-cert %s --tls-key %s\n", filepath.Join(folder, authority.ServerCert),
				filepath.Join(folder, authority.ServerKey))
			return nil
		},
	}
	dataFlag(c, &dir, "folder of the database")
	c.Flags().StringSliceVar(&names, "host", nil, "further name or address under which tablets reach this machine")
	return c
}
