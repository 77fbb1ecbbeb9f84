package export

import (
	"bufio"
	"cmp"
	"encoding/binary"
	"encoding/json"
	"errors"
	"io"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
	"zetanum/core/line"
	"zetanum/core/markup"
	"zetanum/core/sheet"
)

// A Sample is a product that is ready, to be looked at.
type Sample struct {
	Why  []string // in what it differs from others, in words
	Rows []SampleRow
}

// A SampleRow is a row of it: its cells as they go out, by column of the output, and as they were.
type SampleRow struct {
	Number        int // as the spreadsheet program shows it
	Cells, Before []string
}

// SamplesWanted says which products are looked at.
type SamplesWanted struct {
	Most int      // how many
	SKUs []string // of those that are looked at in any case
}

// Samples are products that are ready, as different from one another as can be.
type Samples struct {
	Headings []string // of the output
	Columns  []int    // of the source, or beside it, by column of the output
	Products []Sample
	Of       int      // how many products there are
	Missing  []string // SKUs that none of them has
}

// A trait is what makes a product differ from others, in the order in which they are chosen.
type trait struct {
	says string
	has  func(*looked) bool
}

// looked is what was seen of a product.
type looked struct {
	row     int // its number
	rows    int
	changed bool
	html    string // its descriptions
	seen    markup.Seen
}

var traits = []trait{
	{"with a table", func(p *looked) bool { return strings.Contains(p.html, "<table") }},
	{"with a list", func(p *looked) bool { return strings.Contains(p.html, "<ul") || strings.Contains(p.html, "<ol") }},
	{"with a picture in its text", func(p *looked) bool { return p.seen.Pictures > 0 }},
	{"with a link", func(p *looked) bool { return strings.Contains(p.html, "<a ") }},
	{"with headings", func(p *looked) bool { return strings.Contains(p.html, "<h") }},
	{"of several rows", func(p *looked) bool { return p.rows > 1 }},
	{"without a description", func(p *looked) bool { return p.html == "" }},
	{"a description without tags", func(p *looked) bool { return p.html != "" && !p.seen.HTML }},
	{"nothing was changed", func(p *looked) bool { return !p.changed }},
	{"only paragraphs", func(p *looked) bool {
		return p.seen.HTML && p.seen.Pictures == 0 && !strings.Contains(p.html, "<table") && !strings.Contains(p.html, "<ul") && !strings.Contains(p.html, "<ol")
	}},
}

// A choice is a product that may be chosen, by a number that is different for all: the smallest is.
type choice struct {
	order uint64
	row   int
}

// fewest keeps the choices with the smallest numbers.
type fewest struct {
	most int
	list []choice
}

func (f *fewest) add(order uint64, row int) {
	if len(f.list) == f.most && order >= f.list[f.most-1].order {
		return
	}
	at, _ := slices.BinarySearchFunc(f.list, order, func(c choice, order uint64) int { return cmp.Compare(c.order, order) })
	f.list = slices.Insert(f.list, at, choice{order, row})
	if len(f.list) > f.most {
		f.list = f.list[:f.most]
	}
}

// hashOf returns a number for a row by which products are chosen at random, and always the same ones.
func hashOf(row int) uint64 {
	var b [8]byte
	binary.LittleEndian.PutUint64(b[:], uint64(row))
	return xxhash.Sum64(b[:])
}

// eachWay is how many products are kept for each trait.
const eachWay = 5

// Samples chooses products that differ in structure, from the rows that were kept for it.
func (r *Ready) Samples(wanted SamplesWanted) (s *Samples, err error) {
	s = &Samples{}
	for n := range r.Output.Count() {
		s.Headings, s.Columns = append(s.Headings, r.Output.Heading(n, r.Columns)), append(s.Columns, r.Output.Col(n))
	}
	c := &chooser{of: s, kinds: make([]catalogue.Kind, len(s.Columns)), ways: make([]fewest, len(traits)+2), rest: fewest{most: wanted.Most}, skus: wanted.SKUs, named: make(map[int]string), products: make(map[int]int), sku: -1}
	for n, col := range s.Columns {
		c.kinds[n] = r.Columns.Kind(col)
		if r.Columns.Fields[col] == catalogue.SKU && c.sku < 0 {
			c.sku = n
		}
	}
	for i := range c.ways {
		c.ways[i].most = eachWay
	}
	changed, err := r.changedWays()
	if err != nil {
		return nil, err
	}
	for _, w := range changed {
		for _, ch := range w.list {
			c.products[ch.row] = -1
		}
	}
	if err := r.eachLooked(c.add); err != nil {
		return nil, err
	}
	c.done()
	for i := range changed { // what is known by a row is known by its product, if that is ready
		var list []choice
		for _, ch := range changed[i].list {
			if product := c.products[ch.row]; product >= 0 {
				list = append(list, choice{ch.order, product})
			}
		}
		changed[i].list = list
	}
	why := c.choose(wanted.Most, changed)
	products := make(map[int]*Sample, len(why))
	rows := make(map[int]bool)
	err = r.eachLooked(func(row, product int, changed string, cells []string) {
		reasons, chosen := why[product]
		if !chosen {
			return
		}
		if products[product] == nil {
			products[product] = &Sample{Why: reasons}
		}
		rows[row] = true
		products[product].Rows = append(products[product].Rows, SampleRow{row, cloned(cells), cloned(cells)})
	})
	if err != nil {
		return nil, err
	}
	if err := r.before(s, products, rows); err != nil {
		return nil, err
	}
	for _, row := range slices.Sorted(maps.Keys(products)) {
		c.differs(products[row])
		s.Products = append(s.Products, *products[row])
	}
	for _, sku := range wanted.SKUs {
		if !slices.ContainsFunc(s.Products, func(p Sample) bool {
			return slices.ContainsFunc(p.Rows, func(row SampleRow) bool {
				return c.sku >= 0 && strings.EqualFold(strings.TrimSpace(row.Cells[c.sku]), sku)
			})
		}) {
			s.Missing = append(s.Missing, sku)
		}
	}
	return s, nil
}

