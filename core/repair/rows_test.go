package repair

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/collate"
	"golang.org/x/text/language"

	"zetanum/internal/brief"
)

// aList makes a list of rows with few different values, and the rows.
func aList(seed uint64) (text string, rows [][]string) {
	r := rand.New(rand.NewPCG(seed, 77))
	brands := []string{"Nørrebi", "nørrebi", "Hollowbrook", "", "Ôrmeau", "Queen & Drone 9", "Queen & Drone 10"}
	var b strings.Builder
	b.WriteString("SKU,Title,Brand,Memo\n")
	for i := range 60 + r.IntN(200) {
		row := []string{fmt.Sprintf("S%d", i), fmt.Sprintf("T%d", r.IntN(40)), brands[r.IntN(len(brands))],
			[]string{"", "x", "y"}[r.IntN(3)]}
		rows = append(rows, row)
		b.WriteString(strings.Join(row, ",") + "\n")
	}
	return b.String(), rows
}

// sets runs a rulebook on a list and returns the rows that go out.
func sets(t *testing.T, text, rules string, workers, part int) (*Result, [][]string) {
	t.Helper()
	dir := t.TempDir()
	opt := fixed(write(t, dir, "list.csv", text), Target(dir+"/list.csv"))
	opt.Book, opt.Workers, opt.PartSize = bookIn(t, dir, rules, nil), workers, part
	r := run(t, opt)
	var rows [][]string
	for _, line := range strings.Split(strings.TrimSpace(ready(t, r)), "\n")[1:] {
		rows = append(rows, strings.Split(line, ","))
	}
	return r, rows
}

// TestSorted: the same rows go out, in the order of a dictionary, those that are
// equal in it as they stood; whatever the workers and the parts.
func TestSorted(t *testing.T) {
	order := collate.New(language.Und, collate.Numeric)
	for seed := range brief.Of(uint64(8), 2) {
		text, rows := aList(seed)
		_, got := sets(t, text, "[sheet]\nsort_by = [\"brand\", \"title\"]\n", 1, 1<<20)
		want := slices.Clone(rows)
		slices.SortStableFunc(want, func(a, b []string) int {
			if c := order.CompareString(a[2], b[2]); c != 0 {
				return c
			}
			return order.CompareString(a[1], b[1])
		})
		require.Equal(t, want, got)
		_, again := sets(t, text, "[sheet]\nsort_by = [\"brand\", \"title\"]\n", 3, 100)
		require.Equal(t, want, again)

		// With the numbers of the rows the order of the source comes back.
		const numbers = "[sheet]\nrow_numbers = \"Source row\"\nsort_by = "
		r, _ := sets(t, text, numbers+"[\"brand\", \"title\"]\n", 1, 1<<20)
		_, back := sets(t, ready(t, r), numbers+"[\"Source row\"]\n", 2, 100)
		require.Len(t, back, len(rows))
		for i, row := range back {
			require.Equal(t, append(slices.Clone(rows[i]), strconv.Itoa(i+2)), row)
		}
	}
}

// TestOnePer: of the rows with one value the right one goes out, and those without a
// value all do; what is set aside says what is kept and what differs.
func TestOnePer(t *testing.T) {
	full := func(row []string) (n int) {
		for _, cell := range row {
			if cell != "" {
				n++
			}
		}
		return n
	}
	for seed := range uint64(6) {
		text, rows := aList(seed)
		for choose, better := range map[string]func(a, b []string) bool{
			"first": func(a, b []string) bool { return false }, "last": func(a, b []string) bool { return true },
			"fullest": func(a, b []string) bool { return full(b) > full(a) },
		} {
			best := make(map[string]int)
			for i, row := range rows {
				if at, there := best[row[2]]; !there || better(rows[at], row) {
					best[row[2]] = i
				}
			}
			var want [][]string
			for i, row := range rows {
				if row[2] == "" || best[row[2]] == i {
					want = append(want, row)
				}
			}
			rules := fmt.Sprintf("[[rows]]\none_per = \"brand\"\nchoose = %q\n", choose)
			r, got := sets(t, text, rules, 2, 300)
			require.Equal(t, want, got, choose)
			require.Equal(t, len(rows)-len(want), r.Counts().Aside)
			for _, row := range rowsIn(t, r.Folder+"/aside.csv", r.Source.Form)[1:] {
				require.Contains(t, row[1], fmt.Sprintf("and row %d is kept; this one differs from it in SKU", best[row[4]]+2))
			}
		}
	}
}

