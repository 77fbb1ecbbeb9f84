package repair

import (
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/barcode"
	"zetanum/core/mint"
	"zetanum/core/register"
	"zetanum/core/rulebook"
	"zetanum/core/sections"
)

// mints repairs a list with a rulebook of rules that make codes, and returns what is ready.
func mints(t *testing.T, text, rules string, files map[string]string, workers int) (r *Result, ready string, err error) {
	t.Helper()
	dir := t.TempDir()
	for name, content := range files {
		write(t, dir, name, content)
	}
	book, err := sections.Load(write(t, dir, rulebook.Name, rules))
	require.NoError(t, err, rules)
	path := write(t, dir, "list.csv", text)
	r, err = Run(t.Context(), Options{Input: path, Target: Target(path), Workers: workers, PartSize: 90, Book: *book, Date: "2026-04-01",
		ReplaceCodes: strings.Contains(rules, "# replace")})
	if err != nil {
		return nil, "", err
	}
	out, err := os.ReadFile(filepath.Join(r.Folder, "ready.csv"))
	require.NoError(t, err)
	return r, string(out), nil
}

// TestMint: codes are made where there are none, for what goes out, and never one that there is.
func TestMint(t *testing.T) {
	const pedals = "SKU,Title,Make,Colour,EAN\n"
	sku := func(from string) string { return "[[mint]]\ninto = \"sku\"\nfrom = \"" + from + "\"\n" }
	for name, test := range map[string]struct {
		text, rules string
		files       map[string]string
		ready       string // the rows, but for the headings
		held        int
		found       string // a finding that holds
	}{
		"a number for each make": {pedals + ",Pedal,Kestrel,,\nKE-0007,Bell,Kestrel,,\n,Lamp,Łódź,,\n,Grip,Kestrel,,\n",
			sku("{Make ascii letters upper first 2}-{counter 4}"), nil,
			"KE-0009,Pedal,Kestrel,,\nKE-0007,Bell,Kestrel,,\nLO-0001,Lamp,Łódź,,\nKE-0008,Grip,Kestrel,,\n", 0, ""},
		"codes of held rows are no longer free": {pedals + ",Pedal,Kestrel,,\nKE-0007,Bell,Kestrel,,9.52E+12\n",
			sku("KE-{counter 4}"), nil, "KE-0008,Pedal,Kestrel,,\n", 1, "barcode.rounded"},
		"held rows get none, and take none": {pedals + ",Axle,Kestrel,,9.52E+12\n,Pedal,Kestrel,,\n", sku("KE-{counter 4}"), nil,
			"KE-0001,Pedal,Kestrel,,\n", 1, "barcode.rounded"},
		"rows that clash get none": {pedals + ",Axle,K,,9521234000013\n,Bell,K,,9521234000013\n,Pedal,K,,\n", sku("KE-{counter 4}"), nil,
			"KE-0001,Pedal,K,,\n", 2, "barcode.duplicate"},
		"copies are no twins": {pedals + ",Axle,K,,\n,Axle,K,,\n", sku("KE-{counter 4}"), nil, "KE-0001,Axle,K,,\n", 0, ""},
		"twins":               {pedals + ",Axle,K,,\n,Axle,L,,\n,Axle,M,red,\n", sku("KE-{counter 4}"), nil, "KE-0001,Axle,M,red,\n", 2, "mint.twins"},
		"told apart": {pedals + ",Axle,K,,\n,Axle,L,,\n", sku("KE-{counter 4}") + "by = [\"Make\"]\n", nil,
			"KE-0001,Axle,K,,\nKE-0002,Axle,L,,\n", 0, ""},
		"avoid, whatever the spelling": {pedals + ",Axle,K,,\n", sku("KE-{counter 4}") + "avoid = [\"shop.csv\", \"none.csv\"]\n",
			map[string]string{"shop.csv": "Item no,SKU\n1,KE-0041\n2,ke-oo52\n", "none.csv": "SKU,Title\n,x\n"}, "KE-0042,Axle,K,,\n", 0, ""},
		"a cell that the pattern needs": {pedals + ",Axle,,,\n,Bell,K,,\n", sku("{Make}-{counter 4}"), nil, "K-0001,Bell,K,,\n", 1, "mint.missing"},
		"the same": {pedals + ",Axle,K,dark blue,\n,Axle,K,dark green,\n,Axle,K,grey,\n", sku("AX-{Colour letters upper first 3}") +
			"same = \"AX-{Colour letters upper}\"\n", nil, "AX-DAR,Axle,K,dark blue,\nAX-DARKGREEN,Axle,K,dark green,\nAX-GRE,Axle,K,grey,\n", 0, ""},
		"taken": {pedals + ",Axle,K,dark blue,\n,Axle,K,dark green,\n", sku("AX-{Colour letters upper first 3}"), nil,
			"AX-DAR,Axle,K,dark blue,\n", 1, "mint.taken"},
		"after the text steps": {pedals + ",  Bee&nbsp;&amp; KÃ¼che ,K,,\n", sku("{title slug}-{year}"), nil,
			"bee-kuche-2026,Bee & Küche,K,,\n", 0, ""},
		"what is made of codes": {pedals + ",Axle,K,,\n", sku("AX-{counter 3}") + "[[build]]\ninto = \"Label\"\nfrom = \"{sku}: {title}\"\n", nil,
			"AX-001,Axle,K,,,AX-001: Axle\n", 0, ""},
		"barcodes of a prefix": {pedals + "A,Axle,K,,9521234000013\nB,Bell,K,,\nC,Cap,K,,95212340004X\n", "[[mint]]\ninto = \"barcode\"\ncompany_prefix = \"9521234\"\nfirst_item = 7\n",
			nil, "A,Axle,K,,9521234000013\nB,Bell,K,,9521234000075\n", 1, "barcode.not-a-code"},
		"barcodes, where some are lost": {pedals + "A,Axle,K,,9.52E+12\nB,Bell,K,,\nC,Cap,K,,9521234000013\n",
			"[[mint]]\ninto = \"barcode\"\ncompany_prefix = \"9521234\"\n", nil, "C,Cap,K,,9521234000013\n", 2, "mint.lost"},
		"cartons in a column of their own": {"SKU,Title,EAN,Carton\nA,Axle,9521234000013,\nB,Bell,,\n", "[[mint]]\ninto = \"Carton\"\ncompany_prefix = \"9521234\"\n" +
			"as = \"gtin-14\"\nindicator = 1\nfirst_item = 7\n", nil, "A,Axle,9521234000013,19521234000072\nB,Bell,,19521234000089\n", 0, ""},
		"lost in another column": {"SKU,Title,EAN,GTIN\nA,Axle,9.52E+12,9521234000013\nB,Bell,,\n", "[[mint]]\ninto = \"GTIN\"\ncompany_prefix = \"9521234\"\n",
			nil, "", 2, "mint.lost"},
		"an SKU that is a barcode": {pedals + "9521234000013,Axle,K,,\nB,Bell,K,,\n9521234000020,Cap,K,,\n", "[[mint]]\ninto = \"barcode\"\nfrom = \"{sku}\"\n", nil,
			"9521234000013,Axle,K,,9521234000013\nB,Bell,K,,\n9521234000020,Cap,K,,9521234000020\n", 0, ""},
		"parents and their variants": {"Parent SKU,SKU,Title,Size,Slug\n,,Tee,S,tee\n,,,M,tee\n,,Cap,,cap\n",
			"[[mint]]\ninto = \"parent_sku\"\nfrom = \"T{counter 2}\"\n" + sku("{parent_sku}[-{Size}]") + "where = { slug = { is = \"tee\" } }\n", nil,
			"T01,T01-S,Tee,S,tee\nT01,T01-M,,M,tee\n,,Cap,,cap\n", 0, ""},
		"a link for each product": {"SKU,Slug,Title\nA,,Bee Veil\nB,bee-hat,Bee Hat\nC,,Bee veil!\nD,,Bee Hat\n",
			"[[mint]]\ninto = \"slug\"\nfrom = \"{title slug}[-{counter}]\"\n", nil,
			"A,bee-veil,Bee Veil\nB,bee-hat,Bee Hat\nC,bee-veil-2,Bee veil!\nD,bee-hat-2,Bee Hat\n", 0, ""},
		"copied rows, and the supplier's code in step": {"SKU,Title,MPN\nLR-009,Axle,HB-1x\nLR-009,Bell,HB-1x\nLR-009,Cap,HB-9x\nLR-010,Grip,\nLR-009,Axle,HB-1x\n",
			"[[mint]]\ninto = \"sku\"\nseries = true\nin_step = [\"mpn\"]\n", nil, "LR-009,Axle,HB-1x\nLR-011,Bell,HB-3x\nLR-012,Cap,HB-9x\nLR-010,Grip,\n", 0, ""},
		"copied variants, and rows without a code": {"Slug,SKU,Title,Size,Image\ns,T7,Tee,S,1.jpg\ns,T7,,M,\ns,T7,,,2.jpg\nu,,Cap,,\n",
			"[[mint]]\ninto = \"sku\"\nseries = true\n" + sku("T{counter}"), nil, "s,T7,Tee,S,1.jpg\ns,T8,,M,\ns,T7,,,2.jpg\nu,T9,Cap,,\n", 0, ""},
		"entries for one product are no copies": {pedals + "A1,Axle,K,,\nA1,Axle,L,,\nB1,Bell,K,,\nB1,Cap,K,,\nB1,Cap,L,,\n", "[[mint]]\ninto = \"sku\"\nseries = true\n", nil,
			"", 5, "sku.duplicate"},
		"a series that is full":   {pedals + "A98,Axle,K,,\nA99,Bell,K,,\nA99,Cap,K,,\n", "[[mint]]\ninto = \"sku\"\nseries = true\n", nil, "A98,Axle,K,,\nA99,Bell,K,,\nA100,Cap,K,,\n", 0, ""},
		"a code without a number": {pedals + "A,Axle,K,,\nA,Bell,K,,\nB,Cap,K,,\n", "[[mint]]\ninto = \"sku\"\nseries = true\n", nil, "B,Cap,K,,\n", 2, "mint.missing"},
		"in place of the supplier's": {"Supplier,Ref,Title\nH,7,Axle\nH,8,Bell\nI,7,Cap\n", sku("LR-{counter 2}") + "instead_of = \"Ref\"\n[headings]\nRef = \"mpn\"\n", nil,
			"H,Axle,LR-01\nH,Bell,LR-02\nI,Cap,LR-03\n", 0, ""},
		"codes replaced": {pedals + "old1,Axle,K,,\nold2,Bell,K,,\n", sku("KE-{counter 2}") + "over = true # replace\n", nil,
			"KE-01,Axle,K,,\nKE-02,Bell,K,,\n", 0, ""},
	} {
		r, ready, err := mints(t, test.text, test.rules, test.files, 2)
		require.NoError(t, err, name)
		_, rows, _ := strings.Cut(ready, "\n")
		assert.Equal(t, test.ready, rows, name)
		assert.Equal(t, test.held, r.Counts().Held, name)
		if test.found != "" {
			held, err := os.ReadFile(filepath.Join(r.Folder, "held.csv"))
			require.NoError(t, err)
			found := false
			for _, f := range r.Report.Found {
				found = found || f.Code.String() == test.found && f.Holds > 0
			}
			assert.True(t, found, "%s\n%s", name, held)
		}
		if strings.Contains(test.rules, "instead_of") {
			list, err := os.ReadFile(filepath.Join(r.Folder, sections.SupplierCodesName))
			require.NoError(t, err)
			assert.Equal(t, "SKU,Supplier,Ref,Title\nLR-01,H,7,Axle\nLR-02,H,8,Bell\nLR-03,I,7,Cap\n", string(list))
		}
		if strings.Contains(test.rules, "over = true") {
			list, err := os.ReadFile(filepath.Join(r.Folder, sections.RenewedName))
			require.NoError(t, err)
			assert.Equal(t, "Row,Old,New,Title,Colour\n2,old1,KE-01,Axle,\n3,old2,KE-02,Bell,\n", string(list))
			continue // a second run would be told that they are ours
		}
		_, again, err := mints(t, ready, test.rules, test.files, 1)
		require.NoError(t, err, name)
		assert.Equal(t, ready, again, name+", again")
	}
}

