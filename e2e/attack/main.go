// Command attack tries to make Yard Bloom lose data, admit strangers, or hang. It kills the program,
// answers in its place, sends invalid input to every route, and compares acknowledged writes with the
// stored data. It prints a table of attempts and losses, and exits with status 1 if there are any losses.
// Everything runs on loopback and ends without intervention.
package main

import (
	"errors"
	"flag"
	"fmt"
	"io"
	"os"
	"path/filepath"

	"yardbloom/e2e/yard"
)

func main() {
	short := flag.Bool("short", false, "a few rounds of each, as the tests run it")
	flag.Parse()
	lost, err := attackAll(os.Stdout, *short)
	if err != nil {
		fmt.Fprintln(os.Stderr, "attack:", err)
	}
	if err != nil || lost > 0 {
		os.Exit(1)
	}
}

// An attack is one kind of attack.
type attack struct {
	name string
	what string // unit of the figures
	run  func(*arena) (result, error)
}

var attacks = []attack{
	{"killed while people write", "acknowledged writes", killWriters},
	{"killed during the first start", "first starts", killFirstStarts},
	{"killed behind a proxy that answers for it", "taps in a browser", tapThroughProxy},
	{"two tablets offline, killed meanwhile", "events", mergeTablets},
	{"two windows", "saves at one version", saveAtOnce},
	{"backup while people write", "acknowledged writes", backUpUnderLoad},
	{"killed backups and restores", "pairs", killBackups},
	{"killed updates of the schema", "updates", killMigrations},
	{"killed imports", "imports", killImports},
	{"a disk that fails", "faults and acknowledged writes", failDisk},
	{"two servers on one folder", "starts and backups", serveTwice},
	{"devices that lie", "pages beside them", lieAsDevices},
	{"strangers at the sign-in", "forms and sign-ins", strangers},
	{"slow clients", "pages beside them", starve},
	{"ended with screens open", "ends", endWithStreams},
	{"rubbish on every route", "requests", sendRubbish},
}

// A result counts the attempts of an attack and the losses, with their descriptions.
type result struct {
	tried, lost int
	how         []string
}

// harm counts one loss and describes it.
func (r *result) harm(format string, args ...any) {
	r.lost++
	const enough = 5
	if len(r.how) < enough {
		r.how = append(r.how, fmt.Sprintf(format, args...))
	}
}

// An arena holds what the attacks share: the program, and the extent of the run.
type arena struct {
	program string // path of the program
	dir     string // temporary folder
	short   bool
}

// rounds returns the number of attempts: in the short form, or in full.
func (a *arena) rounds(short, full int) int {
	if a.short {
		return short
	}
	return full
}

// begin starts the program with its own copy of the demo data.
func (a *arena) begin(name string) (*yard.Program, error) {
	filled := filepath.Join(a.dir, "filled")
	if _, err := os.Stat(filled); err != nil {
		p, err := yard.NewProgram(a.program, filled)
		if err == nil {
			err = p.Start("demo")
		}
		if err == nil {
			_, err = p.Stop()
		}
		if err != nil {
			return nil, err
		}
	}
	dir := filepath.Join(a.dir, name)
	if err := os.CopyFS(dir, os.DirFS(filled)); err != nil {
		return nil, err
	}
	p, err := yard.NewProgram(a.program, dir)
	if err != nil {
		return nil, err
	}
	return p, p.Start("demo")
}

// attackAll runs every attack and prints the table.
func attackAll(out io.Writer, short bool) (lost int, err error) {
	dir, err := os.MkdirTemp("", "attack")
	if err != nil {
		return 0, err
	}
	defer os.RemoveAll(dir)
	a := &arena{dir: dir, short: short}
	if a.program, err = yard.Build(dir); err != nil {
		return 0, err
	}
	const row = "%-42s %8v %6v  %s\n" // each as it ends, so that a run that is interrupted has said something
	fmt.Fprintf(out, row, "attack", "tried", "lost", "of")
	for _, one := range attacks {
		r, failed := one.run(a)
		if failed != nil {
			err = errors.Join(err, fmt.Errorf("%s: %w", one.name, failed))
		}
		if r.tried == 0 && failed == nil {
			err = errors.Join(err, fmt.Errorf("%s: nothing was tried", one.name))
		}
		fmt.Fprintf(out, row, one.name, r.tried, r.lost, one.what)
		for _, how := range r.how {
			fmt.Fprintf(out, "  %s\n", how)
		}
		lost += r.lost
	}
	return lost, err
}
