package main

import (
	"context"
	"fmt"
	"io"
	"net"
	"net/netip"
	"slices"

	"github.com/spf13/cobra"

	"yardbloom/store"
	"yardbloom/web"
	"yardbloom/web/page"
)

// access holds the flags for who may reach a yard, and how.
type access struct {
	addr, signIn string
	hosts        []string
	proxies      []string
}

func (a *access) flags(c *cobra.Command) {
	c.Flags().StringVar(&a.addr, "addr", defaultAddr, "address to listen on")
	c.Flags().StringVar(&a.signIn, "sign-in", "auto", "auto: ask for the password if the yard has one; off: never ask, on loopback "+
		"addresses only")
	c.Flags().StringSliceVar(&a.hosts, "host", nil, "host name under which requests are answered, besides localhost")
	c.Flags().StringSliceVar(&a.proxies, "proxy", nil, "address of a proxy with TLS in front, whose word on where a request comes from "+
		"counts")
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
	for _, path := range store.Exposed(dir) {
		fmt.Fprintf(out, "Other users of this machine can reach %s. If they should not: chmod go= %[1]s\n", path)
	}
	c.SignIn = set.Password != "" && a.signIn != "off"
	if !c.SignIn {
		c.Hosts = append([]string{"localhost"}, a.hosts...)
	}
	return nil
}