func cloned(cells []string) []string {
	c := make([]string, len(cells))
	for i := range cells {
		c[i] = strings.Clone(cells[i])
	}
	return c
}

// eachLooked calls do with each row that was kept to be looked at: its number, that of its product, the places of what was changed, and
// its cells.
func (r *Ready) eachLooked(do func(row, product int, changed string, cells []string)) error {
	table, err := sheet.OpenSpooled(filepath.Join(filepath.Dir(r.Path), line.LookName))
	if err != nil {
		return err
	}
	defer table.Close()
	return table.Each(func() {}, func(row *catalogue.Row) {
		number, _ := strconv.Atoi(row.Cells[0])
		product, _ := strconv.Atoi(row.Cells[1])
		do(number, product, row.Cells[2], row.Cells[3:])
	})
}

// mostLooked is how many bytes of the descriptions of a product are looked at, and the whole of the one in which they are reached.
const mostLooked = 1 << 20

// A chooser chooses products.
type chooser struct {
	of       *Samples
	kinds    []catalogue.Kind
	sku      int
	skus     []string
	named    map[int]string // products that are wanted, by their numbers
	products map[int]int    // of rows of which something was changed, by their numbers; -1 for what is not ready
	ways     []fewest       // of each trait, and of the shortest and the longest
	rest     fewest
	now      looked
	looker   markup.Looker
}

func (c *chooser) add(row, product int, changed string, cells []string) {
	if c.now.rows > 0 && c.now.row != product {
		c.done()
	}
	if c.now.rows == 0 {
		c.of.Of++
	}
	c.now.row = product
	if _, asked := c.products[row]; asked {
		c.products[row] = product
	}
	c.now.rows++
	c.now.changed = c.now.changed || changed != ""
	for n, cell := range cells {
		if n < len(c.kinds) && c.kinds[n] == catalogue.HTMLKind && cell != "" {
			if len(c.now.html) < mostLooked {
				c.now.html += cell
			}
		}
	}
	if c.sku >= 0 && len(c.skus) > 0 {
		for _, sku := range c.skus {
			if strings.EqualFold(strings.TrimSpace(cells[c.sku]), sku) {
				c.named[product] = sku
			}
		}
	}
}

// done takes down in what a product differs from others.
func (c *chooser) done() {
	if c.now.rows == 0 {
		return
	}
	p := &c.now
	p.seen = *c.looker.Look(p.html)
	hash := hashOf(p.row)
	for i := range traits {
		if traits[i].has(p) {
			c.ways[i].add(hash, p.row)
		}
	}
	if n := uint64(len(p.html)); n > 0 {
		tie := hash >> 40
		c.ways[len(traits)].add(n<<24|tie, p.row)
		c.ways[len(traits)+1].add(^(n<<24 | tie), p.row)
	}
	c.rest.add(hash, p.row)
	*p = looked{}
}

// differs adds to why a product was chosen in what else it differs from others.
func (c *chooser) differs(s *Sample) {
	p := looked{rows: len(s.Rows)}
	for _, row := range s.Rows {
		p.changed = p.changed || !slices.Equal(row.Cells, row.Before)
		for n, cell := range row.Cells {
			if c.kinds[n] == catalogue.HTMLKind {
				p.html += cell
			}
		}
	}
	p.seen = *c.looker.Look(p.html)
	for i := range traits {
		if traits[i].has(&p) && !slices.Contains(s.Why, traits[i].says) {
			s.Why = append(s.Why, traits[i].says)
		}
	}
}

