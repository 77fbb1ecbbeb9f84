package photos

import (
	"encoding/csv"
	"encoding/json"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/folder"
)

// lines reads a table of testdata whose cells stand between marks.
func lines(t *testing.T, name string, mark rune) (rows [][]string) {
	data, err := os.ReadFile(filepath.Join("testdata", name))
	require.NoError(t, err)
	r := csv.NewReader(strings.NewReader(string(data)))
	r.Comma, r.LazyQuotes = mark, true
	rows, err = r.ReadAll()
	require.NoError(t, err)
	return rows[1:]
}

// assigned returns the files of products, which are lists of codes, in their order.
func assigned(f *Folder, products [][]string) (files [][]string, claims *Claims) {
	claims = new(Claims)
	for id, codes := range products {
		for _, code := range codes {
			f.Matches(code, func(m Match) { claims.Add(m.File, m.Fit, uint64(id), code) })
		}
	}
	for id, codes := range products {
		var own []Match
		for _, code := range codes {
			f.Matches(code, func(m Match) {
				if claims.Takes(m.File, m.Fit, uint64(id)) && !slices.ContainsFunc(own, func(o Match) bool { return o.File == m.File }) {
					own = append(own, m)
				}
			})
		}
		slices.SortFunc(own, f.Compare)
		paths := []string{}
		for _, m := range own {
			paths = append(paths, f.Files[m.File].Path)
		}
		files = append(files, paths)
	}
	return files, claims
}

// TestSet matches the files of a folder with products, a case that was made without looking at the code.
func TestSet(t *testing.T) {
	list, err := os.ReadFile("testdata/files.txt")
	require.NoError(t, err)
	f := New(strings.Split(strings.TrimSpace(string(list)), "\n"))
	var products [][]string
	at := make(map[string]int)
	for i, row := range lines(t, "products.csv", ',') {
		products, at[row[0]] = append(products, row[:4]), i
	}
	got, claims := assigned(f, products)
	right, all := 0, 0
	for _, row := range lines(t, "truth-products.tsv", '\t') {
		var want []string
		var also [][]string
		require.NoError(t, json.Unmarshal([]byte(strings.ReplaceAll(row[1], `""`, `"`)), &want))
		if len(row) > 3 && row[3] != "" {
			require.NoError(t, json.Unmarshal([]byte(row[3]), &also))
		}
		all++
		files := got[at[row[0]]]
		if slices.Equal(files, want) || slices.ContainsFunc(also, func(a []string) bool { return slices.Equal(a, files) }) {
			right++
		} else {
			t.Logf("%s has %q, and should have %q (%s)", row[0], files, want, row[2])
		}
	}
	for _, row := range lines(t, "truth-files.tsv", '\t') {
		verdict := "no-picture"
		if n := slices.IndexFunc(f.Files, func(file File) bool { return file.Path == row[0] }); n >= 0 {
			_, codes := claims.Best(n)
			verdict = []string{"none", "one", "two"}[len(codes)]
		}
		all++
		if verdict == row[1] || len(row) > 3 && row[3] == "any" {
			right++
		} else {
			t.Logf("%s is of %s, and should be of %s", row[0], verdict, row[1])
		}
	}
	t.Logf("%d of %d right", right, all)
	assert.GreaterOrEqual(t, right, 97*all/100)
}

func TestFits(t *testing.T) {
	for _, c := range []struct {
		files    string
		products [][]string
		want     string
	}{
		{"A-1.jpg A-1-2.jpg A-1 (3).jpg", [][]string{{"A-1"}, {"A"}}, "A-1.jpg A-1-2.jpg A-1 (3).jpg;"},
		{"a-1.jpg", [][]string{{"A-1"}, {"a-1"}}, ";a-1.jpg"},
		{"A1.jpg", [][]string{{"A 1"}, {"a1"}}, ";A1.jpg"},
		{"7.jpg", [][]string{{"007"}, {"07"}}, ";"},
		{"0.jpg", [][]string{{"000"}}, "0.jpg"},
		{"A-1/front.jpg A-1/2.jpg A-1/10.jpg B.jpg", [][]string{{"A-1"}, {"B"}}, "A-1/front.jpg A-1/2.jpg A-1/10.jpg;B.jpg"},
		{"A-1/B.jpg", [][]string{{"A-1"}, {"B"}}, ";A-1/B.jpg"}, // its own name says more
		{"A-2024.jpg", [][]string{{"A"}}, ""},                   // no number of a picture
		{"A.pdf A.jpg.bak", [][]string{{"A"}}, ""},
	} {
		paths := strings.Split(strings.ReplaceAll(c.files, " (", "\x00("), " ")
		for i := range paths {
			paths[i] = strings.ReplaceAll(paths[i], "\x00", " ")
		}
		got, _ := assigned(New(paths), c.products)
		var said []string
		for _, files := range got {
			said = append(said, strings.Join(files, " "))
		}
		assert.Equal(t, c.want, strings.Join(said, ";"), c.files)
	}
}

