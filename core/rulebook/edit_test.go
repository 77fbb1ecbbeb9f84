package rulebook

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// TestPut: a word comes to its list and leaves the others; nothing else of the text changes.
func TestPut(t *testing.T) {
	for _, test := range []struct{ name, before, after string }{
		{"no file", "", "[answers]\nyes = [\"w\"]\n"},
		{"no table", "[text] # all\nquotes = \"plain\"", "[text] # all\nquotes = \"plain\"\n\n[answers]\nyes = [\"w\"]\n"},
		{"no list", "[answers] # said\nno = [\"v\"]\n[text]\n", "[answers] # said\nyes = [\"w\"]\nno = [\"v\"]\n[text]\n"},
		{"a table at the end", "[answers]", "[answers]\nyes = [\"w\"]\n"},
		{"at the end of its list", "[answers]\nyes = ['v'] # ]\n", "[answers]\nyes = ['v', \"w\"] # ]\n"},
		{"an empty list", "[answers]\nyes=[ ]\n", "[answers]\nyes=[\"w\" ]\n"},
		{"there already", "[answers]\nyes = [\"v\", 'w']\n", "[answers]\nyes = [\"v\", 'w']\n"},
		{"over several lines", "[answers]\nyes = [\n  \"v\", # \"x]\"\n]\n", "[answers]\nyes = [\n  \"v\", \"w\", # \"x]\"\n]\n"},
		{"out of the first of another", "[answers]\nno = [\"w\", \"v\"]\n", "[answers]\nyes = [\"w\"]\nno = [\"v\"]\n"},
		{"out of the last of another", "[answers]\nno = [\"v\", \"w\"]\n", "[answers]\nyes = [\"w\"]\nno = [\"v\"]\n"},
		{"out of another with nothing else", "[answers]\nno = [\"w\"]\n", "[answers]\nyes = [\"w\"]\nno = []\n"},
		{"a list of another table", "[other]\nyes = [\"w\"]\n", "[other]\nyes = [\"w\"]\n\n[answers]\nyes = [\"w\"]\n"},
		{"a quotation mark in a word", "[answers]\nno = [\"a\\\"]\", 'w']\n", "[answers]\nyes = [\"w\"]\nno = [\"a\\\"]\"]\n"},
		{"ends of lines", "[answers]\r\nno = [\"v\"]\r\n", "[answers]\r\nyes = [\"w\"]\r\nno = [\"v\"]\r\n"},
	} {
		after := Put([]byte(test.before), List{"answers", "yes"}, "w", []List{{"answers", "no"}})
		assert.Equal(t, test.after, string(after), test.name)
		assert.Equal(t, test.after, string(Put(after, List{"answers", "yes"}, "w", []List{{"answers", "no"}})), "%s: twice is once", test.name)
	}
	assert.Equal(t, "[answers]\nyes = ['a \"b\"=c']\n", string(Put(nil, List{"answers", "yes"}, `a "b"=c`, nil)))
}
