package main

import (
	"context"
	"crypto/tls"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"os"
	"sync"
	"time"

	"github.com/spf13/cobra"

	"yardbloom/store"
	"yardbloom/web"
	"yardbloom/yard"
)

const defaultAddr = "127.0.0.1:8417"

func serveCommand(logger func() *slog.Logger) *cobra.Command {
	var dir string
	var who access
	var replicated bool
	c := &cobra.Command{
		Use:   "serve --data DIR",
		Short: "Serve a yard",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			var options []store.Option
			if replicated {
				options = append(options, store.Replicated)
			}
			st, err := store.OpenAlone(cmd.Context(), dir, options...)
			if err != nil {
				return err
			}
			defer st.Close()
			if st.OldCopy != "" {
				fmt.Fprintf(cmd.OutOrStdout(), "The yard was updated to this version. A copy from before is in %s.\n", st.OldCopy)
			}
			if st.New {
				fmt.Fprintf(cmd.OutOrStdout(), "Created a new, empty yard in %s. If you expected your brews here, stop and check --data.\n",
					dir)
			}
			log := logger()
			of, config := yard.Config{Store: st, Log: log, Now: time.Now, Uptime: uptime}, web.Config{}
			if err := who.apply(cmd.Context(), cmd.OutOrStdout(), &config, st, dir); err != nil {
				return err
			}
			ctx, cancel := context.WithCancel(cmd.Context())
			var background sync.WaitGroup
			background.Go(func() { backUpDaily(ctx, st, log) })
			background.Go(func() { checkAfterUncleanEnd(ctx, st, log) })
			defer func() { cancel(); background.Wait() }()
			return listen(ctx, cmd.OutOrStdout(), who, of, config, func(context.Context, *yard.Yard) {})
		},
	}
	dataFlag(c, &dir, "folder of the database; made where it is missing")
	c.Flags().BoolVar(&replicated, "replicated", false, "another program replicates the database and moves its log (docs/operating.md)")
	who.flags(c)
	return c
}

// checkAfterUncleanEnd checks the database in the background if the last process did not close
// it. If the check fails, every page reports the damage.
func checkAfterUncleanEnd(ctx context.Context, st *store.Store, log *slog.Logger) {
	if !st.Unclean {
		return
	}
	if err := st.Check(ctx); err != nil && ctx.Err() == nil {
		log.Error("the database was checked after an unclean end", "err", err)
	}
}

// backUpDaily makes the yard's own backup of each day until the context ends.
func backUpDaily(ctx context.Context, st *store.Store, log *slog.Logger) {
	look := time.NewTicker(time.Hour)
	defer look.Stop()
	for {
		if err := st.DailyBackup(ctx, time.Now()); err != nil && ctx.Err() == nil {
			log.Error("no backup was made today", "err", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-look.C:
		}
	}
}

// renewBefore is the time before the expiry of a certificate from which each start prints a warning.
const renewBefore = 30 * 24 * time.Hour

// listen opens the yard and serves it until the context ends, with work in the background, then gives requests a second to
// finish. Readings that are still in memory are stored before it returns.
func listen(ctx context.Context, out io.Writer, who access, of yard.Config, c web.Config, work func(context.Context, *yard.Yard)) error {
	cert, err := who.certificate()
	if err != nil {
		return err
	}
	listener, err := net.Listen("tcp", who.addr)
	if err != nil {
		return fmt.Errorf("cannot listen on %s (is it in use? choose another with --addr): %w", who.addr, err)
	}
	defer listener.Close()
	y, err := yard.Open(ctx, of)
	if err != nil {
		return err
	}
	closeYard := sync.OnceFunc(y.Close) // a second call waits for the first
	defer closeYard()
	c.Yard = y
	handler, err := web.New(c)
	if err != nil {
		return err
	}
	srv := &http.Server{Handler: handler, ReadHeaderTimeout: 5 * time.Second, IdleTimeout: 2 * time.Minute, MaxHeaderBytes: 64 << 10,
		ErrorLog: slog.NewLogLogger(of.Log.Handler(), slog.LevelWarn)}
	srv.RegisterOnShutdown(closeYard)
	serve, scheme := func() error { return srv.Serve(listener) }, "http"
	if cert != nil {
		srv.TLSConfig = &tls.Config{Certificates: []tls.Certificate{*cert}, MinVersion: tls.VersionTLS12}
		serve, scheme = func() error { return srv.ServeTLS(listener, "", "") }, "https"
		if left := time.Until(cert.Leaf.NotAfter); left < renewBefore {
			fmt.Fprintf(out, "The certificate ends on %s. Make a new one: yardbloom cert\n", cert.Leaf.NotAfter.Format(time.DateOnly))
		}
	}
	fmt.Fprintf(out, "Yard Bloom is at %s://%s\n", scheme, listener.Addr())
	if c.SignIn && cert == nil {
		fmt.Fprintln(out, "A password is required. The connection is plain HTTP: on a network you do not trust, serve HTTPS (see "+
			"yardbloom cert), or put a proxy with TLS in front.")
	}
	var background sync.WaitGroup
	background.Go(func() { work(ctx, y) })
	defer background.Wait()
	failed := make(chan error, 1)
	go func() { failed <- serve() }()
	select {
	case err := <-failed:
		return err
	case <-ctx.Done():
	}
	const grace = time.Second
	stopping, cancel := context.WithTimeout(context.Background(), grace)
	defer cancel()
	if srv.Shutdown(stopping) == nil {
		return nil
	}
	return srv.Close() // unfinished responses were not acknowledged
}

func passwordCommand() *cobra.Command {
	var dir string
	c := &cobra.Command{
		Use:   "password --data DIR",
		Short: "Set the password for access from other machines (read from standard input)",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if info, err := os.Stdin.Stat(); err == nil && info.Mode()&os.ModeCharDevice != 0 {
				fmt.Fprint(cmd.OutOrStdout(), "New password for the yard (visible as you type): ")
			}
			password, err := readLine(cmd.InOrStdin())
			if err != nil {
				return err
			}
			const least = 10
			if len([]rune(password)) < least {
				return fmt.Errorf("a password must have at least %d letters; this one has %d", least, len([]rune(password)))
			}
			st, err := store.OpenCurrent(cmd.Context(), dir)
			if err != nil {
				return err
			}
			defer st.Close()
			if err := st.SavePassword(cmd.Context(), web.HashPassword(password)); err != nil {
				return err
			}
			fmt.Fprintln(cmd.OutOrStdout(), "Kept.")
			return nil
		},
	}
	dataFlag(c, &dir, "folder of the database; made where it is missing")
	return c
}
