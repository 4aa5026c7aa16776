package main

import (
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"io"
	"net"
	"net/netip"
	"os"
	"path/filepath"
	"slices"

	"github.com/spf13/cobra"

	"yardbloom/authority"
	"yardbloom/store"
	"yardbloom/web"
	"yardbloom/web/page"
)

// access holds the flags for who may reach a yard, and how.
type access struct {
	addr, signIn string
	hosts        []string
	proxies      []string
	cert, key    string // files; empty: plain HTTP
}

func (a *access) flags(c *cobra.Command) {
	c.Flags().StringVar(&a.addr, "addr", defaultAddr, "address to listen on")
	c.Flags().StringVar(&a.signIn, "sign-in", "auto", "auto: ask for the password if the yard has one; off: never ask, on loopback "+
		"addresses only")
	c.Flags().StringSliceVar(&a.hosts, "host", nil, "host name under which requests are answered, besides localhost")
	c.Flags().StringSliceVar(&a.proxies, "proxy", nil, "address of a proxy with TLS in front, whose word on where a request comes from "+
		"counts")
	c.Flags().StringVar(&a.cert, "tls-cert", "", "certificate to serve HTTPS with, PEM; see yardbloom cert")
	c.Flags().StringVar(&a.key, "tls-key", "", "its key, PEM")
}

// certificate loads the certificate of the flags; nil for plain HTTP.
func (a access) certificate() (*tls.Certificate, error) {
	if (a.cert == "") != (a.key == "") {
		return nil, badInput{errors.New("--tls-cert and --tls-key belong together: name both files")}
	}
	if a.cert == "" {
		return nil, nil
	}
	pair, err := tls.LoadX509KeyPair(a.cert, a.key)
	if err != nil {
		return nil, badInput{fmt.Errorf("the certificate cannot be used: %w", err)}
	}
	return &pair, nil
}

// apply adds the flags and the yard's password to a configuration. dir names the yard in advice, which is
// written to out.
func (a access) apply(ctx context.Context, out io.Writer, c *web.Config, st *store.Store, dir string) error {
	host, _, err := net.SplitHostPort(a.addr)
	if err != nil {
		return fmt.Errorf("--addr must be HOST:PORT, such as %s; got %q", defaultAddr, a.addr)
	}
	if !slices.Contains([]string{"auto", "off"}, a.signIn) {
		return fmt.Errorf("--sign-in must be auto or off; got %q", a.signIn)
	}
	for _, p := range a.proxies {
		ip, err := netip.ParseAddr(p)
		if err != nil {
			return fmt.Errorf("--proxy must be an address such as 127.0.0.1; got %q", p)
		}
		c.Proxies = append(c.Proxies, ip)
	}
	set, err := st.Settings(ctx, "")
	if err != nil {
		return err
	}
	own := page.IsLoopback(host)
	switch {
	case a.signIn == "off" && (!own || len(a.proxies) > 0):
		return fmt.Errorf("--sign-in=off is for this machine's own addresses alone, without a proxy: %s can be reached from others", a.addr)
	case set.Password == "" && (!own || len(a.proxies) > 0):
		return fmt.Errorf("%s can be reached from other machines, so the yard needs a password first: yardbloom password --data %s", a.addr,
			dir)
	}
	c.TLS = a.cert != ""
	if authority, err := os.ReadFile(filepath.Join(filepath.Dir(a.cert), authority.CertFile)); err == nil && c.TLS {
		c.Authority = authority
	}
	for _, path := range store.Exposed(dir) {
		fmt.Fprintf(out, "Other users of this machine can reach %s. If they should not: chmod go= %[1]s\n", path)
	}
	c.SignIn = set.Password != "" && a.signIn != "off"
	if !c.SignIn {
		c.Hosts = append([]string{"localhost"}, a.hosts...)
	}
	return nil
}
