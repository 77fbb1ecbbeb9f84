package tags

import (
	"cmp"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"sync"
	"unicode/utf8"

	"golang.org/x/text/collate"
	"golang.org/x/text/language"

	"zetanum/core/lists"
	"zetanum/core/text"
	"zetanum/core/title"
)

// A Tidier carries the rules out on the tags of a column. It is safe for many goroutines.
type Tidier struct {
	rules     *Rules
	form      lists.Form // of the file
	between   string     // what is written
	mark      text.List  // of it, without spaces
	tag       language.Tag
	words     *title.Words
	aliases   map[string]string // by key
	forbidden map[string]bool
	listed    *lists.Known   // nil: any
	counts    map[string]int // how common tags are, by key
	looks     bool           // cells may be seen to be in order, see [Tidier.Stays]
	lower     bool           // no capitals
	collators sync.Pool
}

// ErrAliases says that an alias leads to another.
var ErrAliases = errors.New("an alias leads to another")

// checkAliases returns an error if what is written for a tag is to be written otherwise itself.
func checkAliases(aliases map[string]string) error {
	by := make(map[string]string, len(aliases))
	for _, from := range slices.Sorted(maps.Keys(aliases)) {
		key := Key(from)
		if other, twice := by[key]; twice && Key(other) != Key(aliases[from]) {
			return fmt.Errorf("%q is to be both %q and %q", from, other, aliases[from])
		}
		by[key] = aliases[from]
	}
	for _, from := range slices.Sorted(maps.Keys(aliases)) {
		if next, chain := by[Key(aliases[from])]; chain && Key(next) != Key(aliases[from]) {
			return fmt.Errorf("%w: %q is to be %q, and that is to be %q; a second run would change it again", ErrAliases, from, aliases[from], next)
		}
	}
	return nil
}

// NewTidier returns what carries the rules out on a column that is written in a form, with the aliases of a sheet, the list of
// tags that there may be, nil for any, and how common tags are, by their keys.
func (r *Rules) NewTidier(form lists.Form, aliases map[string]string, listed *lists.Known, counts map[string]int) (*Tidier, error) {
	t := &Tidier{rules: r, form: form, between: r.Between, tag: language.Make(r.Language), aliases: make(map[string]string), forbidden: make(map[string]bool),
		listed: listed, counts: counts}
	if r.At != "" {
		t.form.At = text.List(r.At)
		if mark := strings.TrimSpace(r.At); mark != "" {
			t.form.At = text.List(mark)
		}
	}
	if t.between == "" {
		t.between = ", "
		if at := t.form.At; at != "" && at != "\n" && at != lists.Hash {
			if t.between = string(at); form.Spaced {
				t.between += " "
			}
		}
	}
	if t.mark = text.List(strings.TrimSpace(t.between)); t.mark == "" {
		t.mark = text.List(t.between)
	}
	if t.form.At == "" {
		t.form.At = t.mark
	}
	if r.Case == title.Sentence || r.Case == title.Title {
		t.words = title.NewWords(r.Language, nil, nil)
	}
	all := maps.Clone(aliases)
	if all == nil {
		all = make(map[string]string)
	}
	maps.Copy(all, r.Aliases)
	if err := checkAliases(all); err != nil {
		return nil, err
	}
	for from, to := range all {
		t.aliases[Key(from)] = strings.TrimSpace(to)
	}
	for _, tag := range r.Forbidden {
		t.forbidden[Key(tag)] = true
	}
	t.lookable()
	t.collators.New = func() any { return collate.New(t.tag, collate.IgnoreCase) }
	return t, nil
}

// lookable finds out whether cells may be seen to be in order.
func (t *Tidier) lookable() {
	r := t.rules
	t.lower = r.Case == "lower"
	t.looks = len(t.mark) == 1 && strings.HasPrefix(t.between, string(t.mark)) && (t.form.At == t.mark || t.form.At == "") && !t.form.Hashed && t.listed == nil &&
		(r.Mode == "" || r.Mode == Replace) && t.words == nil && r.Order != Common && r.Language != "tr"
	if t.mark == "/" || t.mark == lists.Hash {
		t.looks = false // they stand within tags, too
	}
}

