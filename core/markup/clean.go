package markup

import (
	"errors"
	"strings"
	"sync"
	"unicode/utf8"
)

// ErrDeep says that elements are deeper in one another than any parser has to follow.
var ErrDeep = errors.New("its elements are too deep in one another")

// A Cleaner writes descriptions as rules say. It is used by one goroutine at a time, for any number of them.
type Cleaner struct {
	b     builder
	p     printer
	known recogniser
	slow  bool // everything goes to the parser
}

// NewCleaner makes rules ready. own are the hosts of the shop, whose links do not leave it.
func (r *Rules) NewCleaner(own []string) *Cleaner {
	c := &Cleaner{}
	c.b.settings = newSettings(r, own)
	c.known = newRecogniser(c.b.settings)
	return c
}

// Clean returns how a cell is written, of a column that has shown what it is: safe and tidy HTML, on lines as the rules say or else as
// most cells of the column. Written again it is the same.
func (c *Cleaner) Clean(cell string, column *Shown) (after string, err error) {
	layout := c.b.rules.Layout
	if layout == "" {
		layout = column.Layout
	}
	if c.known.layout = layout; !c.slow && c.known.written(cell) && (!column.Twice || strings.IndexByte(cell, '&') < 0) && utf8.ValidString(cell) {
		c.b.images = c.b.images[:0]
		return cell, nil
	}
	return c.write(cell, column, layout)
}

// write reads a cell and writes what it says.
func (c *Cleaner) write(cell string, column *Shown, layout Layout) (after string, err error) {
	if err := c.read(cell, column); err != nil {
		return cell, err
	}
	c.p.document, c.p.layout, c.p.b, c.p.deepest = &c.b.document, layout, c.p.b[:0], 0
	c.p.write()
	if c.p.deepest > mostDeep {
		return cell, ErrDeep
	}
	if string(c.p.b) == cell {
		return cell, nil
	}
	return string(c.p.b), nil
}

// mostDeep is how deep blocks are in one another at most that are written; a parser may have to add some of its own.
const mostDeep = 128

// mostEscaped is how often HTML may have been made text.
const mostEscaped = 4

// read makes the document of a cell.
func (c *Cleaner) read(cell string, column *Shown) error {
	c.b.reset()
	cell = strings.ToValidUTF8(cell, "\uFFFD")
	form := column.FormOf(cell, c.b.rules.Markdown)
	for n := 0; form == FormEscaped && n < mostEscaped; n++ {
		cell = Unescape(cell)
		form = column.FormOf(cell, false)
	}
	if column.Twice {
		cell = escapedOnce(cell)
	}
	switch form {
	case FormHTML, FormEscaped:
		if c.slow || !c.b.quickly(cell) {
			if c.b.reset(); !c.b.parse(cell) {
				return ErrDeep
			}
		}
	case FormMarkdown:
		c.b.markdown(cell)
	default:
		c.b.plain(cell)
	}
	c.b.tidy()
	return nil
}

// Images returns the addresses of the pictures that are to be moved out of what was written last.
func (c *Cleaner) Images() []string { return c.b.images }

// A Pool has cleaners for as many goroutines as there are.
type Pool struct{ pool sync.Pool }

// NewPool returns a pool of cleaners by rules; see [Rules.NewCleaner].
func NewPool(r *Rules, own []string) *Pool {
	return &Pool{sync.Pool{New: func() any { return r.NewCleaner(own) }}}
}

// Get returns a cleaner that nobody else uses.
func (p *Pool) Get() *Cleaner { return p.pool.Get().(*Cleaner) }

// Put gives it back.
func (p *Pool) Put(c *Cleaner) { p.pool.Put(c) }

// Escape returns a text as HTML that shows it.
func Escape(s string) string { return string(appendEscaped(nil, s, false)) }
