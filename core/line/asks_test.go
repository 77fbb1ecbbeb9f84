package line

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
)

// TestAsks: asks are settled in the order of what they ask by, whatever that of the rows; rows that do not
// go out get nothing, nor do those that nobody can tell apart; and each row finds what it was given.
func TestAsks(t *testing.T) {
	const rows = 3*askPiece + 17 // in several pieces
	for _, shuffled := range []bool{false, true} {
		l := new(askList)
		var requests []request
		for row := uint32(1); row <= rows; row++ {
			by := By{uint64(rows - row), 0, uint64(row)} // the last comes first
			if row == 20 || row == 21 {
				by = By{7, 7, 7}
			}
			requests = append(requests, request{ask: ask{row: row, product: row}, by: by, text: fmt.Sprintf("for %d", row)})
		}
		if shuffled {
			requests[5], requests[askPiece+9] = requests[askPiece+9], requests[5]
		}
		l.add(requests[:100])
		l.add(requests[100:])
		late := new(settled)
		late.held.add(30)
		late.gone.add(31)
		late.duplicates.add(32, 3)
		var order []string
		a := &allotted{kinds: []Allotment{{Col: 4, Twins: catalogue.MintTwins, Allot: func(asks Asks) error {
			for i := range asks.Len() {
				order = append(order, asks.Text(i))
				if asks.Text(i) == "for 40" {
					asks.Deny(i, catalogue.MintTaken, "A-1", 0)
				} else {
					asks.Give(i, "code "+asks.Text(i))
				}
			}
			return nil
		}}}}
		require.NoError(t, a.settle(l, late))
		assert.Len(t, order, rows-5)
		assert.Equal(t, fmt.Sprintf("for %d", rows), order[0])
		assert.Equal(t, "for 1", order[len(order)-1])
		given := func(row int) string {
			list, k := a.find(0, &catalogue.Row{Number: row})
			if k == nil {
				return "nothing"
			}
			return list.textOf(k)
		}
		for row, want := range map[int]string{1: "code for 1", 6: "code for 6", askPiece + 10: fmt.Sprintf("code for %d", askPiece+10),
			rows: fmt.Sprintf("code for %d", rows), 20: "", 40: "A-1", 30: "nothing", 31: "nothing", 32: "nothing", rows + 1: "nothing"} {
			assert.Equal(t, want, given(row), row)
		}
		var said []string
		for _, row := range []int{20, 21, 22, 30, 40} {
			a.denied(&catalogue.Row{Number: row}, func(code catalogue.Code, col int, facts catalogue.Facts) {
				said = append(said, fmt.Sprintf("%d: %s in %d, %d %s", row, code, col, facts.Row, facts.Other))
			})
		}
		assert.Equal(t, []string{"20: mint.twins in 4, 21 ", "21: mint.twins in 4, 20 ", "40: mint.taken in 4, 0 A-1"}, said)

		var released []string
		a.kinds[0].Release = func(given []string) error {
			released = given
			return nil
		}
		require.NoError(t, a.release(func(product uint32) bool { return product == 1 || product == 40 }))
		assert.Equal(t, []string{"code for 1"}, released)
		assert.Equal(t, "nothing", given(1))
	}
}

// TestAsksOfProducts: a product that asks as a whole goes out if one of its rows does.
func TestAsksOfProducts(t *testing.T) {
	late := new(settled)
	late.gone.add(5)
	late.duplicates.add(6, 1)
	for _, test := range []struct {
		k    ask
		goes bool
	}{
		{ask{row: 5, product: 5, other: 6, whole: true}, false},
		{ask{row: 5, product: 5, other: 7, whole: true}, true},
		{ask{row: 5, product: 5, other: 7}, false},
		{ask{row: 7, product: 5}, true},
	} {
		assert.Equal(t, test.goes, late.goes(&test.k), "%+v", test.k)
	}
	late.held.add(5)
	assert.False(t, late.goes(&ask{row: 7, product: 5}))
	late.held, late.sampled = nil, map[int]bool{9: true}
	assert.False(t, late.goes(&ask{row: 7, product: 5}))
	assert.True(t, late.goes(&ask{row: 9, product: 9}))
}

// TestTexts: texts stay as they are over the ends of pieces.
func TestTexts(t *testing.T) {
	var list texts
	var at []uint32
	text := func(i int) string { return strings.Repeat(string(rune('a'+i%26)), i%977) }
	for i := range 5000 {
		at = append(at, list.add(text(i)))
	}
	assert.Greater(t, len(list.pieces), 2)
	for i := range at {
		require.Equal(t, text(i), list.at(at[i], uint16(len(text(i)))))
	}
	long := list.add(strings.Repeat("x", 2*mostAsked))
	assert.Len(t, list.at(long, mostAsked), mostAsked)
}
