// Package target fits what goes out to what the shop's importer takes: for now, to its
// encoding, and to how its rows are written.
package target

import (
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/unicode/norm"

	"zetanum/core/catalogue"
	"zetanum/core/charset"
	"zetanum/core/sheet"
	"zetanum/core/template"
	"zetanum/core/workbook"
)

// Rules say what the file for the importer has to be: [target].
type Rules struct {
	// Encoding is that of the file; UTF-8 if nothing is said.
	Encoding string `toml:"encoding" json:"encoding,omitempty"`
	// BOM says whether the file begins with a byte order mark. If nothing is said,
	// it does in UTF-16, and in UTF-8 if the source does.
	BOM *bool `toml:"bom" json:"bom,omitempty"`
	// Separator is what separates the cells of the file: comma, semicolon, tab, pipe
	// or another character; that of the source if nothing is said.
	Separator string `toml:"separator" json:"separator,omitempty"`
	// Quote stands around cells in place of the quotation mark.
	Quote string `toml:"quote" json:"quote,omitempty"`
	// Quotes says which cells are in quotation marks, one of QuotesNames; those of the
	// source, and those that need it, if nothing is said.
	Quotes string `toml:"quotes" json:"quotes,omitempty"`
	// LineEnds are how its rows end: lf or crlf; as those of the source if nothing
	// is said, but never with a carriage return alone.
	LineEnds string `toml:"line_ends" json:"line_ends,omitempty"`
	// FirstRows says what becomes of the rows above the headings, and of those under
	// them that are no products: "keep" or "drop"; they are dropped if nothing is said.
	FirstRows string `toml:"first_rows" json:"first_rows,omitempty"`
	// As names the forms in which what is ready is written, too: of [Forms].
	As []string `toml:"as" json:"as,omitempty"`
	// Sheet is how the sheet of a workbook is called in which what is ready is written: Products, if nothing is
	// said.
	Sheet string `toml:"sheet" json:"sheet,omitempty"`
	// Template is the form that the platform gives out; Columns say what fills its columns, by their headings, and Required which of them must
	// be filled although the form does not say so. See [Fill].
	Template string   `toml:"template" json:"template,omitempty"`
	Columns  Fills    `toml:"columns" json:"columns,omitempty"`
	Required []string `toml:"required" json:"required,omitempty"`
	// Besides are columns that go out behind those of the template, under the headings that they have in the file.
	Besides []string `toml:"besides" json:"besides,omitempty"`
	// Together are groups of columns of the template that a row fills all, or not at all.
	Together [][]string `toml:"together" json:"together,omitempty"`
	// Like are files that the importer has taken, or that the shop has exported, in place of a template: the first has the columns and their
	// order, the others those that it does not have.
	Like []string `toml:"like" json:"like,omitempty"`
	// Limits are those of a file that the importer takes.
	Limits Limits `toml:"limits" json:"limits,omitzero"`
	// Blank says what the importer makes of an empty cell where the shop has something: "keeps", "clears" or "unknown", which it is if nothing
	// is said.
	Blank string `toml:"blank" json:"blank,omitempty"`
	// Empty is what stands in a cell that the importer is to empty; "" if it has no word for that.
	Empty string `toml:"empty" json:"empty,omitempty"`
	// Empties are fields or headings in which an empty cell is to empty what the shop has: Empty stands there.
	Empties []string `toml:"empties" json:"empties,omitempty"`
	// Job says what the file is for: "new" products, "update" of those that the shop has, or both if nothing is said.
	Job string `toml:"job" json:"job,omitempty"`
	// Split says that new products and those that the shop has go into files of their own: "new-existing". By is a field or heading for each of
	// whose values there is a file.
	Split string `toml:"split" json:"split,omitempty"`
	By    string `toml:"by" json:"by,omitempty"`
	// OnlyChanged leaves out products, and columns, that are as the shop has them.
	OnlyChanged bool `toml:"only_changed" json:"only_changed,omitempty"`
	// Compare are the fields or headings by which it is seen whether something changes; all, if nothing is said.
	Compare []string `toml:"compare" json:"compare,omitempty"`
	// Action fills a column that says what the importer is to do with each row.
	Action Action `toml:"action" json:"action,omitzero"`
	// Instead are texts for characters that the encoding does not have, where
	// others are wanted than the usual ones.
	Instead map[string]string `toml:"instead" json:"instead,omitempty"`
}

