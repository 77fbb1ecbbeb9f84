package sections

import (
	"cmp"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"sync"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
	"zetanum/core/line"
	"zetanum/core/markup"
	"zetanum/core/rulebook"
	"zetanum/core/steps"
	"zetanum/core/wording"
)

// LinksName is the list of what descriptions link to, and what has to be there before they are imported.
const LinksName = "links.csv"

// Steps looks at descriptions as they go out.
func (d *descriptionSection) Steps(s *Sheet) error {
	if s.CodesOnly {
		return nil
	}
	of := &steps.Described{Hosts: s.Book.Shop.Hosts, Mention: make(map[int]*markup.Mention)}
	for col := range s.Columns.Headings {
		if s.Columns.Kind(col) == catalogue.HTMLKind {
			of.Columns = append(of.Columns, col)
		}
	}
	if of.Columns == nil {
		return nil
	}
	of.Fills = make(map[int]bool)
	for _, col := range of.Columns {
		table := d.book.Field[s.Columns.Name(col)]
		of.Fills[col] = s.Orders.FilledBy(col) != "" || table != nil && table.From != ""
		of.Filled = of.Filled || s.Columns.Fields[col] == catalogue.ShortDescription && of.Fills[col]
	}
	for name, words := range d.mention {
		mention := markup.NewMention(words)
		for _, col := range s.Find(name) {
			of.Mention[col] = mention
		}
	}
	of.Share = usualShare
	if long := d.book.Field[catalogue.Description.String()]; long != nil && long.CommonPhrase > 0 {
		of.Share = long.CommonPhrase
	}
	if steps.Compares(s.Table) {
		of.Phrases = slices.DeleteFunc(markup.Phrases(s.sample(s.Columns.First(catalogue.Description)), of.Share), d.isOwn)
	}
	of.Named = func(phrase string, times, of int) { s.Phrases = append(s.Phrases, Phrase{phrase, times, of}) }
	links := &linked{own: s.Book.Shop.Hosts, rows: make(map[markup.Link]*int)}
	of.Links = func(link markup.Link, row *catalogue.Row) {
		links.add(link)
		if s.needed != nil {
			s.needed.add(link.Address, what(link)+" in a description", row)
		}
	}
	s.List(line.List{Name: LinksName, Headings: []string{"Address", "What", "Times", "Leaves the shop"}, Rest: links.list})
	s.Add(StageSanity, steps.Descriptions(&s.Sheet, of))
	return nil
}

// A Phrase is a sentence that stands in many descriptions of a file.
type Phrase struct {
	Text      string
	Times, Of int // in how many of how many
}

// usualShare is in how large a part of the descriptions a sentence has to stand to be named, if nothing is said.
const usualShare = 0.3

// isOwn reports whether the rulebook itself puts a sentence into descriptions, or replaces it.
func (d *descriptionSection) isOwn(phrase string) bool {
	return slices.ContainsFunc(d.book.Closing, func(r wording.ClosingRule) bool { return strings.Contains(markup.Words(r.Text), phrase) }) ||
		slices.ContainsFunc(d.book.Replace, func(r wording.ReplaceRule) bool {
			return r.With != "" && strings.Contains(markup.Words(r.With), phrase)
		})
}

// linked is what descriptions link to.
type linked struct {
	own  []string
	mu   sync.Mutex
	rows map[markup.Link]*int
	past uint64 // links with a larger hash are not kept any more, because there are too many
}

// mostLinks is how many addresses are listed.
const mostLinks = 100000

func (l *linked) add(link markup.Link) {
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.past > 0 && hashOf(link) >= l.past {
		return
	}
	if n := l.rows[link]; n != nil {
		*n++
		return
	}
	link.Address = strings.Clone(link.Address)
	l.rows[link] = new(1)
	if len(l.rows) > 2*mostLinks {
		l.thin()
	}
}

// thin keeps those with the smallest hashes, which are the same whatever the order in which they came.
func (l *linked) thin() {
	hashes := make([]uint64, 0, len(l.rows))
	for link := range l.rows {
		hashes = append(hashes, hashOf(link))
	}
	slices.Sort(hashes)
	l.past = hashes[mostLinks]
	maps.DeleteFunc(l.rows, func(link markup.Link, _ *int) bool { return hashOf(link) >= l.past })
}

func hashOf(link markup.Link) uint64 { return xxhash.Sum64String(link.Address) }

func (l *linked) list(enter func(cells ...string)) error {
	if len(l.rows) > mostLinks {
		l.thin()
	}
	for _, link := range slices.SortedFunc(maps.Keys(l.rows), func(a, b markup.Link) int {
		return cmp.Or(strings.Compare(a.Address, b.Address), len(what(a))-len(what(b)))
	}) {
		leaves := ""
		if !link.Picture && l.own != nil && markup.Leaves(link.Address, l.own) {
			leaves = "yes"
		}
		enter(link.Address, what(link), strconv.Itoa(*l.rows[link]), leaves)
	}
	return nil
}

