package authority

import (
	"crypto/x509"
	"encoding/pem"
	"os"
	"path/filepath"
	"testing"
	"time"
)

var noon = time.Date(2026, 5, 12, 12, 0, 0, 0, time.UTC)

func must(t *testing.T, err error) {
	t.Helper()
	if err != nil {
		t.Fatal(err)
	}
}

// A tablet that trusts the authority accepts the certificate under each name, and nothing else the authority might sign. The
// authority stays when the certificate is renewed. Mutations caught: an authority without constraints, a name that is missing,
// a new authority each time, a key that others can read.
func TestTabletTrustsThisMachineAlone(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "tls")
	names := []string{"Yard", "yard.local", "192.168.1.20", "fd00::20"}
	fresh, err := Make(dir, names, noon)
	must(t, err)
	if !fresh {
		t.Error("the first authority is not new")
	}
	ca, key, err := load(dir)
	must(t, err)
	roots := x509.NewCertPool()
	roots.AddCert(ca)
	server := func() *x509.Certificate {
		t.Helper()
		text, err := os.ReadFile(filepath.Join(dir, ServerCert))
		must(t, err)
		return parse(t, text)
	}
	accepts := func(c *x509.Certificate, name string, at time.Time) bool {
		_, err := c.Verify(x509.VerifyOptions{DNSName: name, Roots: roots, CurrentTime: at})
		return err == nil
	}
	cert := server()
	for _, name := range []string{"yard", "yard.local", "192.168.1.20", "[fd00::20]"} {
		if !accepts(cert, name, noon) {
			t.Errorf("%s is not accepted", name)
		}
	}
	if accepts(cert, "bank.example", noon) || accepts(cert, "yard", noon.AddDate(0, 0, serverDays+1)) || accepts(cert, "yard", noon.AddDate(0, 0, -2)) {
		t.Error("accepted under another name, or at another time")
	}
	for _, other := range []string{"bank.example", "10.0.0.1"} {
		must(t, makeServer(dir, ca, key, []string{other}, noon))
		if accepts(server(), other, noon) {
			t.Errorf("the authority can vouch for %s", other)
		}
	}
	if fresh, err := Make(dir, names[:2], noon.AddDate(1, 0, 0)); err != nil || fresh {
		t.Errorf("renewed: a new authority %t (%v)", fresh, err)
	}
	if !accepts(server(), "yard.local", noon.AddDate(2, 0, 0)) {
		t.Error("the renewed certificate is not accepted")
	}
	if fresh, err := Make(dir, append(names, "192.168.1.21"), noon); err != nil || !fresh {
		t.Errorf("for another address: a new authority %t (%v)", fresh, err)
	}
	for _, name := range []string{KeyFile, ServerKey} {
		info, err := os.Stat(filepath.Join(dir, name))
		must(t, err)
		if info.Mode().Perm() != 0o600 {
			t.Errorf("%s has the mode %v", name, info.Mode())
		}
	}
	if _, err := Make(dir, nil, noon); err == nil {
		t.Error("a certificate without a name")
	}
}

// An authority for names alone, or for addresses alone, vouches for none of the other kind. Mutation caught: an empty list, which
// permits all.
func TestAuthorityWithoutAddressesVouchesForNone(t *testing.T) {
	for given, other := range map[string]string{"yard": "10.0.0.1", "10.0.0.2": "bank.example"} {
		dir := t.TempDir()
		if _, err := Make(dir, []string{given}, noon); err != nil {
			t.Fatal(err)
		}
		ca, key, err := load(dir)
		must(t, err)
		must(t, makeServer(dir, ca, key, []string{other}, noon))
		text, err := os.ReadFile(filepath.Join(dir, ServerCert))
		must(t, err)
		roots := x509.NewCertPool()
		roots.AddCert(ca)
		if _, err := parse(t, text).Verify(x509.VerifyOptions{DNSName: other, Roots: roots, CurrentTime: noon}); err == nil {
			t.Errorf("the authority of %s vouches for %s", given, other)
		}
	}
}

func parse(t *testing.T, text []byte) *x509.Certificate {
	t.Helper()
	block, _ := pem.Decode(text)
	if block == nil {
		t.Fatal("no certificate")
	}
	c, err := x509.ParseCertificate(block.Bytes)
	must(t, err)
	return c
}
