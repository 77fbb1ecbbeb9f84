// Package category puts the categories of products in order: paths such as Garden > Watering, and the shop's own in place of the
// supplier's.
package category

import (
	"errors"
	"fmt"
	"maps"
	"path/filepath"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/lists"
	"zetanum/core/text"
)

// Rules say what is done to categories: [category].
type Rules struct {
	// At is what stands between the levels of the file, if it is not to be found; Several what stands between several
	// categories of one product, if there may be such; Between what is written between levels.
	At      string `toml:"at" json:"at,omitempty"`
	Several string `toml:"several" json:"several,omitempty"`
	Between string `toml:"between" json:"between,omitempty"`
	// List is a sheet with the supplier's categories in its first column, the shop's own in the second, and what is to stand in
	// other columns in those of these headings; Sheet is its name in a workbook.
	List  string `toml:"list" json:"list,omitempty"`
	Sheet string `toml:"sheet" json:"sheet,omitempty"`
}

// Idle reports whether the rules order nothing.
func (r *Rules) Idle() bool { return r.Between == "" && r.List == "" }

// Check returns what is wrong with the rules whatever the sheet.
func (r *Rules) Check() (problems []catalogue.Problem) {
	wrong := func(key, says string) {
		problems = append(problems, catalogue.Problem{Key: key, Text: says})
	}
	mark := strings.TrimSpace(r.Between)
	switch {
	case r.Between != "" && mark == "":
		wrong("between", `is what stands between two levels, for example " > "; a space alone parts nothing`)
	case strings.ContainsRune(r.Between, '"'):
		wrong("between", "cannot have a quotation mark in it")
	case r.Several != "" && strings.TrimSpace(r.Several) == "":
		wrong("several", `is what stands between two categories, for example "|"`)
	case r.Several != "" && (strings.TrimSpace(r.Several) == mark || r.Several == r.At):
		wrong("several", "cannot be what stands between two levels, too")
	}
	if r.Sheet != "" && r.List == "" {
		wrong("list", "names the workbook in which that sheet is")
	}
	return problems
}

// String says the rules in words.
func (r *Rules) String() string {
	if r.List != "" {
		return "categories: the shop's own, by " + filepath.Base(r.List)
	}
	return "categories: in one form"
}

// mark returns what is written between levels, and what is read between them.
func (r *Rules) mark(form lists.Form) (between string, at text.List) {
	if between = r.Between; between == "" {
		between = " > "
		if r.List == "" && form.At != "" {
			between = string(form.At)
		}
	}
	if at = form.At; r.At != "" {
		at = text.List(strings.TrimSpace(r.At))
	}
	if at == "" {
		at = text.List(strings.TrimSpace(between))
	}
	return between, at
}

// A Reader reads the categories of a column.
type Reader struct {
	at, several text.List
	between     string
	mark        text.List // of it, without spaces
	said        bool      // it is said what stands between levels
}

// NewReader returns what reads a column that is written in a form.
func (r *Rules) NewReader(form lists.Form) *Reader {
	between, at := r.mark(form)
	return &Reader{at: at, between: between, several: text.List(strings.TrimSpace(r.Several)),
		mark: text.List(strings.TrimSpace(between)), said: r.At != ""}
}

// Own returns what reads what this one writes.
func (r *Reader) Own() *Reader {
	return &Reader{at: r.mark, several: r.several, between: r.between, mark: r.mark}
}

// Mark returns what is written between levels, without spaces.
func (r *Reader) Mark() text.List { return r.mark }

// Paths returns the categories of a cell, each by its levels.
func (r *Reader) Paths(cell string) (paths [][]string) {
	cell = text.Entities(cell)
	if r.several == "" {
		return r.appendPath(nil, cell)
	}
	for _, one := range r.several.Parts(cell) {
		paths = r.appendPath(paths, one)
	}
	return paths
}

// appendPath appends a category. One in which what is read between levels does not stand may be written already as it is to be, or
// have another mark that stands in no level.
func (r *Reader) appendPath(paths [][]string, cell string) [][]string {
	at := r.at
	if !at.Within(cell) {
		for _, other := range append([]text.List{r.mark}, lists.OfLevels.Marks[:lists.OfLevels.Strong]...) {
			if other != "" && other != r.several && other.Within(cell) && (!r.said || other == r.mark) {
				at = other
				break
			}
		}
	}
	if levels := at.AppendQuoted(nil, cell); len(levels) > 0 {
		paths = append(paths, levels)
	}
	return paths
}

// Write puts levels together.
func (r *Reader) Write(levels []string) string {
	quoted := slices.Clone(levels)
	for i := range quoted {
		quoted[i] = r.mark.Quote(quoted[i])
	}
	return strings.Join(quoted, r.between)
}

// Join puts several categories into a cell, each once.
func (r *Reader) Join(paths [][]string) string {
	var parts []string
	for _, levels := range paths {
		if one := r.Write(levels); !slices.Contains(parts, one) {
			parts = append(parts, one)
		}
	}
	return strings.Join(parts, string(r.several))
}

// A Map says which of the shop's categories those of a supplier are. It is safe for many goroutines once it is made.
type Map struct {
	entries map[string]*Entry // by key
	own     map[string]*Entry // by keys of the shop's own
	deepest int
}

