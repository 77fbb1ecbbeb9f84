package line

import (
	"context"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"os"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
	"zetanum/core/spill"
)

func TestOrdered(t *testing.T) {
	for _, workers := range []int{1, 2, 7} {
		n := 0
		var got []int
		err := ordered(context.Background(), workers, func() (int, error) {
			if n++; n > 500 {
				return 0, io.EOF
			}
			return n, nil
		}, func(n int) int { return n << 18 }, func(_, item int) (int, error) {
			for range rand.IntN(2000) { // some are slower than others
				_ = item
			}
			return item * item, nil
		}, func(r int) error {
			got = append(got, r)
			return nil
		})
		require.NoError(t, err)
		require.Len(t, got, 500)
		for i, r := range got {
			require.Equal(t, (i+1)*(i+1), r)
		}
	}
}

// TestFirstErrorWins: of several errors the one that belongs to the first item
// is returned, even if a later one happens earlier.
func TestFirstErrorWins(t *testing.T) {
	for range 50 {
		n := 0
		err := ordered(context.Background(), 3, func() (int, error) {
			if n++; n == 4 {
				return 0, errors.New("at the end")
			}
			return n, nil
		}, nil, func(_, item int) (int, error) {
			if item == 2 {
				time.Sleep(time.Millisecond)
			}
			return 0, fmt.Errorf("item %d", item)
		}, func(int) error { return nil })
		require.EqualError(t, err, "item 1")
	}
}

// TestOrderedStops: an error anywhere ends everything and is returned.
func TestOrderedStops(t *testing.T) {
	fault := errors.New("fault")
	for _, where := range []string{"next", "work", "sink"} {
		var handed atomic.Int64
		fail := func(here string, at int64) error {
			if here == where && at == 40 {
				return fault
			}
			return nil
		}
		err := ordered(context.Background(), 3, func() (int64, error) {
			n := handed.Add(1)
			return n, fail("next", n)
		}, func(n int64) int { return int(n) << 20 }, func(_ int, item int64) (int64, error) {
			return item, fail("work", item)
		}, func(item int64) error { return fail("sink", item) })
		assert.ErrorIs(t, err, fault, where)
	}
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	err := ordered(ctx, 2, func() (int, error) { return 1, nil }, nil, func(_, i int) (int, error) { return i, nil },
		func(int) error { return nil })
	assert.ErrorIs(t, err, context.Canceled)
}

// TestSuspects holds the table against a plain map, with room for too few keys
// at first.
func TestSuspects(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	var s suspects
	s.expect(10)
	first := make(map[uint64]uint32)
	want := make(map[int]bool)
	for part := range 40 {
		var keys []rowKey
		for row := range 500 {
			key := r.Uint64N(50000) * 0x9e3779b97f4a7c15
			keys = append(keys, rowKey{key, uint32(row + 1)})
			number := uint32(part*500 + row + 1)
			if owner, again := first[key]; again && owner != number {
				want[int(owner)], want[int(number)] = true, true
			} else {
				first[key] = number
			}
		}
		s.enter(keys, part*500)
	}
	for row := 1; row <= 20000; row++ {
		require.Equal(t, want[row], s.has(row), row)
	}
	for part := range 40 {
		index := PartIndex{Rows: 5, Before: part * 500}
		some := false
		for row := part*500 + 1; row <= part*500+5; row++ {
			some = some || want[row]
		}
		assert.Equal(t, some, s.any(&index))
	}
}

// TestPipelineCheck: a step sees a column when all has been done to it, unless it says
// otherwise.
func TestPipelineCheck(t *testing.T) {
	const a, b, c = 0, 1, 70
	step := func(name string, reads, writes []int, before ...string) Step {
		return Step{Name: name, Reads: catalogue.ColumnsOf(reads...), Writes: catalogue.ColumnsOf(writes...), Before: before}
	}
	for name, test := range map[string]struct {
		steps []Step
		err   string
	}{
		"in order": {[]Step{step("text", nil, []int{a}), step("codes", []int{b}, []int{b}), step("codes", []int{b}, []int{b}),
			step("built", []int{a, b}, []int{c})}, ""},
		"too early": {[]Step{step("built", []int{a, c}, nil), step("text", nil, []int{c})},
			`the step "built" reads column 71 before the step "text" writes into it`},
		"on purpose":        {[]Step{step("built", []int{a}, nil, "text"), step("text", nil, []int{a})}, ""},
		"before another":    {[]Step{step("built", []int{a}, nil, "codes"), step("text", nil, []int{a})}, `"built"`},
		"both write":        {[]Step{step("text", []int{a}, []int{a}), step("codes", []int{a}, []int{a})}, ""},
		"taken again":       {[]Step{step("settle", []int{a}, nil), step("text", nil, []int{a}), step("settle", []int{a}, nil)}, ""},
		"taken before, too": {[]Step{step("settle", nil, []int{a}), step("look", []int{a}, nil), step("settle", nil, []int{a})}, ""},
		"taken again too soon": {[]Step{step("settle", []int{a}, nil), step("settle", []int{a}, nil), step("text", nil, []int{a})},
			`"settle"`},
	} {
		err := (&Pipeline{Steps: test.steps}).Check()
		if test.err == "" {
			assert.NoError(t, err, name)
		} else {
			assert.ErrorContains(t, err, test.err, name)
		}
	}
}