// Limits are how much a file may have; 0 says that there is no limit.
type Limits struct {
	Rows      int `toml:"rows" json:"rows,omitempty"`
	Megabytes int `toml:"megabytes" json:"megabytes,omitempty"` // of a million bytes
}

// An Action is a column that says what the importer is to do with each row, and the target's words for that.
type Action struct {
	Column   string `toml:"column" json:"column,omitempty"`
	New      string `toml:"new" json:"new,omitempty"`
	Existing string `toml:"existing" json:"existing,omitempty"`
}

// What a file can be for.
const (
	JobNew    = "new"
	JobUpdate = "update"
	// SplitNew is the only way so far in which a file is split.
	SplitNew = "new-existing"
)

// HasForm reports whether a template says what goes out, or a file that was taken.
func (r *Rules) HasForm() bool { return r.Template != "" || len(r.Like) > 0 }

// AsksShop reports whether the rules need to know which products the shop has.
func (r *Rules) AsksShop() bool {
	return r.Split != "" || r.OnlyChanged || r.Action.Column != "" && r.Job == ""
}

// Charset returns the encoding.
func (r *Rules) Charset() charset.Charset {
	c, _ := charset.Parse(r.Encoding)
	return c
}

// Self names, in place of a template, the file itself that is repaired: it is in its form already.
const Self = "self"

// Check returns what is wrong with the rules.
func (r *Rules) Check() (problems []catalogue.Problem) {
	wrong := func(key, format string, args ...any) {
		problems = append(problems, catalogue.Problem{Key: key, Text: fmt.Sprintf(format, args...)})
	}
	if name := workbook.SheetName(r.Sheet); name != r.Sheet {
		wrong("sheet", "%q can be no name of a sheet; %q could", r.Sheet, name)
	}
	c, known := charset.Parse(r.Encoding)
	switch {
	case r.Encoding != "" && !known:
		wrong("encoding", "there is no encoding %q; those that can be written are: %s", r.Encoding, strings.Join(charset.Names(), ", "))
		return problems
	case r.BOM != nil && *r.BOM && !c.Marked():
		wrong("bom", "%s has no byte order mark; UTF-8, UTF-16 and UTF-32 have one", c)
	}
	reading := sheet.Reading{Separator: r.Separator, Quote: r.Quote}
	for _, p := range reading.Check() {
		wrong(p.Key, "%s", p.Text)
	}
	if _, ok := quotes[r.Quotes]; r.Quotes != "" && !ok {
		wrong("quotes", "is needed or all")
	}
	if r.FirstRows != "" && r.FirstRows != "keep" && r.FirstRows != "drop" {
		wrong("first_rows", "is keep or drop")
	}
	for _, form := range r.As {
		if !slices.Contains(Forms, form) {
			wrong("as", "what is ready can be written as %s, not as %q", strings.Join(Forms, ", "), form)
		}
	}
	if _, ok := lineEnds[r.LineEnds]; r.LineEnds != "" && !ok {
		wrong("line_ends", "is lf or crlf")
	}
	if !slices.Contains([]string{"", "keeps", "clears", "unknown"}, r.Blank) {
		wrong("blank", "is keeps, clears or unknown")
	}
	if r.Job != "" && r.Job != JobNew && r.Job != JobUpdate {
		wrong("job", "is new or update; if nothing is said, the file is for both")
	}
	if r.Split != "" && r.Split != SplitNew {
		wrong("split", "can be %s", SplitNew)
	} else if r.Split != "" && r.Job != "" {
		wrong("split", "makes a file of new products and one of those that the shop has, and job = %q leaves one of the two out; take one of the two lines out", r.Job)
	}
	if len(r.Compare) > 0 && !r.OnlyChanged {
		wrong("compare", "says what counts as changed, and only_changed = true asks for that")
	}
	if a := &r.Action; *a != (Action{}) {
		switch {
		case a.Column == "":
			wrong("action", `names no column; for example action = { column = "Action", new = "create", existing = "update" }`)
		case a.New == "" && r.Job != JobUpdate, a.Existing == "" && r.Job != JobNew:
			wrong("action", `has to say what stands in the rows of new products and of those that the shop has: action = { column = %q, new = "…", existing = "…" }`, a.Column)
		}
	}
	if len(r.Empties) > 0 && (r.Empty == "" || r.Job != JobUpdate) {
		wrong("empties", "is about an update, in which the importer's word stands in empty cells: job = \"update\" and empty = … have to be said, too")
	}
	if r.Limits.Rows < 0 || r.Limits.Megabytes < 0 {
		wrong("limits", "rows and megabytes are numbers from 1 on")
	}
	for _, names := range r.Together {
		if len(names) < 2 {
			wrong("together", "each group has at least two columns, and %q is one", strings.Join(names, ""))
		}
	}
	for key, names := range map[string]int{"together": len(r.Together), "besides": len(r.Besides), "empties": len(r.Empties)} {
		if names > 0 && !r.HasForm() {
			wrong(key, "is about a template, and none is named")
		}
	}
	if r.Template != "" && len(r.Like) > 0 {
		wrong("like", "names files that were taken, in place of a template, and template names one; take one of the two lines out")
	}
	if !r.HasForm() && len(r.Columns)+len(r.Required) > 0 {
		key := "columns"
		if len(r.Columns) == 0 {
			key = "required"
		}
		wrong(key, "says what goes into a template, and template names none")
	}
	if r.Template != "" && r.FirstRows != "" {
		wrong("first_rows", "is about the rows of the source; what stands above the products is that of the template")
	}
	for _, of := range slices.Sorted(maps.Keys(r.Instead)) {
		in := r.Instead[of]
		switch {
		case utf8.RuneCountInString(of) != 1:
			wrong("instead", "%q is not one character", of)
		case fits(c, of):
			wrong("instead", "%s has %q itself, so nothing would stand for it; take it out, or name another encoding", c, of)
		case !fits(c, in):
			wrong("instead", "%s has not all characters of %q, either", c, in)
		}
	}
	return problems
}

