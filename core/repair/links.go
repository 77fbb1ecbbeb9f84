package repair

import (
	"bufio"
	"cmp"
	"context"
	"encoding/csv"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/folder"
	"zetanum/core/imagelink"
	"zetanum/core/linkcheck"
	"zetanum/core/steps"
)

// The files of a folder with what links have led to.
const (
	LinksName      = "links.csv"            // each link once, with what came back
	DeadLinksName  = "dead-links.csv"       // each row with a link that leads to no picture
	MovedLinksName = "moved-links.csv"      // links, and the addresses that may be written in their place
	SameLinksName  = "same-pictures.csv"    // links to one picture
	ResultsName    = "links.jsonl"          // for programs, and for runs that go on
	journalEnding  = ".links-journal.jsonl" // behind the name of the input, while links are opened
)

// LinkOptions say whose links are opened, and how.
type LinkOptions struct {
	Options
	Check  linkcheck.Options
	Polite linkcheck.Politeness
	Fresh  time.Duration // how old a result of an earlier run may be to be taken; 0: none is
	// Opened is told how many links have been opened, of how many, and how many of them are not good.
	Opened func(done, all, bad int)
}

// A LinkReport is what has come of the links of a file.
type LinkReport struct {
	Source  string // its name
	Sheet   string
	Columns []string // the headings under which links were looked for
	Rows    int
	Places  int // links in cells
	Left    int // links in cells that are no address that could be opened, such as names of files
	Links   int // different ones
	Reused  int // of these, known from earlier
	Reasons []ReasonCount
	Hosts   []HostCount
	Kinds   []KindCount
	Dead    int // rows with a link that leads to no picture
	Moved   int // links in whose place another address may be written
	Same    int // pictures that several links lead to
	Place   folder.Place
}

// A ReasonCount is how many links came to one end.
type ReasonCount struct {
	State   linkcheck.State
	Reason  linkcheck.Reason
	Links   int
	Example string
}

// A HostCount is what became of the links of one host.
type HostCount struct {
	Host              string
	Links, Good, Dead int
}

// A KindCount is how many pictures are of one type.
type KindCount struct {
	Type                             string
	Links                            int
	Smallest, Largest                [2]int // width and height, by the shorter side
	Print, Animated, Turned, OneHued int
}

// Bad reports how many links are not good.
func (r *LinkReport) Bad() (n int) {
	for _, c := range r.Reasons {
		if c.State != linkcheck.Good {
			n += c.Links
		}
	}
	return n
}

// ErrNoImages says that a file has no column of images.
var ErrNoImages = errors.New("no column of it has links to images")

// LinksFolder returns the folder that belongs to the links of a file. For one in an output folder of ours it lies beside that.
func LinksFolder(input string) string {
	if dir := filepath.Dir(input); input != "-" {
		if _, ours := openOutput(dir); ours {
			if whole, err := filepath.Abs(dir); dir == "." && err == nil {
				dir = filepath.Join("..", filepath.Base(whole))
			}
			return strings.TrimSuffix(filepath.Clean(dir), ".repaired") + ".links"
		}
	}
	return strings.TrimSuffix(Target(input), ".repaired") + ".links"
}

// Links opens the links to images of a file, and writes a folder with what came back.
func Links(ctx context.Context, opt LinkOptions) (*LinkReport, error) {
	l := &linkRun{runner: &runner{opt: opt.Options, result: new(Result)}, opt: opt, index: make(map[string]int), report: new(LinkReport)}
	job, err := folder.Begin(opt.Target)
	if err != nil {
		return nil, err
	}
	done := false
	defer func() {
		if !done {
			_ = job.Abort()
		}
	}()
	table, err := l.runner.open(ctx, job.Dir())
	if err != nil {
		return nil, err
	}
	defer table.Close()
	if err := l.gather(); err != nil {
		return nil, err
	}
	if err := l.check(ctx); err != nil {
		return nil, err
	}
	if err := l.write(job.Dir()); err != nil {
		return nil, errors.Join(err, l.journal.Close())
	}
	if err := table.Close(); err != nil {
		return nil, err
	}
	job.Replaces = func(run json.RawMessage) bool {
		var older linkManifest
		return json.Unmarshal(run, &older) == nil && older.Links.Input == l.report.Source && older.Links.Sheet == l.report.Sheet
	}
	done = true
	manifest := linkManifest{Version: opt.Version, Date: opt.Date}
	manifest.Links.Input, manifest.Links.Sheet, manifest.Links.Opened = l.report.Source, l.report.Sheet, l.report.Links
	if l.report.Place, err = job.Commit(manifest); err != nil {
		return nil, err
	}
	return l.report, l.journal.Remove()
}

