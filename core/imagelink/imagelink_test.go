package imagelink

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
)

// What is not certain stays, and is called by its name.
func TestNotRepaired(t *testing.T) {
	for _, c := range []struct {
		cell string
		is   What
	}{
		{"https://cdn.shop.example/a.jpg – from the front", Unclear}, // a note behind it
		{"https://cdn.shop.example/a.jpg (front)", Unclear},
		{"https://cdn.shop.example/img/12 see also", Unclear},
		{"https://cdn.shop.example/get?v=2 front", Unclear},
		{"Photo: https://cdn.shop.example/a.jpg", Unclear},
		{"Photo:https://cdn.shop.example/a.jpg", Unclear},
		{`<img src="https://cdn.shop.example/a.jpg">`, Unclear},
		{"https://cdn.shop.example/ img/a.jpg", Unclear},
		{"https://cdn .shop.example/a.jpg", Unclear},
		{"https://cdn.shop.example/Picture #2.jpg", Unclear},
		{"https://cdn.shop.example/what?.jpg", Unclear},
		{"https://cdn.shop.example/M%E4rz grün.jpg", Unclear}, // Latin-1 and UTF-8
		{"https://cdn.shop.example/a\uFFFDb.jpg", Unclear},
		{"https://cdn.shop.example/very-\nlong.jpg", Unclear},
		{"http://www.https://cdn.shop.example/a.jpg", Unclear},
		{"https://:8080/a.jpg", Unclear},
		{"https://cdn.shop.example:port/a.jpg", Unclear},
		{"1. https://cdn.shop.example/a.jpg 2. https://cdn.shop.example/b.jpg", Unclear},
		{"https://cdn.shop.example/a|b.jpg", Unclear}, // one, or an address and a name
		{"//nas/photos/a.jpg", Share},
		{"photos.old/kettle.jpg", FileName}, // a folder
		{"v1.2/kettle.jpg", FileName},
		{"Chair.jpg", FileName},
		{"/img/Chair.jpg", FileName},
		{"/files/12", FileName},
		{"image?id=12", FileName},
		{"#REF!", NoLink},
		{"LRA-0007", NoLink},
		{"anna@shop.example", NoLink},
		{"www.shop.example", Page},
		{"https://www.shop.example", Page},
		{"http://router/a.jpg", Private},
		{"http://[fd00::1]/a.jpg", Private},
		{"http://169.254.169.254/latest/meta-data", Private},
		{"http://[::ffff:10.0.0.1]/a.jpg", Private},
		{"hxxp://cdn.shop.example/a.jpg", Scheme},
	} {
		got := Read(nil, c.cell)
		require.Len(t, got, 1, c.cell)
		assert.Equal(t, c.cell, got[0].Out)
		assert.Equal(t, c.is, got[0].Is, "%s is %s", c.cell, got[0].Is)
	}
}

// Repaired is what nobody would read in two ways.
func TestRepaired(t *testing.T) {
	for _, c := range [][]string{
		{"http:www.shop.example/a.jpg", "http://www.shop.example/a.jpg"},
		{"htpp://cdn.shop.example/a.jpg", "http://cdn.shop.example/a.jpg"},
		{"http.//cdn.shop.example/a.jpg", "http://cdn.shop.example/a.jpg"},
		{`https:\cdn.shop.example\a.jpg`, "https://cdn.shop.example/a.jpg"},
		{`["https://cdn.shop.example/a.jpg","https://cdn.shop.example/b.jpg"]`, "https://cdn.shop.example/a.jpg", "https://cdn.shop.example/b.jpg"},
		{`'https://cdn.shop.example/a.jpg', 'https://cdn.shop.example/b.jpg'`, "https://cdn.shop.example/a.jpg", "https://cdn.shop.example/b.jpg"},
		{"https://cdn.shop.example/a.jpg?x=1&amp;amp;y=2", "https://cdn.shop.example/a.jpg?x=1&y=2"},
		{"https://cdn.shop.example/a.jpg,", "https://cdn.shop.example/a.jpg"},
		{"https://cdn.shop.example/100%2530.jpg", "https://cdn.shop.example/100%2530.jpg"}, // 30 needs no encoding
		{"https://cdn.shop.example/100%2525.jpg", "https://cdn.shop.example/100%25.jpg"},
		{"https://cdn.shop.example/fetch/https%253A%252F%252Fwww.x.example%252Fa.jpg", "https://cdn.shop.example/fetch/https%253A%252F%252Fwww.x.example%252Fa.jpg"},
		{"https://cdn.shop.example/get?u=a%2520b", "https://cdn.shop.example/get?u=a%2520b"},
		{"https://cdn.shop.example/a.jpg?p=a|b", "https://cdn.shop.example/a.jpg?p=a%7Cb"},
		{"HTTPS://CDN.Shop.Example/A.JPG", "HTTPS://CDN.Shop.Example/A.JPG"},
		{"https://cdn.shop.example/a.jpg b.jpg", "https://cdn.shop.example/a.jpg", "b.jpg"},
	} {
		var got []string
		for _, l := range Read(nil, c[0]) {
			got = append(got, l.Out)
		}
		assert.Equal(t, c[1:], got, c[0])
	}
}

