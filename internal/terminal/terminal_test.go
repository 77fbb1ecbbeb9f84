package terminal

import (
	"bytes"
	"encoding/json"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
)

// TestPlain: where there is no terminal there is no colour, and lines are as
// long as they may be anywhere.
func TestPlain(t *testing.T) {
	var b bytes.Buffer
	p := NewPrinter(&b, false)
	p.Line(p.Good("good"), " ", p.Open("open"), " ", p.Bold("bold"), " ", p.Faint("faint"))
	assert.Equal(t, "good open bold faint\n", b.String())
	b.Reset()
	p.WrapHanging("→ ", "  ", strings.Repeat("Bürste ", 40))
	for i, line := range strings.Split(strings.TrimSuffix(b.String(), "\n"), "\n") {
		assert.LessOrEqual(t, len([]rune(line)), defaultWidth)
		assert.Equal(t, line, strings.TrimRight(line, " "))
		assert.True(t, strings.HasPrefix(line, map[bool]string{true: "→ B", false: "  B"}[i == 0]), line)
	}
	assert.Equal(t, []string{"\x1b[1mbold words\x1b[0m", "and  plain", "ones"}, wrap("\x1b[1mbold words\x1b[0m and  plain ones", 10),
		"a colour ends where it ends")
	b.Reset()
	p.Table(&Table{Headings: []string{"n", "what"}, Right: []int{0}, Rows: [][]string{{"7", "Bürste"}, {"1,000", "Smoker"}}})
	assert.Equal(t, "      n  what\n      7  Bürste\n  1,000  Smoker\n", b.String())
	b.Reset()
	p.Table(&Table{Headings: []string{"n", "what"}, Rows: [][]string{{"7", strings.Repeat("Bürste ", 40)}, {"8", "Smoker"}}})
	lines := strings.Split(b.String(), "\n")
	assert.True(t, strings.HasSuffix(lines[1], "…"), "what is too long is cut")
	assert.LessOrEqual(t, len([]rune(lines[1])), defaultWidth)
	assert.Equal(t, "  8  Smoker", lines[2], "and nothing else is")
}

// TestBarNeedsATerminal: nothing is drawn into a file or a pipe.
func TestBarNeedsATerminal(t *testing.T) {
	var b bytes.Buffer
	bar := NewBar(&b)
	for i := range int64(100) {
		bar.Update("reading", i, 100)
	}
	bar.Stop()
	assert.Empty(t, b.String())
}

// TestTyped: settings and commands that messages name become what to type; what a file has does not.
func TestTyped(t *testing.T) {
	for message, want := range map[string]string{
		"name it with the setting ‹trust›.": "name it with -trust.", "The setting ‹heading-row› 3": "-heading-row 3",
		"run `the command ‹help rulebook›`": "run `zetanum help rulebook`", "the command ‹begin› prints one": "“zetanum begin” prints one",
		"the headings are: The setting stone, the setting trust, the command begin": "the headings are: The setting stone, the setting trust, the command begin",
	} {
		assert.Equal(t, want, Typed(message))
	}
}

// FuzzClean: what is written is UTF-8 without anything hidden, stays as it is when it is
// cleaned again, and is the text itself where nothing was hidden in it.
func FuzzClean(f *testing.F) {
	for _, s := range []string{"plain", "B\xfcrste", "\x1b[31m", "a\r\nb", "\u202etxt", "\u009b", "<001B>", "\U000e0041"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		out := Clean(s)
		assert.True(t, utf8.ValidString(out) && strings.IndexFunc(out, hidden) < 0, "%q", out)
		assert.Equal(t, out, Clean(out))
		if utf8.ValidString(s) && strings.IndexFunc(s, hidden) < 0 {
			assert.Equal(t, s, out)
		}
		var b strings.Builder
		e := json.NewEncoder(JSON(&b))
		assert.NoError(t, e.Encode(s))
		var back string
		assert.NoError(t, json.Unmarshal([]byte(b.String()), &back))
		assert.Equal(t, strings.ToValidUTF8(s, "\ufffd") == s, back == s)
		assert.Less(t, strings.IndexFunc(b.String(), hidden), 0)
	})
}
