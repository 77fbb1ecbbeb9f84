package proof

import (
	"bufio"
	_ "embed"
	"errors"
	"fmt"
	"html/template"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"unicode/utf8"

	"zetanum/core/catalogue"
	"zetanum/core/export"
	"zetanum/core/markup"
	"zetanum/core/repair"
)

// PageName is the page on which a person looks at the result before importing it.
const PageName = "proof.html"

//go:embed page.html
var pageText string

var pageTemplate = sync.OnceValue(func() *template.Template { return template.Must(template.New("page").Parse(pageText)) })

// A Page writes the page to look at: samples of products as a shopper would see them, before and after. Nothing on it runs, and nothing is
// fetched but pictures, if these are to be loaded.
type Page struct{ LoadImages bool }

// Write writes the page into the folder of a run.
func (g Page) Write(dir string, r *repair.Result, samples *export.Samples) error {
	file, err := os.Create(filepath.Join(dir, PageName))
	if err != nil {
		return err
	}
	out := bufio.NewWriter(file)
	p := &page{source: r.Source.Name, samples: samples, columns: &r.Source.Columns, images: g.LoadImages}
	err = pageTemplate().Execute(out, p.data(r))
	return errors.Join(err, out.Flush(), file.Close())
}

// page makes what the template shows.
type page struct {
	source  string
	samples *export.Samples
	columns *catalogue.Columns
	images  bool
}

type pageData struct {
	Source, Date, Policy string
	Shown, Of            int
	Images               bool
	Missing              []string
	Products             []productData
}

// productData is a product before and after.
type productData struct {
	Title    string
	Rows     string
	Why      []string
	Same     bool // nothing was changed
	Sides    []sideData
	Variants *tableData
}

// sideData is a product as a shopper would see it.
type sideData struct {
	Name                      string
	Title, Price, Sale, Brand *cellData
	Picture                   *cellData
	PictureAt                 template.URL // "" if it is not loaded
	Texts                     []textData
	Tags                      *cellData
	More                      []cellData
}

// cellData is a cell under the name of its column.
type cellData struct {
	Heading, Text string
	Changed       bool
}

// textData is a description: what is rendered, how high, and its source.
type textData struct {
	cellData
	Document string
	Height   int
	HTML     bool
}

type tableData struct {
	Headings []string
	Rows     [][]cellData
}

// The policies under which the page and the descriptions on it stand: nothing runs and nothing is fetched, and pictures only if they are to
// be loaded (Content Security Policy Level 3).
const (
	noImages   = "default-src 'none'; style-src 'unsafe-inline'; img-src data:; form-action 'none'; base-uri 'none'"
	withImages = "default-src 'none'; style-src 'unsafe-inline'; img-src https: http: data:; form-action 'none'; base-uri 'none'"
)

func (p *page) policy() string {
	if p.images {
		return withImages
	}
	return noImages
}

func (p *page) data(r *repair.Result) *pageData {
	d := &pageData{Source: p.source, Date: r.Date, Policy: p.policy(), Shown: len(p.samples.Products), Of: p.samples.Of, Images: p.images, Missing: p.samples.Missing}
	for i := range p.samples.Products {
		d.Products = append(d.Products, p.product(&p.samples.Products[i]))
	}
	return d
}

func (p *page) product(s *export.Sample) productData {
	lead := &s.Rows[0]
	d := productData{Why: s.Why, Same: true, Rows: fmt.Sprintf("row %d", lead.Number)}
	if n := len(s.Rows); n > 1 {
		d.Rows = fmt.Sprintf("rows %d to %d", lead.Number, s.Rows[n-1].Number)
	}
	for i := range s.Rows {
		d.Same = d.Same && slices.Equal(s.Rows[i].Cells, s.Rows[i].Before)
	}
	if !d.Same {
		d.Sides = append(d.Sides, p.side("Before", lead, lead.Before))
	}
	after := p.side("After", lead, lead.Cells)
	if d.Same {
		after.Name = "As it goes out"
	}
	d.Sides = append(d.Sides, after)
	if d.Title = "(no title)"; after.Title != nil && after.Title.Text != "" {
		d.Title = after.Title.Text
	}
	if len(s.Rows) > 1 {
		d.Variants = p.variants(s)
	}
	return d
}