// An Entry is a line of it.
type Entry struct {
	Row  int
	Own  []string // the levels in the shop
	Rest []string // what is to stand in other columns
}

// ErrTwice says that a category is to be two.
var ErrTwice = errors.New("one category is to be two")

// Key returns the key of a category, in which case, spaces and accents do not count.
func Key(levels []string) string {
	var b strings.Builder
	for i, level := range levels {
		if i > 0 {
			b.WriteByte('\x1f')
		}
		b.WriteString(lists.Fold(level))
	}
	return b.String()
}

// Add adds a line: the supplier's category, the shop's own, and the rest. Lines without the shop's own are open.
func (m *Map) Add(row int, supplier, own string, rest []string) error {
	from, to := levelsOf(supplier), levelsOf(own)
	if len(from) == 0 || len(to) == 0 {
		return nil
	}
	if m.entries == nil {
		m.entries, m.own = make(map[string]*Entry), make(map[string]*Entry)
	}
	key, e := Key(from), &Entry{row, to, rest}
	if before := m.entries[key]; before != nil {
		if Key(before.Own) != Key(to) || !slices.Equal(before.Rest, rest) {
			return fmt.Errorf("%w: %q is %q in row %d, and otherwise in row %d; leave one of the rows out", ErrTwice, supplier,
				strings.Join(before.Own, " > "), before.Row, row)
		}
		return nil
	}
	m.entries[key] = e
	if old := m.own[Key(to)]; old == nil {
		m.own[Key(to)] = e
	} else if !slices.Equal(old.Rest, rest) {
		m.own[Key(to)] = &Entry{old.Row, old.Own, nil} // what belongs to it depends on the supplier's
	}
	m.deepest = max(m.deepest, len(from))
	return nil
}

// levelsOf reads a category of a list.
func levelsOf(cell string) []string {
	cell = text.Entities(cell)
	for _, mark := range lists.OfLevels.Marks[:lists.OfLevels.Strong] {
		if mark.Within(cell) {
			return mark.Quoted(cell)
		}
	}
	return text.List("").Quoted(cell)
}

// Len returns how many categories it knows.
func (m *Map) Len() int { return len(m.entries) }

// Find returns the line of the longest beginning of a category, nil if there is none. What is one of the shop's own stays.
func (m *Map) Find(levels []string) (e *Entry, own bool) {
	if e := m.own[Key(levels)]; e != nil && m.entries[Key(levels)] == nil {
		return e, true
	}
	for n := min(len(levels), m.deepest); n > 0; n-- {
		if e := m.entries[Key(levels[:n])]; e != nil {
			return e, false
		}
	}
	return nil, false
}

// Settled returns an error if what the list makes of a category it would make another again.
func (m *Map) Settled() error {
	for _, e := range m.entries {
		if next, own := m.Find(e.Own); next != nil && !own && Key(next.Own) != Key(e.Own) {
			return fmt.Errorf("the list makes %q of row %d into %q, by row %d; a second run would change it again",
				strings.Join(e.Own, " > "), e.Row, strings.Join(next.Own, " > "), next.Row)
		}
	}
	return nil
}

// Spelt says how the levels of a column are spelt: each as most rows have it, below the levels above it.
type Spelt struct {
	counts map[string]map[string]int // by the key of the path, how often its last level is spelt so
	best   map[string]string         // "" if two spellings are as frequent
	ties   map[string][]string       // these
}

// Add counts a category.
func (s *Spelt) Add(levels []string, rows int) {
	if s.counts == nil {
		s.counts = make(map[string]map[string]int)
	}
	for i := range levels {
		key := spellingKey(levels[:i+1])
		if s.counts[key] == nil {
			s.counts[key] = make(map[string]int)
		}
		s.counts[key][levels[i]] += rows
	}
}

// Settle finds out which spelling of each level is the most frequent.
func (s *Spelt) Settle() {
	s.best, s.ties = make(map[string]string, len(s.counts)), make(map[string][]string)
	for key, counts := range s.counts {
		most := slices.Max(slices.Collect(maps.Values(counts)))
		var best []string
		for _, level := range slices.Sorted(maps.Keys(counts)) {
			if counts[level] == most {
				best = append(best, level)
			}
		}
		if s.best[key] = best[0]; len(best) > 1 {
			s.best[key], s.ties[key] = "", best
		}
	}
	s.counts = nil
}

// Right returns the levels in the spelling of most rows; other is, if two spellings of one are as frequent, the path with another of
// these.
func (s *Spelt) Right(levels []string) (right, other []string) {
	right = slices.Clone(levels)
	for i := range levels {
		key := spellingKey(levels[:i+1])
		if best := s.best[key]; best != "" {
			right[i] = best
			continue
		}
		for _, tie := range s.ties[key] {
			if tie != levels[i] && other == nil {
				other = slices.Clone(right)
				other[i] = tie
			}
		}
	}
	return right, other
}

// spellingKey returns what the spellings of a path have in common.
func spellingKey(levels []string) string {
	keys := make([]string, len(levels))
	for i := range levels {
		keys[i] = lists.SpellingKey(levels[i])
	}
	return strings.Join(keys, "\x1f")
}