// linkManifest is what the manifest of the folder holds of the run.
type linkManifest struct {
	Version string `json:"version"`
	Date    string `json:"date"`
	Links   struct {
		Input  string `json:"input"`
		Sheet  string `json:"sheet,omitempty"`
		Opened int    `json:"opened"`
	} `json:"links"`
}

type linkRun struct {
	*runner
	opt     LinkOptions
	cols    []int
	known   []int
	links   []string // in the order in which they stand in the file
	index   map[string]int
	results []linkcheck.Result
	journal *linkcheck.Journal
	report  *LinkReport
}

// each calls do with each link in the cells of images, as the rulebook has it, and what it is.
func (l *linkRun) each(do func(row *catalogue.Row, col, number int, link imagelink.Link)) error {
	var links []imagelink.Link
	rules := &l.opt.Book.Images.Rules
	return l.table.EachProduct(func() { l.report.Rows = 0 }, func(row *catalogue.Row) {
		l.report.Rows++
		number := 0
		for _, col := range l.cols {
			cell := row.Cell(col)
			if cell == "" {
				continue
			}
			links = rules.Read(links[:0], cell)
			for _, link := range links {
				number++
				do(row, col, number, link)
			}
		}
	})
}

// gather takes down all links, each once.
func (l *linkRun) gather() error {
	c := &l.table.Columns
	l.cols = c.All(catalogue.Images)
	for _, name := range l.opt.Book.Images.Columns {
		for _, col := range columns.FindAll(c, name) {
			if !slices.Contains(l.cols, col) {
				l.cols = append(l.cols, col)
			}
		}
	}
	if len(l.cols) == 0 {
		return fmt.Errorf("%s: %w; say which with the setting ‹field› HEADING=images. Its headings are: %s", l.table.Name, ErrNoImages, strings.Join(c.Headings, ", "))
	}
	if from := l.opt.Book.Images.LinksFrom; from != "" {
		addresses, err := imagelink.OpenAddresses(from)
		if err != nil {
			return fmt.Errorf("[images] links_from: %w", err)
		}
		l.opt.Book.Images.Addresses = addresses
	}
	l.known = steps.KnownBy(c)
	l.report.Source, l.report.Sheet = l.table.Name, l.table.Sheet
	for _, col := range l.cols {
		l.report.Columns = append(l.report.Columns, c.Headings[col])
	}
	return l.each(func(_ *catalogue.Row, _, _ int, link imagelink.Link) {
		l.report.Places++
		if !link.Is.IsAddress() {
			l.report.Left++
			return
		}
		if _, known := l.index[link.Out]; !known {
			own := strings.Clone(link.Out)
			l.index[own] = len(l.links)
			l.links = append(l.links, own)
		}
	})
}

// check opens the links that are not known.
func (l *linkRun) check(ctx context.Context) (err error) {
	var before []linkcheck.Result
	if l.journal, before, err = linkcheck.OpenJournal(strings.TrimSuffix(l.opt.Target, ".links") + journalEnding); err != nil {
		return err
	}
	defer func() {
		if err != nil {
			err = errors.Join(err, l.journal.Close())
		}
	}()
	if l.opt.Fresh > 0 {
		before = append(l.earlier(), before...)
	}
	l.results = make([]linkcheck.Result, len(l.links))
	for _, r := range before {
		if i, is := l.index[r.Link]; is && r.Answers(&l.opt.Check) {
			l.results[i] = r
		}
	}
	var ask []string
	var at []int
	bad := 0
	for i, link := range l.links {
		switch {
		case l.results[i].Link == "":
			ask, at = append(ask, link), append(at, i)
		case l.results[i].State != linkcheck.Good:
			bad++
		}
	}
	l.report.Links, l.report.Reused = len(l.links), len(l.links)-len(ask)
	checker := linkcheck.New(l.opt.Check)
	defer checker.Close()
	opened := l.report.Reused
	return checker.All(ctx, ask, l.opt.Polite, func(i int, r linkcheck.Result) error {
		l.results[at[i]] = r
		if opened++; r.State != linkcheck.Good {
			bad++
		}
		if l.opt.Opened != nil {
			l.opt.Opened(opened, len(l.links), bad)
		}
		return l.journal.Add(&r)
	})
}

