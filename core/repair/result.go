package repair

import (
	"io"
	"slices"
	"time"

	"zetanum/core/folder"
	"zetanum/core/mint"
	"zetanum/core/returned"

	"zetanum/core/catalogue"
	"zetanum/core/export"
	"zetanum/core/line"
	"zetanum/core/reference"
	"zetanum/core/rulebook"
	"zetanum/core/sections"
	"zetanum/core/sheet"
	"zetanum/core/steps"
)

// Options say what to repair and how.
type Options struct {
	Input  string // a file, an address of one on the web, or "-" for Stdin
	Stdin  io.Reader
	Called string // what Stdin is called in messages
	Sheet  string
	Fields map[string]catalogue.Field // by heading
	Trust  []string                   // sheets that are trusted for barcodes, and output folders of earlier runs
	Book   sections.Book              // how the shop wants its catalogue
	Lent   int                        // how many of the last sheets to borrow from are not of the rulebook
	Said   catalogue.Decisions        // what a person says to findings, besides the rulebook
	Set    []sections.Setting         // what is written into columns, besides the rulebook
	Only   []string                   // fields or headings to write, besides the SKU; none: all
	As     []string                   // the forms of [target.Forms] in which what is ready is written, too; nil: as the rulebook says
	Look   bool                       // write a workbook to look at what is ready
	Proof  *Proof                     // write a page to look at some products; nil for none
	Member string                     // the file of an archive to read
	// AllowLocal says that a file may be fetched from this machine and its own network.
	AllowLocal  bool
	AnyHeadings bool          // with Look: of which none need be known
	Reading     sheet.Reading // how the file is to be read, where the user says so
	Plain       bool          // with Only: no SKU, no headings and no empty lines
	Sample      int           // products to write, the others set aside; 0: all
	Workers     int
	// PartSize is how many bytes the workers share out at a time; 0 is as much
	// as is good. No output depends on it.
	PartSize int

	// Examples is how many examples are kept of each kind of change and finding; 0 is a few.
	Examples int

	// MostRows is how many rows of a product are looked at together; 0 is
	// [sheet.MostRows].
	MostRows int
	Date     string // recorded, as YYYY-MM-DD
	Version  string // of the program, recorded

	// Links is a folder with what links to images have led to; "" if nothing says so. LinksDrop takes further ones out that lead to no
	// picture, LinksHold holds products that have such, and LinksMove writes addresses in place of links that have moved.
	Links                           string
	LinksDrop, LinksHold, LinksMove bool

	// ReplaceCodes says once more that codes are replaced which are in use, as the rulebook orders it.
	ReplaceCodes bool
	// Register is a file or the address of a server that remembers codes, in place of that of the rulebook.
	Register string
	// Now is the clock, by which what is reserved in the register runs out; nil for that of the system.
	Now func() time.Time
	// CodesOnly makes codes and writes nothing else: all other cells go out as they are.
	CodesOnly bool

	// With is the output folder of an earlier run with which tables that came back are put together,
	// and Returned are these, see [Resume].
	With     string
	Returned []string
	Declared returned.Declared // the columns of a result of the shop

	// Ahead opens the file Next, which is repaired next, meanwhile; nil if nobody knows which that is.
	Ahead *sheet.Ahead
	Next  string

	Target string    // the output folder; "" writes nothing
	Temp   string    // a folder for what is needed for a while
	Stdout io.Writer // if not nil, takes ready.csv in place of the folder

	// Review writes further files for people into a folder that is about to
	// appear; nil: none.
	Review func(dir string, r *Result) error
	hold   func(c *line.Pipeline, width int) // sees each pipeline before it is used, in tests

	// Progress is told how much of the whole work is done, in bytes.
	Progress func(stage string, done, total int64)
}

