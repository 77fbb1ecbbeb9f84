package sheet

import (
	"bytes"
	"cmp"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/catalogue"
	"zetanum/core/charset"
	"zetanum/core/folder"
	"zetanum/core/heading"
	"zetanum/core/workbook"
)

// Options say how to open a file. The zero value opens the first visible
// sheet with a table and lets the headings speak for themselves.
type Options struct {
	Sheet  string                     // the sheet of a workbook to read
	Member string                     // the file of an archive to read
	Fields map[string]catalogue.Field // what headings mean, where the user says so
	Hints  map[string]catalogue.Field // the same, but the headings need not be there
	Stdin  io.Reader                  // what the file name "-" stands for
	Called string                     // what that is called in messages; "standard input" if nothing is said
	Spool  string                     // the folder for what must be written down before it can be read twice

	Reading

	// AnyHeadings takes the first row that is not blank for the headings if none
	// of them is known, as in a list that somebody keeps for himself.
	AnyHeadings bool

	// Form is the form in which the file may be; nil if none is known.
	Form *FormRows

	// List says that it is a list of words in two columns: its first row with two of them has the headings, whatever the words mean,
	// because those of a list may be called like headings.
	List bool

	// MostRows is how many rows a product may have before it is cut; 0 is [MostRows].
	MostRows int

	inPlace bool // nothing is written down
}

// A Table is one sheet of a file, open for reading. Its rows below the
// headings can be read as often as needed.
type Table struct {
	Path       string // as the user named it
	Name       string // of the file, without its folder
	Sheet      string // of a workbook
	Others     []string
	Size       int64
	Extent     int64           // how many bytes a reading of it goes through
	BookSum    uint64          // of what was written down before it was read: the checksum of the file
	Member     string          // the file in an archive that is read
	Beside     []string        // the other files of the archive
	Transcoded charset.Charset // the encoding of a file that was brought to UTF-8 first; UTF-8 if it was not
	Changed    time.Time
	Form       Form
	Columns    catalogue.Columns
	InForm     bool               // it has the rows of [Options.Form]
	Doubt      string             // what speaks for another encoding, if little speaks for the one that was found
	Evidence   string             // why the encoding was taken, if the file is not all UTF-8
	end        int64              // of what is read; behind it come only blank rows and padding; 0: that of the file
	mixed      bool               // some lines of a file of another encoding are UTF-8
	Hidden     []string           // the headings of columns that a workbook does not show
	HiddenRows int                // rows that a workbook does not show
	Filtered   bool               // a filter is set in it
	Blank      int                // blank rows at the end that are left out
	Merged     int                // areas of merged cells below the headings: their text stands in the first cell
	Tall       []Tall             // those of them that reach over several rows, by row and column
	Pictures   []workbook.Picture // that lie over the rows of a workbook below its headings, by row and column
	ByCells    []int              // columns whose meaning was seen from their cells
	Sample     [][]string         // the cells of the first rows below the headings
	Unlike     []Unlike           // columns that hold something else than their headings say
	Heading    int                // the row number of the headings
	skipped    int                // rows above that are not even looked at
	Preamble   []Line             // the rows above the headings

	Heads    []Line    // the heading row, or both rows that the headings are put together from
	Beneath  []Beneath // rows right under the headings that are no products
	Until    int       // the row in which [Table.EachProduct] has come upon the headings of another table
	HeadLine string    // the heading row as it stands in the file, without its end
	Mark     string    // what is left of a byte order mark before the first heading, which is no part of it

	notShown []workbook.Range // rows that a workbook does not show, by number

	flavour flavour // of a file that was not in the usual one
	written Form    // and how it was written else
	json    bool    // it is a list of objects
	page    string  // which table of a web page it is
	was     string  // its kind before its rows were written down in another order

	file   *os.File
	remove string        // a file to remove when the table is closed
	joined *folder.Whole // of whose parts it is read; nil if it is a file
	start  int64         // where the first row below the headings begins
	opt    Options
}

// sniffSize is how much of a file is looked at before it is read.
const sniffSize = 1 << 20

// sampleRows is how many rows are looked at to find out what columns hold.
const sampleRows = 200

