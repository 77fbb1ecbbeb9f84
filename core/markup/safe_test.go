package markup

import (
	"encoding/json"
	"fmt"
	"io"
	"log"
	"math/rand/v2"
	"net"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"regexp"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"

	"zetanum/internal/outside"
)

// coded is a byte in the file of payloads.
var coded = regexp.MustCompile(`\\x[0-9a-f]{2}`)

// payloads are texts that run something, or load it, or try to. Those of the file are each known to have got past somebody.
func payloads(t *testing.T) (list []string) {
	all, err := os.ReadFile("testdata/payloads.txt")
	require.NoError(t, err)
	for line := range strings.Lines(string(all)) {
		text := coded.ReplaceAllStringFunc(strings.TrimSuffix(line, "\n"), func(code string) string {
			n, _ := strconv.ParseUint(code[2:], 16, 8)
			return string([]byte{byte(n)})
		})
		list = append(list, text)
	}
	for _, handler := range strings.Fields("load error click focus blur mouseover pointerenter toggle animationstart transitionend scroll wheel copy paste beforeinput " +
		"formdata invalid slotchange canplay play loadstart drag dragstart keydown resize beforematch securitypolicyviolation") {
		for _, tag := range []string{"p", "img src=http://pics.example/h.png", "a href=/h", "td", "div tabindex=0", "section", "summary", "time datetime=1"} {
			list = append(list, fmt.Sprintf("<%s on%s=hit(1) ON%s='hit(1)' autofocus>x", tag, handler, strings.ToUpper(handler)))
		}
	}
	r := rand.New(rand.NewPCG(7, 7))
	for range 900 { // put together at random
		mixed := list[r.IntN(len(list))] + soup(r, 8) + list[r.IntN(len(list))] + soup(r, 4)
		list = append(list, strings.ReplaceAll(mixed, "https:", "http:")) // of which the traps see what is fetched
	}
	return list
}

// everything allows what can be allowed.
func everything() *Rules {
	r := &Rules{Clean: true, Keep: strings.Fields(keepable), Styles: properties, BoldHeadings: true, TextHeadings: true, NamedLines: AsTable,
		LinkAddresses: true, Markdown: true}
	for _, a := range attributes {
		r.Keep = append(r.Keep, a.of+" "+a.name)
	}
	return r
}

// A trap is a page with a description, in which everything is noticed that runs or is fetched.
type trap struct {
	html     string
	from     string                   // the payload
	again    func(html string) string // cleans what the browser has read
	pictures map[string]bool
}

// TestNothingRuns: of descriptions that have been cleaned nothing runs in a browser and nothing is fetched but the pictures that are kept;
// neither as they are, nor when they have been read out of the page and put in again.
func TestNothingRuns(t *testing.T) {
	outside.Program(t, "chromium")
	var traps []trap
	seen := make(map[string]bool)
	for _, rules := range []*Rules{{Clean: true}, everything()} {
		c := rules.NewCleaner(nil)
		for _, shown := range []Shown{{HTML: true}, {Escaped: true, Twice: true, Markdown: true}} {
			for _, p := range payloads(t) {
				after, err := c.Clean(p, &shown)
				require.NoError(t, err)
				if !seen[after] {
					again := func(html string) string {
						after, err := rules.NewCleaner(nil).Clean(html, &Shown{HTML: true})
						require.NoError(t, err)
						return after
					}
					traps = append(traps, trap{after, p, again, picturesIn(t, after)})
				}
				seen[after] = true
			}
		}
	}
	for _, n := range spring(t, traps, 20) {
		t.Error(n)
	}
	t.Logf("%d descriptions in a browser", len(traps))
}

// TestTrap: the traps notice what runs or is fetched, of payloads that nobody has cleaned.
func TestTrap(t *testing.T) {
	outside.Program(t, "chromium")
	var traps []trap
	for _, p := range []string{"<script>hit(1)</script>", "<img src=x onerror=hit(1)>", "<p style='background:url(http://evil.example/only2.png)'>x</p>",
		"<script>alert(1)</script>", "<a href='javascript:hit(1)'>x</a>", "<iframe src=http://evil.example/f></iframe>",
		"<svg><style><img src=x onerror=hit(1)></style></svg>", "<noscript><p title='</noscript><img src=x onerror=hit(1)>'>", "<img src='https://evil.example/tls.png'>"} {
		traps = append(traps, trap{html: p, from: p})
	}
	noticed := strings.Join(spring(t, traps, 1), "\n")
	for i, trap := range traps[:len(traps)-1] {
		assert.Regexp(t, fmt.Sprintf(`page %d: |from http://trap\.example/case/%d\b|evil\.example/only%d\.png`, i, i, i), noticed, trap.from)
	}
	assert.Contains(t, noticed, "fetched with https")
}

