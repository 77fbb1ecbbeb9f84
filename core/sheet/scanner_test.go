package sheet

import (
	"encoding/csv"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
	"zetanum/internal/brief"
)

func readAll(form *Form, data string) (rows [][]string, flags []catalogue.Row) {
	sc := form.Scanner(data)
	var row catalogue.Row
	for sc.Next(&row) {
		rows = append(rows, append([]string{}, row.Cells...))
		flags = append(flags, row)
		row = catalogue.Row{}
	}
	return rows, flags
}

func TestScanner(t *testing.T) {
	type rows = [][]string
	for _, test := range []struct {
		name, in string
		form     Form
		want     rows
	}{
		{"plain", "a,b\nc,d\n", Form{}, rows{{"a", "b"}, {"c", "d"}}},
		{"no end at the end", "a,b\nc,", Form{}, rows{{"a", "b"}, {"c", ""}}},
		{"CRLF", "a,b\r\nc,\"d\"\r\n", Form{}, rows{{"a", "b"}, {"c", "d"}}},
		{"mixed ends", "a\r\nb\nc", Form{}, rows{{"a"}, {"b"}, {"c"}}},
		{"lone CR", "a,b\r\"c\r\",d\r", Form{CR: true}, rows{{"a", "b"}, {"c\r", "d"}}},
		{"a CR that ends no row", "a\rb,c\n", Form{}, rows{{"a\rb", "c"}}},
		{"blank rows count", "a\n\n\nb\n", Form{}, rows{{"a"}, {""}, {""}, {"b"}}},
		{"quoted separator and break", "\"a,\nb\",c\n", Form{}, rows{{"a,\nb", "c"}}},
		{"doubled marks", `"say ""hive""",""""` + "\n", Form{}, rows{{`say "hive"`, `"`}}},
		{"empty quoted", `"",""`, Form{}, rows{{"", ""}}},
		{"a mark in an unquoted cell", `5" tool,b`, Form{}, rows{{`5" tool`, "b"}}},
		{"a stray mark in a quoted cell", `"5" tool",b`, Form{}, rows{{`5" tool`, "b"}}},
		{"semicolons", "a;b,c\n", Form{Separator: ';'}, rows{{"a", "b,c"}}},
		{"tabs", "a\t\"b\tc\"\n", Form{Separator: '\t'}, rows{{"a", "b\tc"}}},
		{"a mark never closed", "a,b\n\"c,d\ne,f\n", Form{Lenient: true, Columns: 2}, rows{{"a", "b"}, {`"c`, "d"}, {"e", "f"}}},
		{"the same before a quoted cell", "\"c,d\n\"e\",f\n\"g\nh\",i\n", Form{Lenient: true, Columns: 2},
			rows{{`"c`, "d"}, {"e", "f"}, {"g\nh", "i"}}},
		{"never closed in the last cell", "a,\"b\nc,d", Form{Lenient: true, Columns: 2}, rows{{"a", `"b`}, {"c", "d"}}},
	} {
		if test.form.Separator == 0 {
			test.form.Separator = ','
		}
		got, raw := readAll(&test.form, test.in)
		assert.Equal(t, test.want, got, test.name)
		for i, row := range raw {
			require.Equal(t, len(row.Cells), len(row.Marks), test.name)
			if i == len(raw)-1 {
				for c, span := range row.Spans {
					cell := strings.TrimSuffix(strings.TrimPrefix(test.in[span.From:span.To], `"`), `"`)
					assert.True(t, cell == got[i][c] || strings.Contains(test.in, `"`), "%s: raw %q", test.name, cell)
				}
			}
		}
	}
}