// Again returns what carries the rules out on what this one has written.
func (t *Tidier) Again() *Tidier {
	again := &Tidier{rules: t.rules, form: lists.Form{At: t.mark}, between: t.between, mark: t.mark, tag: t.tag, words: t.words, aliases: t.aliases,
		forbidden: t.forbidden, listed: t.listed, counts: t.counts}
	again.collators.New = t.collators.New
	again.lookable()
	return again
}

// Key returns a tag in a form in which case and accents do not count, and spaces only between words.
func Key(tag string) string {
	plain := true
	for i := 0; i < len(tag) && plain; i++ {
		c := tag[i]
		plain = c < utf8.RuneSelf && c > ' ' && (c < 'A' || c > 'Z')
	}
	if plain {
		return tag
	}
	if oneSpaced(tag) {
		return strings.ToLower(tag)
	}
	words := strings.Fields(tag)
	for i := range words {
		words[i] = lists.Fold(words[i])
	}
	return strings.Join(words, " ")
}

// oneSpaced reports whether a tag is ASCII with single spaces between its words and none around them.
func oneSpaced(tag string) bool {
	before := byte(' ')
	for i := range len(tag) {
		c := tag[i]
		if c >= utf8.RuneSelf || c < ' ' || c == ' ' && before == ' ' {
			return false
		}
		before = c
	}
	return before != ' '
}

// others are the marks at which a cell is parted that does not have the one of its column; if it has none of them, number signs are.
var others = []text.List{"|", ";", "\n"}

// Read returns the tags of a cell.
func (t *Tidier) Read(cell string) []string {
	cell = text.Entities(cell)
	at, hashed := t.form.At, t.form.Hashed
	if t.rules.At == "" && !at.Within(cell) {
		if i := slices.IndexFunc(others, func(other text.List) bool { return other.Within(cell) }); i >= 0 {
			at = others[i]
		} else if lists.Hashed(cell) {
			at, hashed = lists.Hash, true
		}
	}
	list := at.Quoted(cell)
	if hashed {
		for i, tag := range list {
			if rest := strings.TrimLeft(tag, "#"); rest != "" {
				list[i] = strings.TrimSpace(rest)
			}
		}
	}
	return list
}

// cased returns a tag in the case that is ordered.
func (t *Tidier) cased(tag string) string {
	switch {
	case t.rules.Case == "lower":
		return title.Lower(t.rules.Language, tag)
	case t.words != nil:
		return t.words.Case(tag, t.rules.Case, "", "")
	}
	return tag
}

// Stays reports whether a look at the characters of a cell shows that its tags are as the rules have them, with those that the product
// gets. Of cells that are no ASCII, and where the shop's tags or a list count, nothing is known.
func (t *Tidier) Stays(cell string, add []string) bool {
	if !t.looks || len(cell) > maxInert || cell == "" {
		return false
	}
	var spans [16][2]int
	n, from := 0, 0
	mark, capitals := t.mark[0], false
	for i := 0; i <= len(cell); i++ {
		if i < len(cell) && cell[i] != mark {
			switch c := cell[i]; plainly[c] {
			case 'a':
			case 'A':
				if capitals = true; t.lower {
					return false
				}
			case ' ':
				if i > from && cell[i-1] == ' ' {
					return false
				}
			default:
				return false
			}
			continue
		}
		tag := cell[from:i]
		if tag == "" || tag[0] == ' ' || tag[len(tag)-1] == ' ' || n == len(spans) || !t.stays(cell, spans[:n], tag, capitals) {
			return false
		}
		spans[n] = [2]int{from, i}
		n++
		if from = i + len(t.between); i < len(cell) && (isDigit(cell[i-1]) || from >= len(cell) || cell[i:from] != t.between) {
			return false
		}
		i = max(i, from-1)
		if i >= len(cell) {
			break
		}
	}
	if t.rules.Most > 0 && n > t.rules.Most {
		return false
	}
	for _, tag := range add {
		there := tag == ""
		for _, s := range spans[:n] {
			there = there || strings.EqualFold(cell[s[0]:s[1]], tag)
		}
		if !there {
			return false
		}
	}
	return true
}

