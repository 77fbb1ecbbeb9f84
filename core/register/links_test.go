package register

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestLinkResults: the last result of each link is known, whoever opened it, for as long as somebody wants it; codes do not change with it.
func TestLinkResults(t *testing.T) {
	onBoth(t, func(t *testing.T, open func() *Register, c *clock) {
		r, other := open(), open()
		before, err := r.Serial(t.Context())
		require.NoError(t, err)
		var links []string
		var list []LinkResult
		for n := range 2*linksAtOnce + 7 {
			links = append(links, fmt.Sprintf("https://cdn.shop.example/%d.jpg?ä='\"", n))
			list = append(list, LinkResult{links[n], c.now(), fmt.Appendf(nil, `{"n":%d}`, n)})
		}
		require.NoError(t, r.KeepLinks(t.Context(), list))
		require.NoError(t, other.KeepLinks(t.Context(), []LinkResult{{links[3], c.now().Add(time.Hour), []byte("newer")}}))
		require.NoError(t, r.KeepLinks(t.Context(), []LinkResult{{links[3], c.now().Add(-time.Hour), []byte("older")}}))
		require.NoError(t, r.KeepLinks(t.Context(), nil))
		known := func(since time.Time, links ...string) map[string]string {
			m := make(map[string]string)
			require.NoError(t, other.LinkResults(t.Context(), links, since, func(one LinkResult) { m[one.Link] = string(one.Result) }))
			return m
		}
		all := known(c.now(), links...)
		assert.Len(t, all, len(links))
		assert.Equal(t, `{"n":1006}`, all[links[1006]])
		assert.Equal(t, map[string]string{links[3]: "newer"}, known(c.now().Add(time.Minute), links[2], links[3], "https://nobody.example/"))
		n, last, err := r.LinkSum(t.Context())
		require.NoError(t, err)
		assert.Equal(t, len(links), n)
		assert.True(t, last.Equal(c.now().Add(time.Hour)))
		after, err := r.Serial(t.Context())
		require.NoError(t, err)
		assert.Equal(t, before, after)
	})
}