// earlier returns the results of an earlier run that are young enough.
func (l *linkRun) earlier() (young []linkcheck.Result) {
	f, err := os.Open(filepath.Join(l.opt.Target, ResultsName))
	if err != nil {
		return nil
	}
	defer f.Close()
	results, err := linkcheck.ReadResults(f)
	if err != nil {
		return nil
	}
	since := l.opt.Now().Add(-l.opt.Fresh)
	return slices.DeleteFunc(results, func(r linkcheck.Result) bool { return r.Time.Before(since) })
}

// write writes what came back, and counts it.
func (l *linkRun) write(dir string) error {
	if err := l.writeResults(dir); err != nil {
		return err
	}
	if err := l.writeMoved(dir); err != nil {
		return err
	}
	if err := l.writeSame(dir); err != nil {
		return err
	}
	l.count()
	return l.writeDead(dir)
}

func (l *linkRun) writeResults(dir string) error {
	lines, err := newLines(dir, LinksName, "Link", "Result", "Reason", "Said", "Number", "Type", "Width", "Height", "Bytes", "Colours", "Notes", "Leads to")
	if err != nil {
		return err
	}
	programs, err := os.Create(filepath.Join(dir, ResultsName))
	if err != nil {
		return errors.Join(err, lines.close())
	}
	out := bufio.NewWriter(programs)
	for i := range l.results {
		r := &l.results[i]
		lines.add(r.Link, string(r.State), string(r.Reason), r.Says, orNone(int64(r.Status)), string(r.Info.Type), orNone(int64(r.Info.Width)),
			orNone(int64(r.Info.Height)), orNone(r.Size), string(r.Info.Colours), strings.Join(notes(r), ", "), r.Final)
		b, err := json.Marshal(r)
		if err != nil {
			return err
		}
		_, _ = out.Write(append(b, '\n')) // an error comes with Flush
	}
	return errors.Join(lines.close(), out.Flush(), programs.Close())
}

// orNone writes a number, 0 as nothing.
func orNone(n int64) string {
	if n == 0 {
		return ""
	}
	return strconv.FormatInt(n, 10)
}

// notes says what else is to be said of a picture.
func notes(r *linkcheck.Result) (list []string) {
	for _, n := range []struct {
		is   bool
		says string
	}{
		{r.Info.Animated, "moves"}, {r.Info.Transparent, "transparent"}, {r.Info.Turned > 1, "turned by its data"}, {r.OneHue, "one colour all over"},
		{r.Served != "" && strings.HasPrefix(r.Served, "image/") && r.Info.Type != "" && !served(r), "served as " + r.Served},
		{named(r), "its name says " + imagelink.TypeOf(r.Link)}, {r.Redirects > 0, "leads on"}, {r.Tries > 1, "at the " + strconv.Itoa(r.Tries) + ". try"},
	} {
		if n.is {
			list = append(list, n.says)
		}
	}
	return list
}

// served reports whether a server calls a picture what it is.
func served(r *linkcheck.Result) bool {
	kind := strings.TrimPrefix(strings.TrimSuffix(r.Served, "+xml"), "image/")
	return imagelink.SameType(strings.TrimPrefix(kind, "x-ms-"), string(r.Info.Type)) || kind == "pjpeg" || kind == "jpg"
}

// named reports whether the name of a picture says that it is another type than it is.
func named(r *linkcheck.Result) bool {
	kind := imagelink.TypeOf(r.Link)
	return kind != "" && r.Info.Type != "" && r.Instead == "" && kind != string(r.Info.Type)
}

