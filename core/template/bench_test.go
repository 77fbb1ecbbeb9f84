package template

import (
	"path/filepath"
	"testing"
)

// BenchmarkWriter writes a cell into each of the columns of a form, as the samples have it.
func BenchmarkWriter(b *testing.B) {
	form, err := Learn(filepath.Join("testdata", "t1", "template.csv"))
	if err != nil {
		b.Fatal(err)
	}
	writers := make([]*Writer, len(form.Columns))
	for n := range writers {
		writers[n] = form.Writer(n, form.Columns[n].Heading, 0, false)
	}
	var reading Reading
	cells := form.samples[0]
	b.ReportAllocs()
	for b.Loop() {
		for n, w := range writers {
			if _, _, wrong := w.Write(cells[n], "", &reading); wrong.Kind != Fits {
				b.Fatal(form.Columns[n].Heading, wrong.Says)
			}
		}
	}
	b.ReportMetric(float64(b.Elapsed().Nanoseconds())/float64(b.N*len(writers)), "ns/cell")
}
