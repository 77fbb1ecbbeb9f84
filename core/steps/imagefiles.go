package steps

import (
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"sync/atomic"

	"zetanum/core/catalogue"
	"zetanum/core/imagelink"
	"zetanum/core/line"
	"zetanum/core/pattern"
	"zetanum/core/photos"
	"zetanum/core/picture"
	"zetanum/core/products"
)

// An ImageSource is where the images of products that have none come from: the files of a folder, or a pattern.
type ImageSource struct {
	Rules  *products.ImageRules
	Folder *photos.Folder // nil if none is named
	By     []int          // columns of codes by which its files are called, the surest first
	Unique []bool         // of these, whether no two products may have the same

	Pattern  *pattern.Pattern // of the names of files; nil if none is ordered
	Of       []int            // its columns
	Numbers  pattern.Numbers
	HowMany  int  // names for each product
	Variants bool // each variant gets its own

	Prepare *Preparing                  // makes copies of the files; nil if none are ordered
	Named   []int                       // columns of the pattern of their names
	Join    func(names []string) string // puts names into one cell
	Without int                         // the list of products without a file; -1 for none

	claims *photos.Claims
	fits   []atomic.Bool // files that fit any product
}

// ImageFiles is the step that gives images to products that have none.
func ImageFiles(s *Sheet, of *ImageSource) line.Step {
	c := &s.Columns
	f := &imageFiles{ImageSource: of, sheet: s, image: c.First(catalogue.Images), all: c.All(catalogue.Images), known: s.known()}
	step := line.Step{Name: NameImageFiles, Reads: catalogue.ColumnsOf(slices.Concat(of.By, of.Of, of.Named, f.all)...), Writes: catalogue.ColumnsOf(f.image),
		Before: writing, New: Always(f.repair)}
	step.Glances.Add(f.known...)
	if of.Pattern != nil {
		step.Rules = append(step.Rules, catalogue.RuleImageName)
	}
	if of.Folder == nil {
		return step
	}
	if of.Prepare != nil {
		f.number = s.Tally.Add("images: copies of photos in "+strings.TrimSuffix(of.Rules.Prepare, "/"), Changed, 0)
	}
	step.Rules = append(step.Rules, catalogue.RuleImageFile)
	of.fits = make([]atomic.Bool, len(of.Folder.Files))
	own := slices.DeleteFunc(slices.Clone(of.By), func(col int) bool { return col >= c.Own() })
	step.Learns = catalogue.ColumnsOf(own...)
	step.Learn = func() line.Aggregate { return &fileClaims{of: of} }
	step.New = func(learned line.Aggregate) (line.Repairer, error) {
		of.claims = &learned.(*fileClaims).Claims
		return repairFunc(f.repair), nil
	}
	return step
}

// Unused returns the files that fit no product, and those that fit several, with the codes of two of these.
func (s *ImageSource) Unused() (none []string, several [][3]string) {
	for i, file := range s.Folder.Files {
		if s.claims != nil {
			if _, codes := s.claims.Best(i); len(codes) == 2 {
				several = append(several, [3]string{file.Path, codes[0], codes[1]})
				continue
			}
		}
		if !s.fits[i].Load() {
			none = append(none, file.Path)
		}
	}
	return none, several
}

// a candidate is a file that fits a product.
type candidate struct {
	photos.Match
	by, row int // by which of the columns, and in which row
	id      uint64
	code    string
}

func (a candidate) less(b candidate) bool {
	switch {
	case a.Fit != b.Fit:
		return a.Fit.Less(b.Fit)
	case a.by != b.by:
		return a.by < b.by
	}
	return a.row < b.row
}

// candidates returns the files that fit a product, each as well as it can.
func (s *ImageSource) candidates(p *catalogue.Product, aside func(int) bool) (best map[int]candidate) {
	for i, row := range p.Rows {
		if aside(i) {
			continue
		}
		for by, col := range s.By {
			code := row.Cell(col)
			if code == "" {
				continue
			}
			s.Folder.Matches(code, func(m photos.Match) {
				c := candidate{Match: m, by: by, row: i, id: photos.OfRow(p.Rows[0].Number), code: code}
				if s.Unique[by] {
					c.id = photos.OfCode(code)
				}
				if best == nil {
					best = make(map[int]candidate)
				}
				if had, there := best[m.File]; !there || c.less(had) {
					best[m.File] = c
				}
			})
		}
	}
	return best
}

// fileClaims learns which products files fit.
type fileClaims struct {
	photos.Claims
	of *ImageSource
}