// A Result is what became of a file.
type Result struct {
	Source   Source
	Settings Settings
	Trusted  []TrustedSheet
	Rulebook string           // that was followed
	Set      []rulebook.Order // that would keep what was set besides it
	Parts    []export.Part    // files into which what is ready was cut; none if it is within the limits
	Targets  []TargetReport   // further ones
	Minted   []steps.Minted   // what came of the rules that make codes
	Register *RegisterState   // that codes were made by; nil if none was
	Patterns []mint.Proposal  // that fit the file, where it was only looked at
	// Returned are the rows that people have mended; nil if nothing came back.
	Returned *returned.Rows
	Shop     []ShopTable // the tables that were written of what the shop has said
	// Phrases are sentences that stand in many descriptions.
	Phrases []sections.Phrase
	// OwnRatios are columns that reckon something from the price and the cost.
	OwnRatios []steps.OwnRatio
	// Samples are the products on the page to look at; nil if there is none.
	Samples *export.Samples
	// CameBack is the output folder of which the source is a table for people, if it is worked on by itself.
	CameBack string
	// Remembered is the rulebook into which the answers of this run have been written since.
	Remembered  string
	Date        string      // of the run, as YYYY-MM-DD
	NotFollowed string      // why a rulebook that was found was not followed
	Notes       []string    // about rules that found nothing to do
	Rows        []RowCount  // how many rows each rule that counts has touched
	Attributes  []Attribute // how full columns are that say properties of products, in sheets that are not too large
	Borrowed    []Borrowed  // what came of each loan
	Lists       []line.List // that were written if anything is in them
	Own         string      // the output folder of which the source is a copy, saved again since
	// NotRestored says why nothing could be restored although the source is a
	// copy of our own output.
	NotRestored  string
	PricesDrawn  bool // whoever reviews it has drawn its prices
	Report       *line.Report
	Models       []ColumnModel           // what the survey saw of each barcode column
	Fill         []steps.ColumnFill      // of each column, after a look
	Variants     int                     // rows that are sold by themselves
	ImageRows    int                     // rows that only carry another image
	Further      int                     // after a look: rows behind the first of their product
	KeyLike      string                  // after a look: the heading of a column that seems to say which rows are one product
	Keys         []Key                   // after a look at a sheet without SKUs: columns that could tell its rows apart, two at most
	Unknown      bool                    // after a look: no heading is known
	Meant        map[int]catalogue.Field // and what columns seem to mean then
	Holds        []string                // and what each column holds, in words
	Unlike       []ColumnFinding         // columns that hold something else than their headings say
	Required     int                     // columns of the file that are required, in the list of what is to be filled in
	TellApart    catalogue.ColumnSet     // the columns whose cells no answer empties: products are told apart by them, or the template demands them
	Lost         []line.Lack             // after a look: of which products the barcodes are lost
	Sample       [][]string              // after a look: the cells of the first rows
	Survey       *line.Survey
	Prepared     *Prepared // copies of photos; nil if none were ordered
	Moved        int       // rows that stand in another place, because they were brought to their product
	KeptRows     int       // rows around the headings that go to the importer, too
	Kept         bool      // an earlier output was not replaced, because it has more ready rows of another version of the file
	folder.Place           // where the output is

	written line.Output // how what is ready was written
}

// An Attribute is how many rows have something in a column, of those that may.
type Attribute struct {
	Column string `json:"column"`
	Filled int    `json:"filled"`
	Of     int    `json:"of"`
}

// A Source is the file that was read.
type Source struct {
	Path, Name string
	Address    string // from which it was fetched
	Sheet      string
	Beside     []string // files of the archive that were not read
	Others     []string // sheets of the workbook that were not read
	Size       int64
	Changed    time.Time
	Sum        string
	Kind       string // in words
	Heading    int    // the row number of the headings
	Preamble   []sheet.Line
	Beneath    []sheet.Beneath
	Rows       int // how many rows the headings take
	Columns    catalogue.Columns
	Form       sheet.Form
	ByCells    []int    // columns whose meaning was seen from their cells
	Doubt      string   // about the encoding
	Evidence   string   // for the encoding
	Hidden     []string // headings of columns that the workbook does not show
	HiddenRows int      // rows that it does not show
	Filtered   bool     // a filter is set in it
	Blank      int      // blank rows at the end that are left out
	Merged     int      // areas of merged cells below the headings
}

// Settings are what a run was asked to do, as recorded in its manifest.
type Settings struct {
	Sheet  string `json:"sheet,omitempty"`
	Member string `json:"member,omitempty"`
	sheet.Reading
	Fields   map[string]string `json:"fields,omitempty"`
	Trust    []string          `json:"trust,omitempty"`
	Only     []string          `json:"only,omitempty"`
	Plain    bool              `json:"plain,omitempty"`
	As       []string          `json:"as,omitempty"`
	Look     bool              `json:"look,omitempty"`
	Sample   int               `json:"sample,omitempty"`
	Rulebook string            `json:"rulebook,omitempty"`
	// Earlier is the output folder of which the source was taken for a copy.
	Earlier string              `json:"earlier,omitempty"`
	Said    catalogue.Decisions `json:"answers,omitempty"`
	Set     []sections.Setting  `json:"set,omitempty"`
	// ReplaceCodes says once more that codes are replaced which are in use, as the rulebook orders it.
	ReplaceCodes bool `json:"replace_codes,omitempty"`
	// CodesOnly says that codes were made and nothing else was written.
	CodesOnly bool `json:"codes_only,omitempty"`
	// Links are the results of links that were taken.
	Links *LinksUsed `json:"links,omitempty"`

	// With is the output folder with which what came back was put together, and Returned is that.
	With     string   `json:"with,omitempty"`
	Returned []string `json:"returned,omitempty"`

	Book sections.Book `json:"rules,omitzero"`
}

