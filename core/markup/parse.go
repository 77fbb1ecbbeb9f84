package markup

import (
	"strings"

	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"
)

// parse builds the document of what a parser of HTML reads. ok is false if it gives up, because elements are too deep in one another.
func (b *builder) parse(s string) (ok bool) {
	if grows(s) {
		return false
	}
	nodes, err := html.ParseFragment(strings.NewReader(s), &html.Node{Type: html.ElementNode, Data: "body", DataAtom: atom.Body})
	if err != nil {
		return false
	}
	for _, n := range nodes {
		b.walk(n)
	}
	b.endLine()
	return true
}

// formatting are the elements that a parser opens anew in each block while they are not closed (HTML Living Standard, 13.2.4.3).
var formatting = map[string]bool{"a": true, "b": true, "big": true, "code": true, "em": true, "font": true, "i": true, "nobr": true, "s": true, "small": true,
	"strike": true, "strong": true, "tt": true, "u": true}

// mostOpened is how many elements a parser may make for each byte, besides some.
const mostOpened, someOpened = 2, 20000

// grows reports whether a parser might make far more elements of a text than it has bytes: because formats are left open, it opens each of
// them anew behind every tag. Three of one kind are opened at most that are alike.
func grows(s string) bool {
	open, made := 0, 0
	for sc := (Scanner{rest: s}); sc.Next(); {
		t := sc.token
		switch t.Kind {
		case StartTag:
			if formatting[t.Name()] {
				open++
			}
			made += open
		case EndTag:
			if formatting[t.Name()] && open > 0 {
				open--
			}
			made += open
		}
		if made > someOpened+mostOpened*len(s) {
			return true
		}
	}
	return false
}

// walk tells the builder of a node and what is in it. No node is deeper than the parser lets it be.
func (b *builder) walk(n *html.Node) {
	switch n.Type {
	case html.TextNode:
		b.text(n.Data)
	case html.ElementNode:
		if n.Namespace != "" {
			return // svg and math, of which nothing is kept
		}
		b.attrs = b.attrs[:0]
		for _, a := range n.Attr {
			if a.Namespace == "" {
				b.attrs = append(b.attrs, attr{a.Key, a.Val})
			}
		}
		if isMark(b.attrs) {
			b.mark(n)
			return
		}
		if !b.start(b.of(n.Data), b.attrs) {
			return
		}
		for c := n.FirstChild; c != nil; c = c.NextSibling {
			b.walk(c)
		}
		b.end()
	}
}

// isMark reports whether an element is the mark of an item of a word processor, which is no text.
func isMark(attrs []attr) bool {
	style := get(attrs, "style")
	return strings.Contains(style, "mso-list") && property(style, "mso-list") == "ignore"
}

// mark takes down the text of a mark.
func (b *builder) mark(n *html.Node) {
	if n.Type == html.TextNode {
		b.marker.WriteString(n.Data)
	}
	for c := n.FirstChild; c != nil; c = c.NextSibling {
		b.mark(c)
	}
}