// TestMintRefuses: what cannot be enough, or is said only once, is an error before anything is written.
func TestMintRefuses(t *testing.T) {
	const list = "SKU,Title,Text,EAN\n,Axle,,\n,Bell,,\n,Cap,,\n"
	for rules, want := range map[string]string{
		"into = \"sku\"\nfrom = \"A{random digits 1}{check luhn}\"":            "",
		"into = \"sku\"\nfrom = \"{title first 1}{counter 1}\"":                "",
		"into = \"sku\"\nfrom = \"{title}\"\nover = true":                      "say it once more with the setting ‹replace-codes›",
		"into = \"barcode\"\ncompany_prefix = \"9521234\"":                     "first_item = 1",
		"into = \"barcode\"\ncompany_prefix = \"95212340000\"\nfirst_item = 8": "can be 9 codes, which are all there already or given to other rows, and one row more wants one",
		"into = \"barcode\"\nfrom = \"{title}\"":                               "barcodes are made of the company_prefix",
		"into = \"sku\"\nfrom = \"{sku}-1\"":                                   "built from itself",
		"into = \"sku\"\nfrom = \"{tilte}\"":                                   "did you mean \"Title\"",
		"into = \"price\"\nfrom = \"{title}\"":                                 "which has no codes",
		"into = \"sku\"\nfrom = \"{title}\"\navoid = [\"gone.csv\"]":           "gone.csv",
		"into = \"sku\"\nfrom = \"{title}\"\navoid = [\"shop\"]":               "[shop] names no export",
		"into = \"barcode\"\nseries = true":                                    "goes on with SKUs",
		"into = \"sku\"\nseries = true\nin_step = [\"barcode\"]":               "no rule makes up what",
		"into = \"sku\"\nfrom = \"A{counter}\"\ninstead_of = \"sku\"":          "say what that is: [headings]",
		"into = \"sku\"\nfrom = \"A{counter}\"\ninstead_of = \"barcode\"":      "the same whoever sells",
	} {
		_, _, err := mints(t, list, "[[mint]]\n"+rules+"\n", nil, 1)
		if want == "" {
			assert.NoError(t, err, rules)
			continue
		}
		assert.ErrorContains(t, err, want, rules)
	}
}

