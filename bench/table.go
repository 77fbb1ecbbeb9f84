package main

import (
	"bufio"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"runtime"
	"slices"
	"strings"
	"text/tabwriter"
	"time"

	"golang.org/x/text/language"
	"golang.org/x/text/message"
	"gonum.org/v1/plot"
	"gonum.org/v1/plot/plotter"
	"gonum.org/v1/plot/vg"
)

// Where the table and the chart of it lie, seen from the project's folder.
const (
	tableFile = "bench/measured.json"
	chartFile = "docs/speed.png"
)

// A table is what was measured on one day on one machine.
type table struct {
	Date    string  `json:"date"`
	Machine string  `json:"machine"`
	Rows    int     `json:"rows"`
	MB      float64 `json:"mb"`
	Rounds  int     `json:"rounds"`
	Runs    []runOf `json:"runs"`
}

// A runOf is one of the commands: medians of all rounds, and the highest peak of memory.
type runOf struct {
	Name    string  `json:"name"`
	Seconds float64 `json:"seconds"`
	CPU     float64 `json:"cpu_seconds"`
	Ratio   float64 `json:"times_as_fast_as_ref"` // the median of the ratios of single rounds
	PeakMB  float64 `json:"peak_mb"`
}

func newTable(rows int, bytes int64, rounds int, contestants []*contestant) *table {
	t := &table{Date: time.Now().Format(time.DateOnly), Machine: machine(), Rows: rows, MB: round(float64(bytes)/1e6, 0), Rounds: rounds}
	for _, c := range contestants {
		var ratios []float64
		for i := range c.wall {
			ratios = append(ratios, contestants[0].wall[i].Seconds()/c.wall[i].Seconds())
		}
		t.Runs = append(t.Runs, runOf{c.name, round(median(c.wall).Seconds(), 2), round(median(c.cpu).Seconds(), 2), round(median(ratios), 2), round(float64(c.peak)/1e6, 0)})
	}
	return t
}

func round(x float64, digits int) float64 {
	scale := 1.0
	for range digits {
		scale *= 10
	}
	return float64(int64(x*scale+0.5)) / scale
}

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

// save keeps the table; runs that were measured on the same day and rows, and now were not, stay.
func (t *table) save() error {
	if had, err := readTable(); err == nil && had.Date == t.Date && had.Rows == t.Rows && had.Machine == t.Machine {
		for _, r := range had.Runs {
			if !slices.ContainsFunc(t.Runs, func(n runOf) bool { return n.Name == r.Name }) {
				t.Runs = append(t.Runs, r)
			}
		}
	}
	b, err := json.MarshalIndent(t, "", "\t")
	if err != nil {
		return err
	}
	return os.WriteFile(tableFile, append(b, '\n'), 0o666)
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

// draw draws how fast the runs are beside REF, and how fast they were before, if the table has that.
func draw() error {
	t, err := readTable()
	if err != nil {
		return err
	}
	p := plot.New()
	p.Title.Text = message.NewPrinter(language.English).Sprintf("Times as fast as a plain copy: %d rows, %.0f MB, %s", t.Rows, t.MB, t.Date)
	p.Title.Padding = vg.Points(8)
	p.Y.Min, p.Y.Label.Text = 0, "a plain copy takes one"
	var names []string
	var now, before plotter.Values
	for _, r := range t.Runs {
		if strings.HasSuffix(r.Name, beforeMark) || r.Name == "REF" || strings.HasPrefix(r.Name, "100 ") {
			continue
		}
		names, now = append(names, r.Name), append(now, r.Ratio)
		old := 0.0
		if i := slices.IndexFunc(t.Runs, func(o runOf) bool { return o.Name == r.Name+beforeMark }); i >= 0 {
			old = t.Runs[i].Ratio
		}
		before = append(before, old)
	}
	one := plotter.NewFunction(func(float64) float64 { return 1 })
	one.Color = gray(0xd0)
	p.Add(one)
	const width = 28
	for i, of := range []struct {
		name   string
		values plotter.Values
		shade  uint8
	}{{"before", before, 0xc0}, {"now", now, 0x50}} {
		bars, err := plotter.NewBarChart(of.values, vg.Points(width))
		if err != nil {
			return err
		}
		bars.Color, bars.LineStyle.Width = gray(of.shade), 0
		bars.Offset = vg.Points(float64(2*i-1) * (width/2 + 1))
		p.Add(bars)
		p.Legend.Add(of.name, bars)
		labels, err := plotter.NewLabels(labelled(of.values))
		if err != nil {
			return err
		}
		for n := range labels.TextStyle {
			labels.TextStyle[n].XAlign = -0.5
		}
		labels.Offset.X, labels.Offset.Y = bars.Offset, vg.Points(3)
		p.Add(labels)
	}
	p.Legend.Top, p.Legend.XOffs, p.Legend.Padding = true, -vg.Points(8), vg.Points(3)
	p.NominalX(names...)
	p.X.Min, p.X.Max, p.Y.Max = -0.6, float64(len(names))-0.4, 1.1*p.Y.Max
	return p.Save(vg.Points(760), vg.Points(420), chartFile)
}
