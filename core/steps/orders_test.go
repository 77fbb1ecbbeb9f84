package steps

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/sheet"
)

// TestSorted: orders are sorted so that each is carried out when everything is done
// to what it reads, in the order of their phases for one column, and otherwise as
// they were given; circles are named.
func TestSorted(t *testing.T) {
	table := &sheet.Table{Columns: catalogue.Columns{Headings: []string{"A", "B", "C", "D"}, Fields: make([]catalogue.Field, 4)}}
	for _, test := range []struct {
		orders string // phase, what is read > what is written
		want   string
		err    string
	}{
		{"0 >A, 0 >B", "0 1", ""},
		{"2 A>B, 5 >A", "1 0", ""},
		{"5 >A, 1 >A, 3 >A", "1 2 0", ""},
		{"2 A>B, 2 B>C, 5 >A", "2 0 1", ""},
		{"2 B>C, 2 A>B, 5 >A, 6 >C", "2 1 0 3", ""},
		{"1 A>BC, 5 >B, 2 B>D", "0 1 2", ""},
		{"5 A>A, 5 >B", "0 1", ""}, // reads what it writes
		{"2 A>B, 2 B>A", "", `[[o0]] for "B" needs what [[o1]] does to "A", and [[o1]] for "A" needs what [[o0]] does to "B"`},
		{"2 A>B, 2 B>C, 2 C>A", "", "wait for one another"},
		{"1 B>A, 5 A>A, 2 A>B", "", "wait for one another"},
	} {
		o := &Orders{Sheet: &Sheet{Table: table}}
		for i, text := range strings.Split(test.orders, ", ") {
			phase, rest, _ := strings.Cut(text, " ")
			reads, writes, _ := strings.Cut(rest, ">")
			one := Order{Key: fmt.Sprint("o", i), Phase: Phase(phase[0] - '0'), number: i}
			for _, c := range reads {
				one.Reads = append(one.Reads, int(c-'A'))
			}
			for _, c := range writes {
				one.Writes = append(one.Writes, int(c-'A'))
			}
			o.list = append(o.list, one)
		}
		sorted, err := o.sorted()
		if test.err != "" {
			require.ErrorIs(t, err, columns.ErrRefused, test.orders)
			assert.ErrorContains(t, err, test.err)
			continue
		}
		require.NoError(t, err, test.orders)
		var got []string
		for _, one := range sorted {
			got = append(got, fmt.Sprint(one.number))
		}
		assert.Equal(t, test.want, strings.Join(got, " "), test.orders)
	}
}

// TestSortedHolds: of any orders, those that can be sorted are sorted as they must.
func TestSortedHolds(t *testing.T) {
	r := rand.New(rand.NewPCG(11, 12))
	const width = 6
	table := &sheet.Table{Columns: catalogue.Columns{Headings: make([]string, width), Fields: make([]catalogue.Field, width)}}
	sortable := 0
	for range 2000 {
		o := &Orders{Sheet: &Sheet{Table: table}}
		for range 1 + r.IntN(8) {
			one := Order{Phase: Phase(r.IntN(int(PhaseLook))), Writes: []int{r.IntN(width)}}
			for range r.IntN(3) {
				one.Reads = append(one.Reads, r.IntN(width))
			}
			o.list = append(o.list, one)
		}
		sorted, err := o.sorted()
		if err != nil {
			continue
		}
		sortable++
		require.Len(t, sorted, len(o.list))
		for i, early := range sorted {
			for _, late := range sorted[i+1:] {
				for _, col := range late.Writes {
					if slices.Contains(early.Writes, col) {
						require.LessOrEqual(t, early.Phase, late.Phase)
					} else {
						require.NotContains(t, early.Reads, col, "a column is read before all is done to it")
					}
				}
			}
		}
	}
	assert.Greater(t, sortable, 500)
}
