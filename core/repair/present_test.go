package repair

import (
	"encoding/csv"
	"fmt"
	"maps"
	"math/rand/v2"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/sections"
	"zetanum/core/target"
)

// TestPresent: what the shop has says which rows are new, which numbers they get, and into which files they go.
func TestPresent(t *testing.T) {
	t.Parallel()
	const shop = "Shop no.,SKU,Slug,Name,Price,Barcode,Image\n" +
		"9001,A-1,oak-bowl,Oak bowl,12.50,9521234000013,a.jpg\n,,oak-bowl,,,,a2.jpg\n" +
		"9002,A-2,elm-bowl,Elm bowl,14.00,9521234000020,b.jpg\n9003,A-3,ash-bowl,Ash bowl,16.00,9521234000037,c.jpg\n9004,A-9,fir-bowl,Fir bowl,16.00,9521234000044,d.jpg\n"
	const list = "SKU,Slug,Name,Price,Barcode,Image\n" +
		"A-1,oak-bowl,Oak  bowl,12.5,9521234000013,a.jpg\n,oak-bowl,,,,a2.jpg\n" + // as it is
		"A-2,elm-bowl,Elm bowl,15.00,9521234000020,b.jpg\n" + // another price
		"N-3,ash-dish,Ash bowl,16.00,9521234000037,c.jpg\n" + // known by its barcode
		"N-4,yew-bowl,Yew bowl,11.00,9521234000051,e.jpg\n" + // new
		"N-9,fir-bowl-2,Fir bowl,16.00,9521234000044,d.jpg\nA-9,fir-bowl,Fir bowl,16.00,,d.jpg\n" // two that are one
	known := sections.Shop{KnownBy: []string{"sku", "barcode"}, ID: "Shop no."}
	for name, test := range map[string]struct {
		shop   sections.Shop
		target target.Rules
		files  map[string]string
		held   int
	}{
		"both": {known, target.Rules{Split: "new-existing", Action: target.Action{Column: "Do", New: "make", Existing: "change"}}, map[string]string{
			"ready-new.csv": "SKU,Slug,Name,Price,Barcode,Image,Shop no.,Do\nN-4,yew-bowl,Yew bowl,11.00,9521234000051,e.jpg,,make\n",
			"ready-existing.csv": "SKU,Slug,Name,Price,Barcode,Image,Shop no.,Do\nA-1,oak-bowl,Oak bowl,12.5,9521234000013,a.jpg,9001,change\n,oak-bowl,,,,a2.jpg,,change\n" +
				"A-2,elm-bowl,Elm bowl,15.00,9521234000020,b.jpg,9002,change\nN-3,ash-dish,Ash bowl,16.00,9521234000037,c.jpg,9003,change\n",
		}, 2},
		"by SKU alone": {sections.Shop{}, target.Rules{Job: "new"}, map[string]string{
			"ready.csv": "SKU,Slug,Name,Price,Barcode,Image\nN-3,ash-dish,Ash bowl,16.00,9521234000037,c.jpg\nN-4,yew-bowl,Yew bowl,11.00,9521234000051,e.jpg\n" +
				"N-9,fir-bowl-2,Fir bowl,16.00,9521234000044,d.jpg\n",
		}, 0},
		"what changes": {known, target.Rules{Job: "update", OnlyChanged: true}, map[string]string{
			"ready.csv": "SKU,Slug,Price,Barcode,Shop no.\nA-2,elm-bowl,15.00,9521234000020,9002\nN-3,ash-dish,16.00,9521234000037,9003\n",
		}, 1},
		"what changes, and all that is new": {sections.Shop{}, target.Rules{OnlyChanged: true}, map[string]string{
			"ready.csv": "SKU,Slug,Name,Price,Barcode,Image\nA-2,elm-bowl,Elm bowl,15.00,9521234000020,b.jpg\nN-3,ash-dish,Ash bowl,16.00,9521234000037,c.jpg\n" +
				"N-4,yew-bowl,Yew bowl,11.00,9521234000051,e.jpg\nN-9,fir-bowl-2,Fir bowl,16.00,9521234000044,d.jpg\n",
		}, 0},
		"what changes in some columns": {known, target.Rules{Job: "update", OnlyChanged: true, Compare: []string{"price"}}, map[string]string{
			"ready.csv": "SKU,Slug,Price,Barcode,Shop no.\nA-2,elm-bowl,15.00,9521234000020,9002\n",
		}, 0},
		"where blanks clear": {sections.Shop{}, target.Rules{Job: "update", OnlyChanged: true, Blank: "clears"}, map[string]string{
			"ready.csv": "SKU,Slug,Price,Barcode\nA-2,elm-bowl,15.00,9521234000020\nA-9,fir-bowl,16.00,\n",
		}, 0},
		"by a column": {sections.Shop{}, target.Rules{By: "price", Limits: target.Limits{Rows: 2}}, map[string]string{
			"ready-12-5.csv":    "SKU,Slug,Name,Price,Barcode,Image\nA-1,oak-bowl,Oak bowl,12.5,9521234000013,a.jpg\n,oak-bowl,,,,a2.jpg\n",
			"ready-16-00-2.csv": "SKU,Slug,Name,Price,Barcode,Image\nA-9,fir-bowl,Fir bowl,16.00,,d.jpg\n",
		}, 0},
	} {
		dir := t.TempDir()
		opt := fixed(write(t, dir, "list.csv", list), filepath.Join(dir, "out"))
		test.shop.Export = write(t, dir, "shop.csv", shop)
		opt.Book = sections.Book{Shop: test.shop, Target: test.target}
		r := run(t, opt)
		assert.Equal(t, test.held, r.Counts().Held, name)
		files := contents(t, r.Folder)
		for file, content := range test.files {
			assert.Equal(t, content, files[file], "%s: %s", name, file)
		}
	}

	dir := t.TempDir()
	opt := fixed(write(t, dir, "shop.csv", strings.ReplaceAll(shop, "Oak bowl", "Oak  bowl")), filepath.Join(dir, "out"))
	opt.Book = sections.Book{Shop: sections.Shop{Export: "self"}, Target: target.Rules{Job: "update", OnlyChanged: true}}
	r := run(t, opt)
	assert.Equal(t, "SKU,Slug,Name\nA-1,oak-bowl,Oak bowl\n", ready(t, r), "its own export")
	opt.Input, opt.Target = filepath.Join(r.Folder, "ready.csv"), filepath.Join(dir, "again")
	_, err := Run(t.Context(), opt)
	assert.ErrorIs(t, err, sections.ErrOnce)
}

