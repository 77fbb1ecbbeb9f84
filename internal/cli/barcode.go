package cli

import (
	"bufio"
	"errors"
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"zetanum/core/barcode"
	"zetanum/core/catalogue"
	"zetanum/core/folder"
	"zetanum/core/reference"
	"zetanum/core/rescue"
	"zetanum/core/sheet"
	"zetanum/internal/symbol"
	"zetanum/internal/terminal"
)

type barcodeCommand struct {
	jsonFlag
	file     string
	column   string
	sheet    string
	accept   string
	list     bool
	complete bool
	trust    listFlag
	draw     string
	answers  string
	print    string
}

func (*barcodeCommand) about() about {
	return about{
		name: "barcode", args: "[CODE…]",
		short: "say what a barcode is, what is wrong with it and what it may have been",
		long: "Judges each code by itself: its kind, whether its check digit fits and what it should be, what its first digits say. " +
			"Of one that is damaged it says what has happened to it, what is certain and how many codes it may have been. Without a code, or with -, it reads one a " +
			"line from standard input. " +
			"With -file it judges a whole column, each cell with what the others tell. " +
			"The exit status is 1 if any code is not whole.",
		examples: []string{"zetanum barcode 9521357000174", "zetanum barcode 9.521357000174E+12 -list",
			"zetanum barcode -file stock-take.xlsx", "zetanum barcode -complete 952135700017"},
	}
}

func (o *barcodeCommand) flags(f *flag.FlagSet) {
	f.StringVar(&o.file, "file", "", "judge a column of the sheet in `FILE`")
	f.StringVar(&o.column, "column", "", "the `HEADING` of the column (default: the first with barcodes)")
	f.StringVar(&o.sheet, "sheet", "", "read the sheet `NAME` of a workbook")
	f.StringVar(&o.accept, "accept", "", "the `KIND,…` of code that are wanted; others are reported")
	f.BoolVar(&o.list, "list", false, "print the codes that a damaged one may have been, if there are at most 10,000")
	f.BoolVar(&o.complete, "complete", false, "append the check digit to each code and print nothing else")
	f.Var(&o.trust, "trust", "look up in the sheet in `FILE` which of the possible codes it has; may be given several times")
	f.StringVar(&o.draw, "draw", "", "draw the bars of the code into `FILE`.svg or .png, to be scanned")
	f.StringVar(&o.answers, "answers", "", "set the answers of a look-up service in `FILE` against the codes of -file")
	f.StringVar(&o.print, "print", "", "of -answers, print only the codes that are `answered, unanswered or unasked`, one a line")
	o.jsonFlag.flags(f)
}

// listed is how many possible codes are printed at most.
const listed = 10_000

// shownHits is how many codes of trusted sheets are shown for one damaged code.
const shownHits = 20

func (o *barcodeCommand) run(s *session, codes []string) (int, error) {
	rules := rescue.Rules{}
	if o.accept != "" {
		rules.Accept = splitList(o.accept)
		for _, p := range rules.Check() {
			return exitUsage, usagef("-accept: %s", p.Text)
		}
	}
	switch {
	case o.file != "" && (len(codes) > 0 || o.draw != "" || o.complete):
		return exitUsage, usagef("-file judges the codes of a column; it goes neither with codes on the command line nor with " +
			"-draw or -complete")
	case o.answers != "" && o.file == "":
		return exitUsage, usagef("-answers needs -file, the codes that were sent")
	case o.answers != "":
		return o.compare(s, rules)
	case o.file != "":
		return o.judgeColumn(s, rules)
	}
	codes, err := s.codesGiven(codes)
	if err != nil {
		return exitFailed, err
	}
	switch {
	case len(codes) == 0:
		return exitUsage, usagef("no code was given")
	case o.complete:
		return s.completeCodes(codes)
	case o.draw != "":
		return s.drawCode(o.draw, codes)
	}
	j := &judge{rules: rules, list: o.list}
	if err := j.load(o.trust); err != nil {
		return exitFailed, err
	}
	status := exitOK
	judged := make([]jsonCode, 0, len(codes))
	for _, code := range codes {
		c := j.alone(code)
		if !c.Valid {
			status = exitHeld
		}
		judged = append(judged, c)
	}
	if o.json {
		return status, s.encode(judged)
	}
	p := s.printer()
	for i := range judged {
		if i > 0 {
			p.Line()
		}
		printCode(p, &judged[i])
	}
	s.suggest("zetanum help jobs barcode")
	return status, nil
}

// codesGiven returns the codes of the command line, or of standard input.
func (s *session) codesGiven(codes []string) ([]string, error) {
	if len(codes) > 1 || len(codes) == 1 && codes[0] != "-" {
		return codes, nil
	}
	codes = nil
	lines := bufio.NewScanner(s.stdin)
	for lines.Scan() {
		if l := strings.TrimRight(lines.Text(), "\r"); strings.TrimSpace(l) != "" {
			codes = append(codes, l)
		}
	}
	return codes, lines.Err()
}

