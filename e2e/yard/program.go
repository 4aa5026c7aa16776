package yard

import (
	"bufio"
	"errors"
	"fmt"
	"net"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"syscall"
	"time"
)

// A Program is the real program in its own process, which can be killed.
type Program struct {
	Path string
	Dir  string // data folder
	Addr string // HOST:PORT
	// Wrap holds the words of a command that runs the program; empty to run it directly.
	Wrap []string
	// Flags are further flags of the subcommand.
	Flags []string
	cmd   *exec.Cmd
	said  *strings.Builder
}

// Build builds the program into a folder and returns its path.
func Build(dir string) (string, error) {
	path := filepath.Join(dir, "yardbloom")
	if out, err := exec.Command("go", "build", "-o", path, "yardbloom/cmd/yardbloom").CombinedOutput(); err != nil {
		return "", fmt.Errorf("build: %w\n%s", err, out)
	}
	return path, nil
}

// NewProgram chooses a free port for a program with a data folder.
func NewProgram(path, dir string) (*Program, error) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	return &Program{Path: path, Dir: dir, Addr: l.Addr().String()}, l.Close()
}

// URL returns the address of the program.
func (p *Program) URL() string { return "http://" + p.Addr }

// Begin starts a subcommand ("serve" or "demo") without waiting.
func (p *Program) Begin(subcommand string) error {
	_, err := p.begin(subcommand)
	return err
}

func (p *Program) begin(subcommand string) (*bufio.Scanner, error) {
	words := append(slices.Clone(p.Wrap), p.Path, subcommand, "--data", p.Dir, "--addr", p.Addr)
	if subcommand == "demo" {
		words = append(words, "--wait")
	}
	words = append(words, p.Flags...)
	p.cmd = exec.Command(words[0], words[1:]...)
	p.cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true}
	p.said = &strings.Builder{}
	p.cmd.Stderr = p.said
	out, err := p.cmd.StdoutPipe()
	if err != nil {
		return nil, err
	}
	return bufio.NewScanner(out), p.cmd.Start()
}

// Start starts a subcommand and waits until it prints its address.
func (p *Program) Start(subcommand string) error {
	lines, err := p.begin(subcommand)
	if err != nil {
		return err
	}
	for lines.Scan() {
		if strings.Contains(lines.Text(), "is at http://") {
			go func() { // later output must not fill the pipe
				for lines.Scan() {
				}
			}()
			return nil
		}
	}
	return fmt.Errorf("%s ended before it served anything: %w: %s", subcommand, p.cmd.Wait(), p.said)
}

// Kill kills the program, like a power cut.
func (p *Program) Kill() error {
	if err := p.cmd.Process.Kill(); err != nil {
		return err
	}
	var killed *exec.ExitError
	if err := p.cmd.Wait(); !errors.As(err, &killed) {
		return err
	}
	return nil
}

// KillGroup kills the program together with what runs it.
func (p *Program) KillGroup() error {
	if err := syscall.Kill(-p.cmd.Process.Pid, syscall.SIGKILL); err != nil {
		return err
	}
	var killed *exec.ExitError
	if err := p.cmd.Wait(); !errors.As(err, &killed) {
		return err
	}
	return nil
}

// PID returns the number of the process.
func (p *Program) PID() int { return p.cmd.Process.Pid }

// Stop terminates the program and returns the time that took. It must end with status 0.
func (p *Program) Stop() (took time.Duration, err error) {
	began := time.Now()
	if err := p.cmd.Process.Signal(syscall.SIGTERM); err != nil {
		return 0, err
	}
	err = p.cmd.Wait()
	return time.Since(began), err
}

// Said returns the log of a program that has ended.
func (p *Program) Said() string { return p.said.String() }
