package markup

import (
	"slices"
	"strings"
	"unicode/utf8"

	"zetanum/core/lazy"
)

// valueOf returns the value of an attribute, in the form in which it is written, "" if it is none of its kind.
func valueOf(kind valueKind, s string) string {
	switch kind {
	case anyText:
		return collapse(s)
	case address, source:
		return allowedAddress(kind, s)
	case number, length:
		s = strings.TrimSpace(s)
		digits := s
		if kind == length {
			digits = strings.TrimSuffix(s, "%")
		}
		if digits == "" || len(digits) > 5 || strings.Trim(digits, "0123456789") != "" {
			return ""
		}
		return s
	case words, language:
		fields := strings.Fields(s)
		for i, w := range fields {
			if strings.Trim(strings.ToLower(w), "abcdefghijklmnopqrstuvwxyz0123456789-_") != "" {
				return ""
			}
			if kind == words {
				fields[i] = strings.ToLower(w)
			}
		}
		return strings.Join(fields, " ")
	case direction:
		if s = strings.ToLower(strings.TrimSpace(s)); s == "rtl" || s == "ltr" || s == "auto" {
			return s
		}
	}
	return ""
}

// allowedAddress returns an address that may be written, "" for one that may run something, or leads nowhere.
func allowedAddress(kind valueKind, s string) string {
	s, scheme := cleanAddress(s)
	allowed := linkSchemes
	if kind == source {
		allowed = pictureSchemes
	}
	if scheme != "" && !slices.Contains(allowed, scheme) || strings.HasPrefix(s, "#") {
		return "" // a place in the page has lost its name
	}
	return s
}

// properties are the CSS properties that may be kept: those that change how a text looks, and neither load anything nor put it somewhere
// else in the page.
var properties = strings.Fields("text-align color background-color font-weight font-style font-size text-decoration text-transform text-indent " +
	"line-height letter-spacing vertical-align white-space width max-width height max-height float clear margin margin-top margin-right " +
	"margin-bottom margin-left padding padding-top padding-right padding-bottom padding-left border border-top border-right border-bottom " +
	"border-left border-collapse border-radius list-style-type direction")

// A value of a property is words, numbers with their units, and colours.
var safeValue = lazy.New(`^(?:[a-zA-Z0-9.%#+-]+|(?:rgb|rgba|hsl|hsla)\([0-9.,%/ ]+\)|[, ])+$`)

// styleOf returns those declarations of a style that are kept.
func styleOf(style string, keep []string) string {
	var b strings.Builder
	for declaration := range strings.SplitSeq(style, ";") {
		name, value, ok := strings.Cut(declaration, ":")
		name, value = lower(strings.TrimSpace(name)), collapse(value)
		if !ok || !slices.Contains(keep, name) || len(value) > 100 || !safeValue.MatchString(value) {
			continue
		}
		if b.Len() > 0 {
			b.WriteByte(';')
		}
		b.WriteString(name)
		b.WriteByte(':')
		b.WriteString(value)
	}
	return b.String()
}

// property returns the value of a property in a style, in small letters; "" if it is not there.
func property(style, name string) string {
	if len(style) < len(name)+2 {
		return ""
	}
	for declaration := range strings.SplitSeq(style, ";") {
		if n, value, ok := strings.Cut(declaration, ":"); ok && strings.EqualFold(strings.TrimSpace(n), name) {
			return lower(strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(value), "!important")))
		}
	}
	return ""
}

// collapse returns a text in which runs of spaces are one, and none is at an end.
func collapse(s string) string {
	if isCollapsed(s) { // as most are
		return s
	}
	return strings.Join(strings.Fields(s), " ")
}

// isCollapsed reports whether a text is surely so already.
func isCollapsed(s string) bool {
	space := true // before
	for i := range len(s) {
		if c := s[i]; c < ' ' || c >= utf8.RuneSelf || c == ' ' && space {
			return false
		}
		space = s[i] == ' '
	}
	return !space
}
