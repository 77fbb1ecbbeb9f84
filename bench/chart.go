package main

import (
	"fmt"
	"image/color"

	"gonum.org/v1/plot/plotter"
)

func gray(shade uint8) color.Color { return color.Gray{Y: shade} }

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
