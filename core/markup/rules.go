package markup

import (
	"fmt"
	"slices"
	"strings"

	"zetanum/core/catalogue"
)

// Rules say how descriptions are written: [description], and any field of type html.
type Rules struct {
	// Clean orders that they are: nothing is done without it.
	Clean bool `toml:"-" json:"-"`
	// Keep are elements that are kept besides the usual ones, such as "s", and attributes of elements, such as "a target".
	Keep []string `toml:"keep" json:"keep,omitempty"`
	// Styles are the CSS properties that are kept.
	Styles []string `toml:"styles" json:"styles,omitempty"`
	// Links and Images say what becomes of links and pictures, and Rel what links that leave the shop say of that.
	Links  string `toml:"links" json:"links,omitempty"`
	Images string `toml:"images" json:"images,omitempty"`
	Rel    string `toml:"rel" json:"rel,omitempty"`
	// HeadingsFrom is the level of the highest heading, so that it stands below those of the page.
	HeadingsFrom int `toml:"headings_from" json:"headings_from,omitempty"`
	// BoldHeadings makes headings of paragraphs that are bold and nothing else, TextHeadings of lines of plain text in capitals or with a
	// colon at their end.
	BoldHeadings bool `toml:"bold_headings" json:"bold_headings,omitempty"`
	TextHeadings bool `toml:"text_headings" json:"text_headings,omitempty"`
	// NamedLines is what lines of a name, a colon and a value become: "table" or "list".
	NamedLines string `toml:"named_lines" json:"named_lines,omitempty"`
	// LinkAddresses makes links of addresses of the web and of mail in texts.
	LinkAddresses bool `toml:"link_addresses" json:"link_addresses,omitempty"`
	// Markdown reads cells as simple Markdown, where the column shows that it is.
	Markdown bool `toml:"markdown" json:"markdown,omitempty"`
	// Layout is how blocks are put on lines: see [Layouts]; as most cells of the column have it, if it is empty.
	Layout Layout `toml:"layout" json:"layout,omitempty"`
	// WriteAs is "html", or "text" for importers that take none.
	WriteAs string `toml:"write_as" json:"write_as,omitempty"`
	// From is the field of which an empty cell gets the beginning, and End where that ends: at a "sentence" or a "word".
	From string `toml:"-" json:"-"` // the key from has it, which other kinds of fields have, too
	End  string `toml:"end" json:"end,omitempty"`
	// Cut leaves out blocks at the end of what is longer than the field may be.
	Cut bool `toml:"cut" json:"cut,omitempty"`
	// NoMention are words that are found and told, such as the name of another shop; NoMentionFrom is a sheet that has more.
	NoMention     []string `toml:"no_mention" json:"no_mention,omitempty"`
	NoMentionFrom string   `toml:"no_mention_from" json:"no_mention_from,omitempty"`
	// CommonPhrase is in how large a part of the descriptions a sentence has to stand to be named, between 0 and 1.
	CommonPhrase float64 `toml:"common_phrase" json:"common_phrase,omitempty"`
}

// A Layout is how blocks are put on lines.
type Layout string

// The layouts.
const (
	OneLine Layout = "one-line" // all in one
	Blocks  Layout = "blocks"   // each block that is in no other on a line of its own
	Lines   Layout = "lines"    // each block, and each item of a list
)

// Layouts are all layouts.
var Layouts = []Layout{OneLine, Blocks, Lines}

// What can become of links and of pictures.
const (
	Keep     = "keep"
	Drop     = "drop"
	AsText   = "text"      // of links: their text
	SameShop = "same-shop" // of links: kept within the shop, the text of others
	ToImages = "to-images" // of pictures: moved into the image field
)

// What descriptions are written as, and where a beginning of them ends.
const (
	HTML      = "html"
	PlainText = "text"
	Sentence  = "sentence"
	Word      = "word"
	AsTable   = "table"
	AsList    = "list"
)

// Idle reports whether nothing is done to the cells of the field.
func (r *Rules) Idle() bool { return !r.Clean && r.WriteAs != PlainText && r.From == "" }

