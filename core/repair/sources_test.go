package repair

import (
	"cmp"
	"fmt"
	"maps"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
	"zetanum/core/folder"
	"zetanum/core/line"
	"zetanum/core/reference"
	"zetanum/core/rescue"
	"zetanum/core/sections"
	"zetanum/core/sheet"
)

func write(t *testing.T, dir, name, content string) string {
	t.Helper()
	path := filepath.Join(dir, name)
	require.NoError(t, os.MkdirAll(filepath.Dir(path), 0o777))
	require.NoError(t, os.WriteFile(path, []byte(content), 0o666))
	return path
}

func ready(t *testing.T, r *Result) string {
	t.Helper()
	return whole(t, r, "ready.csv")
}

// whole returns a file of a run, put together if it lies there in parts.
func whole(t *testing.T, r *Result, name string) string {
	t.Helper()
	in, _ := folder.WholeAt(filepath.Join(r.Folder, name))
	var all string
	for n, part := range append(in.Parts, name)[:max(1, len(in.Parts))] {
		text, err := os.ReadFile(filepath.Join(r.Folder, part))
		require.NoError(t, err)
		if n > 0 {
			text = text[in.Head:]
		}
		all += string(text)
	}
	return all
}

// rules returns how many cells each rule changed, by its name and ground.
func rules(r *Result) map[string]int {
	counts := make(map[string]int)
	for _, c := range r.Report.Repaired {
		counts[c.Rule.String()+" "+c.Ground.String()] += c.Cells
	}
	return counts
}

