package main

import (
	"bufio"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"os"
	"runtime"
	"slices"
	"strings"
	"text/tabwriter"
	"time"
)

// tableFile is where the table lies, seen from the project's folder.
const tableFile = "bench/measured.json"

// A table is what was measured on one day on one machine.
type table struct {
	Date    string  `json:"date"`
	Machine string  `json:"machine"`
	Rows    int     `json:"rows"`
	MB      float64 `json:"mb"`
	Rounds  int     `json:"rounds"`
	Runs    []runOf `json:"runs"`
}

// refName is the run beside which all others are measured.
const refName = "REF"

// A runOf is one of the commands: medians of all rounds, and the highest peak of memory.
type runOf struct {
	Name    string  `json:"name"`
	Seconds float64 `json:"seconds"`
	CPU     float64 `json:"cpu_seconds"`
	Ratio   float64 `json:"times_as_fast_as_ref"` // the median of the ratios of single rounds
	PeakMB  float64 `json:"peak_mb"`
}

func newTable(rows int, bytes int64, rounds int, contestants []*contestant) *table {
	t := &table{Date: time.Now().Format(time.DateOnly), Machine: machine(), Rows: rows, MB: math.Round(float64(bytes) / 1e6), Rounds: rounds}
	for _, c := range contestants {
		var ratios []float64
		for i := range c.wall {
			ratios = append(ratios, contestants[0].wall[i].Seconds()/c.wall[i].Seconds())
		}
		t.Runs = append(t.Runs, runOf{c.name, round(median(c.wall).Seconds()), round(median(c.cpu).Seconds()), round(median(ratios)), math.Round(float64(c.peak) / 1e6)})
	}
	return t
}

// round rounds to hundredths.
func round(x float64) float64 { return math.Round(100*x) / 100 }

// machine says what it was measured on.
func machine() string {
	name := runtime.GOARCH
	if f, err := os.Open("/proc/cpuinfo"); err == nil {
		defer f.Close()
		for s := bufio.NewScanner(f); s.Scan(); {
			if key, value, _ := strings.Cut(s.Text(), ":"); strings.TrimSpace(key) == "model name" {
				name = strings.TrimSpace(value)
				break
			}
		}
	}
	return fmt.Sprintf("%s, %d processors, %s, %s", name, runtime.NumCPU(), runtime.GOOS, runtime.Version())
}

func (t *table) print(to io.Writer) error {
	w := tabwriter.NewWriter(to, 0, 0, 2, ' ', tabwriter.AlignRight)
	fmt.Fprintln(w, "\tmedian s\tCPU s\tMB/s\ttimes as fast as REF\tpeak MB\t")
	for _, r := range t.Runs {
		fmt.Fprintf(w, "%s\t%.2f\t%.2f\t%.0f\t%.2f\t%.0f\t\n", r.Name, r.Seconds, r.CPU, t.MB/r.Seconds, r.Ratio, r.PeakMB)
	}
	return w.Flush()
}

// save keeps the table.
func (t *table) save() error {
	if had, err := readTable(); err == nil {
		t.keep(had)
	}
	b, err := json.MarshalIndent(t, "", "\t")
	if err != nil {
		return err
	}
	return os.WriteFile(tableFile, append(b, '\n'), 0o666)
}

// keep puts the runs of another table into this one that were measured on the same day and rows, and now were not. REF is that
// beside which most of them were; the ratios of the others do not speak of it.
func (t *table) keep(had *table) {
	if had.Date != t.Date || had.Rows != t.Rows || had.Machine != t.Machine {
		return
	}
	all := slices.Clone(had.Runs)
	kept := len(all)
	for _, r := range t.Runs {
		if i := slices.IndexFunc(all, func(h runOf) bool { return h.Name == r.Name }); i >= 0 {
			all[i] = r
			kept--
		} else {
			all = append(all, r)
		}
	}
	if ref := slices.IndexFunc(had.Runs, func(h runOf) bool { return h.Name == refName }); ref >= 0 && kept >= len(t.Runs) {
		all[ref] = had.Runs[ref]
	}
	t.Runs = all
}

func readTable() (*table, error) {
	b, err := os.ReadFile(tableFile)
	if err != nil {
		return nil, err
	}
	t := new(table)
	return t, json.Unmarshal(b, t)
}

// leastShare is which share of the ratio in the table is enough: machines wander.
const leastShare = 0.8

// check returns an error for each run that is slower beside REF than in the table, by more than machines wander.
func (t *table) check() error {
	had, err := readTable()
	if err != nil {
		return err
	}
	return t.against(had)
}

func (t *table) against(had *table) (all error) {
	for _, r := range t.Runs {
		i := slices.IndexFunc(had.Runs, func(h runOf) bool { return h.Name == r.Name })
		if i >= 0 && r.Ratio < leastShare*had.Runs[i].Ratio {
			all = errors.Join(all, fmt.Errorf("%s is %.2f times as fast as REF, and was %.2f times on %s", r.Name, r.Ratio, had.Runs[i].Ratio, had.Date))
		}
	}
	return all
}