func isDigit(c byte) bool { return c >= '0' && c <= '9' }

// maxInert is how many bytes a cell has at most that is looked at so.
const maxInert = 400

// plainly says of bytes whether they may stand in a tag of which nothing needs to be known: A for capitals, a space for that, a for all
// else, and 0 for those that may not.
var plainly = func() (table [256]byte) {
	for c := ' '; c < utf8.RuneSelf; c++ {
		switch {
		case c >= 'A' && c <= 'Z':
			table[c] = 'A'
		case c == ' ':
			table[c] = ' '
		case strings.IndexByte("\"&#|;", byte(c)) < 0:
			table[c] = 'a'
		}
	}
	return table
}()

// stays reports whether a tag behind others stays as it is.
func (t *Tidier) stays(cell string, before [][2]int, tag string, capitals bool) bool {
	if len(t.aliases)+len(t.forbidden) > 0 {
		key := tag
		if capitals {
			key = strings.ToLower(tag)
		}
		if _, is := t.aliases[key]; is || t.forbidden[key] {
			return false
		}
	}
	if t.rules.LongestTag > 0 && len(tag) > t.rules.LongestTag {
		return false
	}
	for i, s := range before {
		other := cell[s[0]:s[1]]
		if len(other) == len(tag) && other[0]|0x20 == tag[0]|0x20 && strings.EqualFold(other, tag) {
			return false
		}
		if t.rules.Order == Alphabetical && i == len(before)-1 && !inAlphabet(other, tag) {
			return false
		}
	}
	return true
}

// inAlphabet reports whether a tag comes behind another in the alphabet for sure: plain letters say so.
func inAlphabet(one, other string) bool {
	for i := range min(len(one), len(other)) {
		a, b := one[i]|0x20, other[i]|0x20
		if a < 'a' || a > 'z' || b < 'a' || b > 'z' {
			return false
		}
		if a != b {
			return a < b
		}
	}
	return len(one) < len(other) && plainLetters(other[len(one):])
}

func plainLetters(s string) bool {
	for i := range len(s) {
		if c := s[i] | 0x20; c < 'a' || c > 'z' {
			return false
		}
	}
	return true
}

// A Result is what became of the tags of a cell.
type Result struct {
	Tags     []string
	Unlisted []string // those that the list does not have, and that are left out
	Likely   []string // what these may be, "" where nobody can tell
	Known    int      // how many are in the list
}

// one brings a tag to what the rules make of it; ok is false if it does not go out.
func (t *Tidier) one(tag string, res *Result, added bool) (string, bool) {
	tag = t.cased(tag)
	key := Key(tag)
	if to, is := t.aliases[key]; is {
		tag = t.cased(to)
		key = Key(tag)
	}
	if tag == "" || t.forbidden[key] {
		return "", false
	}
	if t.listed == nil {
		return tag, true
	}
	right, match := t.listed.Match(tag)
	switch {
	case match == lists.Exact || match == lists.Folded:
		res.Known++
		return right, true
	case added || t.rules.Unlisted != Drop:
		return tag, true
	}
	res.Unlisted, res.Likely = append(res.Unlisted, tag), append(res.Likely, right)
	return "", false
}

