package returned

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
	"zetanum/core/sheet"
)

// TestUnchanged: what a spreadsheet program makes of a cell that nobody touches is no change, and
// what a person writes is one.
func TestUnchanged(t *testing.T) {
	const same, spoilt, changed = "same", "spoilt", "changed"
	for _, test := range []struct{ before, after, want string }{
		{"Pump", "Pump", same},
		{"Pump", " Pump ", same},
		{"Pump", "", changed},
		{"", "Pump", changed},
		{"9521234000013", "9.52123E+12", spoilt},
		{"9521234000013", "9,52123E+12", spoilt},
		{"9521234000013", "9.53123E+12", changed},
		{"9521234000013", "9521234000020", changed},
		{"0952123400001", "952123400001", spoilt},
		{"9.52E+12", "9521234000013", changed},
		{"9.52E+12", "9.52E+12", same},
		{"12.50", "12.5", same},
		{"12,50", "12.5", same},
		{"12.50", "12.6", changed},
		{"1.250", "1250", changed}, // which it was is open
		{"=1+1", "'=1+1", same},
		{"A long text", "A long … [shortened; 40000 bytes in the source]", same},
		{"007", "7", spoilt},
	} {
		got := changed
		if is, was := unchanged(test.before, test.after); was {
			got = spoilt
		} else if is {
			got = same
		}
		assert.Equal(t, test.want, got, "%q → %q", test.before, test.after)
	}
}

// TestSettle: tables of every form change the rows they mean, later ones count more, and what
// means no row is named.
func TestSettle(t *testing.T) {
	const source = "SKU,EAN,Title,Note,Note\nA,1,x,n1,n2\nB,2,y\nC,3,z,,\nC,4,w,,\n"
	for _, test := range []struct {
		name    string
		files   []string
		want    map[int][]string
		missing []string
	}{
		{"wide, by the numbers of rows", []string{"Row,Reason,SKU,EAN\n2,wrong,A,9\n3,,B,2\n"}, map[int][]string{2: {"A", "9", "x", "n1", "n2"}}, nil},
		{"a short row", []string{"Row,Note\n3,n\n"}, map[int][]string{3: {"B", "2", "y", "n"}}, nil},
		{"columns of one heading", []string{"Row,Note,Note\n2,n1,N2\n"}, map[int][]string{2: {"A", "1", "x", "n1", "N2"}}, nil},
		{"a cell is emptied", []string{"Row,Title\n2,\n"}, map[int][]string{2: {"A", "1", "", "n1", "n2"}}, nil},
		{"a cell in each row", []string{"Row,Column,Value,What is open\n2,EAN,7,\n2,Title,X,\n2,Colour,red,\n"},
			map[int][]string{2: {"A", "7", "X", "n1", "n2"}}, nil},
		{"by key, where an empty cell says nothing", []string{"sku,title,ean\nB,Y,\nC,Z,\n"},
			map[int][]string{3: {"B", "2", "Y"}, 4: {"C", "3", "Z", "", ""}, 5: {"C", "4", "Z", "", ""}}, nil},
		{"the later one counts", []string{"Row,EAN\n2,8\n", "Row,EAN\n2,9\n"}, map[int][]string{2: {"A", "9", "x", "n1", "n2"}}, nil},
		{"back to what it was", []string{"Row,EAN\n2,8\n", "Row,EAN\n2,1\n"}, map[int][]string{}, nil},
		{"no such row", []string{"Row,EAN\n99,8\n,7\n2.0,5\n"}, map[int][]string{2: {"A", "5", "x", "n1", "n2"}},
			[]string{"no row number (0.csv, row 3)", "row 99 (0.csv, row 2)"}},
		{"no such key", []string{"SKU,EAN\nZ,8\n"}, map[int][]string{}, []string{"SKU Z (0.csv, row 2)"}},
	} {
		dir := t.TempDir()
		open := func(name, content string) *sheet.Table {
			path := filepath.Join(dir, name)
			require.NoError(t, os.WriteFile(path, []byte(content), 0o666))
			table, err := sheet.Open(path, sheet.Options{Spool: dir})
			require.NoError(t, err)
			t.Cleanup(func() { table.Close() })
			return table
		}
		table := open("source.csv", source)
		var files []*File
		for i, content := range test.files {
			path := filepath.Join(dir, string(rune('0'+i))+".csv")
			require.NoError(t, os.WriteFile(path, []byte(content), 0o666))
			f, err := Read(path, sheet.Options{Spool: dir}, table, Declared{})
			require.NoError(t, err, test.name)
			files = append(files, f)
		}
		rows, err := Settle(files, table)
		require.NoError(t, err)
		got := make(map[int][]string)
		for _, n := range rows.Numbers() {
			got[n] = rows.Of(n).Is
		}
		assert.Equal(t, test.want, got, test.name)
		assert.Equal(t, test.missing, rows.Missing, test.name)
		require.NoError(t, table.Amend(rows.Put))
		read := make(map[int][]string)
		require.NoError(t, table.Each(func() { clear(read) }, func(row *catalogue.Row) {
			if test.want[row.Number] != nil {
				read[row.Number] = append([]string{}, row.Cells...)
			}
		}))
		assert.Equal(t, test.want, read, "%s: and so the table reads from now on", test.name)
	}
}
