package lists

import (
	"testing"
	"unsafe"

	"github.com/stretchr/testify/assert"
)

func TestTimesHasCopies(t *testing.T) {
	var times Times
	assert.Zero(t, times.Of("Tools"))
	cell := []byte("Tools, Tools")
	for _, at := range []int{0, 7} { // the second is another text in memory, and its key stays the copy of the first
		times.Add(string(cell[at:at+5]), 2)
		times.Add(unsafe.String(&cell[at], 5), 1)
	}
	clear(cell)
	assert.Equal(t, 6, times.Of("Tools"))
	assert.Len(t, times, 1)
	for text := range times {
		assert.Equal(t, "Tools", text)
	}
}
