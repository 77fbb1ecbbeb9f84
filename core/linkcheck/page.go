package linkcheck

import (
	"bytes"
	"context"
	"io"
	"net/http"
	"net/url"
	"strconv"
	"strings"

	"golang.org/x/net/html"

	"zetanum/core/picture"
)

// mostPage is how much of a page is read.
const mostPage = 256 << 10

// instead says what is there in place of a picture. If it is a page that names its picture itself, that is opened.
func (c *Checker) instead(ctx context.Context, a *answer, f *far, first []byte) {
	if !isHTML(first, a.Served) {
		a.failed(Other, "")
		return
	}
	page := bytes.Clone(f.have)
	if !f.ended && int64(len(page)) < mostPage {
		rest, _ := io.ReadAll(io.LimitReader(f.body, mostPage-int64(len(page))))
		page = append(page, rest...)
	}
	look := lookAtPage(page)
	if look.password {
		a.failed(Login, look.title)
		return
	}
	a.failed(Page, look.title)
	if look.picture == "" || f.address == nil {
		return
	}
	to, err := f.address.Parse(look.picture)
	if err != nil || to.Scheme != "http" && to.Scheme != "https" {
		return
	}
	if named := c.measure(ctx, to); named.State == Good && named.Info.Type != "" {
		a.Instead, a.Info, a.Size = to.String(), named.Info, named.Size
	}
}

// measure opens the picture that a page names.
func (c *Checker) measure(ctx context.Context, address *url.URL) (a answer) {
	a.State = Good
	response, at := c.get(ctx, &a, http.MethodGet, address, 0, chunk)
	if response == nil {
		return a
	}
	defer response.Body.Close()
	body := c.body(&a, response)
	if body == nil || !c.good(&a, response, body) {
		return a
	}
	f := &far{c: c, ctx: ctx, a: &a, address: at, body: body, total: totalOf(response), parts: response.StatusCode == http.StatusPartialContent}
	var err error
	if a.Info, err = picture.Look(f, f.total); err != nil {
		a.failed(Broken, "")
	}
	a.Size = max(0, f.total)
	return a
}

// isHTML reports whether something is a page.
func isHTML(first []byte, served string) bool {
	return strings.HasPrefix(served, "text/html") || strings.HasPrefix(http.DetectContentType(first), "text/html")
}

// A pageLook is what a look at a page has shown.
type pageLook struct {
	title    string
	password bool   // it asks for one
	picture  string // the address of its picture, by its metadata or as its only large one
}

// leastLarge is how many pixels wide a picture of a page says that it is, at least, to be its large one.
const leastLarge = 300

// lookAtPage looks what a page is. Its picture is that which it names for a preview (the Open Graph protocol, and rel=image_src), or the
// only large one on it.
func lookAtPage(page []byte) (look pageLook) {
	var named string
	var large []string
	z := html.NewTokenizer(bytes.NewReader(page))
	for inTitle := false; ; {
		switch kind := z.Next(); kind {
		case html.ErrorToken:
			if named != "" {
				look.picture = named
			} else if len(large) == 1 {
				look.picture = large[0]
			}
			look.title = oneLine(look.title)
			return look
		case html.TextToken:
			if inTitle {
				look.title += string(z.Text())
			}
		case html.EndTagToken:
			inTitle = false
		case html.StartTagToken, html.SelfClosingTagToken:
			t := z.Token()
			at := make(map[string]string, len(t.Attr))
			for _, a := range t.Attr {
				at[a.Key] = strings.TrimSpace(a.Val)
			}
			switch t.Data {
			case "title":
				inTitle = look.title == ""
			case "meta":
				if strings.EqualFold(at["property"], "og:image") && named == "" {
					named = at["content"]
				}
			case "link":
				if strings.EqualFold(at["rel"], "image_src") && named == "" {
					named = at["href"]
				}
			case "input":
				look.password = look.password || strings.EqualFold(at["type"], "password")
			case "img":
				if width, err := strconv.Atoi(at["width"]); (err == nil && width >= leastLarge || at["width"] == "100%") && at["src"] != "" {
					large = append(large, at["src"])
				}
			}
		}
	}
}

// titleOf returns the title of a page, or its first words.
func titleOf(page []byte) string {
	if title := lookAtPage(page).title; title != "" {
		return title
	}
	var words strings.Builder
	z := html.NewTokenizer(bytes.NewReader(page))
	for kind := z.Next(); kind != html.ErrorToken; kind = z.Next() {
		if kind == html.TextToken {
			words.Write(z.Text())
			words.WriteByte(' ')
		}
	}
	return words.String()
}