// anyPresent makes what a shop has, and a list of products of which it has some.
func anyPresent(r *rand.Rand) (shop, list string) {
	var have, sent strings.Builder
	have.WriteString("Number,SKU,Slug,Title,Price,Weight,Tags,Barcode,Image\n")
	sent.WriteString("SKU,Slug,Title,Price,Weight,Tags,Barcode,Image\n")
	code := func(n int) string {
		body := fmt.Sprintf("952123%06d", n)
		sum := 0
		for i, d := range body {
			sum += int(d-'0') * (1 + 2*(i%2))
		}
		return body + strconv.Itoa((10-sum%10)%10)
	}
	pick := func(list ...string) string { return list[r.IntN(len(list))] }
	for p := range 2 + r.IntN(14) {
		slug := fmt.Sprintf("p-%d", p)
		in, out := r.IntN(4) > 0, r.IntN(4) > 0
		for v := range 1 + r.IntN(3) {
			sku, title := fmt.Sprintf("S%d-%d", p, v), ""
			if v == 0 {
				title = "Item " + strconv.Itoa(p)
			}
			price, tags, ean := fmt.Sprintf("%d.%d0", 1+r.IntN(30), r.IntN(10)), pick("", "a, b", "b, a", "c"), pick("", code(10*p+v))
			if in && (v == 0 || r.IntN(5) > 0) {
				fmt.Fprintf(&have, "%d,%s,%s,%s,%s,%s,\"%s\",%s,%s.jpg\n", 100*p+v, sku, slug, title, price, pick("", "1", "2"), tags, ean, sku)
			}
			if out && (v == 0 || r.IntN(5) > 0) {
				if r.IntN(3) == 0 {
					price = fmt.Sprintf("%d.%d", 1+r.IntN(30), r.IntN(10))
				}
				if r.IntN(12) == 0 {
					ean = code(10*r.IntN(p+1) + r.IntN(3)) // perhaps that of another
				}
				fmt.Fprintf(&sent, "%s,%s,%s,%s,%s,\"%s\",%s,%s.jpg\n", pick(sku, sku, sku, "X"+sku), slug, pick(title, title, title+" "), strings.TrimSuffix(price, "0"), pick("", "1", "2"),
					pick(tags, tags, "b, a"), ean, sku)
			}
		}
		for k := range r.IntN(3) {
			if in && r.IntN(3) > 0 {
				fmt.Fprintf(&have, ",,%s,,,,,,more-%d-%d.jpg\n", slug, p, k)
			}
			if out && r.IntN(3) > 0 {
				fmt.Fprintf(&sent, ",%s,,,,,,more-%d-%d.jpg\n", slug, p, k)
			}
		}
	}
	return have.String(), sent.String()
}

