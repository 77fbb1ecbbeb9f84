package main

import (
	"errors"
	"os"
	"runtime/pprof"

	"zetanum/internal/cli"
)

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