func (l *fileClaims) Learn(p *catalogue.Product) {
	for file, c := range l.of.candidates(p, func(int) bool { return false }) {
		l.Add(file, c.Fit, c.id, strings.Clone(c.code))
	}
}

func (l *fileClaims) Merge(next line.Aggregate) { l.Claims.Merge(&next.(*fileClaims).Claims) }

type imageFiles struct {
	*ImageSource
	sheet *Sheet
	image int   // the column that is filled
	all   []int // columns of images
	known []int // by which somebody knows a product

	number int // in the tally, of copies
}

// has reports whether a row has an image.
func (f *imageFiles) has(row *catalogue.Row) bool {
	return slices.ContainsFunc(f.all, func(col int) bool { return strings.TrimSpace(row.Cell(col)) != "" })
}

func (f *imageFiles) repair(p *catalogue.Product, log *line.Log) {
	any := false
	for i, row := range p.Rows {
		any = any || !log.IsAside(i) && f.has(row)
	}
	if f.Folder != nil {
		any = f.fromFolder(p, log) || any
	}
	lead := -1
	for i, row := range p.Rows {
		if log.IsAside(i) {
			continue
		}
		if lead < 0 {
			lead = i
		}
		if f.Pattern != nil && !f.has(row) && p.Role(i)&(catalogue.Lead|catalogue.Variant) != 0 && (i == lead && !any || f.Variants && p.Role(i)&catalogue.Variant != 0) {
			any = f.built(p, i, lead, log) || any
		}
	}
	if !any && lead >= 0 && f.Without >= 0 {
		cells := make([]string, len(f.known))
		for n, col := range f.known {
			cells[n] = p.Rows[lead].Cell(col)
		}
		log.Enter(f.Without, lead, cells...)
	}
}

// fromFolder gives the rows of a product the files that fit them, and reports whether there are any.
func (f *imageFiles) fromFolder(p *catalogue.Product, log *line.Log) (any bool) {
	rows := make(map[int][]candidate)
	for file, c := range f.candidates(p, log.IsAside) {
		f.fits[file].Store(true)
		if f.claims.Takes(file, c.Fit, c.id) {
			rows[c.row] = append(rows[c.row], c)
		}
	}
	numbers := make(map[string]int) // of names that rows of the product share
	for i, row := range p.Rows {
		files := rows[i]
		if files == nil {
			continue
		}
		if f.has(row) {
			any = true
			continue
		}
		slices.SortFunc(files, func(a, b candidate) int { return f.Folder.Compare(a.Match, b.Match) })
		widen(row, &f.sheet.Columns)
		var names []string
		copied := false
		for _, c := range files {
			file := &f.Folder.Files[c.File]
			seen := Seen{Name: file.Path, Size: file.Size}
			var err error
			if f.Folder.Opens() {
				seen.Info, err = f.Folder.Look(c.File)
				seen.Broken = err != nil
			}
			if f.Prepare != nil && !seen.Broken {
				if seen.Name, err = f.prepare(p, row, c, &seen, numbers, log); err != nil {
					log.Notice(catalogue.ImageUnprepared, row, f.image, "", catalogue.Facts{Other: file.Path + ": " + err.Error()})
					continue
				}
			}
			copied = copied || f.Prepare != nil && !seen.Broken
			names = append(names, seen.Name)
			f.look(row, c, &seen, log)
		}
		if names == nil {
			continue
		}
		any = true
		if copied {
			log.Touch(f.number, i)
		}
		log.Set(row, f.image, f.Join(names), catalogue.RuleImageFile, catalogue.Ordered, "")
	}
	return any
}

// prepare makes the copy of a file for a row, and returns its name. What has been seen of the file becomes what is to be seen of the copy.
func (f *imageFiles) prepare(p *catalogue.Product, row *catalogue.Row, c candidate, seen *Seen, numbers map[string]int, log *line.Log) (string, error) {
	plan, err := f.Prepare.Limits.Plan(seen.Info, seen.Size)
	if err != nil {
		return "", err
	}
	as := nameOf(seen.Name)
	if f.Prepare.Pattern != nil {
		text, missing := f.Prepare.Pattern.Text(withLead(f.sheet.Products, row, p.Rows[0]))
		if missing != "" {
			return "", fmt.Errorf("%s is empty, and prepare_as needs it", missing)
		}
		numbers[text]++
		as = f.Prepare.Numbers.Name(text, numbers[text])
	}
	name := photos.SafeName(as)
	if name == "" {
		return "", errors.New("its name would be empty")
	}
	name += "." + string(plan.Type)
	if !plan.AsIs {
		seen.Size = 0
		seen.Info.Type = plan.Type
		seen.Info.Width, seen.Info.Height = plan.Sides()
	}
	return name, f.Prepare.Copy(f.Folder, c.File, &plan, name, log)
}