// imported plays an import into what a shop has: what is filled is taken, by its own number or else the SKU, and pictures by product.
func imported(t *testing.T, state map[string]map[string]string, text string) map[string]map[string]string {
	rows, err := csv.NewReader(strings.NewReader(text)).ReadAll()
	require.NoError(t, err)
	at := func(row []string, name string) string {
		if n := slices.Index(rows[0], name); n >= 0 {
			return row[n]
		}
		return ""
	}
	next := make(map[string]map[string]string)
	for key, cells := range state {
		next[key] = maps.Clone(cells)
	}
	for _, row := range rows[1:] {
		key := at(row, "SKU")
		if key == "" {
			if image := at(row, "Image"); image != "" {
				next[at(row, "Slug")+"/"+image] = map[string]string{}
			}
			continue
		}
		for other, cells := range next {
			if cells["Number"] != "" && cells["Number"] == at(row, "Number") {
				key = other
			}
		}
		if next[key] == nil {
			next[key] = make(map[string]string)
		}
		for n, cell := range row {
			switch name := rows[0][n]; {
			case cell == "":
			case name == "Price":
				f, err := strconv.ParseFloat(cell, 64)
				require.NoError(t, err)
				next[key][name] = fmt.Sprint(f)
			case name == "Tags":
				tags := strings.Split(cell, ", ")
				slices.Sort(tags)
				next[key][name] = strings.Join(tags, ", ")
			default:
				next[key][name] = strings.TrimSpace(cell)
			}
		}
	}
	return next
}

// TestAnyPresent: importing only what changes makes of the shop what importing all would; new and existing products together are all of them, and
// of the new ones the shop has none; repaired again what goes out is the same, and however the file is cut.
func TestAnyPresent(t *testing.T) {
	t.Parallel()
	sent, changed := 0, 0
	for seed := range uint64(some(120)) {
		r := rand.New(rand.NewPCG(seed, 2324))
		shop, list := anyPresent(r)
		dir := t.TempDir()
		opt := fixed(write(t, dir, "list.csv", list), filepath.Join(dir, "out"))
		inShop := sections.Shop{Export: write(t, dir, "shop.csv", shop), ID: "Number"}
		if seed%2 == 0 {
			inShop.KnownBy = []string{"sku", "barcode"}
		}
		with := func(name string, rules target.Rules) (*Result, string) {
			o := opt
			o.Target, o.Book = filepath.Join(dir, name), sections.Book{Shop: inShop, Target: rules}
			got := run(t, o)
			c := got.Counts()
			require.Equal(t, c.Read, c.Ready+c.Held+c.Aside, seed)
			return got, ready(t, got)
		}
		all, whole := with("all", target.Rules{Split: "new-existing"})
		state := imported(t, nil, shop)
		after := imported(t, state, whole)
		for _, job := range []string{"", "update"} {
			some, part := with("changed"+job, target.Rules{Job: job, OnlyChanged: true})
			base := state
			if job == "update" {
				created := contents(t, all.Folder)["ready-new.csv"]
				if created == "" {
					created = "SKU\n"
				}
				base = imported(t, state, created)
			}
			require.Equal(t, after, imported(t, base, part), "%d %s\n%s\n%s\n%s", seed, job, shop, list, part)
			changed, sent = changed+some.Counts().Ready, sent+all.Counts().Ready
			again := opt
			again.Input, again.Target, again.Book = filepath.Join(some.Folder, "ready.csv"), filepath.Join(dir, "twice"+job), sections.Book{Shop: inShop, Target: target.Rules{Job: job, OnlyChanged: true}}
			require.Equal(t, part, ready(t, run(t, again)), "%d %s\n%s\n%s", seed, job, shop, list)
			other := again
			other.Input, other.Target, other.Workers, other.PartSize = opt.Input, filepath.Join(dir, "cut"+job), 5, 100
			require.Equal(t, part, ready(t, run(t, other)), seed)
		}
		var parts []string
		for _, name := range []string{"ready-new.csv", "ready-existing.csv"} {
			text := contents(t, all.Folder)[name]
			if text == "" {
				continue
			}
			head, rows, _ := strings.Cut(text, "\n")
			require.Equal(t, head, whole[:len(head)])
			parts = append(parts, strings.SplitAfter(rows, "\n")...)
			if name == "ready-new.csv" {
				for _, row := range strings.SplitAfter(rows, "\n") {
					require.False(t, strings.Contains(shop, ","+strings.SplitN(row, ",", 2)[0]+",") && !strings.HasPrefix(row, ",") && row != "", "%d: %s", seed, row)
				}
			}
		}
		_, rows, _ := strings.Cut(whole, "\n")
		require.ElementsMatch(t, slices.DeleteFunc(strings.SplitAfter(rows, "\n"), empty), slices.DeleteFunc(parts, empty), seed)
		_, created := with("new", target.Rules{Job: "new"})
		_, updated := with("update", target.Rules{Job: "update"})
		files := contents(t, all.Folder)
		for name, text := range map[string]string{"ready-new.csv": created, "ready-existing.csv": updated} {
			require.True(t, files[name] == text || files[name] == "" && strings.Count(text, "\n") == 1, "%d %s", seed, name)
		}
	}
	t.Logf("%d of %d rows go out where only changes do", changed, sent)
	assert.Less(t, changed, sent)
}

func empty(s string) bool { return s == "" }