// TestMintedTheSame: whatever the order of the rows, the number of workers and the cut, the same product
// gets the same code; no two are read alike, and what was there stays.
func TestMintedTheSame(t *testing.T) {
	patterns := []string{"{Make upper first 1}-{counter 2}", "{random letters 2}{random digits 2}", "{title slug}[-{counter}]",
		"{Make first 1}{random digits 3}{check 37-2}", "[{Colour first 2}-]{counter 3}"}
	for seed := range uint64(some(40)) {
		r := rand.New(rand.NewPCG(seed, 18))
		var rows []string
		for i := range 60 {
			sku := ""
			if r.IntN(3) == 0 {
				sku = fmt.Sprintf("%c-%02d", "Kk1"[r.IntN(3)], i)
			}
			ean := ""
			if r.IntN(4) == 0 {
				code, err := barcode.Complete(fmt.Sprintf("9521234%05d", r.IntN(60)))
				require.NoError(t, err)
				ean = code.String()
			}
			rows = append(rows, fmt.Sprintf("%s,part %d,%s,%s,%s", sku, i/2*2+r.IntN(2), []string{"Kestrel", "Lark"}[r.IntN(2)],
				[]string{"", "red", "blue"}[r.IntN(3)], ean))
		}
		rules := "[[mint]]\ninto = \"sku\"\nfrom = \"" + patterns[r.IntN(len(patterns))] + "\"\n" +
			"[[mint]]\ninto = \"barcode\"\ncompany_prefix = \"9521234\"\nfirst_item = 60\nby = [\"title\", \"Colour\"]\n"
		const head = "SKU,Title,Make,Colour,EAN\n"
		first, ready, err := mints(t, head+strings.Join(rows, "\n")+"\n", rules, nil, 1)
		require.NoError(t, err)
		require.Greater(t, first.Counts().Ready, 5)
		want := strings.Split(strings.TrimSpace(ready), "\n")[1:]
		seen, codes := make(map[string]bool), make(map[string]bool)
		for _, row := range want {
			cells := strings.Split(row, ",")
			require.False(t, seen[mint.Fold(cells[0])], row)
			require.False(t, codes[cells[4]], row)
			seen[mint.Fold(cells[0])], codes[cells[4]] = true, true
		}
		slices.Sort(want)
		r.Shuffle(len(rows), func(i, j int) { rows[i], rows[j] = rows[j], rows[i] })
		for workers := range 3 {
			_, other, err := mints(t, head+strings.Join(rows, "\n")+"\n", rules, nil, 1<<workers)
			require.NoError(t, err)
			got := strings.Split(strings.TrimSpace(other), "\n")[1:]
			slices.Sort(got)
			require.Equal(t, want, got, rules)
		}
		_, again, err := mints(t, ready, rules, nil, 2)
		require.NoError(t, err)
		require.Equal(t, ready, again, rules)
	}
}

