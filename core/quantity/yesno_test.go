package quantity

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

// TestYesNoSet: columns of yes and no are read as what they are, and what says neither is left.
func TestYesNoSet(t *testing.T) {
	var s scores
	for _, c := range columnsOf(t, "yesno.jsonl") {
		if c.Target == nil {
			continue // numbers in place of words are a list of values
		}
		var y YesNo
		for _, cell := range c.Cells {
			y.Learn(cell)
		}
		blank := ""
		if c.Blank != nil {
			blank = map[string]string{"yes": c.target("yes"), "no": c.target("no"), "blank": "", "held": "held"}[*c.Blank]
		}
		for i, cell := range c.Cells {
			s.judge(t, &c, i, map[Answer]string{Yes: c.target("yes"), No: c.target("no"), Nothing: blank, Neither: "held"}[y.Read(cell)])
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
