package quantity

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestYesNoSet: columns of yes and no are read as what they are, and what says neither is left.
func TestYesNoSet(t *testing.T) {
	var s scores
	for _, c := range columnsOf(t, "yesno.jsonl") {
		rule := YesNoRule{Yes: c.target("yes"), No: c.target("no")}
		switch {
		case c.Choices != nil:
			rule.Choices = make(map[string]string)
			for _, choice := range c.Choices {
				rule.Choices[choice[0]] = choice[1]
			}
		case c.Words != nil:
			counting, err := NewCounting(&NumberRule{}, &PriceRule{}, c.Words)
			require.NoError(t, err)
			for i, cell := range c.Cells {
				got, is := counting.Of(cell, Form{})
				if is != Value {
					got = "held"
				}
				s.judge(t, &c, i, got)
			}
			continue
		case c.Blank != nil && *c.Blank != "blank":
			rule.Empty = map[string]string{"held": "hold", "yes": "yes", "no": "no"}[*c.Blank]
		}
		answering := NewAnswering(&rule)
		var y YesNo
		for _, cell := range c.Cells {
			y.Learn(cell)
		}
		for i, cell := range c.Cells {
			got, ok := answering.Of(cell, &y)
			if !ok {
				got = "held"
			}
			s.judge(t, &c, i, got)
		}
	}
	s.assert(t, "yes and no", 98)
}

// TestYesNo: a letter says something only beside its partner.
func TestYesNo(t *testing.T) {
	for _, tt := range []struct {
		cells string
		want  []Answer
	}{
		{"S M L N", []Answer{Neither, Neither, Neither, Neither}},
		{"S N S", []Answer{Yes, No, Yes}},
		{"Y Y", []Answer{Neither, Neither}},
		{"x x", []Answer{Yes, Yes}},
		{"x o", []Answer{Neither, Neither}},
		{"Y no", []Answer{Yes, No}},
		{"J ja", []Answer{Yes, Yes}},
		{"J yes", []Answer{Neither, Yes}},
		{"İYİ EVET hayir ДА Д", []Answer{Neither, Yes, No, Neither, Neither}},
		{"TRUE yes/no -1 2 true", []Answer{Yes, Neither, Neither, Neither, Yes}},
	} {
		var y, other YesNo
		cells := strings.Fields(tt.cells)
		for i, cell := range cells {
			into := &y
			if i%2 == 1 {
				into = &other
			}
			into.Learn(cell)
		}
		other.Merge(y)
		for i, cell := range cells {
			assert.Equal(t, tt.want[i], other.Read(cell), "%s: %s", tt.cells, cell)
		}
	}
}
