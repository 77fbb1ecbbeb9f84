package mint

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/barcode"
	"zetanum/core/catalogue"
	"zetanum/core/pattern"
)

// drafts returns a pattern and what drafts the code of a product with that title.
func drafts(t testing.TB, text string) (*pattern.Pattern, func(title string) pattern.Draft) {
	t.Helper()
	p, err := pattern.ParseCode(text)
	require.NoError(t, err, text)
	p.Bind(func(string) int { return 0 }, func(int) bool { return false })
	p.In("2026")
	return p, func(title string) pattern.Draft {
		d, missing := p.Draft(&catalogue.Row{Cells: []string{title}})
		require.Empty(t, missing, title)
		return d
	}
}

// TestIssue: codes go on where those that are there end, and none is read like another.
func TestIssue(t *testing.T) {
	for _, test := range []struct{ pattern, taken, titles, want string }{
		{"{title upper first 2}-{counter 4}", "", "hive hut jar", "HI-0001 HU-0001 JA-0001"},
		{"{title upper first 1}-{counter 4}", "H-0007 h-0003 J-99", "hive hut jar", "H-0008 H-0009 J-0001"},
		{"{title upper first 1}-{counter 1}", "H-9 H-2 H-4", "hive hut hat", "H-1 H-3 H-5"},
		{"{title upper first 1}{counter 1}", "H9 H1 H2 H3 H4 H5 H6 H7 h8", "hive", "all codes that the pattern"},
		{"{title upper first 2}{counter 2}{check 37-2}", "CO417 C0039", "coat", "CO424"},
		{"{title upper}", "HAT", "hut hat hut", "HUT there is such there is such"},
		{"{title upper}", "h0t", "HOT", "there is such"},
		{"{title upper}", "НАТ", "hat", "there is such"}, // Cyrillic
		{"{title slug}[-{counter}]", "jar jar-4", "jar jar hut hut", "jar-5 jar-6 hut hut-2"},
		{"{title upper first 2}-{counter}-x", "HU-12-x HU-7-y", "hut", "HU-13-x"},
		{"{counter 3}-{title slug}", "041-old", "hut jar", "042-hut 043-jar"},
		{"{year last 2}{counter 3}{check luhn}", "", "hut", "260018"},
		{"{title}{check luhn}", "", "hut", "no check character"},
	} {
		p, draft := drafts(t, test.pattern)
		taken := NewTaken(ShapeOf(p, AsRead))
		for _, code := range strings.Fields(test.taken) {
			taken.Add(code)
		}
		issuer := NewIssuer(taken, 0)
		var codes []string
		for _, title := range strings.Fields(test.titles) {
			code, err := issuer.Issue(draft(title), hash(title))
			if err != nil {
				code = strings.Join(strings.Fields(err.Error())[:3], " ")
				if strings.HasPrefix(err.Error(), "all") {
					code = "all codes that the pattern"
				}
			}
			codes = append(codes, code)
		}
		assert.Equal(t, test.want, strings.Join(codes, " "), test.pattern)
	}
}

// TestBarcodesOfAPrefix: items go on where those of the prefix end, cartons of them counted.
func TestBarcodesOfAPrefix(t *testing.T) {
	for _, test := range []struct{ pattern, taken, want string }{
		{"9521234{counter 5}{check gtin}", "", "9521234000013"},
		{"9521234{counter 5}{check gtin}", "9521234000415 952123400099X 19521234000529", "9521234000532"},
		{"19521234{counter 5}{check gtin}", "9521234000415", "19521234000423"},
		{"200123{counter 5}{check gtin}", "0200123000078", "200123000080"},
		{"952{counter 4}{check gtin}", "95200037 9520000000003", "95200040"},
	} {
		p, draft := drafts(t, test.pattern)
		taken := NewTaken(ShapeOf(p, AsItems))
		for _, code := range strings.Fields(test.taken) {
			taken.Add(code)
		}
		code, err := NewIssuer(taken, 0).Issue(draft(""), 0)
		require.NoError(t, err)
		assert.Equal(t, test.want, code, test.pattern)
		_, err = barcode.Parse(code)
		assert.NoError(t, err, "its check digit fits")
	}
}

