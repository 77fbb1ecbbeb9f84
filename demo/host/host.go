// Package host is a stand-in for the hosts of pictures: it serves pictures that it draws itself, and makes every mistake that such hosts
// make. The demo opens its links on it, and tests do.
//
//	/p/NAME.jpg          a picture; .png and .gif as well. NAME-WxH.jpg has that size
//	/moved/NAME.jpg      301 to /p/NAME.jpg      /found/NAME.jpg    302
//	/gone/… /missing/…   410, 404                /members/… 403     /login/… leads to a page that asks for a password
//	/view/NAME           a page that shows /p/NAME.jpg and says so; /page/… is one that does not
//	/busy/NAME.jpg       429 at first, then the picture; /trouble/NAME.jpg 503 at first; /broken/… 500 always
//	/nohead/… /norange/… what some servers do not do
//	/late/NAME.jpg       half a megabyte of what a camera wrote before the picture
//	/print/ /frames/ /plain/ /named/   colours for print; several frames; one colour all over; a PNG that is called .jpg
//	/round/ /inside/     leads in a circle; leads into the host's own network
//	/slow/ /never/ /endless/ /bomb/ /headers/ /chunks/ /empty/ /cut/   what would keep a visitor for ever
package host

import (
	"bytes"
	"compress/gzip"
	"encoding/binary"
	"fmt"
	"hash/crc32"
	"hash/fnv"
	"image"
	"image/color"
	"image/gif"
	"image/jpeg"
	"image/png"
	"io"
	"net/http"
	"path"
	"regexp"
	"strconv"
	"strings"
	"sync"
	"time"
)

// Paths returns what there is, in words.
func Paths() [][]string {
	return [][]string{
		{"/p/NAME.jpg", "a picture; .png and .gif as well, and NAME-300x200.jpg in that size"},
		{"/moved/NAME.jpg, /found/NAME.jpg", "lead to it, for good and for now"},
		{"/missing/NAME.jpg, /gone/NAME.jpg, /members/NAME.jpg", "nothing there; no more; not for everybody"},
		{"/view/NAME, /page/NAME, /login/NAME", "a page that shows it; one that does not; one that asks for a password"},
		{"/busy/NAME.jpg, /trouble/NAME.jpg, /broken/NAME.jpg", "it comes the third time, the second time, never"},
		{"/print/NAME.jpg, /frames/NAME.gif, /plain/NAME.png, /named/NAME.jpg, /same/NAME.jpg", "for print; moving; of one colour; a PNG; always the same one"},
		{"/late/, /verylate/, /norange/, /nohead/", "its size stands far back; servers that do not do all"},
		{"/slow/, /never/, /endless/, /bomb/, /headers/, /chunks/, /cut/, /empty/, /words/, /round/0, /inside/", "what would keep a visitor for ever, or lead him astray"},
	}
}

// A Host serves pictures and mistakes. Its zero value is ready.
type Host struct {
	// Late is how long /slow waits between two bytes; a second if it is 0.
	Late time.Duration

	mu    sync.Mutex
	asked map[string]int
}

// Asked returns how often a path was asked for.
func (h *Host) Asked(path string) int {
	h.mu.Lock()
	defer h.mu.Unlock()
	return h.asked[path]
}

func (h *Host) count(path string) int {
	h.mu.Lock()
	defer h.mu.Unlock()
	if h.asked == nil {
		h.asked = make(map[string]int)
	}
	h.asked[path]++
	return h.asked[path]
}

// ServeHTTP serves one path.
func (h *Host) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	times := h.count(r.URL.Path)
	kind, name, _ := strings.Cut(strings.TrimPrefix(r.URL.Path, "/"), "/")
	if do, is := mistakes[kind]; is {
		do(h, w, r, name, times)
		return
	}
	h.picture(w, r, r.URL.Path, Draw(name))
}

// picture serves a picture, in parts if these are asked for.
func (h *Host) picture(w http.ResponseWriter, r *http.Request, name string, data []byte) {
	w.Header().Set("Content-Type", typeOf(name))
	http.ServeContent(w, r, "", time.Time{}, bytes.NewReader(data))
}

func typeOf(name string) string {
	switch strings.ToLower(path.Ext(name)) {
	case ".png":
		return "image/png"
	case ".gif":
		return "image/gif"
	}
	return "image/jpeg"
}

// page serves a page.
func page(w http.ResponseWriter, code int, title, body string) {
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	w.WriteHeader(code)
	fmt.Fprintf(w, "<!DOCTYPE html><html><head><title>%s</title></head><body>%s</body></html>", title, body)
}