// ErrWrong is wrapped by errors about rules that do not go with a file.
var ErrWrong = errors.New("the rules do not go with this file")

// Against returns an error if the rules, with what is taken over from a source whose
// cells are written like this, give no file that can be read.
func (r *Rules) Against(source sheet.Style) error {
	if style, _ := r.Style(source, ""); style.Separator == style.Quote {
		return fmt.Errorf(`%w: under [target] the cells would be separated by the same %q as stands around them, because the file itself has it; `+
			`name another with separator or quote`, ErrWrong, style.Quote)
	}
	return nil
}

// Forms are the forms in which what is ready can be written.
var Forms = []string{"csv", "tsv", "xlsx", "xls", "ods", "jsonl"}

var (
	quotes   = map[string]sheet.Quotes{"needed": sheet.QuotesNeeded, "all": sheet.QuotesEvery}
	lineEnds = map[string]string{"lf": "\n", "crlf": "\r\n"}
)

// Style returns how the cells of the file are written that the source writes like this, and
// how its rows end.
func (r *Rules) Style(s sheet.Style, lineEnd string) (sheet.Style, string) {
	said := sheet.Reading{Separator: r.Separator, Quote: r.Quote}
	if r.Quotes != "" || r.Quote != "" {
		s.Quote, s.Quotes = '"', quotes[r.Quotes]
	}
	if b := said.SeparatorByte(); b != 0 {
		s.Separator = b
	}
	if b := said.QuoteByte(); b != 0 {
		s.Quote = b
	}
	if e, ok := lineEnds[r.LineEnds]; ok {
		lineEnd = e
	} else if lineEnd == "\r" {
		lineEnd = "\r\n"
	}
	return s, lineEnd
}