func TestClaims(t *testing.T) {
	row := func(row, product int, print uint64) mark {
		return mark{kind: markRow, key: [2]uint64{print, print}, row: row, product: product}
	}
	claim := func(row, product int, kind ClaimKind, key uint64) mark {
		return mark{kind: kind, key: [2]uint64{key}, row: row, col: int(kind), product: product}
	}
	const ClaimBarcode, ClaimSKU, ClaimFullest ClaimKind = 0, 1, 2
	full := func(row int, key uint64, cells ...uint32) mark {
		return mark{kind: ClaimFullest, key: [2]uint64{key}, row: row, product: row, cells: cells}
	}
	for _, most := range []int{0, 1, 3} { // in memory, and in files
		dir := t.TempDir()
		c := newClaims(dir, 0, []Claim{{}, {}, {Choose: ChooseFullest}})
		for _, s := range []*spill.Sorter{&c.rows, &c.owned, &c.chosen, &c.clash, &c.passes} {
			s.Most = most
		}
		if most > 0 {
			c.cells.Most, c.differ.Most = most, most
		}
		require.NoError(t, c.enter([]mark{
			row(2, 2, 100), claim(2, 2, ClaimSKU, 1), claim(2, 2, ClaimBarcode, 7),
			row(3, 2, 101), claim(3, 2, ClaimBarcode, 7), // the same product again
			row(4, 4, 100), claim(4, 4, ClaimSKU, 1), claim(4, 4, ClaimBarcode, 7), // repeats row 2
		}))
		require.NoError(t, c.enter([]mark{row(5, 5, 102), claim(5, 5, ClaimSKU, 1)})) // another product with the SKU of row 2
		require.NoError(t, c.enter([]mark{row(6, 6, 103), claim(6, 6, ClaimSKU, 1)}))
		require.NoError(t, c.enter([]mark{full(7, 9, 1, 0, 3), full(8, 9, 1, 2, 3), full(9, 9, 1, 2, 4), full(11, 9, 1, 5, 3), full(10, 8, 1, 0, 0),
			claim(7, 7, ClaimSKU, 2), claim(8, 8, ClaimSKU, 2)}))
		s, err := c.settle()
		require.NoError(t, err)
		first, again := s.duplicates.of(4)
		assert.True(t, again && first == 2)
		over, clashes := make(map[int]passed), make(map[int][]clash)
		look := s.lookup()
		for row := range 20 {
			p, ok, err := look.passedOver(row)
			require.NoError(t, err)
			if ok {
				over[row] = p
			}
			list, err := look.clashesOf(row)
			require.NoError(t, err)
			if list != nil {
				clashes[row] = list
			}
		}
		assert.Equal(t, map[int]passed{7: {8, nil}, 9: {8, []int{2}}, 11: {8, []int{1}}}, over, "a row that is passed over clashes with none")
		assert.Equal(t, map[int][]clash{
			2: {{ClaimSKU, int(ClaimSKU), 5}},
			5: {{ClaimSKU, int(ClaimSKU), 2}},
			6: {{ClaimSKU, int(ClaimSKU), 2}},
		}, clashes)
		require.NoError(t, s.close())
		left, err := os.ReadDir(dir)
		require.NoError(t, err)
		assert.Empty(t, left)
	}
}

// TestReportsMerge: reports may be merged in any way.
func TestReportsMerge(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 6))
	reports := make([]Report, 30)
	for i := range reports {
		for range r.IntN(20) {
			n := reports[i].found(catalogue.Code(1+r.IntN(4)), r.IntN(3))
			n.Cells++
			row := r.IntN(1000)
			n.Examples = new(Report).addExample(n.Examples, func() Example { return Example{Row: row} }, row)
		}
		reports[i].Rows = r.IntN(100)
	}
	merge := func(cuts []int) *Report {
		total := new(Report)
		last := 0
		for _, cut := range append(cuts, len(reports)) {
			var some Report
			for i := last; i < cut; i++ {
				some.Merge(&reports[i])
			}
			total.Merge(&some)
			last = cut
		}
		return total
	}
	want := merge(nil)
	for range 20 {
		cut := r.IntN(30)
		assert.Equal(t, want, merge([]int{cut / 2, cut}))
	}
}

// TestRepeats: whatever rows repeat, in whatever order they are added, each is found again.
func TestRepeats(t *testing.T) {
	r := rand.New(rand.NewPCG(6, 16))
	for range 200 {
		var got repeats
		want := make(map[uint32]uint32)
		for row := uint32(2); row < 300; row++ {
			at := row
			if r.IntN(20) == 0 {
				at = 2 + r.Uint32N(400) // as in a table whose rows have been brought together
			}
			if _, known := want[at]; known {
				continue
			}
			first := []uint32{1, row / 2, row - 1, 7}[r.IntN(4)]
			if row%100 > 40 {
				first = []uint32{3, row - 40}[row/100%2]
			}
			got.add(at, first)
			want[at] = first
		}
		for row := range uint32(420) {
			first, ok := got.of(row)
			wanted, there := want[row]
			require.True(t, ok == there && first == wanted, "row %d: %d, not %d", row, first, wanted)
		}
	}
}
