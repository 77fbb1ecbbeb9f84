// Package market stands in for the importer of the Combley Market, the made-up platform on which the demo's shop sells. It goes by what the
// platform's form says in words, has a reading of files of its own, and shares nothing with the tool that fills the form: it is what that is
// tried against.
package market

import (
	"archive/zip"
	"bytes"
	"encoding/csv"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"path"
	"regexp"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"
)

// A Verdict is what becomes of a row.
type Verdict struct {
	Row     int    // of the file, from 1
	Code    string // the article code
	Refused string // why it is not taken; "" if it is
}

// A Result is what becomes of a file.
type Result struct {
	Refused string // why the file as a whole is not taken; "" if it is looked at row by row
	Rows    []Verdict
}

// Taken returns how many rows are taken.
func (r *Result) Taken() (n int) {
	for _, v := range r.Rows {
		if v.Refused == "" && r.Refused == "" {
			n++
		}
	}
	return n
}

const mostArticles = 500

// headings are those of the form.
var headings = []string{"Article code *", "Name of article *", "Made by *", "Shelf *", "Barcode", "Shop price *", "On hand *", "Main picture *", "Picture 2", "Story", "Search words",
	"Sold from", "Vegan", "Way of dispatch *", "Condition *"}

// The columns of the form.
const (
	code = iota
	name
	maker
	shelf
	barcode
	price
	stock
	picture
	picture2
	story
	words
	from
	vegan
	dispatch
	condition
)

var (
	thirteen = regexp.MustCompile(`^[0-9]{13}$`)
	decimal  = regexp.MustCompile(`^[0-9]+(\.[0-9]+)?$`)
	whole    = regexp.MustCompile(`^[0-9]+$`)
	address  = regexp.MustCompile(`(?i)^https?://[^\s/]+/\S*\.(jpg|jpeg|png)$`)
	shelves  = []string{"Protection", "Smokers", "Hives", "Candles", "Tools", "Honey"}
	ways     = []string{"Letter", "Parcel", "Pallet"}
)

// Import plays the import of a file of that name: .csv in UTF-8, or .xlsx.
func Import(file string, content []byte) (*Result, error) {
	rows, err := Rows(file, content)
	if err != nil {
		return nil, err
	}
	return judge(rows), nil
}

// Rows returns the rows of a file of that name, the first sheet of a workbook.
func Rows(file string, content []byte) (rows [][]string, err error) {
	switch strings.ToLower(path.Ext(file)) {
	case ".csv":
		rows, err = readCSV(content)
	case ".xlsx":
		rows, err = readBook(content)
	default:
		err = errors.New("the market takes .csv and .xlsx")
	}
	if err != nil {
		return nil, fmt.Errorf("%s: %w", file, err)
	}
	return rows, nil
}

func judge(rows [][]string) *Result {
	at := func(row []string, n int) string {
		if n < len(row) {
			return row[n]
		}
		return ""
	}
	result := new(Result)
	switch {
	case len(rows) < 3:
		result.Refused = "rows 1 to 3 of the form are not there"
	case !strings.HasPrefix(at(rows[0], 0), "Combley Market: articles."):
		result.Refused = "row 1 is not that of the form"
	default:
		for n, h := range headings {
			if at(rows[1], n) != h {
				result.Refused = fmt.Sprintf("row 2: %q stands under column %d, where the form has %q", at(rows[1], n), n+1, h)
				break
			}
		}
	}
	if result.Refused != "" {
		return result
	}
	seen := make(map[string]bool)
	for n, row := range rows[3:] {
		if strings.TrimSpace(strings.Join(row, "")) == "" {
			continue
		}
		v := Verdict{Row: n + 4, Code: strings.TrimSpace(at(row, code))}
		var cells [condition + 1]string
		for i := range cells {
			cells[i] = at(row, i)
		}
		v.Refused = refuses(cells)
		if v.Code != "" && seen[v.Code] && v.Refused == "" {
			v.Refused = "the article code stands in an earlier row, too"
		}
		seen[v.Code] = true
		result.Rows = append(result.Rows, v)
	}
	if len(result.Rows) > mostArticles {
		result.Refused = fmt.Sprintf("it has %d articles, and %d is the most", len(result.Rows), mostArticles)
	}
	return result
}

// refuses says why a row is not taken, "" if it is.
func refuses(cells [condition + 1]string) string {
	for n, h := range headings {
		if strings.HasSuffix(h, "*") && strings.TrimSpace(cells[n]) == "" {
			return h + " is empty"
		}
	}
	for n, most := range map[int]int{code: 20, name: 80, maker: 40, story: 4000} {
		if utf8.RuneCountInString(cells[n]) > most {
			return fmt.Sprintf("%s has more than %d characters", headings[n], most)
		}
	}
	for n, list := range map[int][]string{shelf: shelves, dispatch: ways, condition: {"new"}, vegan: {"Y", "N"}} {
		if blank := strings.TrimSpace(cells[n]) == ""; !blank && !isOneOf(cells[n], list) {
			return fmt.Sprintf("%s is %q, and that is none of %s", headings[n], cells[n], strings.Join(list, ", "))
		}
	}
	filled := func(n int) bool { return strings.TrimSpace(cells[n]) != "" }
	switch {
	case filled(barcode) && !isBarcode(cells[barcode]):
		return "Barcode is not 13 digits with a right check digit"
	case !isNumber(decimal, cells[price], 0.05, 5000):
		return "Shop price is no number with a decimal point from 0.05 to 5000"
	case !isNumber(whole, cells[stock], 0, 99999):
		return "On hand is no whole number from 0 to 99999"
	case !address.MatchString(cells[picture]), filled(picture2) && !address.MatchString(cells[picture2]):
		return "a picture is no address that ends in .jpg, .jpeg or .png"
	}
	if filled(from) {
		if _, err := time.Parse("2006-01-02", cells[from]); err != nil {
			return "Sold from is no date written YYYY-MM-DD"
		}
	}
	return ""
}

