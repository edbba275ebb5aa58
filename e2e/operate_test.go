package e2e

import (
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"encoding/pem"
	"math/big"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"plaintracer/e2e/browser"
	"plaintracer/e2e/program"
)

// Links are served encrypted with a certificate of the organisation; the program answers whether it is well, and ends
// when it is asked to.
func TestLinksOverTLS(t *testing.T) {
	dir := t.TempDir()
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		t.Fatal(err)
	}
	raw, err := x509.CreateCertificate(rand.Reader, &x509.Certificate{SerialNumber: big.NewInt(1),
		NotAfter: time.Now().Add(time.Hour), IPAddresses: []net.IP{net.IPv4(127, 0, 0, 2)}},
		&x509.Certificate{SerialNumber: big.NewInt(1)}, &key.PublicKey, key)
	if err != nil {
		t.Fatal(err)
	}
	private, err := x509.MarshalPKCS8PrivateKey(key)
	if err != nil {
		t.Fatal(err)
	}
	crt, pem8 := filepath.Join(dir, "site.crt"), filepath.Join(dir, "site.key")
	for name, block := range map[string]*pem.Block{crt: {Type: "CERTIFICATE", Bytes: raw},
		pem8: {Type: "PRIVATE KEY", Bytes: private}} {
		if err := os.WriteFile(name, pem.EncodeToMemory(block), 0o600); err != nil {
			t.Fatal(err)
		}
	}
	s := &server{program.StartWith(t, "demo", t.TempDir(), "--tls-cert", crt, "--tls-key", pem8)}
	if !strings.HasPrefix(s.Links, "https://") {
		t.Fatalf("links begin with %s", s.Links)
	}
	client := &http.Client{Transport: &http.Transport{TLSClientConfig: &tls.Config{InsecureSkipVerify: true}}}
	for _, address := range []string{s.Links + "/healthz", s.Links + "/read/NOSUCHLINK", s.URL + "/healthz",
		s.URL + "/"} {
		r, err := client.Get(address)
		if err != nil {
			t.Fatal(err)
		}
		r.Body.Close()
		if r.TLS == nil || r.TLS.Version < tls.VersionTLS12 {
			t.Errorf("%s is answered without encryption", address)
		}
	}
	s.Stop()
	if _, err := program.Run("serve", "--data", s.Data, "--tls-cert", crt); err == nil {
		t.Error("a certificate without a key is taken")
	}
}

// A backup is made of a running program by the command, and becomes the folder of another one.
func TestBackupAndRestoreByCommand(t *testing.T) {
	s := start(t, "demo")
	b := browser.Start(t)
	d := s.desk(b, s.demo(b, "Lend a cargo bike"))
	d.rewrite("Renew the card", "Make a new card")
	d.saved()
	dir := t.TempDir()
	if said, err := program.Run("backup", filepath.Join(dir, "maps.db"), "--data", s.Data); err != nil {
		t.Fatalf("%v: %s", err, said)
	}
	d.sound()
	if said, err := program.Run("restore", filepath.Join(dir, "maps.db"), "--data", s.Data); err == nil ||
		!strings.Contains(string(said), "in use") {
		t.Errorf("restored over a running program: %v: %s", err, said)
	}
	if said, err := program.Run("restore", filepath.Join(dir, "maps.db"), "--data",
		filepath.Join(dir, "again")); err != nil {
		t.Fatalf("%v: %s", err, said)
	}
	other := &server{program.StartAt(t, "serve", filepath.Join(dir, "again"))}
	if d := other.desk(b, d.path); !strings.Contains(browser.Eval[string](d.Page,
		"document.getElementById('symbols').textContent.replace(/\\s+/g, ' ')"), "Make a new card") {
		t.Error("what was written before the backup is not in what was restored")
	}
}
