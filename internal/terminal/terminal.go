// Package terminal is the only one that knows about terminals: colours,
// tables, line widths, and the progress bar.
package terminal

import (
	"fmt"
	"io"
	"os"
	"slices"
	"sort"
	"strings"
	"time"

	"github.com/jedib0t/go-pretty/v6/progress"
	"github.com/jedib0t/go-pretty/v6/table"
	"github.com/jedib0t/go-pretty/v6/text"
	"golang.org/x/term"
)

// A Printer writes words for a person.
type Printer struct {
	w      io.Writer
	colour bool
	width  int
	height int
}

// defaultWidth is the line width where nobody says how wide the terminal is.
const defaultWidth = 100

// IsTyped reports whether what is read comes from the keyboard of a terminal, which shows it.
func IsTyped(r io.Reader) bool {
	f, ok := r.(*os.File)
	return ok && term.IsTerminal(int(f.Fd()))
}

// NewPrinter returns a printer that uses colour if w is a terminal and plain
// does not forbid it.
func NewPrinter(w io.Writer, plain bool) *Printer {
	out := &cleaner{w: w}
	p := &Printer{w: out, width: defaultWidth, height: screen}
	if f, ok := w.(*os.File); ok && term.IsTerminal(int(f.Fd())) {
		p.colour = !plain && obeys(f)
		if width, height, err := term.GetSize(int(f.Fd())); err == nil && width >= 60 {
			p.width, p.height = min(width, 140), min(max(height-3, 40), 60) // the command, and the next one
		}
	}
	if p.colour {
		out.allowed = []string{reset}
		for _, c := range []text.Colors{bold, good, open, faint} {
			out.allowed = append(out.allowed, c.EscapeSeq())
		}
	}
	return p
}

// The colours, and what ends them.
var (
	bold, good  = text.Colors{text.Bold}, text.Colors{text.FgGreen}
	open, faint = text.Colors{text.FgMagenta}, text.Colors{text.Faint}
)

const reset = "\x1b[0m"

func (p *Printer) paint(c text.Colors, s string) string {
	if !p.colour {
		return s
	}
	return c.EscapeSeq() + s + reset
}

// Bold returns s in bold.
func (p *Printer) Bold(s string) string { return p.paint(bold, s) }

// Good returns s in the colour of what went well.
func (p *Printer) Good(s string) string { return p.paint(good, s) }

// Open returns s in the colour of what needs somebody.
func (p *Printer) Open(s string) string { return p.paint(open, s) }

// Faint returns s in the colour of what is said by the way.
func (p *Printer) Faint(s string) string { return p.paint(faint, s) }

// screen is how many lines are seen at once where nobody says how high the terminal is.
const screen = 50

// Fit writes what print prints at the first level at which a screen holds it; at the last one
// if none does. Level by level print says less, in fewer lines or as many; it returns how many of its lines may be there
// besides.
func (p *Printer) Fit(levels int, print func(p *Printer, level int) (besides int)) {
	printed := make([]string, levels)
	fits := func(level int) bool {
		var b strings.Builder
		tried := *p
		tried.w = &b
		besides := print(&tried, level)
		printed[level] = b.String()
		return strings.Count(printed[level], "\n") < p.height+besides
	}
	level := 0 // which mostly does
	if levels > 1 && !fits(0) {
		level = 1 + sort.Search(levels-2, func(n int) bool { return fits(1 + n) })
	}
	if printed[level] == "" { // the last one need not fit
		fits(level)
	}
	io.WriteString(p.w, printed[level])
}

// FitIn is [Printer.Fit] for a screen of so many lines, however many the terminal has.
func (p *Printer) FitIn(lines, levels int, print func(p *Printer, level int) (besides int)) {
	low := *p
	low.height = lines + 1
	low.Fit(levels, print)
}

// Cut shortens a text without colours so that it fits into a line in which so many characters stand already.
func (p *Printer) Cut(s string, taken int) string {
	room := max(p.width-taken, 10)
	if wide(s) <= room {
		return s
	}
	return strings.TrimRight(text.Trim(s, room-1), " ") + "…"
}