func what(link markup.Link) string {
	if link.Picture {
		return "picture"
	}
	return "link"
}

// lookAtDescriptions names descriptions that would be written otherwise, where they are HTML and nobody has ordered anything.
func (s *Sheet) lookAtDescriptions(col int) {
	shown, cleaners := s.shownOf(col, false), markup.NewPool(&markup.Rules{Clean: true}, nil)
	s.Orders.Look("description", []int{col}, func(r *steps.RowAt) {
		cell := r.Cell(col)
		if cell == "" || r.Row.Made > 0 || r.Damaged(col) {
			return
		}
		if form := shown.FormOf(cell, false); form == markup.FormPlain && !shown.HTML {
			return
		}
		cleaner := cleaners.Get()
		defer cleaners.Put(cleaner)
		switch after, err := cleaner.Clean(cell, shown); {
		case errors.Is(err, markup.ErrDeep):
			r.Find(catalogue.DescriptionBroken, col, cell, catalogue.Facts{Other: "its elements are too deep in one another"})
		case err == nil && !sameButSpaces(after, cell):
			r.Find(catalogue.DescriptionUntidy, col, cell, catalogue.Facts{Other: after, Proposed: after})
		}
	})
}

// sameButSpaces reports whether two texts are the same but for spaces and line breaks, which may stand between blocks.
func sameButSpaces(a, b string) bool {
	if a == b {
		return true
	}
	space := func(c byte) bool { return c == ' ' || c == '\n' || c == '\r' || c == '\t' }
	for {
		for a != "" && space(a[0]) {
			a = a[1:]
		}
		for b != "" && space(b[0]) {
			b = b[1:]
		}
		if a == "" || b == "" || a[0] != b[0] {
			return a == b
		}
		a, b = a[1:], b[1:]
	}
}

// Begin proposes what descriptions need.
func (*descriptionSection) Begin(s *Seen, b *Draft) {
	if n := s.cells(catalogue.DescriptionUntidy); n > 0 {
		b.line("\n# [description]                 # %s could be tidier", plural(n, "description"))
		b.line("# %-28s # without scripts, styles, empty paragraphs; all tags closed", "clean   = true")
		b.line("# %-28s # or \"text\", \"drop\", \"same-shop\"", "links   = \"keep\"")
		b.line("# %-28s # or \"drop\", \"to-images\"", "images  = \"keep\"")
	}
	for _, p := range s.Phrases {
		b.line("\n# Stands in %d of %d descriptions:\n# [[replace]]\n# in   = [\"description\"]\n# find = %s\n# with = \"\"", p.Times, p.Of, quoted(p.Text))
	}
	long, short := -1, -1 // how many cells are filled
	for _, c := range s.Columns {
		switch c.Field {
		case catalogue.Description:
			long = max(long, c.Filled)
		case catalogue.ShortDescription:
			short = max(short, c.Filled)
		}
	}
	if short >= 0 && 2*short < long {
		b.line("\n# [short_description]           # %s", plural(long-short, "empty cell"))
		b.line("# %-28s # its first sentences", "from    = \"description\"")
		b.line("# longest = 160")
	}
}

// Ask asks for what would put descriptions in order.
func (*descriptionSection) Ask(s *Seen) (list []Question) {
	if n := s.cells(catalogue.DescriptionUntidy); n > 0 {
		list = append(list, yesNo("description.untidy", n, fmt.Sprintf("%s could be tidier: scripts, styles, empty paragraphs, tags that are not closed.", plural(n, "description")), "Tidy them?",
			set("description", "clean", "true")).on(catalogue.DescriptionUntidy, s.first(catalogue.Description)))
	}
	for _, p := range s.Phrases {
		list = append(list, yesNo("replace="+clean(p.Text), p.Times, fmt.Sprintf("%s stands in %d of %d descriptions.", shown(p.Text), p.Times, p.Of), "Take it out?",
			newOf("replace", "in", `["description"]`, "find", quoted(p.Text), "with", `""`)))
	}
	long, short := s.filled(catalogue.Description), s.filled(catalogue.ShortDescription)
	if short >= 0 && 2*short < long {
		list = append(list, yesNo("short_description.from", long-short, fmt.Sprintf("%s a description, and no short one.", verb(long-short, "row", "has", "have")),
			"Make it of the first sentences, of 160 characters at most?", lineOf("short_description", rulebook.Line{Key: "from", Value: `"description"`}, rulebook.Line{Key: "longest", Value: "160"})))
	}
	return list
}

// filled returns in how many rows a field is filled, where most are; -1 if no column has it.
func (s *Seen) filled(f catalogue.Field) int {
	n := -1
	for _, c := range s.Columns {
		if c.Field == f {
			n = max(n, c.Filled)
		}
	}
	return n
}
