package proof

import (
	"errors"
	"image/color"
	"math"
	"os"
	"path/filepath"
	"strconv"

	"gonum.org/v1/plot"
	"gonum.org/v1/plot/plotter"
	"gonum.org/v1/plot/text"
	"gonum.org/v1/plot/vg"
	"gonum.org/v1/plot/vg/draw"
	"gonum.org/v1/plot/vg/vgimg"
	"gonum.org/v1/plot/vg/vgsvg"

	"zetanum/core/catalogue"
	"zetanum/core/repair"
	"zetanum/core/spread"
	"zetanum/core/steps"
)

// The names of the drawings of prices.
const (
	PricesPNG = "prices.png"
	PricesSVG = "prices.svg"
)

// What is drawn of prices.
const (
	mostGroups  = 18 // categories
	leastPrices = 8  // prices that there are at least
	leastOfOne  = 3  // in a category that is drawn
	drawnWide   = 26 * vg.Centimeter
	edge        = 0.4 * vg.Centimeter
	dotsPerInch = 96
)

var (
	inkColour   = color.RGBA{0x1F, 0x23, 0x28, 0xFF}
	quietColour = color.RGBA{0x5C, 0x66, 0x70, 0xFF}
	dotColour   = color.NRGBA{0x2F, 0x6F, 0x73, 0xAA}
	oddColour   = color.RGBA{0xB3, 0x26, 0x1E, 0xFF}
	gridColour  = color.RGBA{0xD5, 0xDA, 0xDE, 0xFF}
)

// drawPrices draws the prices of a file by category, with those that are far from the others. It reports whether there was anything to draw.
func drawPrices(dir string, r *repair.Result) (drawn bool, err error) {
	heading, groups := steps.PriceGroups(r.Survey.Learned, r.Source.Columns.Headings, mostGroups)
	count := 0
	for n := len(groups) - 1; n >= 0; n-- {
		if groups[n].Count < leastOfOne {
			groups = append(groups[:n], groups[n+1:]...)
		} else {
			count += groups[n].Count
		}
	}
	if count < leastPrices {
		return false, nil
	}
	p := plot.New()
	p.Title.Text = catalogue.Shorten(heading, 40) + " by category, " + catalogue.Shorten(r.Source.Name, 60)
	p.X.Label.Text = "on a scale of factors; the bar is the middle of a category"
	for _, t := range []*text.Style{&p.Title.TextStyle, &p.X.Label.TextStyle, &p.X.Tick.Label, &p.Y.Tick.Label} {
		t.Font.Variant, t.Color = "Sans", inkColour
	}
	p.Title.TextStyle.Font.Size, p.Title.Padding = 14, 10
	p.X.Label.TextStyle.Color, p.X.Label.Padding = quietColour, 6
	p.X.Scale, p.X.Tick.Marker = plot.LogScale{}, tens{}
	p.Y.Tick.Length, p.Y.LineStyle.Width = 0, 0
	var names []plot.Tick
	least, most := spread.Level(math.MaxInt16), spread.Level(math.MinInt16)
	for n := range groups {
		y := float64(len(groups) - 1 - n)
		g := &groups[n]
		name := g.Name
		if name == "" {
			name = "(none)"
		}
		names = append(names, plot.Tick{Value: y, Label: catalogue.Shorten(name, 30) + "  " + strconv.Itoa(g.Count)})
		least, most = min(least, g.Bins[0].Level), max(most, g.Bins[len(g.Bins)-1].Level)
		if err := addGroup(p, g, y); err != nil {
			return false, err
		}
	}
	p.Y.Tick.Marker = plot.ConstantTicks(names)
	p.Y.Min, p.Y.Max = -0.6, float64(len(groups))-0.4
	p.X.Min, p.X.Max = priceOf(least-15), priceOf(most+35)
	high := vg.Length(len(groups))*0.75*vg.Centimeter + 3.4*vg.Centimeter
	image := vgimg.NewWith(vgimg.UseWH(drawnWide, high), vgimg.UseDPI(dotsPerInch))
	p.Draw(draw.Crop(draw.New(image), edge, -edge, edge, -edge))
	vector := vgsvg.New(drawnWide, high)
	p.Draw(draw.Crop(draw.New(vector), edge, -edge, edge, -edge))
	return true, errors.Join(create(filepath.Join(dir, PricesPNG), func(f *os.File) error {
		_, err := vgimg.PngCanvas{Canvas: image}.WriteTo(f)
		return err
	}), create(filepath.Join(dir, PricesSVG), func(f *os.File) error {
		_, err := vector.WriteTo(f)
		return err
	}))
}