// completeCodes prints the codes with their check digit. A code that cannot be
// completed is an error, and the others are printed all the same.
func (s *session) completeCodes(codes []string) (int, error) {
	var wrong error
	for _, c := range codes {
		full, err := barcode.Complete(strings.TrimSpace(c))
		if err != nil {
			wrong = errors.Join(wrong, fmt.Errorf("%q cannot be completed: it must be 7, 11, 12 or 13 digits (a GTIN without its check "+
				"digit), 9 (an ISBN-10) or 17 (an SSCC)", c))
			continue
		}
		fmt.Fprintln(terminal.Data(s.stdout), full)
	}
	if wrong != nil {
		return exitUsage, &usageError{message: wrong.Error()}
	}
	return exitOK, nil
}

func (s *session) drawCode(path string, codes []string) (int, error) {
	if len(codes) > 1 {
		return exitUsage, usagef("-draw draws one code; there are %d", len(codes))
	}
	ext := strings.ToLower(filepath.Ext(path))
	if ext != ".svg" && ext != ".png" {
		return exitUsage, usagef("-draw %s: the name must end in .svg or .png", path)
	}
	r := rescue.Read(codes[0], false)
	var column rescue.Model
	column.Add(r)
	v := column.Weigh(rescue.Rules{}).Decide(r)
	if !v.Whole() {
		return exitUsage, usagef("%s is not drawn: it is not a whole code with a check digit that fits (“zetanum barcode %s” says more)",
			codes[0], quoted(codes[0]))
	}
	drawing, err := symbol.New(v.Code)
	if err != nil {
		return exitUsage, usagef("%v", err)
	}
	file, err := os.OpenFile(path, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o666)
	if errors.Is(err, os.ErrExist) {
		return exitUsage, usagef("%s is there already and is not overwritten; name another file or remove it", path)
	}
	if err != nil {
		return exitFailed, err
	}
	if ext == ".svg" {
		err = drawing.SVG(file)
	} else {
		err = drawing.PNG(file)
	}
	if err := errors.Join(err, file.Close()); err != nil {
		return exitFailed, err
	}
	p := s.printer()
	p.Linef("%s  drawn as %s in %s", p.Bold(v.Code.String()), v.Code.Kind(), path)
	return exitOK, nil
}

// judgeColumn judges a whole column.
func (o *barcodeCommand) judgeColumn(s *session, rules rescue.Rules) (int, error) {
	temp, err := folder.NewTemp()
	if err != nil {
		return exitFailed, err
	}
	defer temp.Remove()
	column, err := reference.ReadColumn(o.file, o.column, sheet.Options{Sheet: o.sheet, Stdin: s.stdin, Spool: temp.Dir}, rules)
	if err != nil {
		return exitFailed, err
	}
	j := &judge{rules: rules, list: o.list}
	if err := j.load(o.trust); err != nil {
		return exitFailed, err
	}
	status := exitOK
	judged := make([]jsonCode, 0, len(column.Cells))
	for i := range column.Cells {
		cell := &column.Cells[i]
		reading := cell.Read()
		c := j.judge(cell.Cell, reading, column.Evidence)
		c.Row, c.SKU = cell.Row, cell.SKU
		if !c.Valid && c.SKU != "" {
			j.bySKU(&c, reading, column.Evidence)
		}
		if !c.Valid {
			status = exitHeld
		}
		judged = append(judged, c)
	}
	if o.json {
		return status, s.encode(judged)
	}
	printColumn(s.printer(), column, judged)
	if s.suggest("zetanum help jobs barcode"); o.file != "-" {
		s.suggest("zetanum repair", quoted(o.file))
	}
	return status, nil
}

// compare sets a look-up service's answers against the codes that were sent.
func (o *barcodeCommand) compare(s *session, rules rescue.Rules) (int, error) {
	temp, err := folder.NewTemp()
	if err != nil {
		return exitFailed, err
	}
	defer temp.Remove()
	sent, err := reference.ReadColumn(o.file, o.column, sheet.Options{Sheet: o.sheet, Stdin: s.stdin, Spool: temp.Dir}, rules)
	if err != nil {
		return exitFailed, err
	}
	back, err := reference.ReadColumn(o.answers, "", sheet.Options{Spool: temp.Dir}, rules)
	if err != nil {
		var trouble *sheet.Error
		if errors.As(err, &trouble) && errors.Is(err, sheet.ErrNoColumn) {
			trouble.Do = "Put EAN or Barcode above the column of the codes in it."
		}
		return exitFailed, fmt.Errorf("-answers %w", err)
	}
	a := reference.Compare(sent, back)
	status := exitOK
	if len(a.Unanswered)+len(a.Unasked)+len(a.Unusable) > 0 {
		status = exitHeld
	}
	if o.print != "" {
		cells, ok := map[string][]reference.Cell{"answered": a.Answered, "unanswered": a.Unanswered, "unasked": a.Unasked}[o.print]
		if !ok {
			return exitUsage, usagef("-print %s: it must be answered, unanswered or unasked", o.print)
		}
		for _, c := range cells {
			fmt.Fprintln(terminal.Data(s.stdout), c.Clean)
		}
		return status, nil
	}
	if o.json {
		return status, s.encode(newJSONAnswers(a))
	}
	printAnswers(s.printer(), sent.Name, back.Name, a)
	return status, nil
}

