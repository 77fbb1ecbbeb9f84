package proof

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"net"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
	"zetanum/core/export"
	"zetanum/core/markup"
	"zetanum/core/repair"
	"zetanum/core/sections"
	"zetanum/internal/brief"
	"zetanum/internal/outside"
)

// proofOf repairs a sheet and returns the page of all its products.
func proofOf(t *testing.T, source string, book *sections.Book, page Page, skus ...string) (text string, samples *export.Samples) {
	dir := t.TempDir()
	path := filepath.Join(dir, "list.csv")
	require.NoError(t, os.WriteFile(path, []byte(source), 0o666))
	most := 150
	if page.LoadImages {
		most = 40
	}
	opt := repair.Options{Input: path, Target: filepath.Join(dir, "out"), Date: "2026-11-30", Workers: 2, Proof: &repair.Proof{
		SamplesWanted: export.SamplesWanted{Most: most, SKUs: skus}, Write: page.Write}}
	opt.Said = catalogue.Decisions{{Finding: catalogue.TitleMarkup, Answer: catalogue.Keep}}
	if book != nil {
		opt.Book = *book
	}
	r, err := repair.Run(t.Context(), opt)
	require.NoError(t, err)
	content, err := os.ReadFile(filepath.Join(r.Folder, PageName))
	require.NoError(t, err)
	return string(content), r.Samples
}

// TestPage: the page shows products before and after, under the names of their columns, and says what it shows.
func TestPage(t *testing.T) {
	const source = "SKU,Name,Text,Price,Tags,Image,Colour\nA,Stand,<P>Oak<BR>,5,\"wood, new\",https://cdn.halvora.example/1.jpg,\nB,Hat,<p>Straw.</p>,7,,,red\n"
	book := &sections.Book{Headings: map[string]string{"Text": "description"},
		Field: map[string]*sections.FieldTable{"description": {Rules: markup.Rules{Rel: "nofollow"}}}}
	book.Field["description"].InField.Clean = true
	text, samples := proofOf(t, source, book, Page{}, "B", "C")
	assert.Equal(t, []string{"C"}, samples.Missing)
	assert.Contains(t, samples.Products[1].Why, "asked for: B")
	assert.Equal(t, "<P>Oak<BR>", samples.Products[0].Rows[0].Before[2])
	assert.Equal(t, "<p>Oak</p>", samples.Products[0].Rows[0].Cells[2])
	for _, want := range []string{"Proof of list.csv", "2 of 2 products", `<span class="name">Name</span><span class="title">Stand</span>`, `<span class="name">Text</span>`,
		"<pre>&lt;P&gt;Oak&lt;BR&gt;</pre>", "<pre>&lt;p&gt;Oak&lt;/p&gt;</pre>", "not among what is ready: <b>C</b>", "nothing was changed", `sandbox=""`, "default-src &#39;none&#39;"} {
		assert.Contains(t, text, want)
	}
	assert.NotContains(t, text, `<img class="picture"`)
	text, _ = proofOf(t, source, nil, Page{LoadImages: true})
	assert.Contains(t, text, `<img class="picture" src="https://cdn.halvora.example/1.jpg"`)
}

// TestPageRunsNothing: whatever stands in a file, before and after, nothing of it runs on the page and nothing is fetched.
func TestPageRunsNothing(t *testing.T) {
	outside.Program(t, "chromium")
	all, err := os.ReadFile("../../core/markup/testdata/payloads.txt")
	require.NoError(t, err)
	var source bytes.Buffer
	w := csv.NewWriter(&source)
	require.NoError(t, w.Write([]string{"SKU", "Title", "Description", "Brand", "Tags", "Price", "Image", "Note<script>fetch(/hit/.source)</script>"}))
	for i, line := range strings.Split(strings.TrimSpace(string(all)), "\n") {
		p := regexp.MustCompile(`\\x[0-9a-f]{2}`).ReplaceAllStringFunc(line, func(code string) string {
			n, _ := strconv.ParseUint(code[2:], 16, 8)
			return string(rune(n))
		})
		p = strings.ReplaceAll(p, "hit(1)", "fetch(/hit/.source)") // of which somebody else hears
		require.NoError(t, w.Write([]string{fmt.Sprintf("P%d", i), fmt.Sprintf("Product %d %s", i, p), p, p, p, "5", p, p}))
	}
	w.Flush()
	book := &sections.Book{Field: map[string]*sections.FieldTable{"description": {}}}
	book.Field["description"].InField.Clean = true
	for _, page := range brief.Sample([]Page{{}, {LoadImages: true}}, 2) {
		text, samples := proofOf(t, source.String(), book, page)
		assert.GreaterOrEqual(t, len(samples.Products), 40)
		for _, fetched := range fetchedBy(t, text) {
			if page.LoadImages && strings.Contains(fetched, "image") {
				continue
			}
			t.Error(fetched)
		}
	}
	assert.NotEmpty(t, fetchedBy(t, "<img src=x onerror=fetch(/hit/.source)>"), "what runs would be noticed")
	assert.NotEmpty(t, fetchedBy(t, `<iframe srcdoc="<img src=http://evil.example/x.png>"></iframe>`), "and what is fetched in a frame")
}

// fetchedBy lets a browser load a page, and returns what it fetches besides.
func fetchedBy(t *testing.T, page string) (fetched []string) {
	var mu sync.Mutex
	srv := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		switch {
		case r.URL.Path == "/page" && r.Host == "proof.example":
			w.Header().Set("Content-Type", "text/html; charset=utf-8")
			fmt.Fprint(w, page, `<p id="end-of-page">`)
		case r.URL.Path != "/favicon.ico":
			mu.Lock()
			fetched = append(fetched, fmt.Sprint(r.Host, r.URL, " ", r.Header.Get("Accept")))
			mu.Unlock()
		}
	}))
	defer srv.Close()
	_, port, err := net.SplitHostPort(srv.Listener.Addr().String())
	require.NoError(t, err)
	shown := outside.Page(t, "http://proof.example/page", "--host-resolver-rules=MAP *.example 127.0.0.1:"+port+", MAP * ~NOTFOUND", "--timeout=30000",
		"--disable-features=IsolateSandboxedIframes", "--disable-background-networking", "--disable-component-update", "--no-first-run")
	assert.Contains(t, shown, `<p id="end-of-page">`, "the browser has read all of it")
	mu.Lock()
	defer mu.Unlock()
	return fetched
}
