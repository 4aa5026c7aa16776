package e2e

import (
	"bufio"
	"fmt"
	"net"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"yardbloom/e2e/yard"
)

// A process is the real program, which can be killed without a goodbye.
type process struct {
	t    *testing.T
	path string
	args []string
	cmd  *exec.Cmd
}

// program builds the program as it ships and chooses a port for it.
func program(t *testing.T) (p *process, url string) {
	t.Helper()
	path := filepath.Join(t.TempDir(), "yardbloom")
	build := exec.Command("go", "build", "-o", path, "yardbloom/cmd/yardbloom")
	if out, err := build.CombinedOutput(); err != nil {
		t.Fatalf("build: %v\n%s", err, out)
	}
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	addr := l.Addr().String()
	l.Close()
	return &process{t: t, path: path, args: []string{"demo", "--data", filepath.Join(t.TempDir(), "demo"), "--addr", addr}}, "http://" + addr
}

// start runs the program until it says where it is.
func (p *process) start() {
	p.t.Helper()
	p.cmd = exec.Command(p.path, p.args...)
	out, err := p.cmd.StdoutPipe()
	if err != nil {
		p.t.Fatal(err)
	}
	if err := p.cmd.Start(); err != nil {
		p.t.Fatal(err)
	}
	lines := bufio.NewScanner(out)
	for lines.Scan() {
		if strings.Contains(lines.Text(), "is at http://") {
			return
		}
	}
	p.t.Fatal("the program ended before it served anything")
}

// kill ends the program as a power cut does.
func (p *process) kill() {
	p.t.Helper()
	if err := p.cmd.Process.Kill(); err != nil {
		p.t.Fatal(err)
	}
	p.cmd.Wait() // says that it was killed
}

func TestAKilledServerComesBackToTheRightSecond(t *testing.T) {
	t.Parallel()
	p, url := program(t)
	p.start()
	u := screen(t, url)
	u.open("/brews/evening-seed-next/brew")
	u.until(`document.readyState === "complete"`)
	u.click("#tap")
	began := time.Now()
	u.until(`document.querySelector("#live") && document.readyState === "complete"`)
	u.sees("#clock", "0:02")
	u.press("d")
	u.sees("#said", "dry spot")

	p.kill()
	u.sees("#clock", "0:04") // the clock goes on without a server
	u.press("c")
	u.sees("#said", "The server does not answer")
	touched := time.Since(began).Seconds()
	time.Sleep(2 * time.Second)
	p.start()
	t.Cleanup(p.kill)

	u.sees("#said", "channel")
	u.sees("#said", "dry spot")
	sameSecond(u, began)
	u.ok(u.Reload())
	u.sees("#said", "channel")
	sameSecond(u, began)
	other := screen(t, url)
	other.open("/brews/evening-seed-next/brew")
	sameSecond(other, began)

	// The touch made while the server was dead is kept at its own second.
	said := u.text("#said")
	var dry, channel int
	if _, err := fmt.Sscanf(said, "Marked: 0:%d dry spot · 0:%d channel", &dry, &channel); err != nil {
		t.Fatalf("%q: %v", said, err)
	}
	if channel < int(touched)-1 || channel > int(touched)+1 {
		t.Errorf("the touch of second %.0f is kept at second %d", touched, channel)
	}
}

// sameSecond compares the clock on the screen with the one on the wall.
func sameSecond(u user, began time.Time) {
	u.t.Helper()
	u.until(`document.querySelector("#clock").innerText !== "0:00"`)
	clock, err := yard.Eval[string](u.Screen, `document.querySelector("#clock").innerText`)
	u.ok(err)
	wall := time.Since(began).Seconds()
	var m, s int
	if _, err := fmt.Sscanf(clock, "%d:%d", &m, &s); err != nil {
		u.t.Fatalf("the clock reads %q", clock)
	}
	if shown := float64(60*m + s); shown < wall-2 || shown > wall+1 {
		u.t.Errorf("the screen shows %s, %.1f s have passed", clock, wall)
	}
}
