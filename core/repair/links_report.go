package repair

import (
	"bufio"
	"cmp"
	"encoding/csv"
	"encoding/json"
	"errors"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/imagelink"
	"zetanum/core/linkcheck"
)

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
	headings := []string{"Link", "Result", "Reason", "Said", "Number", "Type", "Width", "Height", "Bytes", "Colours", "Notes", "Leads to"}
	if l.saver != nil {
		headings = append(headings, "File")
	}
	lines, err := newLines(dir, LinksName, headings...)
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
		cells := []string{r.Link, string(r.State), string(r.Reason), r.Says, orNone(int64(r.Status)), string(r.Info.Type), orNone(int64(r.Info.Width)),
			orNone(int64(r.Info.Height)), orNone(r.Size), string(r.Info.Colours), strings.Join(notes(r), ", "), r.Final}
		if file := l.saver.file(i, r); file != "" {
			cells = append(cells, file)
			l.report.Saved++
		} else if l.saver != nil {
			cells = append(cells, "")
		}
		lines.add(cells...)
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
	err = l.each(func() { l.report.Rows, last, l.report.Dead = 0, 0, 0 }, func(row *catalogue.Row, col, number int, link imagelink.Link) {
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