// look looks at a file that has been given to a row.
func (f *imageFiles) look(row *catalogue.Row, c candidate, seen *Seen, log *line.Log) {
	file := &f.Folder.Files[c.File]
	note := func(code catalogue.Code, facts catalogue.Facts) {
		if !log.Has(code, row, f.image) {
			log.Notice(code, row, f.image, row.Cell(f.image), facts)
		}
	}
	switch {
	case c.Fit.Dir:
		note(catalogue.ImageLoose, catalogue.Facts{Other: file.Path + " is in a folder that is called " + c.code})
	case c.Fit.Loosening > photos.Exact:
		note(catalogue.ImageLoose, catalogue.Facts{Other: file.Path + " is called " + c.code + " only " + c.Fit.Loosening.String()})
	}
	if n := f.Folder.Same(c.File); n >= leastSharing {
		note(catalogue.ImageStandIn, catalogue.Facts{Other: strconv.Itoa(n) + " files of the folder are the same"})
	}
	if f.Folder.Opens() {
		lookAtPicture(f.Rules, *seen, note)
	}
}

// Seen is what a picture that has been opened says of itself.
type Seen struct {
	Name   string
	Info   picture.Info
	Broken bool // it is none, or its beginning cannot be read
	Size   int64
}

// lookAtPicture looks whether a picture is as it has to be.
func lookAtPicture(rules *products.ImageRules, s Seen, note func(catalogue.Code, catalogue.Facts)) {
	if s.Broken {
		note(catalogue.ImageBroken, catalogue.Facts{Other: s.Name})
		return
	}
	kind := string(s.Info.Type)
	if named := imagelink.TypeOf(s.Name); named != "" && named != kind {
		note(catalogue.ImageFalseType, catalogue.Facts{Other: s.Name + " is a picture of the type " + kind})
	}
	if rules.Types != nil && !slices.ContainsFunc(rules.Types, func(t string) bool { return imagelink.SameType(t, kind) }) {
		note(catalogue.ImageType, catalogue.Facts{Other: kind})
	}
	if s.Info.Colours == picture.CMYK {
		note(catalogue.ImageColours, catalogue.Facts{Other: s.Name})
	}
	if side := max(s.Info.Width, s.Info.Height); rules.LongestSide > 0 && side > rules.LongestSide {
		note(catalogue.ImageLarge, catalogue.Facts{Other: fmt.Sprintf("%s has %d × %d pixels", s.Name, s.Info.Width, s.Info.Height), Length: rules.LongestSide})
	}
	if side := min(s.Info.Width, s.Info.Height); rules.ShortestSide > 0 && side > 0 && side < rules.ShortestSide {
		note(catalogue.ImageSmall, catalogue.Facts{Other: fmt.Sprintf("%s has %d × %d pixels", s.Name, s.Info.Width, s.Info.Height), Length: rules.ShortestSide})
	}
	if most := rules.LargestBytes(); most > 0 && s.Size > most {
		note(catalogue.ImageHeavy, catalogue.Facts{Other: s.Name + " has " + products.Bytes(s.Size), Length: int(most)})
	}
}

// built gives a row the names that the pattern makes.
func (f *imageFiles) built(p *catalogue.Product, i, lead int, log *line.Log) bool {
	text, missing := f.Pattern.Text(withLead(f.sheet.Products, p.Rows[i], p.Rows[lead]))
	if missing != "" {
		return false
	}
	var names []string
	for n := range f.HowMany {
		names = append(names, f.Numbers.Name(text, n+1))
	}
	row := p.Rows[i]
	widen(row, &f.sheet.Columns)
	log.Set(row, f.image, f.Join(names), catalogue.RuleImageName, catalogue.Ordered, "")
	return true
}

// withLead returns a row with what its lead row says of the whole product.
func withLead(layout *products.Layout, row, lead *catalogue.Row) *catalogue.Row {
	if row == lead {
		return row
	}
	whole := row.With(slices.Clone(row.Cells))
	for _, col := range layout.Columns(products.OfProduct) {
		if col < len(whole.Cells) && whole.Cells[col] == "" {
			whole.Cells[col] = lead.Cell(col)
		}
	}
	return &whole
}