// mistakes are what is served by the first part of a path.
var mistakes = map[string]func(h *Host, w http.ResponseWriter, r *http.Request, name string, times int){
	"moved": func(_ *Host, w http.ResponseWriter, r *http.Request, name string, _ int) {
		http.Redirect(w, r, "/p/"+name, http.StatusMovedPermanently)
	},
	"found": func(_ *Host, w http.ResponseWriter, r *http.Request, name string, _ int) {
		http.Redirect(w, r, "/p/"+name, http.StatusFound)
	},
	"gone": func(_ *Host, w http.ResponseWriter, _ *http.Request, _ string, _ int) {
		page(w, http.StatusGone, "This picture has been taken down", "")
	},
	"missing": func(_ *Host, w http.ResponseWriter, _ *http.Request, _ string, _ int) {
		page(w, http.StatusNotFound, "No such picture", "<h1>404</h1>")
	},
	"members": func(_ *Host, w http.ResponseWriter, _ *http.Request, _ string, _ int) {
		http.Error(w, "hotlinking is not allowed", http.StatusForbidden)
	},
	"login": func(_ *Host, w http.ResponseWriter, r *http.Request, name string, _ int) {
		if name != "form" {
			http.Redirect(w, r, "/login/form", http.StatusFound)
			return
		}
		page(w, http.StatusOK, "Sign in", `<form><input name="user"><input type="password"></form>`)
	},
	"view": func(_ *Host, w http.ResponseWriter, _ *http.Request, name string, _ int) {
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		fmt.Fprintf(w, `<!DOCTYPE html><html><head><title>Shared: %s</title><meta property="og:image" content="/p/%s.jpg"></head><body><img src="/logo.png"></body></html>`, name, name)
	},
	"page": func(_ *Host, w http.ResponseWriter, _ *http.Request, name string, _ int) {
		page(w, http.StatusOK, "Our catalogue", "<p>"+name+"</p>")
	},
	"busy": func(h *Host, w http.ResponseWriter, r *http.Request, name string, times int) {
		if times < 3 {
			w.Header().Set("Retry-After", "0")
			http.Error(w, "slow down", http.StatusTooManyRequests)
			return
		}
		h.picture(w, r, name, Draw(name))
	},
	"trouble": func(h *Host, w http.ResponseWriter, r *http.Request, name string, times int) {
		if times < 2 {
			http.Error(w, "restarting", http.StatusServiceUnavailable)
			return
		}
		h.picture(w, r, name, Draw(name))
	},
	"broken": func(_ *Host, w http.ResponseWriter, _ *http.Request, _ string, _ int) {
		page(w, http.StatusInternalServerError, "Something went wrong", "")
	},
	"nohead": func(h *Host, w http.ResponseWriter, r *http.Request, name string, _ int) {
		if r.Method == http.MethodHead {
			w.WriteHeader(http.StatusMethodNotAllowed)
			return
		}
		h.picture(w, r, name, Draw(name))
	},
	"norange": func(_ *Host, w http.ResponseWriter, _ *http.Request, name string, _ int) {
		w.Header().Set("Content-Type", typeOf(name))
		_, _ = w.Write(late(Draw(name), 5))
	},
	"late": func(h *Host, w http.ResponseWriter, r *http.Request, name string, _ int) {
		h.picture(w, r, name, late(Draw(name), 8))
	},
	"verylate": func(_ *Host, w http.ResponseWriter, _ *http.Request, name string, _ int) {
		w.Header().Set("Content-Type", typeOf(name))
		_, _ = w.Write(late(Draw(name), 30))
	},
	"print": func(h *Host, w http.ResponseWriter, r *http.Request, name string, _ int) {
		h.picture(w, r, name, forPrint(Draw(name)))
	},
	"frames": func(h *Host, w http.ResponseWriter, r *http.Request, name string, _ int) {
		h.picture(w, r, "a.gif", frames(name))
	},
	"plain": func(h *Host, w http.ResponseWriter, r *http.Request, name string, _ int) {
		h.picture(w, r, "a.png", encode(".png", image.NewRGBA(image.Rect(0, 0, 400, 300))))
	},
	"named": func(h *Host, w http.ResponseWriter, r *http.Request, name string, _ int) {
		h.picture(w, r, name, Draw(strings.TrimSuffix(name, path.Ext(name))+".png"))
	},
	"same": func(h *Host, w http.ResponseWriter, r *http.Request, _ string, _ int) {
		h.picture(w, r, "a.jpg", Draw("no-picture-yet.jpg"))
	},
	"round": func(_ *Host, w http.ResponseWriter, r *http.Request, name string, _ int) {
		n, _ := strconv.Atoi(name)
		http.Redirect(w, r, "/round/"+strconv.Itoa(1-n%2), http.StatusFound)
	},
	"inside": func(_ *Host, w http.ResponseWriter, r *http.Request, _ string, _ int) {
		http.Redirect(w, r, "http://169.254.169.254/latest/meta-data/", http.StatusFound)
	},
	"slow": func(h *Host, w http.ResponseWriter, r *http.Request, name string, _ int) {
		data := Draw(name)
		w.Header().Set("Content-Length", strconv.Itoa(len(data)))
		for i := range data {
			if _, err := w.Write(data[i : i+1]); err != nil || !wait(r, h.Late) {
				return
			}
			w.(http.Flusher).Flush()
		}
	},
	"never": func(_ *Host, _ http.ResponseWriter, r *http.Request, _ string, _ int) { wait(r, time.Hour) },
	"endless": func(_ *Host, w http.ResponseWriter, r *http.Request, name string, _ int) {
		w.Header().Set("Content-Type", "image/jpeg")
		segment := append([]byte{0xFF, 0xE2, 0xFF, 0xFF}, make([]byte, 65533)...)
		_, err := w.Write([]byte{0xFF, 0xD8})
		for err == nil && r.Context().Err() == nil {
			_, err = w.Write(segment)
		}
	},
	"bomb": func(_ *Host, w http.ResponseWriter, r *http.Request, _ string, _ int) {
		w.Header().Set("Content-Type", "image/png")
		w.Header().Set("Content-Encoding", "gzip")
		packer := gzip.NewWriter(w)
		zeros := make([]byte, 1<<20)
		for range 4 << 10 {
			if _, err := packer.Write(zeros); err != nil || r.Context().Err() != nil {
				return
			}
		}
		packer.Close()
	},
	"headers": func(_ *Host, w http.ResponseWriter, _ *http.Request, _ string, _ int) {
		for i := range 1000 {
			w.Header().Set("X-Long-"+strconv.Itoa(i), strings.Repeat("x", 1000))
		}
	},
	"chunks": func(_ *Host, w http.ResponseWriter, _ *http.Request, _ string, _ int) {
		raw(w, "HTTP/1.1 200 OK\r\nContent-Type: image/jpeg\r\nTransfer-Encoding: chunked\r\n\r\n3\r\n\xFF\xD8\xFF\r\nzz\r\n")
	},
	"cut": func(_ *Host, w http.ResponseWriter, _ *http.Request, name string, _ int) {
		data := Draw(name)
		raw(w, fmt.Sprintf("HTTP/1.1 200 OK\r\nContent-Type: image/jpeg\r\nContent-Length: %d\r\n\r\n%s", len(data), data[:10]))
	},
	"empty": func(_ *Host, w http.ResponseWriter, _ *http.Request, _ string, _ int) {
		w.Header().Set("Content-Type", "image/jpeg")
	},
	"words": func(_ *Host, w http.ResponseWriter, _ *http.Request, _ string, _ int) {
		w.Header().Set("Content-Type", "image/jpeg")
		_, _ = io.WriteString(w, "picture not found")
	},
}