func (l *linkRun) writeMoved(dir string) error {
	lines, err := newLines(dir, MovedLinksName, "Link", "Address", "Why")
	if err != nil {
		return err
	}
	for i := range l.results {
		switch r := &l.results[i]; {
		case r.Instead != "":
			lines.add(r.Link, r.Instead, "the page says that this is its picture")
			l.report.Moved++
		case r.Permanent && r.State == linkcheck.Good:
			lines.add(r.Link, r.Final, "the server says that it has moved for good")
			l.report.Moved++
		}
	}
	return lines.closeUnless(l.report.Moved == 0)
}

func (l *linkRun) writeSame(dir string) error {
	same := make(map[string][]int)
	for i := range l.results {
		if r := &l.results[i]; r.State == linkcheck.Good && r.Sum != "" {
			to := cmp.Or(r.Final, r.Link)
			if list := same[r.Sum]; !slices.ContainsFunc(list, func(n int) bool { return cmp.Or(l.results[n].Final, l.results[n].Link) == to }) {
				same[r.Sum] = append(list, i)
			}
		}
	}
	lines, err := newLines(dir, SameLinksName, "Picture", "Link")
	if err != nil {
		return err
	}
	for i := range l.results {
		list := same[l.results[i].Sum]
		if len(list) < 2 || list[0] != i {
			continue
		}
		l.report.Same++
		for _, n := range list {
			lines.add(strconv.Itoa(l.report.Same), l.results[n].Link)
		}
	}
	return lines.closeUnless(l.report.Same == 0)
}

// writeDead lists the rows with links that lead to no picture.
func (l *linkRun) writeDead(dir string) error {
	headings := []string{"Row"}
	for _, col := range l.known {
		headings = append(headings, l.table.Columns.Headings[col])
	}
	lines, err := newLines(dir, DeadLinksName, append(headings, "Column", "Image", "Link", "Result", "Reason", "Said", "Instead")...)
	if err != nil {
		return err
	}
	last := 0
	err = l.each(func(row *catalogue.Row, col, number int, link imagelink.Link) {
		i, is := l.index[link.Out]
		if !is || !link.Is.IsAddress() || l.results[i].State == linkcheck.Good {
			return
		}
		r := &l.results[i]
		cells := []string{strconv.Itoa(row.Number)}
		for _, col := range l.known {
			cells = append(cells, row.Cell(col))
		}
		lines.add(append(cells, l.table.Columns.Headings[col], strconv.Itoa(number), r.Link, string(r.State), string(r.Reason), r.Says, r.Instead)...)
		if row.Number != last {
			last = row.Number
			l.report.Dead++
		}
	})
	return errors.Join(err, lines.closeUnless(l.report.Dead == 0))
}

// count counts what came back, by reason, host and type.
func (l *linkRun) count() {
	reasons, hosts, kinds := make(map[linkcheck.Reason]*ReasonCount), make(map[string]*HostCount), make(map[string]*KindCount)
	for i := range l.results {
		r := &l.results[i]
		of := reasons[r.Reason]
		if of == nil {
			of = &ReasonCount{State: r.State, Reason: r.Reason, Example: r.Link}
			reasons[r.Reason] = of
		}
		of.Links++
		name := linkcheck.HostOf(r.Link)
		h := hosts[name]
		if h == nil {
			h = &HostCount{Host: name}
			hosts[name] = h
		}
		h.Links++
		if r.State != linkcheck.Good {
			h.Dead++
			continue
		}
		h.Good++
		k := kinds[string(r.Info.Type)]
		if k == nil {
			k = &KindCount{Type: string(r.Info.Type)}
			kinds[string(r.Info.Type)] = k
		}
		k.add(r)
	}
	for _, c := range reasons {
		l.report.Reasons = append(l.report.Reasons, *c)
	}
	slices.SortFunc(l.report.Reasons, func(a, b ReasonCount) int {
		return cmp.Or(order(a.State)-order(b.State), b.Links-a.Links, strings.Compare(string(a.Reason), string(b.Reason)))
	})
	for _, h := range hosts {
		l.report.Hosts = append(l.report.Hosts, *h)
	}
	slices.SortFunc(l.report.Hosts, func(a, b HostCount) int {
		return cmp.Or(b.Dead-a.Dead, b.Links-a.Links, strings.Compare(a.Host, b.Host))
	})
	for _, k := range kinds {
		l.report.Kinds = append(l.report.Kinds, *k)
	}
	slices.SortFunc(l.report.Kinds, func(a, b KindCount) int { return cmp.Or(b.Links-a.Links, strings.Compare(a.Type, b.Type)) })
}