// TestCheckCharacters: by the examples of the standards and others that are published, and every slip
// of one digit and every exchange of neighbours is found that the kind promises to find.
func TestCheckCharacters(t *testing.T) {
	for _, test := range []struct {
		kind pattern.OpenKind
		over string
		want string
	}{
		{pattern.Check372, "G123498654321", "H"},
		{pattern.Check372, "G1234-98 654321", "H"},
		{pattern.Check1110, "0794", "5"},
		{pattern.CheckLuhn, "7992739871", "3"},
		{pattern.CheckGTIN, "952123400001", "3"},
	} {
		c, err := CheckCharacter(test.kind, test.over)
		require.NoError(t, err)
		assert.Equal(t, test.want, string(c), test.over)
	}
	for _, over := range []string{"", "--", "ab", "12é"} {
		_, err := CheckCharacter(pattern.Check1110, over)
		assert.ErrorIs(t, err, ErrCheck, over)
	}
	r := rand.New(rand.NewPCG(1, 2))
	for range 2000 {
		code := fmt.Sprintf("%08d", r.IntN(1e8))
		for _, kind := range []pattern.OpenKind{pattern.Check372, pattern.Check1110} {
			right, _ := CheckCharacter(kind, code)
			i := r.IntN(7)
			slip, swap := []byte(code), []byte(code)
			slip[i] = '0' + (slip[i]-'0'+byte(1+r.IntN(9)))%10
			swap[i], swap[i+1] = swap[i+1], swap[i]
			c, _ := CheckCharacter(kind, string(slip))
			assert.NotEqual(t, right, c, "%s %s", code, slip)
			if c, _ = CheckCharacter(kind, string(swap)); swap[i] != swap[i+1] && kind == pattern.Check372 {
				assert.NotEqual(t, right, c, "%s %s", code, swap)
			}
		}
	}
}

// TestUnique: whatever patterns and whatever is there, no two codes are read alike, and the same
// comes out for the same.
func TestUnique(t *testing.T) {
	patterns := []string{"{title upper first 1}-{counter 3}", "{random letters 2}{random digits 1}", "{title slug}[-{counter}]",
		"{title first 1}{random digits 3}{check 37-2}", "{counter}{title first 2}", "[{title first 2}-]{random letters 3}[x{counter 2}]"}
	for seed := range uint64(60) {
		r := rand.New(rand.NewPCG(seed, 5))
		p, draft := drafts(t, patterns[r.IntN(len(patterns))])
		shape := ShapeOf(p, AsRead)
		some := func() string { return string("OoIl10ABab"[r.IntN(10)]) + string("OoIl10ABab"[r.IntN(10)]) }
		taken, parts := NewTaken(shape), []*Taken{NewTaken(shape), NewTaken(shape)}
		seen := make(map[string]bool)
		for i := range 200 {
			code := some() + "-" + fmt.Sprint(r.IntN(30))
			seen[Fold(code)] = true
			taken.Add(code)
			parts[i/100].Add(code)
		}
		parts[0].Merge(parts[1])
		issuers := [2]*Issuer{NewIssuer(taken, 0), NewIssuer(parts[0], 0)}
		for i := range 300 {
			title := some()
			code, err := issuers[0].Issue(draft(title), uint64(i))
			again, failed := issuers[1].Issue(draft(title), uint64(i))
			require.Equal(t, code, again)
			require.Equal(t, err, failed)
			if err == nil {
				require.False(t, seen[Fold(code)], "%s of %s", code, p)
				seen[Fold(code)] = true
			}
		}
	}
}

// TestCapacity: how many codes there can be.
func TestCapacity(t *testing.T) {
	for text, want := range map[string]uint64{
		"{title}": 1, "{title}-{counter 3}": 999, "{random digits 2}{random letters 1}": 64 * 19, "{title}[-{counter 1}]": 10,
		"{counter}": math.MaxUint64, "{random letters 18}": math.MaxUint64, "{title}[-{counter}]": math.MaxUint64,
	} {
		_, draft := drafts(t, text)
		assert.Equal(t, want, Capacity(draft("hut")), text)
	}
}

func BenchmarkIssue(b *testing.B) {
	p, draft := drafts(b, "{title upper first 2}-{counter 7}{check 37-2}")
	issuer, d := NewIssuer(NewTaken(ShapeOf(p, AsRead)), 0), draft("hive tool")
	b.ReportAllocs()
	for n := range b.N {
		if _, err := issuer.Issue(d, uint64(n)); err != nil {
			b.Fatal(err)
		}
	}
}

// TestPropose: a pattern goes on in the form that codes have, if they have one.
func TestPropose(t *testing.T) {
	columns := catalogue.Columns{Headings: []string{"SKU", "Title", "Group", "Colour"},
		Fields: []catalogue.Field{catalogue.SKU, catalogue.Title, catalogue.Category, catalogue.Colour}}
	for _, test := range []struct{ codes, want string }{
		{"BK-0012 BK-0013 BK-0017", "BK-{counter 4}"},
		{"P[1]-07 P[1]-08 P[1]-99", "P[[1]]-{counter 2}"},
		{"LR-SOA-001 LR-SKI-002 LR-SKI-003", "LR-{category ascii letters upper first 3}-{counter 3}"},
		{"SOA1 SKI2 SKI3", "{category ascii letters upper first 3}{counter 1}"},
		{"RED.01 BLU.02 RED.03", "{colour ascii letters upper first 3}.{counter 2}"},
		{"a1 b2 c3", ""}, {"BK-1 BK-22 BK-333", ""}, {"BK-1 BK-2", ""}, {"x y z BK-1 BK-2 BK-3 w", ""}, {"", ""},
	} {
		var rows [][]string
		for i, code := range strings.Split(test.codes, " ") {
			rows = append(rows, []string{code, "Thing", []string{"Soap", "Skin care", "Skin"}[i%3], []string{"red", "Blue", "red"}[i%3]})
		}
		got := ""
		for _, p := range Propose(&columns, []int{3}, append(rows, []string{"", "Other", "Soap", ""})) {
			_, err := pattern.ParseCode(p.From)
			assert.NoError(t, err)
			if strings.HasPrefix(p.Says, "as ") {
				got = p.From
			}
		}
		assert.Equal(t, test.want, got, test.codes)
	}
}