// Open finds the table in a file. The error is an [*Error] where the file is
// no table that can be read.
func Open(path string, opt Options) (*Table, error) {
	t := &Table{Path: path, Name: filepath.Base(path), opt: opt}
	err := t.open()
	if err == nil && opt.Member != "" && t.Member == "" {
		err = t.fail(ErrNoArchive, "", "Leave out the setting ‹member›.")
	}
	if err == nil && opt.Sheet != "" && t.Sheet == "" {
		err = t.fail(ErrNotBook, "", "Leave out the setting ‹sheet›.")
	}
	if err != nil {
		t.Close()
		return nil, err
	}
	return t, nil
}

// MostRows is how many rows of a product are kept together in one part.
func (t *Table) MostRows() int { return cmp.Or(t.opt.MostRows, MostRows) }

func (t *Table) open() error {
	if t.Path == "-" {
		t.Name = cmp.Or(t.opt.Called, "standard input")
		return t.openStdin()
	}
	info, err := os.Stat(t.Path)
	switch {
	case errors.Is(err, fs.ErrNotExist):
		if whole, inParts := folder.WholeAt(t.Path); inParts {
			return t.join(whole)
		}
		return t.fail(fs.ErrNotExist, "", "Check the spelling of the name and the folder you are in.")
	case err != nil:
		return t.fail(err, "", "")
	case info.IsDir():
		return t.fail(ErrFolder, "", "Name the file inside it.")
	}
	t.Size, t.Changed = info.Size(), info.ModTime()
	if t.file, err = os.Open(t.Path); err != nil {
		return t.fail(err, "", "")
	}
	return t.sniff()
}

// join reads the parts of a file as one.
func (t *Table) join(whole folder.Whole) error {
	t.joined = &whole
	spool, err := t.newSpool()
	if err != nil {
		return err
	}
	for i, name := range whole.Parts {
		in, err := os.Open(filepath.Join(filepath.Dir(t.Path), filepath.Base(name)))
		if err != nil {
			return t.fail(err, "it lies there in parts, and one of them is missing", "Repair its source once more.")
		}
		info, err := in.Stat()
		if err == nil && i > 0 {
			_, err = in.Seek(whole.Head, io.SeekStart)
		}
		n := int64(0)
		if err == nil {
			n, err = io.Copy(spool, in)
			if t.Size += n; info.ModTime().After(t.Changed) {
				t.Changed = info.ModTime()
			}
		}
		if err := errors.Join(err, in.Close()); err != nil {
			return t.fail(err, "", "")
		}
	}
	return t.sniff()
}

func (t *Table) openStdin() error {
	spool, err := t.newSpool()
	if err != nil {
		return err
	}
	if t.Size, err = io.Copy(spool, t.opt.Stdin); err != nil {
		return fmt.Errorf("standard input: %w", err)
	}
	return t.sniff()
}

// giveUp lets the table do without its file, from which something is to be written down
// first; done lets that go.
func (t *Table) giveUp() (source *os.File, done func()) {
	source, remove := t.file, t.remove
	t.file, t.remove = nil, ""
	return source, func() {
		source.Close()
		if remove != "" {
			os.Remove(remove)
		}
	}
}

// newSpool makes a file to spool into; it becomes the table's own.
func (t *Table) newSpool() (*os.File, error) {
	if t.opt.inPlace {
		return nil, errSpooled
	}
	f, err := os.CreateTemp(t.opt.Spool, ".zetanum-spool-*")
	if err != nil {
		return nil, err
	}
	if t.file != nil {
		t.file.Close()
		os.Remove(t.remove)
	}
	t.file, t.remove, t.end = f, f.Name(), 0
	return f, nil
}

// Close lets the file go.
func (t *Table) Close() error {
	var err error
	if t.file != nil {
		err = t.file.Close()
	}
	if t.remove != "" {
		err = errors.Join(err, os.Remove(t.remove))
	}
	return err
}

// fail names the file in an error and says what to do.
func (t *Table) fail(err error, more, do string) error {
	if do == "" {
		do = toDo(err)
	}
	return &Error{File: t.Name, Err: err, More: more, Do: do}
}