// TestOrders: what a rulebook orders is written, on that ground, and what it
// does not take is held.
func TestOrders(t *testing.T) {
	eleven := ""
	for i := range 12 {
		eleven += fmt.Sprintf("A%d,95212340%04d,,Tool\n", i, i*31+2)
	}
	for _, test := range []struct {
		name  string
		rules rescue.Rules
		yes   catalogue.Code
		rows  string
		ready string
		by    string
	}{
		{"as EAN-13", rescue.Rules{WriteAs: "ean-13"}, 0, "A,036000291452,,x\n", "A,0036000291452,,x\n", "order.write-as ordered"},
		{"an ISBN-10 as EAN-13", rescue.Rules{WriteAs: "ean-13"}, 0, "A,030640615X,,x\nB,080442957X,,x\n", "B,9780804429573,,x\n",
			"order.write-as ordered"},
		{"an EAN-8 stays short", rescue.Rules{WriteAs: "ean-13"}, 0, "A,40123455,,x\n", "A,40123455,,x\n", ""},
		{"as GTIN-14", rescue.Rules{WriteAs: "gtin-14"}, 0, "A,40123455,,x\nB,9521234000013.0,,x\n",
			"A,00000040123455,,x\nB,09521234000013,,x\n", "order.write-as ordered, repair.tail certain"},
		{"a UPC-E as UPC-A", rescue.Rules{WriteAs: "shortest"}, 0, "A,04252614,,x\n", "A,042100005264,,x\n", "order.write-as ordered"},
		{"a carton cannot be shorter", rescue.Rules{WriteAs: "shortest"}, 0, "A,19521234000010,,x\n", "A,19521234000010,,x\n", ""},
		{"accepted", rescue.Rules{Accept: []string{"ean-13"}}, 0, "A,036000291452,,x\nB,9780306406157,,x\nC,9521234000013,,x\n",
			"B,9780306406157,,x\nC,9521234000013,,x\n", ""},
		{"accepted in the form in which it goes out", rescue.Rules{Accept: []string{"ean-13"}, WriteAs: "ean-13"}, 0, "A,036000291452,,x\n",
			"A,0036000291452,,x\n", "order.write-as ordered"},
		{"a second code", rescue.Rules{Second: "other"}, 0, "A,9521234000013 / 9521234000020,,x\nB,9521234000037/9521234000044,taken,x\n",
			"A,9521234000013,9521234000020,x\n", "repair.second ordered"},
		{"the second code belongs to another product", rescue.Rules{Second: "Other"}, 0,
			"A,9521234000013 / 9521234000020,,x\nB,9521234000020,,x\n", "", ""},
		{"a longer column filled", rescue.Rules{Fill: map[string]string{"Other": "gtin-14"}}, 0,
			"A,036000291452,,x\nB,9521234000013.0,taken,x\nC,9.52E+12,,x\n", "A,036000291452,00036000291452,x\nB,9521234000013,taken,x\n",
			"order.fill ordered, repair.tail certain"},
		{"check digits added", rescue.Rules{AddCheckDigit: true}, 0, eleven, strings.NewReplacer(
			"0002,", "00023,", "0033,", "00337,").Replace(eleven), "repair.check-digit-added ordered"},
		{"no check digit added to one that is wrong", rescue.Rules{AddCheckDigit: true}, 0, "A,036000291453,,x\nB,9521234000013,,x\n",
			"B,9521234000013,,x\n", ""},
		{"check digits added after a yes", rescue.Rules{}, catalogue.BarcodeNoCheckDigit, eleven, "", "repair.check-digit-added decided"},
		{"the only code that fits", rescue.Rules{}, catalogue.BarcodeOnlyOne, "A,9.52123400005E+12,,x\n", "A,9521234000051,,x\n",
			"repair.only-one decided"},
		{"words around", rescue.Rules{}, catalogue.BarcodeAmongWords, "A,9521234000013 (inner),,x\nB,9521234000012 (inner),,x\n",
			"A,9521234000013,,x\n", "repair.among-words decided"},
		{"a leading zero", rescue.Rules{}, catalogue.BarcodeLeadingZero, "A,40123400073,,x\n", "A,040123400073,,x\n",
			"repair.leading-zero decided"},
		{"zeros at the end, and a rounded one that no yes can help", rescue.Rules{}, catalogue.BarcodeZeroFilled,
			"A,9.521234000013E+12,,x\nB,9.521234000037E+12,,x\nC,9.521234000044E+12,,x\nD,9.521234000051E+12,,x\nE,9.5212340037E+12,,x\nF,9.5212340003E+12,,x\nG,9.521234000068E+12,,x\nH,9.521234000075E+12,,x\nI,9.521234000082E+12,,x\nJ,9.521234000099E+12,,x\nK,9.521234000105E+12,,x\nL,9.521234000112E+12,,x\n",
			"A,9521234000013,,x\nB,9521234000037,,x\nC,9521234000044,,x\nD,9521234000051,,x\nE,9521234003700,,x\nG,9521234000068,,x\nH,9521234000075,,x\nI,9521234000082,,x\nJ,9521234000099,,x\nK,9521234000105,,x\nL,9521234000112,,x\n", "repair.last-zero decided, repair.scientific certain"},
		{"a yes to another question", rescue.Rules{}, catalogue.BarcodeOnlyOne, "A,40123400073,,x\n", "", ""},
	} {
		path := write(t, t.TempDir(), "list.csv", "SKU,EAN,Other,Title\n"+test.rows)
		opt := fixed(path, Target(path))
		opt.Book.Barcode = test.rules
		if test.yes != 0 {
			opt.Said = catalogue.Decisions{{Finding: test.yes, Column: "ean"}}
		}
		r := run(t, opt)
		got := strings.TrimPrefix(ready(t, r), "SKU,EAN,Other,Title\n")
		if test.name[:5] != "check" {
			assert.Equal(t, test.ready, got, "%s: %+v", test.name, r.Report.Found)
		} else {
			assert.Equal(t, 12, r.Counts().Ready, test.name)
			assert.Contains(t, got, "A0,9521234000020,", test.name)
		}
		assert.Equal(t, test.by, strings.Join(slices.Sorted(maps.Keys(rules(r))), ", "), test.name)
	}
	path := write(t, t.TempDir(), "list.csv", "SKU,EAN\nA,9521234000013\n")
	opt := fixed(path, "")
	opt.Said = catalogue.Decisions{{Finding: catalogue.BarcodeLeadingZero, Column: "Nowhere"}}
	_, err := Run(t.Context(), opt)
	assert.ErrorIs(t, err, sections.ErrOnly)
}

const goodList = "SKU,EAN,Title\nA1,9521234000013,Smoker\nA2,EAN 9521234000020,Veil\nA3,9521234000037,Hive tool\nA4,#N/A,Brush\n"

// spoilt is what a spreadsheet program makes of our ready rows.
func spoilt(text string) string {
	for _, code := range []string{"9521234000013", "9521234000020", "9521234000037"} {
		text = strings.ReplaceAll(text, code, "9.52123E+12")
	}
	return text
}