// TestSeries: rows that were copied get codes that nobody has, the same for any number of workers and any cut, and
// whatever was no copy stays as it was.
func TestSeries(t *testing.T) {
	given := 0
	for seed := range uint64(some(60)) {
		r := rand.New(rand.NewPCG(seed, 19))
		var list strings.Builder
		list.WriteString("SKU,Title,MPN\n")
		for i := range 40 {
			sku := fmt.Sprintf("%s%0*d", []string{"A-", "B", "a-"}[r.IntN(3)], r.IntN(4), 1+r.IntN(30))
			if r.IntN(9) == 0 {
				sku = ""
			}
			fmt.Fprintf(&list, "%s,part %d,M-%02d\n", sku, i-r.IntN(2), r.IntN(5))
		}
		rules := "[[mint]]\ninto = \"sku\"\nseries = true\nin_step = [\"MPN\"]\n"
		if r.IntN(2) == 0 {
			rules += "[[mint]]\ninto = \"sku\"\nfrom = \"A-{counter 2}\"\n"
		}
		first, ready, err := mints(t, list.String(), rules, nil, 1)
		require.NoError(t, err)
		given += first.Minted[0].Issued
		seen, before := make(map[string]string), make(map[string]bool)
		for line := range strings.Lines(list.String()) {
			before[mint.Fold(strings.Split(line, ",")[0])] = true
		}
		for line := range strings.Lines(ready) {
			cells := strings.Split(line, ",")
			if cells[0] == "" {
				continue // no rule is for it
			}
			require.Empty(t, seen[cells[0]], "%s\n%s", line, ready)
			seen[cells[0]] = line
			if strings.Contains(list.String(), line) {
				continue // it was there
			}
			require.False(t, before[mint.Fold(cells[0])], line)
		}
		for workers := range 3 {
			_, other, err := mints(t, list.String(), rules, nil, 1<<workers)
			require.NoError(t, err)
			require.Equal(t, ready, other)
		}
		_, again, err := mints(t, ready, rules, nil, 2)
		require.NoError(t, err)
		require.Equal(t, ready, again, rules)
	}
	require.Greater(t, given, some(150))
}