// wait waits, and reports whether somebody is still there; a second if nothing is said.
func wait(r *http.Request, d time.Duration) bool {
	if d == 0 {
		d = time.Second
	}
	select {
	case <-r.Context().Done():
		return false
	case <-time.After(d):
		return true
	}
}

// raw sends what no server should.
func raw(w http.ResponseWriter, text string) {
	conn, buffer, err := w.(http.Hijacker).Hijack()
	if err != nil {
		return
	}
	defer conn.Close()
	_, _ = buffer.WriteString(text)
	_ = buffer.Flush()
}

// sized fits names that say a size.
var sized = regexp.MustCompile(`-(\d{1,4})x(\d{1,4})$`)

// Draw draws the picture of a name: shapes and colours that follow from it, in the type of its ending.
func Draw(name string) []byte {
	stem := strings.TrimSuffix(name, path.Ext(name))
	width, height := 640, 480
	if m := sized.FindStringSubmatch(stem); m != nil {
		width, _ = strconv.Atoi(m[1])
		height, _ = strconv.Atoi(m[2])
	}
	h := fnv.New64a()
	_, _ = h.Write([]byte(stem))
	seed := h.Sum64()
	ending := strings.ToLower(path.Ext(name))
	one := look{seed % looks, width, height, ending}
	drawn.Lock()
	data := drawn.pictures[one]
	drawn.Unlock()
	if data == nil {
		data = encode(ending, one.draw())
		if width*height < 1<<20 {
			drawn.Lock()
			drawn.pictures[one] = data
			drawn.Unlock()
		}
	}
	return remark(ending, data, stem)
}

