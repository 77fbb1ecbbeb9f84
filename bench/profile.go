package main

import (
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"runtime/pprof"

	"github.com/google/pprof/profile"

	"zetanum/internal/cli"
)

// profileFile is by what the compiler knows where the time goes.
const profileFile = "cmd/zetanum/default.pgo"

// profiled runs the program with the arguments, as it would run by itself, and writes where
// its time has gone.
func profiled(into string, args []string) (status int, err error) {
	f, err := os.Create(into)
	if err != nil {
		return 0, err
	}
	defer func() { err = errors.Join(err, f.Close()) }()
	if err := pprof.StartCPUProfile(f); err != nil {
		return 0, err
	}
	defer pprof.StopCPUProfile()
	os.Args = append([]string{"zetanum"}, args...)
	return cli.Main(), nil
}

// renewProfile measures where the time goes in all runs, in a build that knows no paths of the machine, and keeps that for
// the compiler.
func renewProfile(rows int, dir string) error {
	program := filepath.Join(dir, "profiled")
	if out, err := exec.Command("go", "build", "-trimpath", "-pgo=off", "-o", program, "./bench").CombinedOutput(); err != nil {
		return fmt.Errorf("building: %w\n%s", err, out)
	}
	contestants, _, err := prepare(rows, dir)
	if err != nil {
		return err
	}
	var all []*profile.Profile
	for i, c := range contestants(program, "") {
		if c.list != nil {
			continue // the same once more
		}
		into := filepath.Join(dir, fmt.Sprintf("profile-%d", i))
		c.args = append([]string{program, "-profile", into}, c.args[1:]...)
		if err := c.measure(); err != nil {
			return fmt.Errorf("%s: %w", c.name, err)
		}
		f, err := os.Open(into)
		if err != nil {
			return err
		}
		one, err := profile.Parse(f)
		f.Close()
		if err != nil {
			return err
		}
		all = append(all, one)
	}
	merged, err := profile.Merge(all)
	if err != nil {
		return err
	}
	for _, m := range merged.Mapping {
		m.File = "" // where the build lay
	}
	f, err := os.Create(profileFile)
	if err != nil {
		return err
	}
	return errors.Join(merged.Write(f), f.Close())
}
