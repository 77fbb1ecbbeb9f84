package text

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestList(t *testing.T) {
	for _, test := range []struct {
		cell   string
		marks  []List
		want   List
		values []string
	}{
		{"red; blue, dark ;", TagMarks, ";", []string{"red", "blue, dark"}},
		{"a|b;c", TagMarks, "|", []string{"a", "b;c"}},
		{" one value ", TagMarks, "", []string{"one value"}},
		{"S / M / L", ValueMarks, " / ", []string{"S", "M", "L"}},
		{"1/2 l, 1 l", ValueMarks, ",", []string{"1/2 l", "1 l"}},
		{"a.jpg b.jpg", LinkMarks, " ", []string{"a.jpg", "b.jpg"}},
		{"one\ntwo\n", ValueMarks, "\n", []string{"one", "two"}},
		{"", TagMarks, "", nil},
	} {
		l, ok := FindList(test.marks, test.cell)
		assert.Equal(t, test.want, l, test.cell)
		assert.Equal(t, test.want != "", ok, test.cell)
		assert.Equal(t, test.values, l.Values(test.cell), test.cell)
		assert.Equal(t, test.cell, l.Join(l.Parts(test.cell)), "nothing is lost")
	}
	l, _ := FindList(TagMarks, "a", "b;c", "d|e")
	assert.Equal(t, List("|"), l, "of several cells the most telling mark")
	assert.Equal(t, []string{"a", "", "b"}, List(",").Items(" a ,, b"))
	assert.True(t, List(",").Spaced("a, b") && !List(",").Spaced("a,b"))
}

// TestQuoted: quotation marks around a value keep the marks in it, and a comma between digits is that of a number.
func TestQuoted(t *testing.T) {
	for _, test := range []struct {
		cell   string
		at     List
		values []string
		within bool
	}{
		{`Red,"Wind, water", Oak`, ",", []string{"Red", "Wind, water", "Oak"}, true},
		{`"Wind, water"`, ",", []string{"Wind, water"}, false},
		{`"Salt; pepper",Bees`, ";", []string{`"Salt`, `pepper",Bees`}, false},
		{`"5"" nails", x`, ",", []string{`5" nails`, "x"}, true},
		{`5" nails, 3" screws`, ",", []string{`5" nails`, `3" screws`}, true},
		{`"open, never shut`, ",", []string{`"open`, "never shut"}, true},
		{"0,5 l, 1,5 l", ",", []string{"0,5 l", "1,5 l"}, true}, {"38,39", ",", []string{"38,39"}, false},
		{" , a ,, ", ",", []string{"a"}, true}, {"a", "", []string{"a"}, false}, {"", ",", nil, false},
	} {
		assert.Equal(t, test.values, test.at.Quoted(test.cell), test.cell)
		assert.Equal(t, test.within, test.at != "" && test.at.Within(test.cell), test.cell)
	}
	for _, value := range []string{"a", "a, b", `say "a, b"`, "a,b"} {
		assert.Equal(t, []string{"x", value}, List(",").Quoted("x,"+List(",").Quote(value)), "read back")
	}
}