// picturesIn returns the addresses of the pictures of HTML.
func picturesIn(t *testing.T, s string) map[string]bool {
	pictures := make(map[string]bool)
	nodes, err := html.ParseFragment(strings.NewReader(s), &html.Node{Type: html.ElementNode, Data: "body", DataAtom: atom.Body})
	require.NoError(t, err)
	base, _ := url.Parse("http://trap.example/case/1")
	var walk func(n *html.Node)
	walk = func(n *html.Node) {
		for _, a := range n.Attr {
			if n.Data == "img" && a.Key == "src" {
				if u, err := base.Parse(strings.ReplaceAll(a.Val, `\`, "/")); err == nil {
					pictures[u.Host+u.Path] = true
				}
			}
		}
		for k := n.FirstChild; k != nil; k = k.NextSibling {
			walk(k)
		}
	}
	for _, n := range nodes {
		walk(n)
	}
	return pictures
}

// begin is what stands before each description: whatever runs tells of it.
const begin = `<!doctype html><meta charset=utf-8><meta name=referrer content=unsafe-url><title>trap</title><script>
const told = [];
function hit(what) { told.push(String(what)); }
for (const name of ["alert", "confirm", "prompt", "print", "open"]) window[name] = () => hit("dialog " + name);
window.onbeforeunload = () => hit("leaving");
window.name = "";
</script><body>`

// end is what stands behind it. It reads the page and puts it in again, twice, and gives every element what it may wait for.
const end = `<script id=last>
const me = document.currentScript; me.remove();
const pause = (ms) => new Promise((done) => setTimeout(done, ms));
function poke() {
	for (const e of document.body.querySelectorAll("*:not(.trap)")) {
		const hit = (what) => told.push((e.closest(".trap")?.innerHTML ?? "outside: " + e.outerHTML) + ": " + what);
		for (const name of ["click", "focus", "mouseover", "error", "load", "toggle", "animationstart", "pointerenter", "keydown"])
			if (e.tagName != "A" || name != "click") e.dispatchEvent(new Event(name));
		for (const a of e.attributes) {
			if (/^on/i.test(a.name)) hit("handler " + a.name);
			if (/^(href|src|action|formaction|data|xlink:href|srcdoc|poster|background|cite)$/i.test(a.name) && e[a.name] !== undefined) {
				const link = new URL(a.value, location);
				if (!["http:", "https:", "mailto:", "tel:"].includes(link.protocol)) hit("scheme " + link.protocol);
			}
		}
		if (/^(script|style|iframe|object|embed|svg|math|form|input|button|select|textarea|template|noscript|link|meta|base|video|audio)$/i.test(e.tagName)) hit("element " + e.tagName);
	}
}
(async () => {
	for (let i = 0; i < 3; i++) {
		if (i) for (const e of document.querySelectorAll(".trap")) e.innerHTML = e.innerHTML;
		await pause(5); poke();
	}
	const read = {};
	for (const e of document.querySelectorAll(".trap")) read[e.id] = e.innerHTML;
	await fetch("/told?case=" + location.pathname.split("/").pop(), {method: "POST", body: JSON.stringify({told, read})});
	parent.postMessage("done", "*");
})();
</script>`

// driver loads all cases, some at a time.
const driver = `<!doctype html><title>driver</title><body><script>
let next = 0; const total = %d;
function more() { if (next < total) { const f = document.createElement("iframe"); f.src = "/case/" + next++; document.body.append(f); return true; } }
window.addEventListener("message", (e) => { for (const f of document.querySelectorAll("iframe")) if (f.contentWindow == e.source) f.remove(); more(); });
for (let i = 0; i < 12; i++) more();
</script><img src="/wait">`

// spring lets a browser load the traps and returns what was noticed.
func spring(t *testing.T, traps []trap, perPage int) (noticed []string) {
	var mu sync.Mutex
	notice := func(format string, args ...any) {
		mu.Lock()
		defer mu.Unlock()
		noticed = append(noticed, fmt.Sprintf(format, args...))
	}
	kept := make(map[string]bool)
	for _, trap := range traps {
		for p := range trap.pictures {
			kept[p] = true
		}
	}
	var open sync.WaitGroup
	pages := (len(traps) + perPage - 1) / perPage
	open.Add(pages)
	told := make([]bool, pages)
	all := make(chan struct{})
	go func() { open.Wait(); close(all) }()
	srv := httptest.NewUnstartedServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		n, _ := strconv.Atoi(r.URL.Path[strings.LastIndexByte(r.URL.Path, '/')+1:])
		host, _, err := net.SplitHostPort(r.Host)
		if err != nil {
			host = r.Host
		}
		switch {
		case host == "trap.example" && r.URL.Path == "/":
			fmt.Fprintf(w, driver, pages)
		case host == "trap.example" && strings.HasPrefix(r.URL.Path, "/case/") && strings.HasPrefix(r.Header.Get("Accept"), "text/html") && n < pages:
			io.WriteString(w, begin)
			for i, trap := range traps[n*perPage : min(len(traps), (n+1)*perPage)] {
				fmt.Fprintf(w, "<div class=trap id=trap%d>%s</div>", n*perPage+i, trap.html)
			}
			io.WriteString(w, end)
		case host == "trap.example" && r.URL.Path == "/told":
			n, _ := strconv.Atoi(r.URL.Query().Get("case"))
			body, _ := io.ReadAll(r.Body)
			var page struct {
				Told []string
				Read map[string]string
			}
			assert.NoError(t, json.Unmarshal(body, &page))
			if len(page.Told) > 0 {
				notice("page %d: %s", n, page.Told)
			}
			for i, trap := range traps[n*perPage : min(len(traps), (n+1)*perPage)] {
				read := page.Read[fmt.Sprint("trap", n*perPage+i)]
				if trap.again != nil && trap.again(read) != trap.html {
					notice("%q is read by the browser as %q, and cleaned again that is %q", trap.html, read, trap.again(read))
				}
			}
			mu.Lock()
			if !told[n] {
				told[n] = true
				open.Done()
			}
			mu.Unlock()
		case host == "trap.example" && r.URL.Path == "/wait":
			select {
			case <-all:
			case <-time.After(100 * time.Second):
				notice("some pages were never done")
			}
		case r.URL.Path == "/favicon.ico":
		case kept[host+r.URL.Path] && strings.HasPrefix(r.Header.Get("Accept"), "image/"):
			http.Error(w, "no picture", http.StatusNotFound)
		default:
			notice("fetched: %s%s from %s", r.Host, r.URL, r.Referer())
		}
	}))
	srv.Config.ErrorLog = log.New(io.Discard, "", 0)
	srv.Listener = listener{srv.Listener, func() { notice("fetched with https") }}
	srv.Start()
	defer srv.Close()
	_, port, err := net.SplitHostPort(srv.Listener.Addr().String())
	require.NoError(t, err)
	outside.Page(t, "http://trap.example/", "--host-resolver-rules=MAP *.example 127.0.0.1:"+port+", MAP * ~NOTFOUND", "--timeout=120000", "--disable-background-networking",
		"--disable-component-update", "--no-first-run", "--autoplay-policy=no-user-gesture-required")
	for i, done := range told {
		if !done {
			notice("page %d was left", i)
		}
	}
	return noticed
}

// A listener notices what begins as https does, to which nothing answers here.
type listener struct {
	net.Listener
	secure func()
}

func (l listener) Accept() (net.Conn, error) {
	c, err := l.Listener.Accept()
	return &conn{Conn: c, secure: l.secure}, err
}

type conn struct {
	net.Conn
	secure func()
	read   bool
}

// handshake is the first byte of a connection with https.
const handshake = 0x16

func (c *conn) Read(b []byte) (int, error) {
	n, err := c.Conn.Read(b)
	if !c.read && n > 0 && b[0] == handshake {
		c.secure()
	}
	c.read = c.read || n > 0
	return n, err
}
