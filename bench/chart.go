package main

import (
	"fmt"
	"image/color"
	"slices"
	"strings"

	"golang.org/x/text/language"
	"golang.org/x/text/message"
	"gonum.org/v1/plot"
	"gonum.org/v1/plot/plotter"
	"gonum.org/v1/plot/vg"
)

// chartFile is where the chart of the table lies, seen from the project's folder.
const chartFile = "docs/speed.png"

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
		if strings.HasSuffix(r.Name, beforeMark) || r.Name == refName || strings.HasPrefix(r.Name, "100 ") {
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
	one.Color = color.Gray{Y: 0xd0}
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
		bars.Color, bars.LineStyle.Width = color.Gray{Y: of.shade}, 0
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

// labelled puts a number over each bar that is there.
func labelled(values plotter.Values) (l plotter.XYLabels) {
	for i, v := range values {
		text := ""
		if v > 0 {
			text = fmt.Sprintf("%.2f", v)
		}
		l.XYs = append(l.XYs, plotter.XY{X: float64(i), Y: v})
		l.Labels = append(l.Labels, text)
	}
	return l
}
