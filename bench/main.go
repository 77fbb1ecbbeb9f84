// Command bench measures the program against a plain copy of the same file
// with the standard library's CSV reader and writer (REF), as ratios from
// interleaved rounds.
//
//	go run ./bench            a million rows, three rounds
//	go run ./bench -rows 100000 -rounds 5
//
// The catalogue is made once, from a seed, in a temporary folder.
package main

import (
	"bufio"
	"encoding/csv"
	"errors"
	"flag"
	"fmt"
	"io"
	"log"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"text/tabwriter"
	"time"
)

func main() {
	rows := flag.Int("rows", 1_000_000, "rows of the catalogue")
	rounds := flag.Int("rounds", 3, "rounds")
	dir := flag.String("dir", filepath.Join(os.TempDir(), "zetanum-bench"), "folder for the catalogue and the outputs")
	ref := flag.String("ref", "", "copy this file as REF does, and nothing else")
	profile := flag.String("profile", "", "run the program with the arguments, and write into this file where its time went")
	flag.Parse()
	log.SetFlags(0)
	if *profile != "" {
		status, err := profiled(*profile, flag.Args())
		if err != nil {
			log.Fatal(err)
		}
		os.Exit(status)
	}
	if *ref != "" {
		if err := copyFile(*ref, *ref+".copy"); err != nil {
			log.Fatal(err)
		}
		return
	}
	if err := run(*rows, *rounds, *dir); err != nil {
		log.Fatal(err)
	}
}

// copyFile reads and writes a CSV file with the standard library, in one
// goroutine.
func copyFile(from, to string) (err error) {
	in, err := os.Open(from)
	if err != nil {
		return err
	}
	defer in.Close()
	out, err := os.Create(to)
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, out.Sync(), out.Close()) }()
	r := csv.NewReader(bufio.NewReaderSize(in, 1<<20))
	r.ReuseRecord = true
	buffered := bufio.NewWriterSize(out, 1<<20)
	w := csv.NewWriter(buffered)
	for {
		record, err := r.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			return err
		}
		if err := w.Write(record); err != nil {
			return err
		}
	}
	w.Flush()
	return errors.Join(w.Error(), buffered.Flush())
}

// A contestant is one of the commands measured.
type contestant struct {
	name    string
	args    []string
	outputs []string // removed before each round
	wall    []time.Duration
	cpu     []time.Duration
	peak    int64 // bytes
}

func run(rows, rounds int, dir string) error {
	if err := os.MkdirAll(dir, 0o777); err != nil {
		return err
	}
	program := filepath.Join(dir, "zetanum")
	build := exec.Command("go", "build", "-o", program, "./cmd/zetanum")
	build.Env = append(os.Environ(), "CGO_ENABLED=0")
	if out, err := build.CombinedOutput(); err != nil {
		return fmt.Errorf("building: %w\n%s", err, out)
	}
	file := filepath.Join(dir, fmt.Sprintf("catalogue-%d.csv", rows))
	if _, err := os.Stat(file); err != nil {
		if err := writeCatalogue(file, rows); err != nil {
			return err
		}
	}
	info, err := os.Stat(file)
	if err != nil {
		return err
	}
	self, err := os.Executable()
	if err != nil {
		return err
	}
	rules, store := filepath.Join(dir, "rules.toml"), filepath.Join(dir, fmt.Sprintf("store-%d.csv", rows))
	texts := filepath.Join(dir, "texts.toml")
	if err := errors.Join(os.WriteFile(rules, []byte(twentyRules), 0o666), os.WriteFile(texts, []byte(textRules), 0o666), writeStore(store, rows)); err != nil {
		return err
	}
	repaired := []string{strings.TrimSuffix(file, ".csv") + ".repaired"}
	contestants := []*contestant{
		{name: "REF", args: []string{self, "-ref", file}, outputs: []string{file + ".copy"}},
		{name: "inspect", args: []string{program, "inspect", file}},
		{name: "repair", args: []string{program, "repair", file}, outputs: repaired},
		{name: "20 rules", args: []string{program, "repair", file, "-rules", rules}, outputs: repaired},
		{name: "descriptions", args: []string{program, "repair", file, "-rules", texts}, outputs: repaired},
		{name: "borrow", args: []string{program, "repair", file, "-borrow", store, "-by", "sku", "-take", "weight,Shelf"},
			outputs: repaired},
	}
	fmt.Printf("%d rows, %.0f MB, %d rounds\n", rows, float64(info.Size())/1e6, rounds)
	for range rounds {
		for _, c := range contestants {
			if err := c.measure(); err != nil {
				return fmt.Errorf("%s: %w", c.name, err)
			}
		}
	}
	ref := contestants[0]
	w := tabwriter.NewWriter(os.Stdout, 0, 0, 2, ' ', tabwriter.AlignRight)
	fmt.Fprintln(w, "\tmedian s\tCPU s\tMB/s\ttimes as fast as REF\tpeak MB\t")
	for _, c := range contestants {
		var ratios []float64
		for i := range c.wall {
			ratios = append(ratios, ref.wall[i].Seconds()/c.wall[i].Seconds())
		}
		wall := median(c.wall).Seconds()
		fmt.Fprintf(w, "%s\t%.2f\t%.2f\t%.0f\t%.2f\t%.0f\t\n", c.name, wall, median(c.cpu).Seconds(), float64(info.Size())/1e6/wall,
			median(ratios), float64(c.peak)/1e6)
	}
	return w.Flush()
}

func (c *contestant) measure() error {
	cmd := exec.Command(c.args[0], c.args[1:]...)
	var stderr strings.Builder
	cmd.Stderr = &stderr
	for _, output := range c.outputs {
		if err := os.RemoveAll(output); err != nil {
			return err
		}
	}
	start := time.Now()
	err := cmd.Run()
	c.wall = append(c.wall, time.Since(start))
	var exit *exec.ExitError
	if errors.As(err, &exit) && exit.ExitCode() == 1 {
		err = nil // something is held
	}
	if err != nil {
		return fmt.Errorf("%w\n%s", err, stderr.String())
	}
	c.cpu = append(c.cpu, cmd.ProcessState.UserTime()+cmd.ProcessState.SystemTime())
	c.peak = max(c.peak, peakMemory(cmd.ProcessState))
	return nil
}

func median[T ~int64 | ~float64](list []T) T {
	sorted := slices.Clone(list)
	slices.Sort(sorted)
	return sorted[len(sorted)/2]
}
