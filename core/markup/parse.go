package markup

import (
	"strings"

	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"
)

// parse builds the document of what a parser of HTML reads. ok is false if it gives up, because elements are too deep in one another.
func (b *builder) parse(s string) (ok bool) {
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