// TestQuick: rows of which the ends of cells are seen at one look over many are in every respect those that are read
// one cell after the other, whatever stands in their way.
func TestQuick(t *testing.T) {
	r := rand.New(rand.NewPCG(952, 25))
	pieces := [][]string{
		{",", ",", ",", "\n", "\r\n", "abc", "Beech smoker, large", `"a ""solid"" box, ` + "\n" + `made of beech"`, `"",`, `"x"`, "12.90,4,", "ü"},
		{"\r", `"`, `""`, "\"\r", "\r\"", ",\"", "\",", "\"\n\"", strings.Repeat("long ", 40), strings.Repeat(",", 90)},
	}
	quick, all := 0, 0
	for n := range brief.Of(1000, 200) {
		var b strings.Builder
		odd := []int{0, 400, 40, 4}[n%4] // one piece in so many
		for b.Len() < 6000 {
			from := pieces[0]
			if odd > 0 && r.IntN(odd) == 0 {
				from = pieces[1]
			}
			b.WriteString(from[r.IntN(len(from))])
			if r.IntN(3) == 0 {
				b.WriteString(",")
			}
		}
		data := b.String()
		form := Form{Separator: ',', CR: n%7 == 0}
		fast, slow := form.Scanner(data), form.Scanner(data)
		for _, s := range []*Scanner{fast, slow} {
			s.Prefix, s.Doubled = []int{0, 0, 2}[n%3], n%5 == 0
			s.Undoubled.Add(1)
		}
		for slow.pos < len(data) {
			// Used ones are overwritten.
			got, want := catalogue.Row{Cells: []string{"x", "y"}, Marks: []catalogue.Mark{7, 7}, Spans: make([]catalogue.Span, 2)}, catalogue.Row{}
			all++
			if fast.quick(&got, fast.Prefix) {
				quick++
			} else {
				fast.next(&got, len(data), fast.Prefix)
			}
			slow.next(&want, len(data), slow.Prefix)
			if r.IntN(9) == 0 { // which the next row does not see
				var again catalogue.Row
				open := fast.Open
				fast.start = int(want.Whole.From)
				fast.Again(&again)
				require.LessOrEqual(t, len(want.Cells), len(again.Cells))
				fast.Open = open
			}
			require.Equal(t, want, got, "%q", data[want.Whole.From:want.End])
			require.Equal(t, []any{slow.pos, slow.Open}, []any{fast.pos, fast.Open})
		}
	}
	t.Log(quick, "of", all, "rows seen at once")
}

// FuzzAgainstStandardReader: on everything that encoding/csv reads without an
// error, the cells are the same, leaving blank rows aside.
func FuzzAgainstStandardReader(f *testing.F) {
	for _, s := range []string{"a,b\nc,d\n", "\"a\"\"b\",c\r\n\r\nd", "\"x\ny\",\"\"\n,", "a\"b,c\n", "\"a\"b\",c\n"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, in string) {
		if strings.Contains(strings.ReplaceAll(in, "\r\n", "\n"), "\r") || strings.ContainsAny(in, "\x00\ufeff") {
			t.Skip("lone CR, NUL or byte order mark")
		}
		for _, lazy := range []bool{false, true} {
			r := csv.NewReader(strings.NewReader(in))
			r.FieldsPerRecord, r.LazyQuotes = -1, lazy
			want, err := r.ReadAll()
			if err != nil {
				continue
			}
			form := Form{Separator: ','}
			var got [][]string
			rows, flags := readAll(&form, in)
			for i, row := range rows {
				if len(row) == 1 && row[0] == "" && flags[i].Marks[0]&catalogue.Quoted == 0 {
					continue
				}
				for c := range row {
					row[c] = strings.ReplaceAll(row[c], "\r\n", "\n")
				}
				got = append(got, row)
			}
			assert.Equal(t, want, got)
		}
	})
}

// TestWriteReadsBack: what AppendCell writes is read as the same cell.
func TestWriteReadsBack(t *testing.T) {
	for _, cell := range []string{"", "a", `"`, `a"b`, `""`, "a,b", "a\nb", "a\r\nb", " a ", "\ta", "ü"} {
		for _, mark := range []catalogue.Mark{0, catalogue.Quoted} {
			line := Style{Separator: ',', Quote: '"'}.AppendCell(nil, cell, mark)
			line = append(line, ",x\n"...)
			rows, _ := readAll(&Form{Separator: ','}, string(line))
			require.Len(t, rows, 1, "%q", cell)
			assert.Equal(t, []string{cell, "x"}, rows[0])
		}
	}
}

func benchmarkData() string {
	line := "LRA-0001,9521234000013,Beech smoker box,\"A solid box, made of \"\"beech\"\" wood, for all smokers. It keeps what belongs to it dry and at hand.\",12.90,4,Linden Row\n"
	return strings.Repeat(line, 20000)
}

func BenchmarkScanner(b *testing.B) {
	data := benchmarkData()
	form := Form{Separator: ','}
	b.SetBytes(int64(len(data)))
	b.ReportAllocs()
	var row catalogue.Row
	for b.Loop() {
		sc := form.Scanner(data)
		for sc.Next(&row) {
		}
	}
}