// A way is one in which products differ, with some that do.
type way struct {
	says string
	list []choice
}

// choose returns the products that are looked at, with what makes each differ.
func (c *chooser) choose(most int, changed []way) map[int][]string {
	why := make(map[int][]string)
	for row, sku := range c.named {
		why[row] = append(why[row], "asked for: "+sku)
	}
	var ways []way
	for i := range traits {
		ways = append(ways, way{traits[i].says, c.ways[i].list})
	}
	ways = append(ways, way{"the shortest description", c.ways[len(traits)].list[:min(1, len(c.ways[len(traits)].list))]},
		way{"the longest description", c.ways[len(traits)+1].list[:min(1, len(c.ways[len(traits)+1].list))]})
	ways = append(ways, changed...)
	for _, w := range ways {
		if slices.ContainsFunc(w.list, func(c choice) bool { return why[c.row] != nil }) || len(w.list) == 0 || len(why) >= most+len(c.named) {
			continue
		}
		why[w.list[0].row] = []string{w.says}
	}
	for _, ch := range c.rest.list {
		if len(why) >= most+len(c.named) {
			break
		}
		if why[ch.row] == nil {
			why[ch.row] = []string{}
		}
	}
	return why
}

// changeLine is a line of changes.jsonl, as far as it is needed.
type changeLine struct {
	Row    int    `json:"row"`
	Column string `json:"column"`
	Before string `json:"before"`
	Rule   string `json:"rule"`
	Sum    string `json:"before_xxh64"`
}

func (r *Ready) eachChange(do func(*changeLine)) error {
	return eachLine(filepath.Join(filepath.Dir(r.Path), line.FileNames[3]), func(text []byte) error {
		var c changeLine
		if err := json.Unmarshal(text, &c); err != nil {
			return err
		}
		do(&c)
		return nil
	})
}

// eachLine calls do with each line of a file; one that is not there has none.
func eachLine(path string, do func([]byte) error) error {
	f, err := os.Open(path)
	if errors.Is(err, os.ErrNotExist) {
		return nil
	}
	if err != nil {
		return err
	}
	defer f.Close()
	var long []byte // a line that the buffer does not hold
	for b := bufio.NewReaderSize(f, 1<<16); ; {
		text, err := b.ReadSlice('\n')
		if err == bufio.ErrBufferFull {
			long = append(long, text...)
			continue
		}
		if len(long) > 0 {
			text = append(long, text...)
			long = long[:0]
		}
		if len(text) > 1 {
			if err := do(text); err != nil {
				return err
			}
		}
		if err == io.EOF {
			return nil
		}
		if err != nil {
			return err
		}
	}
}

// changedWays returns products of which something was changed, for each kind of change.
func (r *Ready) changedWays() ([]way, error) {
	byRule := make(map[string]*fewest)
	err := r.eachChange(func(c *changeLine) {
		f := byRule[c.Rule]
		if f == nil {
			f = &fewest{most: eachWay}
			byRule[strings.Clone(c.Rule)] = f
		}
		if !slices.ContainsFunc(f.list, func(ch choice) bool { return ch.row == c.Row }) {
			f.add(hashOf(c.Row), c.Row)
		}
	})
	var ways []way
	for _, rule := range catalogue.Rules() {
		if f := byRule[rule.String()]; f != nil {
			ways = append(ways, way{rule.Entry().Title, f.list})
		}
	}
	return ways, err
}

// before puts into samples what their cells were.
func (r *Ready) before(s *Samples, products map[int]*Sample, rows map[int]bool) error {
	type place struct {
		row    int
		column string
	}
	first := make(map[place]changeLine)
	sums := make(map[string]string)
	err := r.eachChange(func(c *changeLine) {
		at := place{c.Row, c.Column}
		if _, seen := first[at]; seen || !rows[c.Row] {
			return
		}
		first[at] = *c
		if c.Sum != "" {
			sums[c.Sum] = ""
		}
	})
	if err != nil {
		return err
	}
	err = eachLine(filepath.Join(filepath.Dir(r.Path), line.LongName), func(text []byte) error {
		var long struct {
			Sum  string `json:"xxh64"`
			Text string `json:"text"`
		}
		if err := json.Unmarshal(text, &long); err != nil {
			return err
		}
		if _, needed := sums[long.Sum]; needed {
			sums[long.Sum] = long.Text
		}
		return nil
	})
	for _, p := range products {
		for i := range p.Rows {
			row := &p.Rows[i]
			for n, col := range s.Columns {
				c, changed := first[place{row.Number, r.Columns.Headings[col]}]
				if !changed {
					continue
				}
				if row.Before[n] = c.Before; sums[c.Sum] != "" {
					row.Before[n] = sums[c.Sum]
				}
			}
		}
	}
	return err
}