// TestOurOwnFile: a copy of our output that was saved again since is known, and
// what it lost comes back from the folder, or from the source made anew.
func TestOurOwnFile(t *testing.T) {
	const repaired = "SKU,EAN,Title\nA1,9521234000013,Smoker\nA2,9521234000020,Veil\nA3,9521234000037,Hive tool\n"
	start := func(t *testing.T) (dir string) {
		dir = t.TempDir()
		path := write(t, dir, "list.csv", goodList)
		r := run(t, fixed(path, Target(path)))
		require.Equal(t, repaired, ready(t, r))
		return dir
	}
	restored := func(t *testing.T, path string, opt Options) *Result {
		opt.Input, opt.Target = path, Target(path)
		r := run(t, opt)
		assert.Equal(t, repaired, ready(t, r))
		assert.Equal(t, map[string]int{"repair.earlier backed": 3}, rules(r))
		return r
	}
	t.Run("a copy beside the folder", func(t *testing.T) {
		dir := start(t)
		r := restored(t, write(t, dir, "ready (1).csv", spoilt(repaired)), fixed("", ""))
		assert.Equal(t, filepath.Join(dir, "list.repaired"), r.Own)
		assert.Equal(t, "list.repaired", r.Settings.Earlier, "recorded")
	})
	t.Run("the file itself", func(t *testing.T) {
		dir := start(t)
		r := restored(t, write(t, dir, "list.repaired/ready.csv", spoilt(repaired)), fixed("", ""))
		assert.Contains(t, r.Trusted[0].Name, "as it was")
	})
	t.Run("a copy beside two folders", func(t *testing.T) {
		dir := start(t)
		require.NoError(t, os.CopyFS(filepath.Join(dir, "kept"), os.DirFS(filepath.Join(dir, "list.repaired"))))
		restored(t, write(t, dir, "ready-2.csv", spoilt(repaired)), fixed("", ""))
		other := write(t, dir, "other.csv", goodList+"A9,9521234000044,Hat\n")
		run(t, fixed(other, Target(other)))
		path := write(t, dir, "ready-3.csv", spoilt(repaired))
		r := run(t, fixed(path, Target(path)))
		assert.Contains(t, r.NotRestored, "name the right one with the setting ‹trust›")
		assert.Zero(t, r.Counts().Ready)
	})
	t.Run("named with -trust", func(t *testing.T) {
		dir := start(t)
		path := write(t, dir, "sent-back.csv", spoilt(repaired))
		opt := fixed("", "")
		opt.Trust = []string{filepath.Join(dir, "list.repaired")}
		restored(t, path, opt)
	})
	t.Run("the file itself, with codes that a person decided", func(t *testing.T) {
		dir := t.TempDir()
		opt := fixed(write(t, dir, "list.csv", "SKU,EAN,Title\nA,40123400073,x\nB,9521234000013,y\n"), "")
		opt.Target, opt.Said = Target(opt.Input), catalogue.Decisions{{Finding: catalogue.BarcodeLeadingZero}}
		decided := ready(t, run(t, opt))
		require.Contains(t, decided, "A,040123400073,x")
		path := write(t, dir, "list.repaired/ready.csv", "SKU,EAN,Title\nA,4.01E+10,x\nB,9.52E+12,y\n")
		assert.Equal(t, decided, ready(t, run(t, fixed(path, Target(path)))))
	})
	t.Run("the file itself, and its source is gone", func(t *testing.T) {
		dir := start(t)
		require.NoError(t, os.Remove(filepath.Join(dir, "list.csv")))
		path := write(t, dir, "list.repaired/ready.csv", spoilt(repaired))
		r := run(t, fixed(path, Target(path)))
		assert.Zero(t, r.Counts().Ready)
		assert.Contains(t, r.NotRestored, "list.csv")
	})
	t.Run("a file that only has the name", func(t *testing.T) {
		dir := start(t)
		path := write(t, dir, "ready.csv", "SKU,EAN,Name\nA1,9.52123E+12,Smoker\n")
		r := run(t, fixed(path, Target(path)))
		assert.Empty(t, r.Own)
		assert.Zero(t, r.Counts().Ready)
	})
	t.Run("as it was left", func(t *testing.T) {
		path := filepath.Join(start(t), "list.repaired", "ready.csv")
		r := run(t, fixed(path, Target(path)))
		assert.Empty(t, r.Own)
		assert.Zero(t, r.Counts().Changed)
	})
	t.Run("not an output folder", func(t *testing.T) {
		dir := start(t)
		path := write(t, dir, "other/x.csv", "a,b\n")
		opt := fixed(filepath.Join(dir, "list.csv"), "")
		opt.Trust = []string{filepath.Dir(path)}
		_, err := Run(t.Context(), opt)
		assert.ErrorContains(t, err, "not an output of ours")
	})
}

