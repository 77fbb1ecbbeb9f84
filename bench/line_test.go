package main

import (
	"context"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/repair"
)

// TestCatalogue: the catalogue that is measured is what it says it is, and REF
// copies it.
func TestCatalogue(t *testing.T) {
	path := filepath.Join(t.TempDir(), "catalogue.csv")
	require.NoError(t, writeCatalogue(path, 20000))
	info, err := os.Stat(path)
	require.NoError(t, err)
	assert.InDelta(t, 530, info.Size()/20000, 40, "bytes a row")
	r, err := repair.Run(context.Background(), repair.Options{Input: path, Workers: 2, Temp: t.TempDir()})
	require.NoError(t, err)
	c := r.Counts()
	assert.Equal(t, 20000, c.Read)
	assert.InDelta(t, 200, c.Held, 60)
	assert.InDelta(t, 1400, c.Changed, 150)
	require.NoError(t, copyFile(path, path+".copy"))
	copied, err := os.Stat(path + ".copy")
	require.NoError(t, err)
	assert.InDelta(t, info.Size(), copied.Size(), float64(info.Size())/100)
}

func BenchmarkLine(b *testing.B) {
	path := filepath.Join(b.TempDir(), "catalogue.csv")
	require.NoError(b, writeCatalogue(path, 100000))
	info, err := os.Stat(path)
	require.NoError(b, err)
	for _, test := range []struct {
		name string
		run  func(context.Context, repair.Options) (*repair.Result, error)
	}{{"inspect", repair.Look}, {"repair", repair.Run}} {
		b.Run(test.name, func(b *testing.B) {
			b.SetBytes(info.Size())
			b.ReportAllocs()
			for b.Loop() {
				_, err := test.run(context.Background(), repair.Options{Input: path, Target: path + ".repaired", Workers: 2, Temp: b.TempDir()})
				require.NoError(b, err)
			}
		})
	}
}
