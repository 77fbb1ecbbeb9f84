package repair

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"zetanum/core/catalogue"
	"zetanum/core/columns"
	"zetanum/core/folder"
	"zetanum/core/imagelink"
	"zetanum/core/linkcheck"
	"zetanum/core/register"
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
	// Save is a folder in which the pictures are kept, "" if none are, and SaveAs the pattern of their names; "" for those in the links.
	Save, SaveAs string
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
	Saved   int // pictures that are kept
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
	if l.register, err = l.openLinkRegister(ctx); err != nil {
		return nil, err
	}
	defer l.register.Close()
	if err := l.check(ctx); err != nil {
		return nil, err
	}
	if err = l.write(job.Dir()); err == nil {
		err = l.remember(ctx)
	}
	if err != nil {
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
	saver   *saver // nil if pictures are not kept

	register *register.Register // nil if there is none
	report   *LinkReport
}

// each calls do with each link in the cells of images, as the rulebook has it, and what it is. It calls reset when the reading begins anew.
func (l *linkRun) each(reset func(), do func(row *catalogue.Row, col, number int, link imagelink.Link)) error {
	var links []imagelink.Link
	rules := &l.opt.Book.Images.Rules
	return l.table.EachProduct(reset, func(row *catalogue.Row) {
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
	l.cols = columns.OfField(c, catalogue.Images, l.opt.Book.Images.Columns...)
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
	if l.opt.Save != "" {
		var err error
		if l.saver, err = newSaver(l.opt.Save, l.opt.SaveAs, c); err != nil {
			return err
		}
	}
	return l.each(func() {
		l.report.Rows, l.report.Places, l.report.Left, l.links = 0, 0, 0, nil
		clear(l.index)
		l.saver.reset()
	}, func(row *catalogue.Row, _, _ int, link imagelink.Link) {
		l.report.Places++
		if !link.Is.IsAddress() {
			l.report.Left++
			return
		}
		if _, known := l.index[link.Out]; !known {
			own := strings.Clone(link.Out)
			l.index[own] = len(l.links)
			l.links = append(l.links, own)
			l.saver.name(row, own)
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
		known, err := l.remembered(ctx)
		if err != nil {
			return err
		}
		before = slices.Concat(known, l.earlier(), before)
	}
	l.opt.Check.Whole = l.opt.Check.Whole || l.saver != nil
	l.results = make([]linkcheck.Result, len(l.links))
	for _, r := range before {
		if i, is := l.index[r.Link]; is && r.Answers(&l.opt.Check) && l.saver.has(i, &r) && !r.Time.Before(l.results[i].Time) {
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
	if l.saver != nil {
		if err := l.saver.begin(before, l.index); err != nil {
			return err
		}
		l.opt.Check.Keep = l.saver.keep
	}
	checker := linkcheck.New(l.opt.Check)
	defer checker.Close()
	opened := l.report.Reused
	return checker.All(ctx, ask, l.opt.Polite, func(i int, r linkcheck.Result) error {
		if err := l.saver.failed(); err != nil {
			return err
		}
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