// TestKept: a source that was saved again and lost codes by it does not take
// away the output that it once gave.
func TestKept(t *testing.T) {
	dir := t.TempDir()
	path := write(t, dir, "list.csv", goodList)
	first := run(t, fixed(path, Target(path)))
	write(t, dir, "list.csv", spoilt(goodList))
	second := run(t, fixed(path, Target(path)))
	assert.True(t, second.Kept)
	assert.Equal(t, first.Folder+"-2", second.Folder)
	assert.Equal(t, 3, strings.Count(ready(t, first), "\n")-1)
	opt := fixed(path, Target(path))
	opt.Trust = []string{first.Folder}
	third := run(t, opt)
	assert.False(t, third.Kept)
	assert.Equal(t, first.Folder, third.Folder, "as many rows are ready as before")
	write(t, dir, "list.csv", "SKU,EAN,Title\nA1,9521234000013,Smoker\n")
	opt.Trust = nil
	shorter := run(t, opt)
	assert.False(t, shorter.Kept)
	assert.Equal(t, first.Folder, shorter.Folder, "a shorter list is a new list")
	write(t, dir, "list.csv", goodList)
	run(t, opt)
	third = run(t, opt)
	assert.Equal(t, ready(t, third), "SKU,EAN,Title\nA1,9521234000013,Smoker\nA2,9521234000020,Veil\nA3,9521234000037,Hive tool\n")
}

// TestAskedAndAnswered: the list of lost codes goes to the supplier, whose answer
// is trusted; and what is scanned into the list of products without a code comes
// back by SKU, unless it was scanned into two rows.
func TestAskedAndAnswered(t *testing.T) {
	dir := t.TempDir()
	path := write(t, dir, "list.csv", "SKU,EAN,Title,Size\nA1,9.52123E+12,Smoker,L\nA2,,Veil,\nA3,9521234000037,Tool,\n,9.52123E+12,\"Brush, long\",M\nA5,,Hat,\n,,,\n")
	r := run(t, fixed(path, Target(path)))
	lost, err := os.ReadFile(filepath.Join(r.Folder, sections.LostName))
	require.NoError(t, err)
	rows := strings.Split(strings.TrimSpace(string(lost)), "\n")
	require.Len(t, rows, 3)
	assert.Equal(t, "SKU,Title,Size,Barcode,What is known", rows[0])
	assert.True(t, strings.HasPrefix(rows[1], "A1,Smoker,L,,"), rows[1])
	assert.Contains(t, rows[1], "one of 1,000,000 possible codes")
	assert.Equal(t, []int{2, 2}, r.Report.Listed)

	answer := strings.Replace(strings.Replace(string(lost), "A1,Smoker,L,,", "A1,Smoker,L,9521234000013,", 1), `,"Brush, long",M,,`,
		`,"BRUSH long",M,9521234000044,`, 1)
	scanned := "SKU,Title,Size,Barcode\nA2,Veil,,9521234000020\nA5,Hat,,9521234000020\n"
	opt := fixed(path, Target(path))
	opt.Trust = []string{write(t, dir, "answer.csv", answer), write(t, dir, "scanned.csv", scanned)}
	r = run(t, opt)
	assert.Equal(t, map[string]int{"repair.trusted backed": 1, "repair.trusted-title backed": 1}, rules(r))
	assert.Contains(t, ready(t, r), ",9521234000044,")
	assert.Contains(t, ready(t, r), "A2,,Veil", "what was scanned twice is not taken")

	opt.Trust[1] = write(t, dir, "scanned.csv", strings.Replace(scanned, "Hat,,9521234000020", "Hat,,9521234000051", 1))
	r = run(t, opt)
	assert.Contains(t, ready(t, r), "A2,9521234000020,Veil")
	assert.Contains(t, ready(t, r), "A5,9521234000051,Hat")
}