// order is that in which states are told.
func order(s linkcheck.State) int {
	return slices.Index([]linkcheck.State{linkcheck.Good, linkcheck.Dead, linkcheck.Closed, linkcheck.Silent}, s)
}

func (k *KindCount) add(r *linkcheck.Result) {
	k.Links++
	size := [2]int{r.Info.Width, r.Info.Height}
	side := func(s [2]int) int { return min(s[0], s[1]) }
	if side(size) > 0 && (side(k.Smallest) == 0 || side(size) < side(k.Smallest)) {
		k.Smallest = size
	}
	if side(size) > side(k.Largest) {
		k.Largest = size
	}
	for _, c := range []struct {
		is bool
		n  *int
	}{{r.Info.Colours == "cmyk", &k.Print}, {r.Info.Animated, &k.Animated}, {r.Info.Turned > 1, &k.Turned}, {r.OneHue, &k.OneHued}} {
		if c.is {
			*c.n++
		}
	}
}

// lines is a table that is written.
type lines struct {
	file *os.File
	*csv.Writer
}

func newLines(dir, name string, headings ...string) (*lines, error) {
	file, err := os.Create(filepath.Join(dir, name))
	if err != nil {
		return nil, err
	}
	l := &lines{file, csv.NewWriter(file)}
	l.add(headings...)
	return l, nil
}

// add adds a line; what goes wrong with it is known when the table is closed.
func (l *lines) add(cells ...string) { _ = l.Write(cells) }

func (l *lines) close() error {
	l.Flush()
	return errors.Join(l.Error(), l.file.Close())
}

// closeUnless closes the table, and removes it if there is nothing in it.
func (l *lines) closeUnless(empty bool) error {
	err := l.close()
	if empty {
		err = errors.Join(err, os.Remove(l.file.Name()))
	}
	return err
}

// ErrLinks says that a folder does not have what links have led to.
var ErrLinks = errors.New("it has no results of the command ‹links›")

// opened reads what links have led to, if a folder is named that says so.
func (r *runner) opened() (*steps.Opened, error) {
	dir := r.opt.Links
	if dir == "" {
		return nil, nil
	}
	m, err := folder.ReadManifest(dir)
	if err != nil {
		return nil, fmt.Errorf("%s: %w: %w", dir, ErrLinks, err)
	}
	path := filepath.Join(dir, ResultsName)
	sum, err := folder.Sum(path)
	if err != nil || m.Files[ResultsName] == "" {
		return nil, fmt.Errorf("%s: %w", dir, ErrLinks)
	}
	if sum != m.Files[ResultsName] {
		return nil, fmt.Errorf("%s: it has been changed since it was written; open the links again", path)
	}
	f, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	results, err := linkcheck.ReadResults(f)
	if err != nil {
		return nil, err
	}
	o := &steps.Opened{Results: make(map[string]*linkcheck.Result, len(results)), Drop: r.opt.LinksDrop, Move: r.opt.LinksMove}
	for i := range results {
		o.Results[results[i].Link] = &results[i]
	}
	r.linksUsed = &LinksUsed{Folder: filepath.Base(dir), Sum: sum, Hold: r.opt.LinksHold, Drop: o.Drop, Move: o.Move}
	if r.opt.LinksHold || r.opt.LinksDrop {
		r.opt.Said = append(slices.Clone(r.opt.Said), catalogue.Decision{Finding: catalogue.ImageDead, Answer: catalogue.Hold})
	}
	return o, nil
}

// LinksUsed says which results of links a run has taken, and what became of those that lead to no picture.
type LinksUsed struct {
	Folder string `json:"folder"`
	Sum    string `json:"sum"`
	Hold   bool   `json:"hold,omitempty"`
	Drop   bool   `json:"drop,omitempty"`
	Move   bool   `json:"move,omitempty"`
}
