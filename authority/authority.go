// Package authority makes a certificate authority of one machine and a certificate for its names, so that tablets in the same
// network can use HTTPS without a public name.
package authority

import (
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"crypto/x509/pkix"
	"encoding/pem"
	"errors"
	"fmt"
	"io/fs"
	"math/big"
	"net"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"
)

// Names of the files in the folder of an authority.
const (
	CertFile   = "authority.crt" // for tablets
	KeyFile    = "authority.key"
	ServerCert = "server.crt"
	ServerKey  = "server.key"
)

const (
	authorityYears = 10
	// serverDays is the life of the server's certificate: some devices accept at most 825 days.
	serverDays = 800
)

// Make makes a certificate for names, which are host names or IP addresses, in a folder. The authority that signs it is made where
// it is missing, and kept otherwise, so that tablets need not trust a new one; it is replaced if it may not vouch for one of
// the names. It returns true if the authority is new. Keys are readable by the owner alone.
func Make(dir string, names []string, now time.Time) (fresh bool, err error) {
	if len(names) == 0 {
		return false, errors.New("a certificate needs a name")
	}
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return false, err
	}
	ca, key, err := load(dir)
	if errors.Is(err, fs.ErrNotExist) || err == nil && (!covers(ca, names) || now.AddDate(0, 0, serverDays).After(ca.NotAfter)) {
		fresh = true
		ca, key, err = makeAuthority(dir, names, now)
	}
	if err != nil {
		return false, err
	}
	return fresh, makeServer(dir, ca, key, names, now)
}

// load reads the authority of a folder. A missing one is an fs.ErrNotExist.
func load(dir string) (*x509.Certificate, *ecdsa.PrivateKey, error) {
	pair, err := tls.LoadX509KeyPair(filepath.Join(dir, CertFile), filepath.Join(dir, KeyFile))
	if err != nil {
		return nil, nil, err
	}
	key, ok := pair.PrivateKey.(*ecdsa.PrivateKey)
	if !ok {
		return nil, nil, fmt.Errorf("the key in %s is of another kind", filepath.Join(dir, KeyFile))
	}
	return pair.Leaf, key, nil
}

// makeAuthority makes an authority that can vouch for some names alone.
func makeAuthority(dir string, names []string, now time.Time) (*x509.Certificate, *ecdsa.PrivateKey, error) {
	host, _ := os.Hostname() // only for people who read the certificate
	template := &x509.Certificate{
		Subject:  pkix.Name{CommonName: "Yard Bloom on " + host, Organization: []string{"Yard Bloom, this machine's own authority"}},
		NotAfter: now.AddDate(authorityYears, 0, 0), IsCA: true, BasicConstraintsValid: true, MaxPathLenZero: true,
		KeyUsage: x509.KeyUsageCertSign, PermittedDNSDomainsCritical: true,
	}
	dns, ips := split(names)
	template.PermittedDNSDomains = dns
	for _, ip := range ips {
		bits := 8 * len(ip)
		template.PermittedIPRanges = append(template.PermittedIPRanges, &net.IPNet{IP: ip, Mask: net.CIDRMask(bits, bits)})
	}
	if len(dns) == 0 { // an empty list would permit all
		template.ExcludedDNSDomains = []string{""}
	}
	if len(ips) == 0 {
		for _, all := range []string{"0.0.0.0/0", "::/0"} {
			_, every, err := net.ParseCIDR(all)
			if err != nil {
				return nil, nil, err
			}
			template.ExcludedIPRanges = append(template.ExcludedIPRanges, every)
		}
	}
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		return nil, nil, err
	}
	made, err := sign(template, template, key, key, now)
	if err != nil {
		return nil, nil, err
	}
	return made, key, errors.Join(writeKey(filepath.Join(dir, KeyFile), key), writeCert(filepath.Join(dir, CertFile), made))
}

func makeServer(dir string, ca *x509.Certificate, caKey *ecdsa.PrivateKey, names []string, now time.Time) error {
	template := &x509.Certificate{Subject: pkix.Name{CommonName: names[0]}, NotAfter: now.AddDate(0, 0, serverDays),
		KeyUsage: x509.KeyUsageDigitalSignature, ExtKeyUsage: []x509.ExtKeyUsage{x509.ExtKeyUsageServerAuth}}
	template.DNSNames, template.IPAddresses = split(names)
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		return err
	}
	made, err := sign(template, ca, key, caKey, now)
	if err != nil {
		return err
	}
	return errors.Join(writeKey(filepath.Join(dir, ServerKey), key), writeCert(filepath.Join(dir, ServerCert), made))
}

// sign fills in what all certificates share, and signs one.
func sign(template, parent *x509.Certificate, key, by *ecdsa.PrivateKey, now time.Time) (*x509.Certificate, error) {
	serial, err := rand.Int(rand.Reader, new(big.Int).Lsh(big.NewInt(1), 127))
	if err != nil {
		return nil, err
	}
	template.SerialNumber, template.NotBefore = serial, now.Add(-24*time.Hour) // a tablet's clock may be slow
	der, err := x509.CreateCertificate(rand.Reader, template, parent, &key.PublicKey, by)
	if err != nil {
		return nil, err
	}
	return x509.ParseCertificate(der)
}

// split parts names into host names and IP addresses.
func split(names []string) (dns []string, ips []net.IP) {
	for _, n := range names {
		ip := net.ParseIP(n)
		switch v4 := ip.To4(); {
		case ip == nil:
			dns = append(dns, strings.ToLower(n))
		case v4 != nil:
			ips = append(ips, v4)
		default:
			ips = append(ips, ip)
		}
	}
	return dns, ips
}

// covers reports whether an authority may vouch for names.
func covers(ca *x509.Certificate, names []string) bool {
	dns, ips := split(names)
	for _, n := range dns {
		if !slices.Contains(ca.PermittedDNSDomains, n) {
			return false
		}
	}
	for _, ip := range ips {
		if !slices.ContainsFunc(ca.PermittedIPRanges, func(r *net.IPNet) bool { return r.Contains(ip) }) {
			return false
		}
	}
	return true
}

// MachineNames returns the names and addresses of this machine: its host name, also as HOST.local, localhost, and the addresses of
// its interfaces.
func MachineNames() []string {
	names := []string{"localhost", "127.0.0.1", "::1"}
	if host, err := os.Hostname(); err == nil && host != "localhost" {
		names = append([]string{host}, names...)
		if !strings.Contains(host, ".") {
			names = append(names, host+".local")
		}
	}
	addrs, _ := net.InterfaceAddrs() // without them there are the names
	for _, a := range addrs {
		if n, ok := a.(*net.IPNet); ok && n.IP.IsGlobalUnicast() {
			names = append(names, n.IP.String())
		}
	}
	return names
}

func writeCert(path string, c *x509.Certificate) error {
	return write(path, pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: c.Raw}), 0o644)
}

func writeKey(path string, key *ecdsa.PrivateKey) error {
	der, err := x509.MarshalPKCS8PrivateKey(key)
	if err != nil {
		return err
	}
	return write(path, pem.EncodeToMemory(&pem.Block{Type: "PRIVATE KEY", Bytes: der}), 0o600)
}

// write replaces a file.
func write(path string, content []byte, mode fs.FileMode) error {
	making := path + ".making"
	if err := os.Remove(making); err != nil && !errors.Is(err, fs.ErrNotExist) {
		return err
	}
	if err := os.WriteFile(making, content, mode); err != nil {
		return err
	}
	return os.Rename(making, path)
}