// TestListsRunNothing: what a spreadsheet program would run as a formula has an apostrophe
// before it in a list for somebody else, which goes again when the list comes back.
func TestListsRunNothing(t *testing.T) {
	dir := t.TempDir()
	path := write(t, dir, "list.csv", "SKU,EAN,Title\n=A1,9.52123E+12,@Hat\n-7,9.52123E+12,-5\n")
	r := run(t, fixed(path, Target(path)))
	lost, err := os.ReadFile(filepath.Join(r.Folder, sections.LostName))
	require.NoError(t, err)
	assert.Contains(t, string(lost), "\n'=A1,'@Hat,,")
	assert.Contains(t, string(lost), "\n-7,-5,,", "a number is no formula")
	held, err := os.ReadFile(filepath.Join(r.Folder, "held.csv"))
	require.NoError(t, err)
	assert.Contains(t, string(held), ",=A1,9.52123E+12,@Hat", "what is held is as it was")
	opt := fixed(path, Target(path))
	opt.Trust = []string{write(t, dir, "answer.csv", strings.Replace(string(lost), "'=A1,'@Hat,,", "'=A1,'@Hat,9521234000013,", 1))}
	assert.Contains(t, ready(t, run(t, opt)), "=A1,9521234000013,@Hat")
}

// TestTitlesOnBothSides: without an SKU a code is only taken where title and
// options are unique here and there, and the cell agrees.
func TestTitlesOnBothSides(t *testing.T) {
	const trusted = "Name,Colour,EAN\nSmoker,red,9521234000013\nSmoker,blue,9521234000020\nVeil,,9521234000037\nVeil,,9521234000044\nHat,,9529994000014\nTool,,9521234000051\n"
	for _, test := range []struct{ name, rows, want string }{
		{"unique", "Smoker,Blue,9.52123E+12\n", "repair.trusted-title"},
		{"an option is missing", "Smoker,,9.52123E+12\n", "barcode.rounded"},
		{"twice there", "Veil,,9.52123E+12\n", "trust.key-twice"},
		{"twice here", "Tool,,9.52123E+12\nTool,,9521234000068\n", "trust.several-rows"},
		{"the cell says something else", "Hat,,9.52123E+12\n", "trust.outside"},
		{"the cell says nothing", "Tool,,#N/A\n", "trust.by-title"},
		{"the cell is empty", "Tool,,\n", "barcode.missing"},
	} {
		dir := t.TempDir()
		path := write(t, dir, "list.csv", "Title,Colour,EAN\n"+test.rows)
		opt := fixed(path, Target(path))
		opt.Trust = []string{write(t, dir, "counted.csv", trusted)}
		r := run(t, opt)
		var got []string
		for _, c := range r.Report.Repaired {
			got = append(got, c.Rule.String())
		}
		for _, f := range r.Report.Found {
			got = append(got, f.Code.String())
		}
		assert.Contains(t, got, test.want, test.name)
	}
}

// TestOnlyOneFits: a code of a trusted sheet that is the only one to fit what is left in a
// cell is proposed with the title at which it stands, and taken with yes where the titles
// agree.
func TestOnlyOneFits(t *testing.T) {
	const trusted = "SKU,EAN,Title\nLRA-1,9521234000013,\"Hat with veil, large\"\nLRA-2,9529990000018,Smoker\nLRA-3,9521240000014,Tool\n" +
		"LRA-4,9521240000021,Tool box\nLRA-5,952123400001234565,Pallet\n"
	for _, test := range []struct{ name, row, want, yes string }{
		{"nearly the title", "X,9.52123E+12,\"Hat with veil, blue\"", "trust.fits", "9521234000013"},
		{"another title", "X,9.52999E+12,Brush", "trust.may-fit", ""},
		{"no title", "X,9.52999E+12,", "trust.may-fit", ""},
		{"two fit", "X,9.52124E+12,Toolkit", "barcode.rounded", ""},
		{"none fits", "X,9.52777E+12,Toolkit", "barcode.rounded", ""},
		{"nothing is left", "X,#N/A,Hat with veil large", "trust.by-title", "9521234000013"},
		{"of a pallet, cut to fifteen digits", "LRA-5,952123400001234000,Pallet", "952123400001234565", "952123400001234565"},
		{"the same in scientific notation", "LRA-5,9.52123400001234E+17,Pallet", "952123400001234565", "952123400001234565"},
		{"of another pallet", "LRA-5,9.52123400001236E+17,Pallet", "trust.outside", ""},
	} {
		dir := t.TempDir()
		path := write(t, dir, "list.csv", "SKU,EAN,Title\nA,9521234000990,Other\n"+test.row+"\n")
		opt := fixed(path, Target(path))
		opt.Book.Barcode.Accept = []string{"ean-13", "sscc-18"}
		opt.Trust = []string{write(t, dir, "counted.csv", trusted)}
		r := run(t, opt)
		got := ready(t, r)
		for _, f := range r.Report.Found {
			got += " " + f.Code.String()
		}
		assert.Contains(t, got, test.want, test.name)
		opt.Said = everyYes()
		assert.Equal(t, test.yes != "", strings.Contains(ready(t, run(t, opt)), cmp.Or(test.yes, "\nX")), test.name)
	}
}

