package proof

import (
	"bytes"
	"context"
	"fmt"
	"image/png"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/repair"
)

// TestPricesDrawn: the prices are drawn by category, with the rows of those that are far off, the same each time; and nothing is drawn where
// nobody asks, or there is too little to see.
func TestPricesDrawn(t *testing.T) {
	var list strings.Builder
	list.WriteString("SKU,Title,Category,Cost,Price\n")
	for i := range 40 {
		price := []int{290, 1450}[i%2] + i*i%90
		cost := price / 2
		if i == 21 {
			price *= 100
		}
		fmt.Fprintf(&list, "S%d,Thing,%s,%d.%02d,%d.%02d\n", i, []string{"Seeds & bulbs", "Hand tools"}[i%2], cost/100, cost%100, price/100, price%100)
	}
	draw := func(content string, look bool) string {
		path := filepath.Join(t.TempDir(), "list.csv")
		require.NoError(t, os.WriteFile(path, []byte(content), 0o666))
		r, err := repair.Run(context.Background(), repair.Options{Input: path, Target: repair.Target(path), Workers: 2, Temp: t.TempDir(), Review: Review, Look: look})
		require.NoError(t, err)
		assert.Equal(t, look && strings.Count(content, "\n") > 10, r.PricesDrawn)
		return r.Folder
	}
	folder := draw(list.String(), true)
	vector, err := os.ReadFile(filepath.Join(folder, PricesSVG))
	require.NoError(t, err)
	for _, says := range []string{"Price by category, list.csv", "Hand tools  20", "Seeds &amp; bulbs  20", "row 23"} {
		assert.Contains(t, string(vector), says)
	}
	picture, err := os.ReadFile(filepath.Join(folder, PricesPNG))
	require.NoError(t, err)
	image, err := png.Decode(bytes.NewReader(picture))
	require.NoError(t, err)
	assert.Greater(t, image.Bounds().Dx(), 900)
	again := draw(list.String(), true)
	for _, name := range []string{PricesSVG, PricesPNG} {
		one, err := os.ReadFile(filepath.Join(folder, name))
		require.NoError(t, err)
		other, err := os.ReadFile(filepath.Join(again, name))
		require.NoError(t, err)
		assert.Equal(t, one, other, name)
	}
	assert.NoFileExists(t, filepath.Join(draw(list.String(), false), PricesPNG))
	assert.NoFileExists(t, filepath.Join(draw("SKU,Price\nA,3\nB,4\n", true), PricesPNG))
}