func isOneOf(cell string, list []string) bool {
	for _, v := range list {
		if v == cell {
			return true
		}
	}
	return false
}

func isNumber(form *regexp.Regexp, cell string, least, most float64) bool {
	f, err := strconv.ParseFloat(cell, 64)
	return err == nil && form.MatchString(cell) && f >= least && f <= most
}

func isBarcode(cell string) bool {
	if !thirteen.MatchString(cell) {
		return false
	}
	sum := 0
	for i, c := range cell {
		digit := int(c - '0')
		if i%2 == 1 {
			digit *= 3
		}
		sum += digit
	}
	return sum%10 == 0 && strings.Trim(cell, "0") != ""
}

func readCSV(content []byte) ([][]string, error) {
	content = bytes.TrimPrefix(content, []byte("\ufeff"))
	if !utf8.Valid(content) {
		return nil, errors.New("it is not in UTF-8")
	}
	r := csv.NewReader(bytes.NewReader(content))
	r.FieldsPerRecord = -1
	return r.ReadAll()
}

// A book is what is read of a workbook.
type book struct {
	shared []string
	dates  map[int]bool // styles that show dates
}

// readBook reads the first sheet of a workbook.
func readBook(content []byte) ([][]string, error) {
	archive, err := zip.NewReader(bytes.NewReader(content), int64(len(content)))
	if err != nil {
		return nil, err
	}
	part := func(name string, into any) error {
		f, err := archive.Open(name)
		if err != nil {
			return err
		}
		defer f.Close()
		b, err := io.ReadAll(f)
		if err != nil {
			return err
		}
		return xml.Unmarshal(b, into)
	}
	var b book
	var shared struct {
		Items []struct {
			Text string `xml:"t"`
			Runs []struct {
				Text string `xml:"t"`
			} `xml:"r"`
		} `xml:"si"`
	}
	if err := part("xl/sharedStrings.xml", &shared); err == nil {
		for _, item := range shared.Items {
			text := item.Text
			for _, run := range item.Runs {
				text += run.Text
			}
			b.shared = append(b.shared, text)
		}
	}
	var styles struct {
		Formats []struct {
			ID   int    `xml:"numFmtId,attr"`
			Code string `xml:"formatCode,attr"`
		} `xml:"numFmts>numFmt"`
		Cells []struct {
			Format int `xml:"numFmtId,attr"`
		} `xml:"cellXfs>xf"`
	}
	b.dates = make(map[int]bool)
	if err := part("xl/styles.xml", &styles); err == nil {
		for n, cell := range styles.Cells {
			b.dates[n] = cell.Format >= 14 && cell.Format <= 22
			for _, f := range styles.Formats {
				if f.ID == cell.Format && strings.Contains(strings.ToLower(f.Code), "yy") {
					b.dates[n] = true
				}
			}
		}
	}
	var sheet struct {
		Rows []struct {
			Number int `xml:"r,attr"`
			Cells  []struct {
				Place  string `xml:"r,attr"`
				Type   string `xml:"t,attr"`
				Style  int    `xml:"s,attr"`
				Value  string `xml:"v"`
				Inline struct {
					Text string `xml:"t"`
				} `xml:"is"`
			} `xml:"c"`
		} `xml:"sheetData>row"`
	}
	if err := part("xl/worksheets/sheet1.xml", &sheet); err != nil {
		return nil, err
	}
	var rows [][]string
	for _, row := range sheet.Rows {
		for len(rows) < row.Number {
			rows = append(rows, nil)
		}
		for _, c := range row.Cells {
			col := 0
			for _, letter := range strings.TrimRight(c.Place, "0123456789") {
				col = 26*col + int(letter-'A') + 1
			}
			for len(rows[row.Number-1]) < col {
				rows[row.Number-1] = append(rows[row.Number-1], "")
			}
			text := c.Value
			switch {
			case c.Type == "s":
				if n, err := strconv.Atoi(c.Value); err == nil && n < len(b.shared) {
					text = b.shared[n]
				}
			case c.Type == "inlineStr":
				text = c.Inline.Text
			case c.Type == "" && b.dates[c.Style]:
				if days, err := strconv.ParseFloat(c.Value, 64); err == nil {
					text = time.Date(1899, 12, 30, 0, 0, 0, 0, time.UTC).AddDate(0, 0, int(days)).Format("2006-01-02")
				}
			}
			rows[row.Number-1][col-1] = text
		}
	}
	return rows, nil
}