// Check returns what is wrong with the rules of a field of a kind; limited is whether it says how long the field may be.
func (r *Rules) Check(kind catalogue.Kind, limited bool) (problems []catalogue.Problem) {
	wrong := func(key, format string, args ...any) {
		problems = append(problems, catalogue.Problem{Key: key, Text: fmt.Sprintf(format, args...)})
	}
	said := r.said()
	if kind != catalogue.HTMLKind {
		if len(said) > 0 {
			wrong(said[0], "does not go with a field of type %s; it goes with html", kind)
		}
		return problems
	}
	one := func(key, value string, of ...string) {
		if value != "" && !slices.Contains(of, value) {
			wrong(key, "there is no %q; it can be %s", value, strings.Join(of, ", "))
		}
	}
	one("links", r.Links, Keep, AsText, Drop, SameShop)
	one("images", r.Images, Keep, Drop, ToImages)
	one("named_lines", r.NamedLines, AsTable, AsList)
	one("layout", string(r.Layout), string(OneLine), string(Blocks), string(Lines))
	one("write_as", r.WriteAs, HTML, PlainText)
	one("end", r.End, Sentence, Word)
	if !r.Clean && r.WriteAs != PlainText {
		for _, key := range said {
			if !slices.Contains([]string{"write_as", "from", "end", "no_mention", "no_mention_from", "common_phrase"}, key) {
				wrong(key, "says how descriptions are written, and nothing orders that they are: add clean = true")
				break
			}
		}
	}
	if r.End != "" && r.From == "" {
		wrong("end", "says where the beginning of another field ends; name that with from")
	}
	if (r.From != "" || r.Cut) && !limited {
		key := "cut"
		if r.From != "" {
			key = "from"
		}
		wrong(key, "nothing says how long the field may be; say it with longest = 160, for example")
	}
	if r.CommonPhrase < 0 || r.CommonPhrase >= 1 {
		wrong("common_phrase", "is a part of all descriptions, between 0 and 1, such as 0.3")
	}
	if r.HeadingsFrom != 0 && (r.HeadingsFrom < 1 || r.HeadingsFrom > 6) {
		wrong("headings_from", "headings have the levels 1 to 6")
	}
	if r.Rel != "" && valueOf(words, r.Rel) != r.Rel {
		wrong("rel", "is one or more words, such as nofollow noopener")
	}
	for _, name := range r.Keep {
		if said := checkKeep(name); said != "" {
			wrong("keep", "%s", said)
		}
	}
	for _, name := range r.Styles {
		if !slices.Contains(properties, name) {
			wrong("styles", "%q is no property that can be kept; these are: %s", name, strings.Join(properties, ", "))
		}
	}
	return problems
}

// said returns the keys that the rules have.
func (r *Rules) said() (keys []string) {
	for _, k := range []struct {
		name string
		has  bool
	}{
		{"keep", r.Keep != nil}, {"styles", r.Styles != nil}, {"links", r.Links != ""}, {"images", r.Images != ""}, {"rel", r.Rel != ""},
		{"headings_from", r.HeadingsFrom != 0}, {"bold_headings", r.BoldHeadings}, {"text_headings", r.TextHeadings},
		{"named_lines", r.NamedLines != ""}, {"link_addresses", r.LinkAddresses}, {"markdown", r.Markdown}, {"layout", r.Layout != ""},
		{"write_as", r.WriteAs != ""}, {"from", r.From != ""}, {"end", r.End != ""}, {"cut", r.Cut},
		{"no_mention", r.NoMention != nil}, {"no_mention_from", r.NoMentionFrom != ""}, {"common_phrase", r.CommonPhrase != 0},
	} {
		if k.has {
			keys = append(keys, k.name)
		}
	}
	return keys
}

// checkKeep says what is wrong with an element, or an attribute of one, that is to be kept.
func checkKeep(name string) string {
	of, attr, two := strings.Cut(name, " ")
	can := strings.Fields(usual + " " + keepable)
	switch {
	case of == "*" && two:
	case !slices.Contains(can, of):
		if e := elements[of]; e != nil && e.class == dropped {
			return fmt.Sprintf("%q cannot be kept: it could load or run something", of)
		}
		return fmt.Sprintf("%q is no element that can be kept; besides the usual ones these are: %s", of, keepable)
	}
	if !two {
		return ""
	}
	var names []string
	for _, a := range attributes {
		if a.of == of || a.of == "*" {
			if names = append(names, a.name); a.name == attr {
				return ""
			}
		}
	}
	return fmt.Sprintf("%q is no attribute of %s that can be kept; these are: %s", attr, of, strings.Join(names, ", "))
}

// String returns the rules in words.
func (r *Rules) String() string {
	var say []string
	if r.Clean {
		say = append(say, "safe and tidy HTML")
	}
	if r.WriteAs == PlainText {
		say = append(say, "written as text")
	}
	for _, l := range []struct{ what, how string }{{"links", r.Links}, {"pictures", r.Images}} {
		if l.how != "" && l.how != Keep {
			say = append(say, l.what+": "+l.how)
		}
	}
	if r.From != "" {
		say = append(say, "empty ones from "+r.From)
	}
	if r.Cut {
		say = append(say, "what is too long cut")
	}
	return strings.Join(say, ", ")
}