// TestNameCase: what is in another encoding than UTF-8 is not read as if it were in that.
func TestNameCase(t *testing.T) {
	r := Rules{BaseURL: "https://cdn.shop.example/p", NameCase: "upper"}
	for name, want := range map[string]string{"m%E4rz.jpg": "m%E4rz.jpg", "m%C3%A4rz.jpg": "M%C3%84RZ.JPG", "a%2Fb.jpg": "a%2Fb.jpg", "x.jpg?v=a": "X.JPG?v=a"} {
		assert.Equal(t, "https://cdn.shop.example/p/"+want, r.Read(nil, name)[0].Out)
	}
}

func TestViewers(t *testing.T) {
	r := Rules{Viewers: [][]string{{"https://files.shop.example/d/{id}/view", "https://files.shop.example/get/{id}"}}}
	require.Empty(t, r.Check())
	got := r.Read(nil, "https://files.shop.example/d/1aB9$x/view?usp=sharing")
	assert.Equal(t, "https://files.shop.example/get/1aB9$x", got[0].Out)
	for _, pair := range [][]string{
		{"https://a.example/{id}/view", "https://a.example/{name}"},
		{"https://a.example/view"},
		{"https://a.example/{id}/view", "https://a.example/{id}/view"},
	} {
		assert.Len(t, (&Rules{Viewers: [][]string{pair}}).Check(), 1, pair)
	}
	for _, wrong := range []Rules{
		{BaseURL: "cdn"}, {BaseURL: "https://cdn.shop.example/?a="}, {NameCase: "lower"}, {BaseURL: "https://cdn.shop.example", NameCase: "Lower"},
		{Hosts: map[string]string{"a.example": "b.example", "b.example": "c.example"}}, {Hosts: map[string]string{"a.example/x": "b.example"}},
	} {
		assert.NotEmpty(t, wrong.Check(), "%+v", wrong)
	}
}

// hostile are cells that take long if they are read carelessly.
var hostile = []string{
	strings.Repeat("a.jpg ", 1<<17), strings.Repeat("https://", 1<<17), strings.Repeat(",", 1<<20), strings.Repeat("&amp;", 1<<17),
	"https://cdn.shop.example/" + strings.Repeat("%25", 1<<18), "https://cdn.shop.example/" + strings.Repeat("../", 1<<18),
	"https://cdn.shop.example/" + strings.Repeat("ü ", 1<<18) + ".jpg", strings.Repeat("\"", 1<<20), strings.Repeat("a.jpg?", 1<<17),
	"https://" + strings.Repeat("ü.", 1<<18) + "example/a.jpg", strings.Repeat(" a.jpg;http", 1<<16), "https://cdn.shop.example/?" + strings.Repeat("utm_a&", 1<<17),
	strings.Repeat("'", 1<<20), strings.Repeat("<", 1<<19) + strings.Repeat(">", 1<<19), strings.Repeat(" .jpg", 1<<18), strings.Repeat("«", 1<<18) + "a" + strings.Repeat("»", 1<<18),
}

func TestHostile(t *testing.T) {
	for _, cell := range hostile {
		if testing.Short() {
			cell = cell[:len(cell)/16]
		}
		again(t, cell)
	}
}