// TestUnify: every value goes out as most of its rows had it; where two spellings are
// as frequent, its rows are held.
func TestUnify(t *testing.T) {
	for seed := range uint64(8) {
		text, rows := aList(seed)
		counts := make(map[string]int)
		for _, row := range rows {
			counts[row[2]]++
		}
		r, got := sets(t, text, "[field.brand]\nunify = true\n", 2, 300)
		one, other := counts["Nørrebi"], counts["nørrebi"]
		for _, row := range got {
			switch {
			case one == other:
				assert.NotContains(t, []string{"Nørrebi", "nørrebi"}, row[2])
			case strings.EqualFold(row[2], "Nørrebi"):
				assert.Equal(t, one > other, row[2] == "Nørrebi")
			}
		}
		if one == other {
			assert.Equal(t, one+other, r.Counts().Held)
		} else {
			assert.Zero(t, r.Counts().Held)
			assert.Equal(t, min(one, other), r.Counts().Changed)
		}
	}
}

// TestLimits: what the fields must be is counted as the plainest way counts it.
func TestLimits(t *testing.T) {
	for seed := range uint64(6) {
		text, rows := aList(seed)
		titles := make(map[string]int)
		for _, row := range rows {
			titles[row[1]]++
		}
		held := 0
		for _, row := range rows {
			if row[2] == "" || titles[row[1]] > 1 || len([]rune(row[2])) > 11 {
				held++
			}
		}
		rules := "[field.brand]\nrequired = true\nlongest = 11\n[field.title]\nunique = true\n[field.memo]\ntype = \"text\"\none_of = [\"x\", \"y\"]\n"
		r, got := sets(t, text, rules, 2, 300)
		for _, row := range got {
			assert.NotEmpty(t, row[2])
			assert.Equal(t, 1, titles[row[1]])
			assert.LessOrEqual(t, len([]rune(row[2])), 11)
		}
		short, _ := sets(t, text, rules+"[[replace]]\nin = [\"Memo\"]\nfind = \"zzz\"\n", 1, 1<<20)
		assert.Equal(t, r.Counts(), short.Counts(), "a rule that finds nothing changes nothing")
		assert.Equal(t, held, r.Counts().Held)
	}
}

// TestOnePerOfRepeats: rows that repeat another in every cell, and are kept, are chosen among
// like the others.
func TestOnePerOfRepeats(t *testing.T) {
	const list = "SKU,Brand\nA,x\nB,y\nA,x\nC,x\nC,x\n"
	for rules, want := range map[string]string{
		"[sheet]\nrepeats = \"keep\"\n[[rows]]\none_per = \"brand\"\nchoose = \"last\"\n": "SKU,Brand\nB,y\nC,x\n",
		"[sheet]\nrepeats = \"keep\"\n[[rows]]\none_per = \"brand\"\n":                    "SKU,Brand\nA,x\nB,y\n",
		"[[rows]]\none_per = \"brand\"\nchoose = \"last\"\n":                              "SKU,Brand\nB,y\nC,x\n",
	} {
		path := write(t, t.TempDir(), "list.csv", list)
		opt := fixed(path, Target(path))
		opt.Book = book(t, rules)
		assert.Equal(t, want, ready(t, run(t, opt)), rules)
	}
}