// Line writes a line.
func (p *Printer) Line(parts ...string) { fmt.Fprintln(p.w, strings.Join(parts, "")) }

// Linef writes a line by a format.
func (p *Printer) Linef(format string, args ...any) { fmt.Fprintf(p.w, format+"\n", args...) }

// Head writes a heading with a blank line before it.
func (p *Printer) Head(s string) { fmt.Fprintf(p.w, "\n%s\n", p.Bold(s)) }

// Wrap writes text in lines that fit, each behind indent.
func (p *Printer) Wrap(indent, s string) { p.WrapHanging(indent, indent, s) }

// WrapHanging writes text in lines that fit, the first behind first, the
// others behind rest.
func (p *Printer) WrapHanging(first, rest, s string) {
	for i, l := range wrap(short(s), p.width-wide(rest)) {
		indent := rest
		if i == 0 {
			indent = first
		}
		fmt.Fprintln(p.w, strings.TrimRight(indent+strings.TrimRight(l, " "), " "))
	}
}

// Ask writes a question and the answers that it takes, for which the line stays open.
func (p *Printer) Ask(indent, question, answers string) {
	lines := wrap(short(question), p.width-wide(indent))
	last := len(lines) - 1
	switch {
	case question == "":
		lines = []string{answers}
	case wide(indent+lines[last]+" "+answers)+answerRoom > p.width:
		lines = append(lines, answers)
	default:
		lines[last] = strings.TrimRight(lines[last], " ") + " " + answers
	}
	for i, l := range lines {
		if fmt.Fprint(p.w, indent+strings.TrimRight(l, " ")); i < len(lines)-1 {
			fmt.Fprintln(p.w)
		}
	}
	fmt.Fprint(p.w, " ")
}

// answerRoom is how much room is left for an answer.
const answerRoom = 8

// List prints names, each with what is said of it beside it, in as many lines as that needs.
func (p *Printer) List(rows [][]string) {
	widest := 0
	for _, r := range rows {
		widest = max(widest, wide(r[0]))
	}
	for _, r := range rows {
		gap := strings.Repeat(" ", widest-wide(r[0])+2)
		p.WrapHanging("  "+r[0]+gap, strings.Repeat(" ", widest+4), r[1])
	}
}

// wrap breaks a text between words into lines of that width. Colours go on from line to
// line by themselves; the library's function begins them again where they have ended.
func wrap(s string, width int) (lines []string) {
	for paragraph := range strings.SplitSeq(s, "\n") {
		line, used := "", 0
		for i, word := range strings.Split(paragraph, " ") {
			n := wide(word)
			switch {
			case i == 0:
				line, used = word, n
			case used+1+n > width:
				lines = append(lines, line)
				line, used = word, n
			default:
				line, used = line+" "+word, used+1+n
			}
		}
		lines = append(lines, line)
	}
	return lines
}

// wide is how many columns a text takes, without colours.
func wide(s string) int {
	for i := range len(s) {
		if s[i] < ' ' || s[i] > '~' {
			return text.StringWidthWithoutEscSequences(s)
		}
	}
	return len(s)
}

// A Table is rows of cells under headings.
type Table struct {
	Headings []string
	Right    []int // columns whose cells stand at the right, from 0
	Rows     [][]string
}

// Table writes a table, its cells shortened so that lines fit.
func (p *Printer) Table(t *Table) {
	w := table.NewWriter()
	style := table.StyleLight
	style.Options = table.OptionsNoBordersAndSeparators
	style.Box.PaddingLeft, style.Box.PaddingRight = "  ", ""
	style.Format.Header = text.FormatDefault
	if p.colour {
		style.Color.Header = faint
	}
	w.SetStyle(style)
	if t.Headings != nil {
		w.AppendHeader(row(t.Headings))
	}
	for _, r := range t.Rows {
		w.AppendRow(row(r))
	}
	var configs []table.ColumnConfig
	for _, c := range t.Right {
		configs = append(configs, table.ColumnConfig{Number: c + 1, Align: text.AlignRight, AlignHeader: text.AlignRight})
	}
	if last, room := t.last(p.width); room > 0 {
		configs = append(configs, table.ColumnConfig{Number: last + 1, WidthMax: room, WidthMaxEnforcer: func(s string, most int) string {
			return text.Snip(s, most, "…")
		}})
	}
	w.SetColumnConfigs(configs)
	w.SuppressTrailingSpaces()
	w.Style().Size.WidthMax = p.width
	fmt.Fprintln(p.w, w.Render())
}