// Prepared are copies of photos, in a folder within that of the run.
type Prepared struct {
	Folder string
	Photos int
}

// A RowCount says how many rows a rule about rows has kept, or set aside.
type RowCount struct {
	Rule string `json:"rule"`
	Rows int    `json:"rows"`
}

// Borrowed says what came of a loan.
type Borrowed struct {
	Rule      string                  `json:"rule"`
	From      string                  `json:"from"`
	Rows      int                     `json:"rows"`             // with a key, in the sheet that was borrowed from
	Matched   int                     `json:"matched"`          // rows of this file that it has
	Unmatched int                     `json:"unmatched"`        // rows of this file that it does not have
	Alike     int                     `json:"alike"`            // matched by a key that is spelt otherwise
	Unasked   int                     `json:"unasked"`          // rows that this file does not have
	Twice     int                     `json:"twice"`            // cells for which it has different values
	Filled    int                     `json:"filled"`           // cells
	Same      int                     `json:"same"`             // cells that had the value already
	Kept      int                     `json:"kept"`             // cells that have another value and keep it
	NotIn     string                  `json:"not_in,omitempty"` // the lists of unmatched rows, on both sides
	OnlyIn    string                  `json:"only_in,omitempty"`
	Hidden    []string                `json:"hidden,omitempty"` // headings there that the workbook does not show
	Until     int                     `json:"until,omitempty"`  // the row there with the headings of another table, which is not read
	Taken     []reference.TakenColumn `json:"taken"`
}

// A ShopTable is a table of what the shop has said, and how many rows it has.
type ShopTable struct {
	Name string
	Rows int
}

// A TrustedSheet says what a trusted sheet had to offer.
type TrustedSheet struct {
	Name, Path           string
	Rows, Whole, Damaged int
	Restored             int // of the whole ones, those that its own column proves
	Until                int // the row there with the headings of another table, which is not read; 0: there is none
}

// manifest is what run.json records of a run.
type manifest struct {
	Version  string         `json:"version"`
	Date     string         `json:"date"`
	Source   manifestSource `json:"source"`
	Settings Settings       `json:"settings"`
	Counts   Counts         `json:"counts"`
	Register *RegisterState `json:"register,omitempty"`
	Traces   []trace        `json:"traces,omitempty"` // by which what went out is known again

	Told sections.Told `json:"told,omitzero"` // what the source said of its words
}

type manifestSource struct {
	Name    string `json:"name"`
	Lies    string `json:"lies,omitempty"` // where it lies, seen from the folder, if not beside that
	Address string `json:"address,omitempty"`
	Sheet   string `json:"sheet,omitempty"`
	Heading int    `json:"heading_row"`
	Tables  []int  `json:"other_tables_in_rows,omitempty"`
	Bytes   int64  `json:"bytes"`
	Sum     string `json:"sum"`
}

// sameTable reports whether two sources are the same table of the same file, whatever has
// become of that since.
func (s *manifestSource) sameTable(other *manifestSource) bool {
	return folder.SameName(s.Name, other.Name) && s.Sheet == other.Sheet && !slices.Contains(s.Tables, other.Heading) &&
		!slices.Contains(other.Tables, s.Heading)
}

// Counts are the sums of a run: Read = Ready + Held + Aside.
type Counts struct {
	Read     int `json:"read"`
	Ready    int `json:"ready"`
	Held     int `json:"held"`
	Aside    int `json:"set_aside"`
	Added    int `json:"added,omitempty"`  // rows that were made: written = ready + added − joined
	Joined   int `json:"joined,omitempty"` // rows that were put into others
	Products int `json:"products"`
	Repaired int `json:"cells_changed"`
	Changed  int `json:"changes"` // of these cells, one for each rule that has changed them
}

// Counts returns the sums.
func (r *Result) Counts() Counts {
	c := Counts{Read: r.Report.Rows, Ready: r.Report.Ready, Held: r.Report.Held, Aside: r.Report.Aside, Added: r.Report.Added,
		Joined: r.Report.Joined, Products: r.Report.Products, Repaired: r.Report.Repairs}
	for i := range r.Report.Repaired {
		c.Changed += r.Report.Repaired[i].Cells
	}
	return c
}

// A TargetReport says what became of what goes to a further target.
type TargetReport struct {
	Name   string
	Report *line.Report  // Ready, Held and Aside are all rows of the source together
	As     []string      // the forms besides CSV in which it was written
	Parts  []export.Part // files into which it was cut; none if it is within the limits
	None   bool          // no product goes to it, and there is no file
}
