package text

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestRecovers(t *testing.T) {
	for _, test := range []struct {
		lost, whole string
		want        bool
	}{
		{"B\ufffdrste", "Bürste", true}, {"B\ufffd\ufffdrste f\ufffdr", "Bürste für", true}, {"\ufffd\ufffd\ufffd", "–", true},
		{"x \ufffd\ufffd y", "x äö y", true},
		{"B\ufffdrste", "Borste", false}, {"B\ufffdrste", "Bürsten", false}, {"B\ufffdrste", "B\ufffdrste", false},
		{"B\ufffdrste", "Bäürste", false}, {"B\ufffdrste", "", false},
		{"\ufffd", "ä", true}, {"same", "same", true}, {"same", "other", false}, {"\ufffdä", "ää", true}, {"\ufffd", "", false},
		{strings.Repeat("\ufffda", 2000), strings.Repeat("äa", 1999) + "äb", false},
		{strings.Repeat("\ufffd\ufffdä", 60) + "x", strings.Repeat("ä", 150) + "y", false},
		{strings.Repeat("\ufffdä", 60) + "x", strings.Repeat("ä", 120) + "y", false},
	} {
		assert.Equal(t, test.want, Recovers(test.lost, test.whole), "%.40q %.40q", test.lost, test.whole)
	}
}
