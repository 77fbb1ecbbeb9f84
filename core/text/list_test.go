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