// TestLeaseLost: a run whose reservation has passed, because the machine slept, writes nothing, and what it had
// reserved is given to the next.
func TestLeaseLost(t *testing.T) {
	dir := t.TempDir()
	book, err := sections.Load(write(t, dir, rulebook.Name, "[register]\nat = \"codes.register\"\n[[mint]]\ninto = \"sku\"\nfrom = \"A{counter 3}\"\n"))
	require.NoError(t, err)
	path := write(t, dir, "list.csv", "SKU,Title\n,Axle\n,Bell\n")
	start := time.Date(2026, 5, 1, 8, 0, 0, 0, time.UTC)
	slept := false
	opt := Options{Input: path, Target: Target(path), Workers: 1, Book: *book, Date: "2026-05-01", Now: func() time.Time {
		if slept {
			return start.Add(2 * register.Lease)
		}
		return start
	}}
	opt.Review = func(string, *Result) error { // when all is written but the register
		slept = true
		return nil
	}
	_, err = Run(t.Context(), opt)
	require.ErrorIs(t, err, register.ErrLease)
	assert.NoDirExists(t, opt.Target)
	opt.Review = nil
	r, err := Run(t.Context(), opt)
	require.NoError(t, err)
	ready, err := os.ReadFile(filepath.Join(r.Folder, "ready.csv"))
	require.NoError(t, err)
	assert.Equal(t, "SKU,Title\nA001,Axle\nA002,Bell\n", string(ready))
	assert.Equal(t, &RegisterState{At: "codes.register", After: 1}, r.Register)
	opt.Target = ""
	r, err = Run(t.Context(), opt)
	require.NoError(t, err)
	assert.Equal(t, uint64(1), r.Register.After, "what is only looked at issues nothing")
	assert.Equal(t, 2, r.Minted[0].Known)
}