func create(path string, write func(*os.File) error) error {
	f, err := os.Create(path)
	if err != nil {
		return err
	}
	return errors.Join(write(f), f.Close())
}

// priceOf returns the price of a level.
func priceOf(l spread.Level) float64 { return math.Pow(10, float64(l)/100) }

// addGroup draws the prices of a category in a line: a dot for each level, larger where there are more.
func addGroup(p *plot.Plot, g *steps.PriceGroup, y float64) error {
	line, err := plotter.NewLine(plotter.XYs{{X: priceOf(g.Bins[0].Level), Y: y}, {X: priceOf(g.Bins[len(g.Bins)-1].Level), Y: y}})
	if err != nil {
		return err
	}
	line.Color, line.Width = gridColour, 1
	var points plotter.XYs
	for _, bin := range g.Bins {
		points = append(points, plotter.XY{X: priceOf(bin.Level), Y: y})
	}
	dots, err := plotter.NewScatter(points)
	if err != nil {
		return err
	}
	dots.GlyphStyleFunc = func(i int) draw.GlyphStyle {
		size := 2.2 + 1.1*math.Log2(float64(g.Bins[i].Count))
		return draw.GlyphStyle{Color: dotColour, Radius: vg.Length(min(size, 7)), Shape: draw.CircleGlyph{}}
	}
	middle, err := plotter.NewScatter(plotter.XYs{{X: priceOf(g.Middle), Y: y}})
	if err != nil {
		return err
	}
	middle.GlyphStyle = draw.GlyphStyle{Color: inkColour, Radius: 8, Shape: bar{}}
	p.Add(line, dots, middle)
	if len(g.Odd) == 0 {
		return nil
	}
	var odd plotter.XYLabels
	for _, o := range g.Odd {
		odd.XYs = append(odd.XYs, plotter.XY{X: priceOf(o.Level), Y: y})
		odd.Labels = append(odd.Labels, "row "+strconv.Itoa(o.Row))
	}
	marks, err := plotter.NewScatter(odd.XYs)
	if err != nil {
		return err
	}
	marks.GlyphStyle = draw.GlyphStyle{Color: oddColour, Radius: 4, Shape: draw.CircleGlyph{}}
	labels, err := plotter.NewLabels(odd)
	if err != nil {
		return err
	}
	for i := range labels.TextStyle {
		labels.TextStyle[i].Color, labels.TextStyle[i].Font.Variant, labels.TextStyle[i].Font.Size = oddColour, "Sans", 10
	}
	labels.Offset = vg.Point{X: 6, Y: -3}
	p.Add(marks, labels)
	return nil
}

// A bar is drawn upright.
type bar struct{}

// DrawGlyph draws it.
func (bar) DrawGlyph(c *draw.Canvas, style draw.GlyphStyle, at vg.Point) {
	c.SetLineStyle(draw.LineStyle{Color: style.Color, Width: 1.6})
	var path vg.Path
	path.Move(vg.Point{X: at.X, Y: at.Y - style.Radius})
	path.Line(vg.Point{X: at.X, Y: at.Y + style.Radius})
	c.Stroke(path)
}

// tens are the ticks of a scale of factors: 1, 2, 5, 10, 20 and so on.
type tens struct{}

// Ticks returns them.
func (tens) Ticks(least, most float64) (ticks []plot.Tick) {
	for exp := math.Floor(math.Log10(least)); exp <= math.Ceil(math.Log10(most)); exp++ {
		for _, n := range []float64{1, 2, 5} {
			if v := n * math.Pow(10, exp); v >= least && v <= most {
				ticks = append(ticks, plot.Tick{Value: v, Label: strconv.FormatFloat(v, 'f', int(max(0, -exp)), 64)})
			}
		}
	}
	return ticks
}
