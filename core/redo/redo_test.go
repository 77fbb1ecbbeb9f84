package redo_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/heading"
	"zetanum/core/redo"
	"zetanum/core/text"
	"zetanum/internal/brief"
)

func table(name string, headings []string, rows [][]string) *redo.Table {
	t := &redo.Table{Name: name, Headings: headings, Fields: heading.Fields(headings, nil), Rows: rows}
	for n := range rows {
		t.Numbers = append(t.Numbers, n+2)
	}
	return t
}

// anyPair makes a list of spare parts, and what somebody has made of it by hand, with slips in some rows; of how many cells in each column.
func anyPair(r *rand.Rand, slips int) (before, after *redo.Table) {
	kinds := []string{"BRK", "CHN", "TYR", "LMP", "SDL"}
	shelves := map[string]string{"BRK": "Brakes", "CHN": "Chains", "TYR": "Tyres & tubes", "LMP": "Lights", "SDL": "Saddles"}
	makers := []string{"Oakvane", "Tarn & Ridge", "Pedalwright", "Löwenrad"}
	var raw, made [][]string
	for i := range 60 + r.IntN(60) {
		kind, maker := kinds[r.IntN(len(kinds))], makers[r.IntN(len(makers))]
		name, colour := fmt.Sprintf("%s %d", []string{"Disc", "Roller", "Slick", "Beam", "Comfort"}[r.IntN(5)], 100+i), []string{"black", "silver", "red"}[r.IntN(3)]
		cost, stock := 100+r.IntN(9000), r.IntN(90)
		no := fmt.Sprintf("%05d", 1000+7*i)
		images := fmt.Sprintf("%s-1.jpg|%s-2.jpg", no, no)
		raw = append(raw, []string{no, name, maker, kind, colour, fmt.Sprintf("%d,%02d", cost/100, cost%100), fmt.Sprint(stock), images, "internal"})
		cents := (cost*125 + 50) / 100
		made = append(made, []string{"OV-" + strings.TrimLeft(no, "0"), maker + " " + name + ", " + colour, maker, shelves[kind], fmt.Sprintf("%d.%02d", cents/100, cents%100), fmt.Sprint(stock),
			no + "-1.jpg", "https://pics.example/" + no + ".jpg", text.Slug(maker + " " + name), "EUR", "", no})
	}
	headings := []string{"Code", "Title", "Brand", "Department", "Shop price", "Pieces", "Picture 1", "Picture address", "Link name", "Currency", "Remark", "Supplier's code"}
	order := r.Perm(len(made))
	var shuffled [][]string
	for _, n := range order {
		shuffled = append(shuffled, slices.Clone(made[n]))
	}
	for col := 1; col < 11; col++ {
		for range slips {
			shuffled[r.IntN(len(shuffled))][col] = "by hand"
		}
	}
	return table("parts.csv", []string{"Part", "Item", "Make", "Kind", "Finish", "Cost", "Stock", "Photos", "Memo"}, raw), table("upload.csv", headings, shuffled)
}

// TestLearn: of files that were made by hand in known ways each column is explained as it was made, whatever stands in which order, and although
// somebody has changed some cells.
func TestLearn(t *testing.T) {
	seeds := brief.Of(uint64(40), 9)
	for seed := range seeds {
		r := rand.New(rand.NewPCG(seed, 2327))
		before, after := anyPair(r, int(seed%3))
		l, err := redo.Learn(before, after)
		require.NoError(t, err)
		require.Equal(t, [2]string{"Part", "Supplier's code"}, l.Keys)
		require.Equal(t, [2]int{len(before.Rows), 0}, [2]int{l.Paired, l.Alone})
		got := make(map[string]string)
		for _, c := range l.Columns {
			says := ""
			switch c.Kind {
			case redo.Constant:
				says = "always " + c.Value
			case redo.Copy:
				says = fmt.Sprintf("copy %s %d", c.From, len(c.Words))
			case redo.Part:
				says = fmt.Sprintf("part %d of %s", c.Part, c.From)
			case redo.Pattern:
				says = c.Value
			case redo.Factor:
				says = fmt.Sprintf("%s times %s%s", c.From, c.Times, c.EndIn)
			case redo.Empty:
				says = "empty"
			}
			got[c.Heading] = says
			assert.GreaterOrEqual(t, c.True, c.Of-2, "%d %s", seed, c.Heading)
		}
		if seed%3 > 0 {
			delete(got, "Remark") // of which nothing is left but the slips
		} else {
			assert.Equal(t, "empty", got["Remark"])
			delete(got, "Remark")
		}
		assert.Equal(t, map[string]string{"Code": "", "Title": `{"Make"} {"Item"}, {"Finish"}`, "Brand": "copy Make 0", "Department": "copy Kind 5", "Shop price": "Cost times 1.25",
			"Pieces": "copy Stock 0", "Picture 1": "part 1 of Photos", "Picture address": `https://pics.example/{"Part"}.jpg`, "Link name": `{"Make" slug}-{"Item" slug}`, "Currency": "always EUR",
			"Supplier's code": "copy Part 0"}, got, seed)
	}
	_, err := redo.Learn(table("a.csv", []string{"A"}, [][]string{{"one"}, {"two"}, {"three"}}), table("b.csv", []string{"B"}, [][]string{{"four"}, {"five"}, {"six"}}))
	assert.ErrorIs(t, err, redo.ErrNothingShared)
}

// TestLearnSeldom: what a value is called in few of its rows, and in most nothing, is not learnt as its word.
func TestLearnSeldom(t *testing.T) {
	var raw, made [][]string
	for i := range 60 {
		kind, word := []string{"BRK", "CHN"}[i%2], []string{"Brakes", "Chains"}[i%2]
		if i < 3 {
			kind, word = "TYR", []string{"Tyres", "", ""}[i]
		}
		raw, made = append(raw, []string{fmt.Sprint(1000 + i), kind}), append(made, []string{fmt.Sprint(1000 + i), word})
	}
	for range 20 {
		l, err := redo.Learn(table("parts.csv", []string{"Part", "Kind"}, raw), table("upload.csv", []string{"Code", "Department"}, made))
		require.NoError(t, err)
		var words []string
		for _, w := range l.Columns[1].Words {
			words = append(words, w.Ours+" "+w.Theirs)
		}
		require.Equal(t, []string{"CHN Chains", "BRK Brakes"}, words)
	}
}