// TestSKUsComeBack: an SKU that a program made something else of is restored
// where a trusted sheet has it for the same barcode or title, and the code is
// looked up by it.
func TestSKUsComeBack(t *testing.T) {
	dir := t.TempDir()
	path := write(t, dir, "list.csv", "SKU,EAN,Title\n123,9521234000013,Smoker\n2-Mar,9521234000020,Veil\n1.20E+05,9.52123E+12,Hat\n77,9521234000044,Tool\n")
	opt := fixed(path, Target(path))
	opt.Trust = []string{write(t, dir, "counted.csv", "SKU,EAN,Title\n00123,9521234000013,Smoker\nMAR-2,9521234000020,Veil\n12E4,9521234000037,Hat\n88,9521234000044,Tool\n")}
	r := run(t, opt)
	assert.Equal(t, "SKU,EAN,Title\n00123,9521234000013,Smoker\nMAR-2,9521234000020,Veil\n12E4,9521234000037,Hat\n77,9521234000044,Tool\n",
		ready(t, r))
	assert.Equal(t, map[string]int{"repair.trusted-sku backed": 3, "repair.trusted backed": 1}, rules(r))
}

// TestTrustedByItself: sheets without SKUs, or without a barcode column.
func TestTrustedByItself(t *testing.T) {
	dir := t.TempDir()
	_, err := reference.Load(write(t, dir, "a.csv", "SKU,Title\nA,x\n"), sheet.Options{})
	assert.ErrorIs(t, err, reference.ErrNoCodes)
	_, err = reference.Load(write(t, dir, "b.csv", "EAN,Price\n9521234000013,1\n"), sheet.Options{})
	assert.ErrorIs(t, err, reference.ErrNoCodes)
}

// TestShortRows: what a row lacks at its end is noticed, and comes from a trusted sheet
// like what is empty in the middle.
func TestShortRows(t *testing.T) {
	for name, text := range map[string]string{
		"list.csv":   "SKU,Title,EAN\nA,x,9521234000013\nB,y\nC,z\n",
		"list.jsonl": "{\"SKU\":\"A\",\"Title\":\"x\",\"EAN\":\"9521234000013\"}\n{\"SKU\":\"B\",\"Title\":\"y\"}\n{\"SKU\":\"C\",\"Title\":\"z\"}\n",
		"list.html":  "<table><tr><td>SKU<td>Title<td>EAN<tr><td>A<td>x<td>9521234000013<tr><td>B<td>y<tr><td>C<td>z</table>",
	} {
		dir := t.TempDir()
		opt := fixed(write(t, dir, name, text), filepath.Join(dir, "out"))
		opt.Trust = []string{write(t, dir, "trust.csv", "SKU,EAN\nB,9521234000020\n")}
		r, err := Run(t.Context(), opt)
		require.NoError(t, err, name)
		assert.Equal(t, "SKU,Title,EAN\nA,x,9521234000013\nB,y,9521234000020\nC,z,\n", ready(t, r), name)
		missing := slices.IndexFunc(r.Report.Found, func(f line.FindingCount) bool { return f.Code == catalogue.BarcodeMissing })
		require.GreaterOrEqual(t, missing, 0, name)
		assert.Equal(t, 1, r.Report.Found[missing].Cells, name)
	}
}