// A look is that of a picture; all of one look are drawn once.
type look struct {
	seed          uint64
	width, height int
	ending        string
}

// looks is how many there are.
const looks = 97

func (l look) draw() image.Image {
	img := image.NewPaletted(image.Rect(0, 0, max(1, l.width), max(1, l.height)), palette(l.seed*0x9E3779B97F4A7C15))
	cx, cy, r := l.width/2, l.height/2, min(l.width, l.height)/3
	n := int(l.seed % 7)
	for y := range l.height {
		for x := range l.width {
			dx, dy := x-cx, y-cy
			switch {
			case dx*dx+dy*dy < r*r:
				img.Pix[y*img.Stride+x] = 1
			case y > cy+r/2:
				img.Pix[y*img.Stride+x] = 2
			case (x/(20+n)+y/(20+n))%2 == 0:
				img.Pix[y*img.Stride+x] = 3
			}
		}
	}
	return img
}

// remark writes a remark into a picture, so that no two have the same bytes.
func remark(ending string, data []byte, text string) []byte {
	text = text[:min(len(text), 200)]
	switch ending {
	case ".png":
		const header = 8 + 25 // IHDR
		chunk := append([]byte("tEXtComment\x00"), text...)
		out := binary.BigEndian.AppendUint32(bytes.Clone(data[:header]), uint32(len(chunk)-4))
		out = binary.BigEndian.AppendUint32(append(out, chunk...), crc32.ChecksumIEEE(chunk))
		return append(out, data[header:]...)
	case ".gif":
		end := len(data) - 1
		out := append(bytes.Clone(data[:end]), 0x21, 0xFE, byte(len(text)))
		return append(append(out, text...), 0, data[end])
	}
	out := binary.BigEndian.AppendUint16(append(bytes.Clone(data[:2]), 0xFF, 0xFE), uint16(len(text)+2))
	return append(append(out, text...), data[2:]...)
}

// drawn are the pictures that have been drawn, by their looks.
var drawn = struct {
	sync.Mutex
	pictures map[look][]byte
}{pictures: make(map[look][]byte)}

func palette(seed uint64) color.Palette {
	p := color.Palette{color.RGBA{0xF4, 0xEE, 0xDC, 0xFF}}
	for i := range 3 {
		v := seed >> (16 * i)
		p = append(p, color.RGBA{uint8(v), uint8(v>>5) | 0x40, uint8(v >> 9), 0xFF})
	}
	return p
}

func encode(ending string, img image.Image) []byte {
	var b bytes.Buffer
	switch ending {
	case ".png":
		_ = png.Encode(&b, img)
	case ".gif":
		_ = gif.Encode(&b, img, nil)
	default:
		_ = jpeg.Encode(&b, img, &jpeg.Options{Quality: 60})
	}
	return b.Bytes()
}

// late puts so many full segments before the picture in a JPEG.
func late(data []byte, n int) []byte {
	out := bytes.Clone(data[:2])
	for range n {
		out = append(append(out, 0xFF, 0xE2, 0xFF, 0xFF), make([]byte, 65533)...)
	}
	return append(out, data[2:]...)
}

// forPrint makes the frame of a JPEG say that it has four colours.
func forPrint(data []byte) []byte {
	out := bytes.Clone(data)
	for at := 2; at+4 < len(out); {
		if m := out[at+1]; m >= 0xC0 && m <= 0xC2 {
			out[at+9] = 4
			break
		}
		at += 2 + int(binary.BigEndian.Uint16(out[at+2:]))
	}
	return out
}

// frames draws a picture that moves.
func frames(name string) []byte {
	g := new(gif.GIF)
	for i := range 2 {
		img, _ := gif.Decode(bytes.NewReader(Draw(strings.TrimSuffix(name, path.Ext(name)) + strconv.Itoa(i) + ".gif")))
		g.Image, g.Delay = append(g.Image, img.(*image.Paletted)), append(g.Delay, 10)
	}
	var b bytes.Buffer
	_ = gif.EncodeAll(&b, g)
	return b.Bytes()
}