// splitList takes a list with commas apart.
func splitList(s string) (list []string) {
	for _, name := range strings.Split(s, ",") {
		if name = strings.TrimSpace(name); name != "" {
			list = append(list, name)
		}
	}
	return list
}

// A judge says what codes are.
type judge struct {
	rules   rescue.Rules
	list    bool
	trusted reference.Sheets
}

func (j *judge) load(paths []string) error {
	temp, err := folder.NewTemp()
	if err != nil {
		return err
	}
	defer temp.Remove()
	for _, path := range paths {
		s, err := reference.Load(path, sheet.Options{Spool: temp.Dir})
		if err != nil {
			return err
		}
		j.trusted = append(j.trusted, s)
	}
	return nil
}

// alone says what a code is by itself.
func (j *judge) alone(code string) jsonCode {
	r := rescue.Read(code, false)
	var column rescue.Model
	column.Add(r)
	c := j.judge(code, r, column.Weigh(j.rules))
	for _, other := range barcode.AllKinds(strings.TrimSpace(code)) {
		c.MayBe = append(c.MayBe, other.Kind().String())
	}
	return c
}

func (j *judge) judge(cell string, r rescue.Reading, e *rescue.Evidence) jsonCode {
	v := e.Decide(r)
	c := jsonCode{Input: cell}
	if v.Whole() {
		c.Rule = v.Rule.String()
		if finding, facts := e.Object(v.Code); finding != catalogue.NoFinding {
			v.Finding, v.Facts = finding, facts
		}
	}
	if v.Code.IsValid() {
		c.Code, c.Kind, c.GTIN14, c.Ground = v.Code.String(), v.Code.Kind().String(), v.Code.GTIN14(), v.Ground.String()
		if v.Code.Kind() == barcode.ISSN {
			c.GTIN14 = "" // which depends on the issue
		}
		if class := v.Code.Class(); class != barcode.Ordinary && v.Code.Kind() != barcode.SSCC && v.Ground != catalogue.Likely {
			c.Class = class.String()
		}
	} else if right, err := barcode.FromNumber(r.N-r.N%10+uint64(barcode.CheckDigit(r.N/10)), r.Length); err == nil && r.Missing == 0 {
		c.Kind = right.Kind().String() // that it would be if its check digit fitted
	}
	c.Valid = v.Whole() || v.Code.IsValid() && v.Finding.Entry().Severity < catalogue.Error
	if v.Finding == catalogue.BarcodeReplaced {
		v.Facts.Other = rescue.Replacement(cell)
	}
	if !v.Whole() {
		f := catalogue.Finding{Code: v.Finding, Cell: cell, Facts: v.Facts}
		c.Finding, c.Sentence = f.Code.String(), f.Sentence()
		c.Low, c.High, c.Candidates = v.Facts.Low, v.Facts.High, v.Facts.Candidates
		if v.Facts.Right != 0 {
			c.CheckDigit = string(rune(v.Facts.Right))
		}
	}
	if c.Candidates > 0 && c.High > c.Low {
		j.candidates(&c, v.Facts.Length)
	}
	return c
}

// bySKU adds the code that the trusted sheets have for the SKU beside the cell.
func (j *judge) bySKU(c *jsonCode, r rescue.Reading, e *rescue.Evidence) {
	a := j.trusted.Look(reference.Key{SKU: c.SKU})
	v := e.Decide(r)
	if a.State == reference.Found && rescue.Fits(c.Input, r, &v, a.Code) {
		c.BySKU, c.BySKUFrom = a.Code.String(), a.Where()
	}
}

// candidates adds what a damaged code may have been.
func (j *judge) candidates(c *jsonCode, length int) {
	if j.list && c.Candidates > listed {
		c.Unlisted = true
	} else if j.list {
		rescue.Candidates(c.Low, c.High, length, func(code barcode.Code) bool {
			c.List = append(c.List, code.String())
			return true
		})
	}
	if len(j.trusted) == 0 {
		return
	}
	hits, all := j.trusted.Between(c.Low, c.High, shownHits)
	c.TrustedCount = &all
	for _, h := range hits {
		c.Trusted = append(c.Trusted, jsonHit{h.Code.String(), h.SKU, h.Sheet, h.Row})
	}
}