// sniff looks at the beginning of the file and finds its form and headings.
func (t *Table) sniff() error {
	info, err := t.file.Stat()
	if err != nil {
		return t.fail(err, "", "")
	}
	head := make([]byte, min(sniffSize, info.Size())+1)
	n, err := t.file.ReadAt(head, 0)
	if err != nil && !errors.Is(err, io.EOF) {
		return t.fail(err, "", "")
	}
	head = head[:min(n, sniffSize)]
	switch {
	case bytes.HasPrefix(head, []byte("PK\x03\x04")), bytes.HasPrefix(head, []byte(workbook.Binary[:4])):
		return t.openWorkbook()
	case bytes.HasPrefix(head, []byte("\x1f\x8b")):
		return t.openGzip()
	case looksJSON(head):
		return t.openJSON()
	case looksHTML(head):
		return t.openHTML()
	}
	if err := t.findEnd(); err != nil {
		return err
	}
	head, more := head[:min(int64(len(head)), t.end)], t.end > sniffSize
	if err := t.refuse(head); err != nil {
		return err
	}
	t.Form, t.Extent = Form{}, t.end
	t.Form.Charset, t.Form.BOM = charset.Detect(head, more)
	switch named, _ := charset.Parse(t.opt.Encoding); {
	case t.opt.Encoding == "", named == charset.UTF8:
	case named.Wide():
		return t.transcode(named)
	default:
		t.Form.Charset, t.Form.BOM = named, false
		return t.findTable(head, more)
	}
	if err := t.weigh(); err != nil {
		return err
	}
	if t.Form.Charset.Wide() {
		return t.transcode(t.Form.Charset)
	}
	return t.findTable(head, more)
}

// head returns the beginning of the file, and whether it goes on behind that.
func (t *Table) head() (head []byte, more bool, err error) { return t.headAt(0) }

// headAt is [Table.head] of what lies from there on.
func (t *Table) headAt(from int64) (head []byte, more bool, err error) {
	head = make([]byte, min(t.end-from, sniffSize))
	if _, err = t.file.ReadAt(head, from); err != nil && !errors.Is(err, io.EOF) {
		return nil, false, t.fail(err, "", "")
	}
	return head, t.end-from > sniffSize, nil
}

// behind returns where the row behind the first n begins, which begin there.
func (t *Table) behind(from int64, n int) (int64, error) {
	var row catalogue.Row
	for size := int64(sniffSize); from < t.Extent && size <= maxRow; {
		raw := make([]byte, min(t.Extent-from, size))
		if _, err := t.file.ReadAt(raw, from); err != nil && !errors.Is(err, io.EOF) {
			return 0, t.fail(err, "", "")
		}
		last := from+int64(len(raw)) == t.Extent
		sc, pos := t.Form.Scanner(text(raw)), 0
		for sc.Next(&row) && (last || sc.Pos() < len(raw)) { // a row at the end may go on
			if pos = sc.Pos(); n == 1 {
				return from + int64(pos), nil
			}
			n--
		}
		if last {
			break
		}
		if from += int64(pos); pos == 0 {
			size *= 2
		}
	}
	return t.Extent, nil
}

// refuse recognises what is no table.
func (t *Table) refuse(head []byte) error {
	if len(bytes.TrimPrefix(head, []byte(charset.BOM))) == 0 {
		return t.fail(ErrEmpty, "", "Export or save it again.")
	}
	for magic, kind := range map[string]string{
		"%PDF": "a PDF document", "\x89PNG": "a picture", "\xff\xd8\xff": "a picture",
		"GIF8": "a picture", "<?xml": "a document in XML", "7z\xbc\xaf": "a compressed archive", "{\\rtf": "a text document",
	} {
		if !bytes.HasPrefix(head, []byte(magic)) {
			continue
		}
		return t.fail(ErrBinary, "it looks like "+kind, "Name a CSV file or a workbook; if a spreadsheet program opens it, save it "+
			"there as .xlsx.")
	}
	if c, _ := charset.Detect(head, true); c.Wide() {
		return nil
	}
	odd := 0
	for _, b := range head {
		if b < ' ' && b != '\t' && b != '\n' && b != '\r' && b != '\f' && b != 0x1b {
			odd++
		}
	}
	if odd > 8 && odd*50 > len(head) {
		return t.fail(ErrBinary, "much of it is not text", "Name a CSV file or a workbook.")
	}
	return nil
}