// TestPrefixInRegister: a register in which barcodes of a prefix have been issued says from which item on it is
// free; and a run that is taken up again goes by the same register.
func TestPrefixInRegister(t *testing.T) {
	dir := t.TempDir()
	at := filepath.Join(dir, "codes.register")
	run := func(name, list, rules string, with ...string) (*Result, error) {
		book, err := sections.Load(write(t, dir, rulebook.Name, "[[mint]]\ninto = \"barcode\"\ncompany_prefix = \"9521234\"\n"+rules))
		require.NoError(t, err)
		path := write(t, dir, name, list)
		return Run(t.Context(), Options{Input: path, Target: Target(path), Workers: 1, Book: *book, Register: at, Date: "2026-05-01"})
	}
	_, err := run("one.csv", "SKU,Title,EAN\nA,Axle,\n", "")
	require.ErrorContains(t, err, "first_item = 1")
	_, err = run("one.csv", "SKU,Title,EAN\nA,Axle,\nB,Bell,\n", "first_item = 1\n")
	require.NoError(t, err)
	r, err := run("two.csv", "SKU,Title,EAN\nC,Cap,\nA,Axle,\n", "")
	require.NoError(t, err)
	assert.Equal(t, "SKU,Title,EAN\nC,Cap,9521234000037\nA,Axle,9521234000013\n", read(t, filepath.Join(r.Folder, "ready.csv")))
	assert.Equal(t, [2]int{1, 1}, [2]int{r.Minted[0].Issued, r.Minted[0].Known})

	again, err := Resume(r.Folder)
	require.NoError(t, err)
	var opt Options
	again.Fill(&opt, "")
	assert.Equal(t, at, opt.Book.Register.At, "the register lies beside the source")
}
