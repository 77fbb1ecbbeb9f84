package repair

import (
	"context"
	"errors"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"zetanum/core/columns"
	"zetanum/core/condition"
	"zetanum/core/imagelink"
	"zetanum/core/pattern"
	"zetanum/core/products"
	"zetanum/core/reference"
	"zetanum/core/rulebook"
	"zetanum/core/sheet"
	"zetanum/core/wording"
)

// FuzzRepair gives the line files of any bytes at all. A file that is refused
// is refused with words; of one that is taken every row is accounted for, the
// cut into parts makes no difference, and what goes out comes through a second
// repair as it is.
func FuzzRepair(f *testing.F) {
	for seed := range uint64(12) {
		f.Add(nasty(seed, 12))
	}
	for _, s := range []string{
		"SKU,EAN,Title\nA,9521234000013,x\n", "\ufeffSKU;EAN\r\n;\r\n", "SKU\tEAN\rA\t9,5E+12\r", "EAN\n\"\n", "SKU,EAN,SKU\n\"a\"b\",,\n",
		"SKU,EAN\nA,\"9\x00\"\n\xff\xfe,1\n", "\n\n,SKU,EAN,Title\n1,2,3\nA,9,52123E+12,\n", "SKU,EAN\n\r\r\nA,\r9\n",
		"\n\nKU,EAN,Title\n1,\n1,\nA,9,52123E+12,\n",
		" 000,Title\n00\n00\n0,00,000", // the only row with a title is held
	} {
		f.Add([]byte(s))
	}
	lent := filepath.Join(f.TempDir(), "lent.csv")
	require.NoError(f, os.WriteFile(lent, []byte("Region,Weight\nen-gb,5\n"), 0o666))
	f.Fuzz(func(t *testing.T, content []byte) {
		dir := t.TempDir()
		path := filepath.Join(dir, "list.csv")
		require.NoError(t, os.WriteFile(path, content, 0o666))
		opt := fixed(path, filepath.Join(dir, "out"))
		opt.Temp, opt.PartSize = dir, 1<<20
		rules := orders(uint64(len(content)))
		rules.Second = ""
		opt.Book.Barcode = rules
		if len(content)%2 == 1 {
			opt.Book.Columns = columns.Rules{Add: map[string]string{"Region": "en"}, Order: []string{"Region"}}
			opt.Book.Replace = []wording.ReplaceRule{{Fields: condition.Fields{In: []string{"Region"}}, Find: "en", With: "en-gb"}}
			opt.Book.Build = []pattern.BuildRule{{Into: "Label", From: "{Region}[ weighs {Weight}]"}}
			opt.Book.Borrow = []reference.BorrowRule{{From: lent, By: "Region", Take: []string{"Weight"}}}
			opt.Book.Closing = []wording.ClosingRule{{Fields: condition.Fields{In: []string{"Label"}}, Text: "The end."}}
		}
		if len(content)%4 == 1 {
			opt.Book.Sheet = condition.SheetRules{Repeats: "keep", SortBy: []string{"Label"}}
			opt.Book.Rows = []condition.RowRule{{OnePer: "Weight", Choose: "last"}}
		}
		if len(content)%8 == 3 {
			opt.Book.Products = products.Rules{Regroup: true, Differ: "lead", Misplaced: "move"}
			opt.Book.Images = products.ImageRules{As: []string{"rows", "cell"}[len(content)/8%2], Number: len(content)/8%2 == 0, Alt: "{title}",
				Rules: imagelink.Rules{HTTPS: true, DropFragments: true, BaseURL: "https://cdn.shop.example/p"}}
		}
		if len(content)%8 == 7 {
			opt.Book.Products = products.Rules{TogetherBy: "Region", OptionOfTitles: "Size", SameAsLead: []string{"Region"}}
			opt.Book.ForAll = []products.AllRule{{From: "Region", At: "|", Unlike: []string{"sku"}}}
		}
		if len(content)%8 == 2 {
			opt.Book.Products = products.Rules{Together: [][]string{{"A", "B"}, {"s", "t", "9"}}, Regroup: true, OptionOfTitles: "Size",
				Misplaced: "move"}
			opt.Book.Images.OfVariants, opt.Book.Sheet.RowNumbers = "Shown", "No"
		}
		if len(content)%8 == 6 {
			opt.Book.Each = []products.EachRule{{From: "Notes", Into: "Size", Set: map[string]string{"sku": "{sku}-{Size}"}}}
			opt.Book.Options = []products.OptionsRule{{From: "Description", Names: []string{"One", "Two"}}}
		}
		r, err := Run(context.Background(), opt)
		if err != nil {
			var refused *sheet.Error
			require.True(t, errors.As(err, &refused) || errors.Is(err, rulebook.ErrWrong), "%v", err)
			return
		}
		c := r.Counts()
		require.Equal(t, c.Read, c.Ready+c.Held+c.Aside)
		if form := r.Source.Form; form.Spooled || form.Lenient && form.CR {
			return // with lone CRs and a mark that is never closed, line feeds may stand anywhere
		}
		if !opt.Book.Columns.Idle() && strings.ContainsAny(strings.Join(r.Source.Columns.Headings, ""), "\r\n") {
			return // where line breaks stand in the headings, quotation marks around them may change how rows end
		}
		ready := filepath.Join(r.Folder, "ready.csv")
		text, err := os.ReadFile(ready)
		require.NoError(t, err)
		written := c.Ready + c.Added - c.Joined
		require.Equal(t, r.Report.Written.Rows, written)
		require.Equal(t, written+1, len(rowsIn(t, ready, r.Source.Form)), "%q", text)
		require.Equal(t, c.Held+1, len(rowsIn(t, filepath.Join(r.Folder, "held.csv"), r.Source.Form)))
		require.Equal(t, c.Aside+1, len(rowsIn(t, filepath.Join(r.Folder, "aside.csv"), r.Source.Form)))

		opt.PartSize, opt.Target = 1, filepath.Join(dir, "cut")
		cut, err := Run(context.Background(), opt)
		require.NoError(t, err)
		for name, want := range contents(t, r.Folder) {
			got, err := os.ReadFile(filepath.Join(cut.Folder, name))
			require.NoError(t, err)
			require.Equal(t, want, string(got), name)
		}

		again := fixed(ready, filepath.Join(dir, "again"))
		again.Temp, again.Book = dir, opt.Book
		second, err := Run(context.Background(), again)
		if err != nil || second.Source.Heading != 1 || second.Source.Form.Separator != r.Source.Form.Separator ||
			second.Counts().Read != written {
			return // so little is left that the file reads otherwise
		}
		if len(second.Source.ByCells) != len(r.Source.ByCells) {
			return // without the rows that were held a column looks like barcodes
		}
		require.Zero(t, second.Counts().Changed, "%q: %+v", text, second.Report.Repaired)
		require.Zero(t, second.Counts().Held, "%q: %+v", text, second.Report.Found)
		out, err := os.ReadFile(filepath.Join(second.Folder, "ready.csv"))
		require.NoError(t, err)
		if second.Counts().Aside == 0 {
			require.Equal(t, string(text), string(out))
		}
	})
}