// findTable finds out how the rows of a CSV file are written and where its
// headings are. head is the beginning of the file.
func (t *Table) findTable(head []byte, more bool) error {
	raw := head
	if t.Form.BOM {
		raw = raw[len(charset.BOM):]
	}
	if line := separatorLine(raw); line > 0 {
		if t.opt.Separator == "" {
			t.opt.Separator = string(raw[4])
		}
		raw = raw[line:]
	}
	start := len(head) - len(raw)
	decoded := t.Form.Decode(text(t.Form.Charset.Decode(raw)))
	if more {
		// The last row may be cut.
		if i := strings.LastIndexAny(decoded, "\r\n"); i > 0 {
			decoded = decoded[:i]
		}
	}
	t.chooseSeparator(decoded)
	if odd, ok := t.oddFlavour(decoded); ok {
		return t.respool(odd, start, decoded)
	}
	if t.skipped = t.opt.skipped(); t.skipped > 0 {
		from, err := t.behind(int64(start), t.skipped)
		if err != nil {
			return err
		}
		if head, more, err = t.headAt(from); err != nil {
			return err
		}
		raw, start = head, int(from)
		decoded = t.Form.Decode(text(t.Form.Charset.Decode(raw)))
		if i := strings.LastIndexAny(decoded, "\r\n"); more && i > 0 {
			decoded = decoded[:i]
		}
	}
	if !more && endsOpen(decoded, &t.Form) {
		t.Form.Lenient = true
	}
	rows := sampleOf(decoded, &t.Form, sampleRows)
	if t.skipped == 0 {
		t.takeMark(rows)
	}
	h, err := t.chooseHeading(rows)
	if err != nil {
		return err
	}
	if n := len(t.Columns.Headings); n > workbook.MostColumns {
		return t.fail(ErrTooWide, fmt.Sprintf("%d; no spreadsheet has more than %d", n, workbook.MostColumns),
			"Look whether another separator is meant, and name it with the setting ‹separator›.")
	}
	first := max(h, 0)
	t.HeadLine = decoded[rows[first].Whole.From:rows[first].Whole.To]
	if h == 0 {
		t.HeadLine = strings.Replace(t.HeadLine, t.Mark, "", 1)
	}
	if rows[first].Stray || rows[first].Mended {
		t.HeadLine = encodeRow(&rows[first], &t.Form)
	}
	// What is written anew ends as the headings do.
	if t.Form.LineEnd = decoded[rows[first].Whole.To:rows[first].End]; t.Form.LineEnd == "" {
		t.Form.LineEnd = string(t.Form.lineEnd())
	}
	if h < 0 || len(t.Heads) > 1 {
		t.HeadLine = t.madeUp()
	}
	// Where the rows begin has to be counted in bytes of the file.
	t.start = int64(start + rawOffset(raw, h+1, &t.Form))
	t.Form.Columns = len(t.Columns.Headings)
	return nil
}

// takeMark takes out of the first cell of a file what is left of a byte order mark that was
// read as text: a second one, or one that was decoded wrongly.
func (t *Table) takeMark(rows []catalogue.Row) {
	t.Mark = ""
	if len(rows) == 0 || len(rows[0].Cells) == 0 {
		return
	}
	first := &rows[0].Cells[0]
	for _, mark := range []string{"\ufeff", "ï»¿"} {
		if rest, ok := strings.CutPrefix(*first, mark); ok {
			t.Mark, *first = mark, rest
		}
	}
}

// separatorLine returns the length of a first line that says only what the separator
// is, sep=; as some programs write and none shows; 0 if there is none.
func separatorLine(raw []byte) int {
	if len(raw) < 6 || !bytes.EqualFold(raw[:4], []byte("sep=")) {
		return 0
	}
	switch {
	case raw[5] == '\n':
		return 6
	case raw[5] == '\r' && len(raw) > 6 && raw[6] == '\n':
		return 7
	}
	return 0
}

// madeUp returns a row of the headings where no row of the table has them.
func (t *Table) madeUp() string {
	return string(t.Form.AppendRow(nil, t.Columns.Headings...))
}

// encodeRow writes a row down anew.
func encodeRow(row *catalogue.Row, form *Form) string {
	var line []byte
	for i, cell := range row.Cells {
		if i > 0 {
			line = append(line, form.Separator)
		}
		line = form.style().AppendCell(line, cell, row.Marks[i])
	}
	return string(line)
}