// Tidy carries the rules out: cell are the tags of the file, inShop those that the shop has now, and add those that the product
// gets.
func (t *Tidier) Tidy(cell string, inShop, add []string) (res Result) {
	own := t.Read(cell)
	var seenSome [12]string
	seen := seenSome[:0]
	has := func(key string) bool { return slices.Contains(seen, key) }
	put := func(tag string) {
		if key := Key(tag); !has(key) {
			seen = append(seen, key)
			res.Tags = append(res.Tags, tag)
		}
	}
	switch t.rules.Mode {
	case Add:
		for _, tag := range inShop {
			put(tag)
		}
	case Remove:
		gone := make(map[string]bool)
		for _, tag := range own {
			gone[Key(tag)] = true
			if tag, ok := t.one(tag, new(Result), false); ok {
				gone[Key(tag)] = true
			}
		}
		for _, tag := range inShop {
			if !gone[Key(tag)] {
				put(tag)
			}
		}
		own = nil
	}
	for i, tag := range slices.Concat(own, add) {
		if t.rules.Mode == Add && has(Key(tag)) {
			continue // the shop has it, however it is written there
		}
		if tag, ok := t.one(tag, &res, i >= len(own)); ok {
			put(tag)
		}
	}
	t.sort(res.Tags)
	if most := t.rules.Most; most > 0 && len(res.Tags) > most {
		res.Tags = res.Tags[:most]
	}
	return res
}

// Each calls do for the tags of a cell as they go out, each once, whatever their order and their number.
func (t *Tidier) Each(cell string, do func(tag string)) {
	var seen []string
	var res Result
	for _, tag := range t.Read(cell) {
		tag, ok := t.one(tag, &res, false)
		if key := Key(tag); ok && !slices.Contains(seen, key) {
			seen = append(seen, key)
			do(tag)
		}
	}
}

func (t *Tidier) sort(list []string) {
	switch t.rules.Order {
	case Alphabetical:
		c := t.collators.Get().(*collate.Collator)
		slices.SortStableFunc(list, func(a, b string) int {
			switch {
			case inAlphabet(a, b):
				return -1
			case inAlphabet(b, a):
				return 1
			}
			return cmp.Or(c.CompareString(a, b), cmp.Compare(a, b))
		})
		t.collators.Put(c)
	case Common:
		slices.SortStableFunc(list, func(a, b string) int { return t.counts[Key(b)] - t.counts[Key(a)] })
	}
}

// Write puts tags into a cell; with is the first tag in which the mark stands, if that cannot be.
func (t *Tidier) Write(list []string) (cell, with string) {
	for i, tag := range list {
		if !strings.Contains(tag, string(t.mark)) {
			continue
		}
		switch t.rules.Inside {
		case Quote:
			list[i] = t.mark.Quote(tag)
		case Replace:
			list[i] = strings.Join(strings.Fields(strings.ReplaceAll(tag, string(t.mark), t.instead())), " ")
		default:
			return "", tag
		}
	}
	return strings.Join(list, t.between), ""
}

func (t *Tidier) instead() string {
	if t.rules.InsideAs == "" {
		return " "
	}
	return t.rules.InsideAs
}

// TooLong returns the first tag that is longer than any may be, and how long it is; "" if none is.
func (t *Tidier) TooLong(list []string) (string, int) {
	if t.rules.LongestTag > 0 {
		limit := text.Limit{Most: t.rules.LongestTag}
		for _, tag := range list {
			if !limit.Fits(tag) {
				return tag, limit.Len(tag)
			}
		}
	}
	return "", 0
}

// Pairs returns the tags of attributes: their names, the mark, and the values; values returns what the product has in a field.
func (r *Rules) Pairs(values func(field string) []string) (tags []string) {
	for _, field := range slices.Sorted(maps.Keys(r.Attributes)) {
		for _, v := range values(field) {
			if v = strings.TrimSpace(v); v != "" {
				tags = append(tags, r.Attributes[field]+r.pair()+v)
			}
		}
	}
	return tags
}

// Form returns how the tags of the file are written.
func (t *Tidier) Form() lists.Form { return t.form }

// Between returns what stands between the tags that go out.
func (t *Tidier) Between() text.List { return t.mark }