// side returns a product as it was or as it is.
func (p *page) side(name string, row *export.SampleRow, cells []string) sideData {
	d := sideData{Name: name}
	taken := make(map[int]bool)
	cell := func(n int) cellData {
		taken[n] = true
		return cellData{p.samples.Headings[n], cells[n], row.Cells[n] != row.Before[n]}
	}
	first := func(f catalogue.Field) *cellData {
		for n, col := range p.samples.Columns {
			if p.columns.Fields[col] == f {
				c := cell(n)
				return &c
			}
		}
		return nil
	}
	d.Title, d.Price, d.Sale, d.Brand, d.Tags = first(catalogue.Title), first(catalogue.Price), first(catalogue.SalePrice), first(catalogue.Brand), first(catalogue.Tags)
	if d.Picture = first(catalogue.Images); d.Picture != nil && p.images {
		if links := strings.FieldsFunc(d.Picture.Text, func(r rune) bool { return strings.ContainsRune(",;| \n", r) }); len(links) > 0 && isWeb(links[0]) {
			d.PictureAt = template.URL(links[0])
		}
	}
	for n, col := range p.samples.Columns {
		if p.columns.Kind(col) == catalogue.HTMLKind {
			c := cell(n)
			d.Texts = append(d.Texts, textData{c, p.document(c.Text), height(c.Text), markup.IsHTML(c.Text)})
		}
	}
	for n := range p.samples.Columns {
		if !taken[n] && (cells[n] != "" || row.Cells[n] != row.Before[n]) {
			d.More = append(d.More, cell(n))
		}
	}
	return d
}

// isWeb reports whether an address is one of the web, and nothing that runs.
func isWeb(address string) bool {
	return strings.HasPrefix(address, "https://") || strings.HasPrefix(address, "http://")
}

// document returns the page of a description by itself, as it stands in its frame.
func (p *page) document(text string) string {
	body := text
	if !markup.IsHTML(text) {
		body = "<div style=\"white-space:pre-line\">" + text + "</div>" // a browser shows it as a shop does that breaks lines
	}
	return `<!doctype html><meta charset="utf-8"><meta http-equiv="Content-Security-Policy" content="` + p.policy() +
		`"><style>body{font:15px/1.5 system-ui,sans-serif;margin:6px 10px;color:#222;overflow-wrap:anywhere}img{max-width:100%}table{border-collapse:collapse}td,th{border:1px solid #ccc;padding:2px 8px;text-align:left}</style>` + body
}

// height estimates how high a description is, in pixels: nothing on the page runs that could measure it.
func height(text string) int {
	lines := 1
	markup.EachLine(text, func(line string) { lines += 1 + utf8.RuneCountInString(line)/44 })
	lines += 2*strings.Count(text, "<h") + strings.Count(text, "<p") + 4*strings.Count(text, "<img")
	return min(max(46, 14+lines*21), 900)
}

// variants returns the rows of a product, in the columns in which they differ.
func (p *page) variants(s *export.Sample) *tableData {
	t := &tableData{}
	var differ []int
	for n, col := range p.samples.Columns {
		if p.columns.Kind(col) == catalogue.HTMLKind {
			continue
		}
		if slices.ContainsFunc(s.Rows[1:], func(row export.SampleRow) bool { return row.Cells[n] != "" && row.Cells[n] != s.Rows[0].Cells[n] }) {
			differ, t.Headings = append(differ, n), append(t.Headings, p.samples.Headings[n])
		}
	}
	for i := range s.Rows {
		if i == mostVariants {
			break
		}
		var cells []cellData
		for _, n := range differ {
			cells = append(cells, cellData{Text: s.Rows[i].Cells[n], Changed: s.Rows[i].Cells[n] != s.Rows[i].Before[n]})
		}
		t.Rows = append(t.Rows, cells)
	}
	return t
}

// mostVariants is how many rows of a product are shown.
const mostVariants = 30
