package markup

import (
	"slices"
	"strings"
)

// settings are rules, made ready.
type settings struct {
	rules  *Rules
	own    []string // hosts of the shop
	known  map[string]*known
	levels [7]int // what headings of each level become
	top    int    // the level of headings that are made

	strong, em, sup, sub, ul, ol, li, tbody, th, td, tr, table, p, a *known
	none                                                             *known // an element of which nothing is known
}

// A known element is one with what the rules say of it.
type known struct {
	*element
	kept       bool
	writtenAs  *known      // nil if it is unwrapped
	attributes []attribute // that are kept, in their order
}

func newSettings(rules *Rules, own []string) *settings {
	s := &settings{rules: rules, known: make(map[string]*known, len(elements)), none: &known{element: &element{class: unknown}}}
	for _, host := range own {
		s.own = append(s.own, lower(strings.TrimSpace(host)))
	}
	keep := strings.Fields(usual)
	for _, k := range rules.Keep {
		if !strings.Contains(k, " ") {
			keep = append(keep, k)
		}
	}
	if rules.HeadingsFrom > 0 {
		keep = append(keep, "h"+string(rune('0'+rules.HeadingsFrom)))
	}
	for name, e := range elements {
		k := &known{element: e, kept: slices.Contains(keep, name)}
		for _, a := range attributes {
			if (a.of == name || a.of == "*") && (a.usual || slices.Contains(rules.Keep, a.of+" "+a.name) || slices.Contains(rules.Keep, name+" "+a.name)) {
				k.attributes = append(k.attributes, a)
			}
		}
		s.known[name] = k
	}
	for _, k := range s.known {
		if k.kept {
			k.writtenAs = k
		} else if as := s.known[k.as]; as != nil && as.kept {
			k.writtenAs = as
		}
	}
	s.fitHeadings()
	for name, at := range map[string]**known{"strong": &s.strong, "em": &s.em, "sup": &s.sup, "sub": &s.sub, "ul": &s.ul, "ol": &s.ol, "li": &s.li,
		"tbody": &s.tbody, "th": &s.th, "td": &s.td, "tr": &s.tr, "table": &s.table, "p": &s.p, "a": &s.a} {
		*at = s.known[name]
	}
	return s
}

// fitHeadings says what headings become whose level is not kept: the next below that is, or else the next above.
func (s *settings) fitHeadings() {
	kept := func(level int) bool { return s.known["h"+string(rune('0'+level))].kept }
	for level := 1; level <= 6; level++ {
		s.levels[level] = level
		for s.levels[level] < 7 && !kept(s.levels[level]) {
			if s.levels[level]++; s.levels[level] == 7 {
				break
			}
		}
		for s.levels[level] == 7 || !kept(s.levels[level]) {
			s.levels[level]--
		}
	}
	s.top = s.levels[3]
	if s.rules.HeadingsFrom > 0 {
		s.top = s.rules.HeadingsFrom
	}
}

// of returns what is known of an element.
func (s *settings) of(name string) *known {
	if k := s.known[name]; k != nil {
		return k
	}
	return s.none
}

// keepsLink reports whether a link is kept, and if not, whether its text is.
func (s *settings) keepsLink(href string, there bool) (link, text bool) {
	switch s.rules.Links {
	case Drop:
		return false, !there
	case AsText:
		return false, true
	case SameShop:
		return href != "" && s.isOwn(href), true
	}
	return href != "", true
}

// isOwn reports whether an address stays within the shop.
func (s *settings) isOwn(href string) bool {
	_, scheme := cleanAddress(href)
	host := hostOf(href)
	return host == "" && scheme == "" || host != "" && slices.Contains(s.own, host)
}

// written returns the attributes of an element that are kept, as they are written.
func (s *settings) written(k *known, attrs []attr, style string) string {
	if len(attrs) == 0 && (k.name != "a" || s.rules.Rel == "") {
		return ""
	}
	var b strings.Builder
	for _, a := range k.attributes {
		value, there := "", false
		for i := range attrs {
			if attrs[i].name == a.name {
				value, there = valueOf(a.kind, attrs[i].value), true
				break
			}
		}
		if a.name == "rel" && s.rules.Rel != "" && hostOf(valueOf(address, get(attrs, "href"))) != "" && !s.isOwn(get(attrs, "href")) {
			value, there = s.rules.Rel, true
		}
		if there && (value != "" || a.name == "alt") && (value != "1" || a.name != "colspan" && a.name != "rowspan" && a.name != "start") {
			put(&b, a.name, value)
		}
	}
	if len(s.rules.Styles) > 0 && style != "" {
		if value := styleOf(style, s.rules.Styles); value != "" {
			put(&b, "style", value)
		}
	}
	return b.String()
}

func put(b *strings.Builder, name, value string) {
	b.WriteByte(' ')
	b.WriteString(name)
	b.WriteString(`="`)
	escape(b, value, true)
	b.WriteByte('"')
}