// kept returns the links of a cell, each once.
func kept(r *Rules, cell string) []Link {
	var c Cell
	c.Read(r, cell)
	return c.Kept()
}

// again fails if reading what was read changes anything.
func again(t *testing.T, cell string) {
	r := Rules{BaseURL: "https://cdn.shop.example/p/", HTTPS: true, DropTracking: true, DropFragments: true, NameCase: "lower"}
	for _, l := range kept(&r, cell) {
		if !l.Is.IsAddress() {
			continue
		}
		if l.Is == Picture && (!catalogue.IsASCII(l.Out) || strings.ContainsAny(l.Out, " \n\r")) {
			t.Fatalf("%q gives %q", cell, l)
		}
		next := r.Read(nil, l.Out)
		if len(next) != 1 || next[0].Out != l.Out || next[0].Is != l.Is {
			t.Fatalf("%q gives %q, and that %q", cell, l, next)
		}
		if Key(next[0].Out) != Key(l.Out) {
			t.Fatalf("%q has another key", l)
		}
	}
}

// TestHost: what stands in a cell is read the same, whichever was the host of the one before.
func TestHost(t *testing.T) {
	hosts := []string{"https://cdn.shop.example", "http://cdn.shop.example", "https://a.b", "https://cdn.shop.example:80", "http://10.0.0.1", "https://CDN.shop.example", "https://cdn.shop.example.", "https://localhost"}
	var cells []string
	for _, name := range []string{"links.tsv", "link-cells.tsv"} {
		for _, row := range tableOf(t, name) {
			cells = append(cells, row["in"])
		}
	}
	for _, host := range hosts {
		for _, path := range []string{"/a.jpg", "/a/b.PNG", "//a.jpg", "/./a.jpg", "/a", "/a.jpg?w=1", "/a%20b.jpg", "/a;b.jpg", "/a b.jpg", "/a:b.jpg", "/ü.jpg", "", "/", "/a.jpg/", "/a/.jpg",
			"/" + strings.Repeat("a", longestAddress-len(host)-5) + ".jpg", "/" + strings.Repeat("a", longestAddress-len(host)-4) + ".jpg"} {
			cells = append(cells, host+path)
		}
	}
	for _, r := range []Rules{{Repair: true}, {HTTPS: true, Hosts: map[string]string{"cdn.shop.example": "new.shop.example"}}} {
		for _, host := range hosts {
			var known Cell
			for _, cell := range cells {
				var fresh Cell
				known.Keys = nil
				known.Read(&r, host+"/a.jpg")
				known.Keys = nil
				known.Read(&r, cell)
				fresh.Read(&r, cell)
				same := slices.EqualFunc(fresh.Links, known.Links, func(a, b Link) bool {
					return a.As == b.As && a.Out == b.Out && a.Is == b.Is && a.Key() == b.Key()
				})
				if !same || fresh.Changed() != known.Changed() {
					t.Fatalf("%.200q behind %s: %.500q, alone %.500q", cell, host, known.Links, fresh.Links)
				}
			}
		}
	}
}

func FuzzRead(f *testing.F) {
	for _, name := range []string{"links.tsv", "link-cells.tsv"} {
		for _, row := range tableOf(f, name) {
			f.Add(row["in"])
		}
	}
	f.Fuzz(func(t *testing.T, cell string) { again(t, cell) })
}

func BenchmarkRead(b *testing.B) {
	for _, c := range []struct{ name, cell string }{
		{"one", "https://cdn.halvora.example/produkte/tisch-eiche-160.jpg"},
		{"three", "https://cdn.halvora.example/produkte/tisch-eiche-160.jpg, https://cdn.halvora.example/produkte/tisch-eiche-161.jpg, https://cdn.halvora.example/produkte/tisch-eiche-162.jpg"},
		{"dirty", "http//cdn.halvora.example/produkte/tisch eiche-160.jpg"},
	} {
		b.Run(c.name, func(b *testing.B) {
			b.SetBytes(int64(len(c.cell)))
			b.ReportAllocs()
			var cell Cell
			for b.Loop() {
				cell.Keys = cell.Keys[:0]
				cell.Read(&Rules{Repair: true}, c.cell)
			}
		})
	}
}
