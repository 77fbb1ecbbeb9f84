package repair

import (
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/barcode"
)

// A damageKind is something that happens to a code on its way.
type damageKind struct {
	name string
	do   func(r *rand.Rand, code string) string
}

var damageKinds = []damageKind{
	{"none", func(_ *rand.Rand, c string) string { return c }},
	{"shown with six digits", func(_ *rand.Rand, c string) string { return shown(c, 6) }},
	{"shown with ten digits", func(_ *rand.Rand, c string) string { return shown(c, 10) }},
	{"shown with all digits", func(_ *rand.Rand, c string) string { return shown(c, 15) }},
	{"typed in again as shown", func(_ *rand.Rand, c string) string { return filled(shown(c, 6)) }},
	{"typed in again from nine digits", func(_ *rand.Rand, c string) string { return filled(shown(c, 9)) }},
	{"zeros dropped", func(_ *rand.Rand, c string) string { return strings.TrimLeft(c, "0") }},
	{"mistyped", func(r *rand.Rand, c string) string {
		i := r.IntN(len(c))
		return c[:i] + string('0'+(c[i]-'0'+1+byte(r.IntN(9)))%10) + c[i+1:]
	}},
	{"dressed", func(_ *rand.Rand, c string) string { return "EAN: " + c }},
	{"gone", func(_ *rand.Rand, c string) string { return "#N/A" }},
}

func shown(code string, digits int) string {
	n, _ := barcode.Number(code)
	m, e, _ := strings.Cut(fmt.Sprintf("%.*E", digits-1, float64(n)), "E")
	return strings.TrimRight(strings.TrimRight(m, "0"), ".") + "E" + e
}

func filled(scientific string) string {
	var f float64
	fmt.Sscanf(scientific, "%g", &f)
	return fmt.Sprintf("%.0f", f)
}

// TestNoWrongBarcode damages whole sheets, and the sheet that is trusted, in
// many mixtures, and holds every barcode that was written against the truth.
// The trusted sheet has decoys: SKUs that occur twice with different codes, codes
// at the SKU of another product, codes that are damaged or mistyped there too.
func TestNoWrongBarcode(t *testing.T) {
	written, wrong, sheets := 0, 0, 0
	for seed := range uint64(60) {
		r := rand.New(rand.NewPCG(seed, 99))
		n := []int{1, 5, 50, 300}[seed%4]
		truth, file, trusted := adversarialSheet(r, n)
		dir := t.TempDir()
		path, trust := filepath.Join(dir, "list.csv"), filepath.Join(dir, "counted.csv")
		require.NoError(t, os.WriteFile(path, []byte(file), 0o666))
		require.NoError(t, os.WriteFile(trust, []byte(trusted), 0o666))
		opt := fixed(path, Target(path))
		opt.Temp, opt.Trust = dir, []string{trust}
		result, err := Run(context.Background(), opt)
		require.NoError(t, err)
		sheets++
		text, err := os.ReadFile(filepath.Join(result.Folder, "changes.jsonl"))
		require.NoError(t, err)
		for line := range strings.Lines(string(text)) {
			var c struct {
				Row           int
				Before, After string
				Rule          string
			}
			require.NoError(t, json.Unmarshal([]byte(line), &c))
			written++
			want, _ := barcode.Number(truth[c.Row-2])
			if got, _ := barcode.Number(c.After); got != want {
				wrong++
				t.Logf("seed %d, row %d: %s became %s by %s, but was %s", seed, c.Row, c.Before, c.After, c.Rule, truth[c.Row-2])
			}
		}
	}
	t.Logf("%d sheets, %d barcodes written, %d wrong", sheets, written, wrong)
	assert.Greater(t, written, 1000)
	assert.Zero(t, wrong)
}

// adversarialSheet makes a sheet of n products whose barcodes are damaged by a
// mixture of three kinds, and a sheet that is to be trusted.
func adversarialSheet(r *rand.Rand, n int) (truth []string, file, trusted string) {
	kinds := []damageKind{damageKinds[r.IntN(len(damageKinds))], damageKinds[r.IntN(len(damageKinds))],
		damageKinds[r.IntN(len(damageKinds))]}
	upc := r.IntN(3) == 0
	taken := make(map[uint64]bool)
	for range n {
		data := 952135700000 + uint64(r.IntN(90000))
		if upc {
			data = 4110100000 + uint64(r.IntN(90000))
		}
		for taken[data] {
			data++
		}
		taken[data] = true
		truth = append(truth, barcode.Pad(data*10+uint64(barcode.CheckDigit(data)), 12))
	}
	var f, c strings.Builder
	f.WriteString("SKU,EAN,Title\n")
	c.WriteString("SKU,EAN\n")
	for i, code := range truth {
		fmt.Fprintf(&f, "S%04d,%s,Tool %d\n", i, kinds[min(r.IntN(6), 2)].do(r, code), i)
		switch r.IntN(12) {
		case 0: // not there
		case 1: // there twice, with two codes
			fmt.Fprintf(&c, "S%04d,%s\nS%04d,%s\n", i, code, i, truth[r.IntN(n)])
		case 2: // damaged there too
			fmt.Fprintf(&c, "S%04d,%s\n", i, damageKinds[1+r.IntN(5)].do(r, code))
		case 3: // mistyped there
			fmt.Fprintf(&c, "S%04d,%s\n", i, damageKinds[7].do(r, code))
		case 4: // under another SKU
			fmt.Fprintf(&c, "T%04d,%s\n", i, code)
		default:
			fmt.Fprintf(&c, "S%04d,%s\n", i, code)
		}
	}
	return truth, f.String(), c.String()
}
