package repair

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"zetanum/core/barcode"
	"zetanum/core/catalogue"
)

// BenchmarkIntact repairs a file of 50,000 rows whose codes are intact, once as
// it is and once with the barcodes taken for something else: the difference is
// what rescue costs.
func BenchmarkIntact(b *testing.B) {
	var text strings.Builder
	text.WriteString("SKU,EAN,Title,Brand,Price,Stock,Description\n")
	for i := range 50000 {
		code, _ := barcode.Complete(fmt.Sprintf("9521%08d", i*37%100000000))
		fmt.Fprintf(&text, "LR%06d,%s,\"Hive tool, no. %d\",Hollowbrook,%d.95,%d,\"<p>%s</p>\"\n", i, code, i, i%90, i%7,
			strings.Repeat("A tool for the hive that lies well in the hand. ", 8))
	}
	path := filepath.Join(b.TempDir(), "list.csv")
	require.NoError(b, os.WriteFile(path, []byte(text.String()), 0o666))
	for _, run := range []struct {
		name   string
		fields map[string]catalogue.Field
	}{{"with rescue", nil}, {"without", map[string]catalogue.Field{"EAN": catalogue.Published}}} {
		b.Run(run.name, func(b *testing.B) {
			b.SetBytes(int64(text.Len()))
			for b.Loop() {
				_, err := Run(b.Context(), Options{Input: path, Target: Target(path), Workers: 1, Fields: run.fields})
				require.NoError(b, err)
			}
		})
	}
}
