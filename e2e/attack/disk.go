package main

import (
	"context"
	"fmt"
	"os/exec"
	"path/filepath"
	"strings"
	"time"
)

// A fault makes the disk of a program fail.
type fault struct {
	name string
	wrap []string // words before the program's own
}

// faults returns the faults that this machine can make: failing system calls where processes may be traced, else a limit of the
// size of files.
func (a *arena) faults() (out []fault) {
	strace, err := exec.LookPath("strace")
	probe := filepath.Join(a.dir, "probe")
	if err == nil && exec.Command(strace, "-f", "-o", probe, "true").Run() == nil {
		inject := func(name, what string) fault {
			return fault{name, []string{strace, "-f", "-qq", "-o", "/dev/null", "-e", "trace=fsync,fdatasync,pwrite64", "-e", "inject=" + what}}
		}
		for _, n := range []int{40, 90, 200} {
			out = append(out, inject(fmt.Sprintf("fsync fails from call %d on", n), fmt.Sprintf("fsync,fdatasync:error=EIO:when=%d+", n)),
				inject(fmt.Sprintf("the disk is full at write %d", n), fmt.Sprintf("pwrite64:error=ENOSPC:when=%d..%d", 2*n, 2*n+20)))
		}
		return out
	}
	if prlimit, err := exec.LookPath("prlimit"); err == nil {
		for _, kB := range []int{4000, 6000} {
			out = append(out, fault{fmt.Sprintf("files end at %d kB", kB), []string{prlimit, fmt.Sprintf("--fsize=%d", kB<<10)}})
		}
	}
	return out
}

// failDisk writes while the disk fails, kills the program, and checks that all acknowledged writes are stored.
func failDisk(a *arena) (sum result, err error) {
	faults := a.faults()
	if a.short && len(faults) > 2 {
		faults = faults[:2]
	}
	for i, f := range faults {
		p, err := a.begin(fmt.Sprintf("disk %d", i))
		if err != nil {
			return sum, err
		}
		if _, err := p.Stop(); err != nil {
			return sum, err
		}
		p.Wrap = f.wrap
		if err := p.Start("demo"); err != nil {
			sum.tried++
			if !strings.Contains(err.Error(), "ended before") {
				return sum, err
			}
			continue // it refuses to start, with an error
		}
		ctx, stop := context.WithCancel(context.Background())
		w := &writers{}
		began := w.write(ctx, newClient(p.URL()), "slate-terrace")
		time.Sleep(time.Duration(a.rounds(1500, 4000)) * time.Millisecond)
		stop()
		w.all.Wait()
		if err := p.KillGroup(); err != nil {
			return sum, err
		}
		p.Wrap = nil
		if err := p.Start("demo"); err != nil { // the disk is well again
			sum.harm("%s: the yard does not start again: %v", f.name, err)
			continue
		}
		if _, err := p.Stop(); err != nil {
			return sum, err
		}
		sum.tried++
		if began != nil {
			continue // the first brew was refused already
		}
		brew, taps, bags, note := w.acknowledged()
		r, err := count(p.Dir, brew, taps, bags, note)
		if err != nil {
			sum.harm("%s: %v", f.name, err)
			continue
		}
		sum.add(r)
	}
	return sum, nil
}
