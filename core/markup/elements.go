package markup

import "strings"

// What becomes of an element.
type class uint8

const (
	unknown   class = iota // unwrapped, as part of a line
	inline                 // part of a line: kept as a format, or unwrapped
	division               // blocks of its own: kept, or unwrapped
	paragraph              // p
	heading                // h1 to h6
	list                   // ul, ol
	item                   // li
	table                  // table
	caption                // caption
	rowGroup               // thead, tbody, tfoot
	row                    // tr
	cell                   // td, th
	quote                  // blockquote
	rule                   // hr
	lineBreak              // br
	picture                // img
	verbatim               // pre
	dropped                // with all that is in it
	vanished               // has nothing in it, and goes
)

// An element is what is known of one: see the HTML Living Standard, 4.
type element struct {
	name  string
	class class
	level int    // of a heading
	as    string // what is written in its place, where it is not kept
	// whole is that its text is its only paragraph, as that of li is: <li>text</li>.
	whole bool
}

// usual are the elements that are kept where nothing else is said.
const usual = "p br h2 h3 h4 ul ol li strong em table thead tbody tr th td caption a img blockquote sup sub hr"

// keepable are those that may be kept besides; the rest could load or run something, clash with the page of the
// shop, or mean nothing any more.
const keepable = "h1 h5 h6 tfoot b i s u del ins small mark code kbd samp var abbr cite dfn q bdi bdo span time " +
	"div section article header footer main nav aside address figure figcaption dl dt dd details summary pre"

// elements are those that are known, by name.
var elements = func() map[string]*element {
	m := make(map[string]*element)
	put := func(c class, names string) {
		for _, name := range strings.Fields(names) {
			m[name] = &element{name: name, class: c}
		}
	}
	put(inline, "strong em a sup sub b i s u del ins small big mark code kbd samp var tt abbr acronym cite dfn q bdi bdo span time font strike "+
		"nobr label legend data ruby rb rt rp output blink")
	put(division, "div section article header footer main nav aside address figure figcaption dl dt dd details summary center form fieldset "+
		"hgroup search dir menu html body marquee dialog")
	put(paragraph, "p")
	put(heading, "h1 h2 h3 h4 h5 h6")
	put(list, "ul ol")
	put(item, "li")
	put(table, "table")
	put(caption, "caption")
	put(rowGroup, "thead tbody tfoot")
	put(row, "tr")
	put(cell, "td th")
	put(quote, "blockquote")
	put(rule, "hr")
	put(lineBreak, "br")
	put(picture, "img")
	put(verbatim, "pre listing xmp plaintext")
	put(dropped, "script style template noscript iframe object embed svg math applet audio video canvas map portal fencedframe frameset noframes noembed head title "+
		"select textarea button option optgroup datalist meter progress xml")
	put(vanished, "base basefont bgsound link meta input keygen frame param source track area col colgroup wbr image isindex command")
	for name, as := range map[string]string{"b": "strong", "i": "em", "tfoot": "tbody"} {
		m[name].as = as
	}
	for _, name := range []string{"li", "td", "th", "dt", "dd", "figcaption", "summary", "address"} {
		m[name].whole = true
	}
	for i, name := range []string{"h1", "h2", "h3", "h4", "h5", "h6"} {
		m[name].level = i + 1
	}
	return m
}()

// Where attributes stand.
type attribute struct {
	of, name string // the element, "*" for any
	kind     valueKind
	usual    bool // it is kept where nothing else is said
}

// What a value has to be.
type valueKind uint8

const (
	anyText   valueKind = iota
	address             // of a link
	source              // of a picture
	number              // a whole number
	words               // of letters and -, such as nofollow noopener
	length              // a whole number, or one with %
	direction           // ltr, rtl or auto
	language            // de, en-GB
)

// attributes are those that may be kept, in the order in which they are written.
var attributes = []attribute{
	{"a", "href", address, true}, {"a", "rel", words, true}, {"a", "target", words, false}, {"a", "hreflang", language, false},
	{"img", "src", source, true}, {"img", "alt", anyText, true}, {"img", "width", number, false}, {"img", "height", number, false},
	{"img", "loading", words, false},
	{"td", "colspan", number, true}, {"td", "rowspan", number, true}, {"td", "width", length, false},
	{"th", "colspan", number, true}, {"th", "rowspan", number, true}, {"th", "scope", words, true}, {"th", "width", length, false},
	{"ol", "start", number, true}, {"ol", "type", words, false}, {"li", "value", number, true},
	{"time", "datetime", anyText, false}, {"abbr", "title", anyText, false}, {"bdo", "dir", direction, true},
	{"*", "title", anyText, false}, {"*", "lang", language, false}, {"*", "dir", direction, true},
}

// schemes are those of addresses that lead somewhere without running anything.
var linkSchemes, pictureSchemes = []string{"http", "https", "mailto", "tel"}, []string{"http", "https"}