// rawOffset returns where the row behind the first n begins.
func rawOffset(raw []byte, n int, form *Form) int {
	sc := form.Scanner(text(raw))
	var row catalogue.Row
	for range n {
		sc.Next(&row)
	}
	return sc.Pos()
}

// sampleOf returns up to n first rows of a text, each in memory of its own.
func sampleOf(decoded string, form *Form, n int) []catalogue.Row {
	sc := form.Scanner(decoded)
	var rows []catalogue.Row
	for len(rows) < n {
		var row catalogue.Row
		if !sc.Next(&row) {
			break
		}
		rows = append(rows, row)
	}
	return rows
}

// chooseSeparator takes the separator with which most headings are known;
// among equals the one with which most rows have the same number of cells, and
// among those the one with most cells. How rows end goes with it, because it
// depends on where quotation marks may stand.
func (t *Table) chooseSeparator(decoded string) {
	best := [3]int{-1}
	var chosen Form
	candidates := append(separators[:len(separators):len(separators)], rareSeparators...)
	if said := t.opt.SeparatorByte(); said != 0 {
		candidates = []byte{said}
	}
	for _, sep := range candidates {
		form := t.Form
		form.Separator = sep
		form.CR = strings.Contains(decoded, "\r") && !hasRowEnd(decoded, &form)
		rows := sampleOf(decoded, &form, 50)
		known := 0
		counts := make(map[int]int)
		for i := range rows {
			if rows[i].Blank() {
				continue
			}
			said := t.said(rows[i].Cells)
			known = max(known, heading.CountOver(rows[i].Cells, known-said)+said)
			counts[len(rows[i].Cells)]++
		}
		same, width := 0, 1
		for w, n := range counts {
			if w > 1 && (n > same || n == same && w > width) {
				same, width = n, w
			}
		}
		if len(candidates) > 1 && bytes.IndexByte(rareSeparators, sep) >= 0 && (known < 2 || known <= best[0]) {
			continue
		}
		score := [3]int{known, same, width}
		if score[0] > best[0] || score[0] == best[0] && (score[1] > best[1] || score[1] == best[1] && score[2] > best[2]) {
			best, chosen = score, form
		}
	}
	t.Form = chosen
}

// Adopt takes the form that a surprise brought and finds the table anew.
func (t *Table) Adopt(s *Surprise) error {
	head, more, err := t.head()
	if err != nil {
		return err
	}
	if t.Form.Charset == charset.UTF8 && s.Form.Charset != charset.UTF8 {
		t.Form.Charset = s.Form.Charset
		if err := t.weigh(); err != nil {
			return err
		}
	}
	if t.Form.Charset.Wide() {
		return t.transcode(t.Form.Charset)
	}
	t.Form.BOM = s.Form.BOM
	t.Form.Lenient, t.Form.Columns = s.Form.Lenient, 0 // not known yet
	if err := t.findTable(head, more); err != nil {
		return err
	}
	if !t.Form.Spooled {
		t.Form.CR = s.Form.CR
	}
	return nil
}

// headSum returns a checksum of what lies before the first row.
func (t *Table) headSum() *xxhash.Digest {
	sum := xxhash.New()
	io.Copy(sum, io.NewSectionReader(t.file, 0, t.start))
	return sum
}

// CheckUnchanged returns [ErrChanged] if the source has another size now than
// when it was opened.
func (t *Table) CheckUnchanged() error {
	if t.Path == "-" {
		return nil
	}
	names, size := []string{t.Path}, int64(0)
	if t.joined != nil {
		names, size = t.joined.Parts, -t.joined.Head*int64(len(t.joined.Parts)-1)
	}
	for _, name := range names {
		info, err := os.Stat(filepath.Join(filepath.Dir(t.Path), filepath.Base(name)))
		if err != nil {
			return err
		}
		size += info.Size()
	}
	if size != t.Size {
		return ErrChanged
	}
	return nil
}

// HasCodes reports whether a file can be read and has a column of barcodes, and
// one by which its products can be known. spool is a folder for what is needed for a while.
func HasCodes(path, spool string) bool {
	t, err := Open(path, Options{Spool: spool})
	if err != nil {
		return false
	}
	defer t.Close()
	return t.Columns.First(catalogue.Barcode) >= 0 && (t.Columns.First(catalogue.SKU) >= 0 || t.Columns.First(catalogue.Title) >= 0)
}