// narrowest is how many characters of the last column are shown at least.
const narrowest = 12

// last returns the last column, and how many characters of it there is room for in a width, if it
// has to be cut; 0 if the table fits, or cannot.
func (t *Table) last(width int) (col, room int) {
	var widths []int
	for _, cells := range append([][]string{t.Headings}, t.Rows...) {
		for i, c := range cells {
			if i == len(widths) {
				widths = append(widths, 0)
			}
			widths[i] = max(widths[i], text.LongestLineLen(c))
		}
	}
	col, room = len(widths)-1, width
	if col < 1 || slices.Contains(t.Right, col) {
		return col, 0
	}
	for _, w := range widths[:col] {
		room -= w + 2
	}
	if room -= 2; room < narrowest || widths[col] <= room {
		return col, 0
	}
	return col, room
}

func row(cells []string) table.Row {
	r := make(table.Row, len(cells))
	for i, c := range cells {
		r[i] = c
	}
	return r
}

// A Bar shows how far a long piece of work is and how long it will still take,
// on a terminal, once it has taken a second. It goes away when the work is done.
type Bar struct {
	w       io.Writer
	started time.Time
	writer  progress.Writer
	tracker progress.Tracker
	counts  bool
}

// NewBar returns a bar on f; it shows nothing if f is no terminal.
func NewBar(f io.Writer) *Bar {
	b := &Bar{started: time.Now()}
	if file, ok := f.(*os.File); ok && term.IsTerminal(int(file.Fd())) && obeys(file) {
		b.w = f
	}
	return b
}

// Counts says that it is not bytes of which so many are done: their rate is shown, too.
func (b *Bar) Counts() { b.counts = true }

// Update moves the bar: of the total so much is done, and this is what is being
// done now. It may be called often.
func (b *Bar) Update(stage string, done, total int64) {
	if b.w == nil {
		return
	}
	b.tracker.UpdateMessage(stage)
	b.tracker.UpdateTotal(total)
	b.tracker.SetValue(min(done, total-1))
	if b.writer == nil && time.Since(b.started) >= time.Second {
		b.show()
	}
}

func (b *Bar) show() {
	b.tracker.Units = progress.UnitsBytes
	if b.counts {
		b.tracker.Units = progress.UnitsDefault
	}
	b.writer = progress.NewWriter()
	b.writer.SetOutputWriter(b.w)
	b.writer.SetTrackerLength(30)
	b.writer.SetMessageLength(10)
	b.writer.SetUpdateFrequency(barEvery)
	b.writer.SetTrackerPosition(progress.PositionRight)
	style := b.writer.Style()
	style.Visibility.ETA = true
	style.Visibility.Speed = b.counts
	style.Options.PercentFormat = "%3.0f%%"
	style.Options.ETAString = "remaining"
	style.Options.TimeInProgressPrecision = time.Second
	style.Options.Separator = " "
	b.writer.AppendTracker(&b.tracker)
	go b.writer.Render()
}

// barEvery is how often the bar is drawn.
const barEvery = 200 * time.Millisecond

// Stop takes the bar away.
func (b *Bar) Stop() {
	if b.writer == nil {
		return
	}
	b.tracker.MarkAsDone()
	time.Sleep(barEvery + barEvery/2)
	b.writer.Stop()
	for b.writer.IsRenderInProgress() {
		time.Sleep(barEvery / 20)
	}
	fmt.Fprint(b.w, text.CursorUp.Sprint(), text.EraseLine.Sprint())
}
