package quantity

import (
	"bufio"
	"encoding/json"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestYesNoSet: columns of yes and no are read as what they are, and what says neither is left.
func TestYesNoSet(t *testing.T) {
	f, err := os.Open("testdata/yesno.jsonl")
	require.NoError(t, err)
	defer f.Close()
	right, all, asked, wrong := 0, 0, 0, 0
	for lines := bufio.NewScanner(f); lines.Scan(); {
		var c struct {
			ID, Heading    string
			Cells, Truth   []string
			Accept         map[string][]string
			Target         map[string]string
			Blank          *string
			Choices, Words [][2]string
		}
		require.NoError(t, json.Unmarshal(lines.Bytes(), &c))
		if c.Target == nil {
			continue // numbers in place of words are a list of values
		}
		var y YesNo
		for _, cell := range c.Cells {
			y.Learn(cell)
		}
		blank := ""
		if c.Blank != nil {
			blank = map[string]string{"yes": c.Target["yes"], "no": c.Target["no"], "blank": "", "held": "held"}[*c.Blank]
		}
		for i, cell := range c.Cells {
			got := map[Answer]string{Yes: c.Target["yes"], No: c.Target["no"], Nothing: blank, Neither: "held"}[y.Read(cell)]
			kept := func(s string) bool { return s == "ask" || strings.HasPrefix(s, "held") }
			all++
			switch wants := append([]string{c.Truth[i]}, c.Accept[itoa(i)]...); {
			case slices.ContainsFunc(wants, func(want string) bool { return want == got || kept(want) && kept(got) }):
				right++
			case kept(got):
				asked++
				t.Logf("%s %q: %q is %q, and %s was read", c.ID, c.Heading, cell, c.Truth[i], got)
			default:
				wrong++
				t.Logf("WRONG: %s %q: %q is %q, and %s was read", c.ID, c.Heading, cell, c.Truth[i], got)
			}
		}
	}
	t.Logf("yes and no: %d of %d right, %d asked although settled, %d wrong", right, all, asked, wrong)
	assert.Zero(t, wrong)
	assert.GreaterOrEqual(t, 100*right, 98*all)
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