// TestOpen: what is in a folder is read, and nothing outside of it.
func TestOpen(t *testing.T) {
	dir := t.TempDir()
	outside := filepath.Join(t.TempDir(), "secret.jpg")
	require.NoError(t, os.WriteFile(outside, []byte("x"), 0o666))
	jpeg, err := os.ReadFile("../picture/testdata/rgb.jpg")
	require.NoError(t, err)
	require.NoError(t, os.MkdirAll(filepath.Join(dir, "below", ".hidden"), 0o777))
	require.NoError(t, os.Mkdir(filepath.Join(dir, "list.repaired"), 0o777))
	require.NoError(t, os.WriteFile(filepath.Join(dir, "list.repaired", folder.ManifestName), []byte(`{"program": "zetanum"}`), 0o666))
	for _, name := range []string{"A.jpg", "below/B.jpg", "below/.hidden/C.jpg", "D.jpg", "list.repaired/A.jpg"} {
		require.NoError(t, os.WriteFile(filepath.Join(dir, filepath.FromSlash(name)), jpeg, 0o666))
	}
	require.NoError(t, os.WriteFile(filepath.Join(dir, "E.jpg"), []byte("no picture"), 0o666))
	if err := os.Symlink(outside, filepath.Join(dir, "F.jpg")); err != nil {
		t.Log("no links here:", err)
	}
	f, err := Open(dir)
	require.NoError(t, err)
	defer f.Close()
	var paths []string
	for _, file := range f.Files {
		paths = append(paths, file.Path)
	}
	assert.Equal(t, []string{"A.jpg", "D.jpg", "E.jpg", "below/B.jpg"}, paths)
	info, err := f.Look(0)
	require.NoError(t, err)
	assert.Equal(t, 30, info.Width)
	_, err = f.Look(2)
	assert.Error(t, err)
	assert.Equal(t, []int{3, 1}, []int{f.Same(0), f.Same(2)})
	_, err = Open(filepath.Join(dir, "none"))
	assert.ErrorIs(t, err, os.ErrNotExist)
}

// TestClaims: who fits a file best does not depend on the order in which products are seen.
func TestClaims(t *testing.T) {
	f := New([]string{"A-1.jpg", "a-1-2.jpg", "B.jpg"})
	products := []string{"A-1", "a-1", "B", "A", "b", "A-1"}
	add := func(c *Claims, ids ...int) *Claims {
		for _, id := range ids {
			f.Matches(products[id], func(m Match) { c.Add(m.File, m.Fit, uint64(id), products[id]) })
		}
		return c
	}
	whole, err := add(new(Claims), 0, 1, 2, 3, 4, 5).AppendBinary(nil)
	require.NoError(t, err)
	for cut := range len(products) {
		ids := []int{0, 1, 2, 3, 4, 5}
		c := add(new(Claims), ids[:cut]...)
		c.Merge(add(new(Claims), ids[cut:]...))
		parts, err := c.AppendBinary(nil)
		require.NoError(t, err)
		assert.Equal(t, whole, parts)
	}
}

func BenchmarkMatches(b *testing.B) {
	var paths []string
	for i := range 20000 {
		paths = append(paths, "HV-"+strings.Repeat("0", i%3)+string(rune('0'+i%10))+"-"+strings.Repeat("1", 1+i%2)+".jpg")
	}
	f := New(paths)
	for b.Loop() {
		f.Matches("HV-2041", func(Match) {})
	}
}