// In returns the rules with what a template that is a text file says of how it is written, where they say nothing.
func (r *Rules) In(form *template.Template) Rules {
	with, text := *r, form.Text
	if with.Limits == (Limits{}) {
		with.Limits = Limits{Rows: form.MostRows, Megabytes: form.MostMegabytes}
	}
	if text == nil {
		return with
	}
	if with.Separator+with.Quote == "" {
		with.Separator = string(text.Separator)
		if text.Quote != '"' {
			with.Quote = string(text.Quote)
		}
	}
	if with.LineEnds == "" && text.LineEnd == "\r\n" {
		with.LineEnds = "crlf"
	} else if with.LineEnds == "" {
		with.LineEnds = "lf"
	}
	if with.Encoding == "" {
		with.Encoding = text.Charset.String()
		if with.BOM == nil {
			with.BOM = &text.BOM
		}
	}
	return with
}

// Reading returns how a file is read that was written by the rules, as far as they say.
func (r *Rules) Reading() sheet.Reading {
	return sheet.Reading{Encoding: r.Encoding, Separator: r.Separator, Quote: r.Quote}
}

func fits(c charset.Charset, s string) bool {
	return !strings.ContainsFunc(s, func(r rune) bool { return !c.Has(r) })
}

// A Fitter fits texts to an encoding. It is used by many goroutines at once.
type Fitter struct {
	charset charset.Charset
	instead map[rune]string
}

// NewFitter returns one for the encoding of the rules; nil if there is nothing to fit.
func NewFitter(r *Rules) *Fitter {
	f := &Fitter{charset: r.Charset(), instead: make(map[rune]string)}
	if f.charset.Marked() {
		return nil
	}
	for of, in := range r.Instead {
		first, _ := utf8.DecodeRuneInString(of)
		f.instead[first] = in
	}
	return f
}

// Has reports whether the encoding has all characters of a text.
func (f *Fitter) Has(s string) bool {
	for i := range len(s) {
		if s[i] >= utf8.RuneSelf {
			return fits(f.charset, s)
		}
	}
	return true
}

// A StandIn is what stands for a character.
type StandIn struct {
	Of rune
	In string
}

// String returns "ł → l".
func (s StandIn) String() string { return string(s.Of) + " → " + s.In }

// Fit returns a text with something else in place of the characters that the encoding
// does not have, and what that is, each once: in HTML a reference, which shows the
// character itself. If nothing may stand for a character, ok is false and bad is the
// character.
func (f *Fitter) Fit(s string, html bool) (fitted string, stood []StandIn, bad rune, ok bool) {
	var b strings.Builder
	before := rune(0)
	for _, r := range s {
		in := string(r)
		if !f.charset.Has(r) {
			switch other, has := f.standIn(r); {
			case html && r != utf8.RuneError:
				in = fmt.Sprintf("&#%d;", r)
			case has:
				in = other
			default:
				return s, nil, r, false
			}
			if stand := (StandIn{r, in}); !slices.Contains(stood, stand) {
				stood = append(stood, stand)
			}
			if unicode.IsDigit(before) && unicode.Is(unicode.No, r) && strings.Contains(in, "/") {
				in = " " + in // 1½
			}
		}
		b.WriteString(in)
		before = r
	}
	return b.String(), stood, 0, true
}

// standIn returns what may stand for a character.
func (f *Fitter) standIn(r rune) (string, bool) {
	if in, ok := f.instead[r]; ok {
		return in, true
	}
	for _, in := range strings.Fields(usual[r]) {
		if fits(f.charset, in) {
			return in, true
		}
	}
	if unicode.IsSpace(r) || r >= 0x2000 && r <= 0x200a || r == 0x202f || r == 0x205f {
		return " ", true
	}
	if unicode.In(r, unicode.Cf) || r >= 0xfe00 && r <= 0xfe0f {
		return "", true // nobody sees it
	}
	if !unicode.In(r, unicode.Latin, unicode.Nd, unicode.No, unicode.P, unicode.S) {
		if unicode.Is(unicode.Mn, r) && unicode.Is(unicode.Inherited, r) && r < 0x370 {
			return "", true // an accent by itself
		}
		return "", false
	}
	plain := strings.Map(func(r rune) rune {
		if unicode.Is(unicode.Mn, r) {
			return -1
		}
		return r
	}, norm.NFKD.String(string(r)))
	return plain, plain != "" && plain != string(r) && fits(f.charset, plain)
}
