package cli

import (
	"bufio"
	"strings"

	"zetanum/core/barcode"
	"zetanum/core/catalogue"
	"zetanum/core/rescue"
	"zetanum/internal/terminal"
)

func barcodeCommand() *command {
	return &command{
		name: "barcode", args: "CODE…",
		short: "say what a barcode is, what is wrong with it and what it may have been",
		long: "Judges each code by itself, without a column around it: its kind, whether its check digit fits and what it should be, " +
			"what has happened to it, what is certain and how many codes it may have been. Without a code, or with -, it reads one a line from standard input. " +
			"The exit status is 1 if any code is not whole.",
		flags: jsonFlag,
		run:   (*session).barcodes,
	}
}

// jsonCode is what is said of one code, for programs.
type jsonCode struct {
	Input      string `json:"input"`
	Kind       string `json:"kind,omitempty"`
	Valid      bool   `json:"valid"`
	Code       string `json:"code,omitempty"`
	GTIN14     string `json:"gtin_14,omitempty"`
	Ground     string `json:"ground,omitempty"`
	Rule       string `json:"rule,omitempty"`
	Finding    string `json:"finding,omitempty"`
	Sentence   string `json:"sentence,omitempty"`
	CheckDigit string `json:"right_check_digit,omitempty"`
	Low        uint64 `json:"low,omitempty"`
	High       uint64 `json:"high,omitempty"`
	Candidates uint64 `json:"candidates,omitempty"`
}

func (s *session) barcodes(o *options, codes []string) (int, error) {
	if len(codes) == 0 || len(codes) == 1 && codes[0] == "-" {
		codes = nil
		lines := bufio.NewScanner(s.stdin)
		for lines.Scan() {
			if l := strings.TrimRight(lines.Text(), "\r"); strings.TrimSpace(l) != "" {
				codes = append(codes, l)
			}
		}
		if err := lines.Err(); err != nil {
			return exitFailed, err
		}
	}
	if len(codes) == 0 {
		return exitUsage, usagef("no code was given")
	}
	status := exitOK
	judged := make([]jsonCode, 0, len(codes))
	for _, code := range codes {
		j := judge(code)
		if !j.Valid {
			status = exitHeld
		}
		judged = append(judged, j)
	}
	if o.json {
		return status, s.encode(judged)
	}
	p := s.printer()
	for i, j := range judged {
		if i > 0 {
			p.Line()
		}
		printCode(p, &j)
	}
	return status, nil
}

// judge says what one code is by itself.
func judge(code string) jsonCode {
	r := rescue.Read(code, false)
	var column rescue.Model
	column.Add(r)
	v := column.Weigh().Decide(r)
	j := jsonCode{Input: code}
	known := v.Code
	if !v.Whole() {
		f := catalogue.Finding{Code: v.Finding, Cell: code, Facts: v.Facts}
		j.Finding, j.Sentence = f.Code.String(), f.Sentence()
		j.Low, j.High, j.Candidates = v.Facts.Low, v.Facts.High, v.Facts.Candidates
		if v.Facts.Right != 0 {
			j.CheckDigit = string(rune(v.Facts.Right))
		}
	} else {
		j.Valid = true
		j.Rule = v.Rule.String()
	}
	if known.IsValid() {
		j.Code, j.Kind, j.GTIN14, j.Ground = known.String(), known.Kind().String(), known.GTIN14(), v.Ground.String()
	} else if r.Missing == 0 {
		// The kind that it would be if its check digit fitted.
		if c, err := barcode.FromNumber(r.N-r.N%10+uint64(barcode.CheckDigit(r.N/10)), r.Length); err == nil {
			j.Kind = c.Kind().String()
		}
	}
	return j
}

func printCode(p *terminal.Printer, j *jsonCode) {
	p.Line(p.Bold(visible(j.Input, 60)))
	if j.Valid {
		p.Linef("  %s  %s, the check digit fits; as 14 digits %s", p.Good("valid"), j.Kind, j.GTIN14)
		if j.Rule != "" {
			p.Linef("  %s  %s (%s: %s)", p.Good("restored"), j.Code, j.Ground, ruleTitle(j.Rule))
		}
		return
	}
	state := "not whole"
	if j.Kind != "" && j.Code == "" {
		state = "not valid as " + j.Kind
	}
	code, _ := catalogue.FindCode(j.Finding)
	entry := code.Entry()
	p.Linef("  %s: %s  %s", p.Open(state), entry.Title, p.Faint(j.Finding))
	p.Wrap("  ", j.Sentence)
	p.WrapHanging("  → ", "    ", entry.Do)
}

func ruleTitle(name string) string {
	for _, r := range catalogue.Rules() {
		if r.String() == name {
			return r.Entry().Title
		}
	}
	return name
}