// TestFold: codes are the same that people read as the same, character for character, and others are not.
func TestFold(t *testing.T) {
	for code, want := range map[string]string{
		"LR-SOA-001": "1R-50A-001", "lr-soa-oo1": "1R-50A-001", "АВС-1": "ABC-1", "ＡＢ－１２": "AB-12", "il|I": "1111", "ÄÖ-é": "ÄÖ-É", "": "", "98-76": "98-76",
	} {
		want = strings.ReplaceAll(want, "5", "S") // an S is none of the digits
		assert.Equal(t, want, Fold(code), code)
		assert.Equal(t, Fold(code), Fold(Fold(code)), code)
		assert.Equal(t, len([]rune(code)), len([]rune(Fold(code))), code)
	}
	assert.Equal(t, HashIn("sku", "lr-o1"), HashIn("sku", "LR-01"))
	assert.Equal(t, HashIn("barcode", "9521234000013"), HashIn("barcode", "19521234000010"), "a carton of it")
	assert.NotEqual(t, HashIn("barcode", "9521234000013"), HashIn("barcode", "9521234000020"))
}

// TestRules: what is wrong with a rule is said with its key, and where its barcodes come from with its digits.
func TestRules(t *testing.T) {
	for _, test := range []struct {
		rule      Rule
		key, says string
	}{
		{Rule{From: "x"}, "into", "names the column"},
		{Rule{Into: "sku"}, "from", "of what the codes are made"},
		{Rule{Into: "sku", From: "x", CompanyPrefix: "9521234"}, "from", "only one of"},
		{Rule{Into: "sku", From: "{x"}, "from", "is not closed"},
		{Rule{Into: "sku", From: "x", Same: "{counter 99}"}, "same", "from 1 to 18"},
		{Rule{Into: "sku", From: "x", FirstItem: 3}, "first_item", "goes with company_prefix"},
		{Rule{Into: "barcode", CompanyPrefix: "2012"}, "company_prefix", "not given to companies"},
		{Rule{Into: "barcode", CompanyPrefix: "9781234"}, "company_prefix", "a book"},
		{Rule{Into: "barcode", CompanyPrefix: "952"}, "company_prefix", "from 4 to 11 digits"},
		{Rule{Into: "barcode", CompanyPrefix: "95x1"}, "company_prefix", "nothing but digits"},
		{Rule{Into: "barcode", CompanyPrefix: "9521234", As: "ean-14"}, "as", "gtin-14"},
		{Rule{Into: "barcode", CompanyPrefix: "9521234", As: "gtin-14"}, "indicator", "from 1 to 8"},
		{Rule{Into: "barcode", CompanyPrefix: "9521234", Indicator: 1}, "indicator", "goes with as"},
		{Rule{Into: "barcode", CompanyPrefix: "9521234", FirstItem: 100_000}, "first_item", "below 100,000"},
		{Rule{Into: "barcode", ShopPrefix: "9521234"}, "shop_prefix", "begin with 20 to 29"},
	} {
		problems := test.rule.Check()
		require.Len(t, problems, 1, "%+v", test.rule)
		assert.Equal(t, test.key, problems[0].Key, "%+v", test.rule)
		assert.Contains(t, problems[0].Text, test.says)
	}
	for _, rule := range []Rule{{Into: "sku", From: "{x}"}, {Into: "barcode", CompanyPrefix: "952123", As: "upc-a"}, {Into: "barcode", ShopPrefix: "21"},
		{Into: "x", CompanyPrefix: "9521234", As: "gtin-14", Indicator: 3}, {Into: "barcode", CompanyPrefix: "952", As: "ean-8", FirstItem: 9_999}} {
		assert.Empty(t, rule.Check(), "%+v", rule)
		_, _, err := rule.Patterns()
		assert.NoError(t, err)
	}
}

// TestSet: a set has what was added, and nothing else, however it grows.
func TestSet(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	s, want := newSet(0), make(map[uint64]bool)
	for range 20_000 {
		h := r.Uint64() % 15_000 << (8 * r.IntN(2))
		require.Equal(t, !want[h], s.add(h), h)
		want[h] = true
	}
}
