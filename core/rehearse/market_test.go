package rehearse_test

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/rehearse"
	"zetanum/core/template"
	"zetanum/demo/market"
	"zetanum/internal/brief"
)

// planted are cells that somebody might put into the columns of the platform's form, by column: right ones first.
var planted = map[int][]string{
	0:  {"", "A code of more than twenty", " WW-1", "ÄÖ-1"},
	1:  {"", " ", strings.Repeat("x", 80), strings.Repeat("x", 81), strings.Repeat("ü", 80), "Two\nlines", "<b>Bold</b>"},
	2:  {"", strings.Repeat("m", 41), "Müller & Sons"},
	3:  {"", "candles", "Candle", " Candles", "Candles ", "Hats", "CANDLES"},
	4:  {"952120200017", "9521202000176", "9.52E+12", "9521202000175 ", "95212020001750", "0000000000000", "952120200017X", "9521202000175"},
	5:  {"", "12,50", "-1", "0", "0.04", "0.05", "5000", "5000.01", "1e2", "EUR 5", "5.", ".5", "007.50", "+5", "１２", " 5", "5 "},
	6:  {"", "1.5", "1.0", "-1", "100000", "99999", "many", "1e3", "007"},
	7:  {"", "main.jpg", "https://pics.example/a.gif", "https://pics.example/a.JPG", "http://pics.example/a.png?size=2", "https://pics.example/a b.jpg", "ftp://pics.example/a.jpg", "https://.jpg", ".jpg"},
	8:  {"https://pics.example/b.jpeg", "b.png", "https://pics.example/b.webp"},
	9:  {"<p>Story</p>", strings.Repeat("s", 4000), strings.Repeat("s", 4001)},
	10: {"one;two", "one", ";"},
	11: {"2026-02-28", "2026-02-29", "28.02.2026", "2026-2-8", "2026-02-28 10:00", "46000", "soon", "0000-00-00"},
	12: {"Y", "N", "y", "yes", "1", " Y"},
	13: {"", "parcel", "Pallet", "Ship"},
	14: {"", "used", "New", "new "},
}

// anyFilled makes a file in the form of the platform, with faults in some of its rows.
func anyFilled(r *rand.Rand, above [][]string) []byte {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	for _, row := range above {
		_ = w.Write(row) // into memory, which does not fail
	}
	n := 1 + r.IntN(30)
	if r.IntN(40) == 0 {
		n = 490 + r.IntN(60)
	}
	for i := range n {
		row := []string{fmt.Sprintf("WW-%d", i), "Candle", "Wick & Wax", "Candles", "", "12.50", "3", "https://pics.example/a.jpg", "", "", "", "", "", "Parcel", "new"}
		if r.IntN(20) == 0 {
			row[0] = fmt.Sprintf("WW-%d", r.IntN(n))
		}
		for range r.IntN(3) {
			col := r.IntN(len(row))
			row[col] = planted[col][r.IntN(len(planted[col]))]
		}
		if r.IntN(30) == 0 {
			row = make([]string, len(row)) // blank
		}
		_ = w.Write(row)
	}
	w.Flush()
	return b.Bytes()
}

// TestMarket: what a rehearsal says of each row is what the importer of the demo's platform makes of it, which reads files in its own way.
func TestMarket(t *testing.T) {
	t.Parallel()
	content, err := os.ReadFile(filepath.Join("..", "..", "demo", "files", "shop-form.xlsx"))
	require.NoError(t, err)
	dir := t.TempDir()
	path := filepath.Join(dir, "shop-form.xlsx")
	require.NoError(t, os.WriteFile(path, content, 0o600))
	form, err := template.Learn(path)
	require.NoError(t, err)
	above := form.FormRows().Rows[:3]
	rows, agreed, taken, whole := 0, 0, 0, 0
	catalogues := brief.Of(300, 40)
	for seed := range uint64(catalogues) {
		r := rand.New(rand.NewPCG(seed, 2326))
		text := anyFilled(r, above)
		file := filepath.Join(dir, fmt.Sprintf("%d.csv", seed))
		require.NoError(t, os.WriteFile(file, text, 0o600))
		says, err := market.Import("ready.csv", text)
		require.NoError(t, err)
		lists := filepath.Join(dir, fmt.Sprint(seed))
		require.NoError(t, os.Mkdir(lists, 0o700))
		report, err := rehearse.Run(rehearse.Options{Ready: file, Form: form, Temp: dir, Dir: lists, Year: 2026})
		require.NoError(t, err, seed)
		require.Equal(t, says.Refused != "", report.Form != "", "%d: the market says %q, the rehearsal %q", seed, says.Refused, report.Form)
		if says.Refused != "" {
			whole++
			continue
		}
		require.Equal(t, len(says.Rows), report.Rows, seed)
		refused := make(map[int]bool)
		if list, err := os.Open(filepath.Join(lists, rehearse.RefusedName)); err == nil {
			all, err := csv.NewReader(list).ReadAll()
			require.NoError(t, err)
			for _, row := range all[1:] {
				n, err := strconv.Atoi(row[0])
				require.NoError(t, err)
				refused[n] = true
			}
			require.NoError(t, list.Close())
		}
		for _, v := range says.Rows {
			if rows++; refused[v.Row] == (v.Refused != "") {
				agreed++
			} else {
				reader := csv.NewReader(bytes.NewReader(text))
				reader.FieldsPerRecord = -1
				all, err := reader.ReadAll()
				require.NoError(t, err)
				t.Errorf("%d, row %d: the market says %q, the rehearsal refuses it: %v; %q", seed, v.Row, v.Refused, refused[v.Row], all[v.Row-1])
			}
			if v.Refused == "" {
				taken++
			}
		}
	}
	t.Logf("%d of %d verdicts agree; %d rows are taken, %d files are not looked at", agreed, rows, taken, whole)
	assert.Positive(t, taken)
	assert.Positive(t, whole)
}
