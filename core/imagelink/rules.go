package imagelink

import (
	"fmt"
	"maps"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"unicode/utf8"

	"zetanum/core/catalogue"
	"zetanum/core/lazy"
)

// Rules say how links of pictures are written, besides what is certain: [images]. The zero value orders nothing.
type Rules struct {
	// Repair writes links as they should be, and takes those out that a product has twice. All other rules do so, too.
	Repair bool `toml:"repair" json:"repair,omitempty"`
	// HTTPS writes https for http.
	HTTPS bool `toml:"https" json:"https,omitempty"`
	// DropTracking takes parameters off that count visitors, DropFragments what stands behind a #, and DropParameters parameters by
	// their names.
	DropTracking   bool     `toml:"drop_tracking" json:"drop_tracking,omitempty"`
	DropFragments  bool     `toml:"drop_fragments" json:"drop_fragments,omitempty"`
	DropParameters []string `toml:"drop_parameters" json:"drop_parameters,omitempty"`
	// Hosts are hosts in place of others.
	Hosts map[string]string `toml:"replace_hosts" json:"replace_hosts,omitempty"`
	// BaseURL stands before names of files, which are written in NameCase: "lower", "upper", or as they are.
	BaseURL  string `toml:"base_url" json:"base_url,omitempty"`
	NameCase string `toml:"name_case" json:"name_case,omitempty"`
	// Viewers are the addresses of pages that show a picture, and those of the pictures: both with slots in braces.
	Viewers [][]string `toml:"viewers" json:"viewers,omitempty"`

	// Addresses are the addresses that stand in place of names of files; nil if there are none. A name that is not among them stays.
	Addresses *Addresses `toml:"-" json:"-"`

	viewers []viewer // once they have been read
}

// A viewer turns the addresses of pages into those of pictures.
type viewer struct {
	page *regexp.Regexp
	to   string // with $1 for the first slot
}

// Idle reports whether nothing is ordered.
func (r *Rules) Idle() bool {
	return !r.Repair && !r.HTTPS && !r.DropTracking && !r.DropFragments && r.DropParameters == nil && r.Hosts == nil && r.BaseURL == "" && r.Viewers == nil && r.Addresses == nil
}

// String returns the names of what is ordered, for people.
func (r *Rules) String() string {
	names := []string{"links"}
	for _, key := range []struct {
		name string
		on   bool
	}{
		{"https", r.HTTPS}, {"drop_tracking", r.DropTracking}, {"drop_fragments", r.DropFragments}, {"drop_parameters", r.DropParameters != nil},
		{"replace_hosts", r.Hosts != nil}, {"links_from", r.Addresses != nil}, {"base_url", r.BaseURL != "" && r.Addresses == nil}, {"viewers", r.Viewers != nil},
	} {
		if key.on {
			names = append(names, key.name)
		}
	}
	return strings.Join(names, ", ")
}

// Check returns what is wrong with the rules whatever the sheet, and gets them ready.
func (r *Rules) Check() (problems []catalogue.Problem) {
	wrong := func(key, format string, args ...any) {
		problems = append(problems, catalogue.Problem{Key: key, Text: fmt.Sprintf(format, args...)})
	}
	if r.BaseURL != "" {
		if out, what := Mend(strings.TrimSuffix(r.BaseURL, "/") + "/a.jpg"); what != Picture || !plain(out) || strings.ContainsAny(r.BaseURL, "?#") {
			wrong("base_url", `is the address before the names of files, such as "https://cdn.shop.example/photos/", and %q is none`, r.BaseURL)
		}
	}
	if r.NameCase != "" && r.NameCase != "lower" && r.NameCase != "upper" {
		wrong("name_case", "is lower or upper")
	}
	if r.NameCase != "" && r.BaseURL == "" {
		wrong("name_case", "is that of names of files behind base_url")
	}
	for _, from := range slices.Sorted(maps.Keys(r.Hosts)) {
		to := r.Hosts[from]
		for _, host := range []string{from, to} {
			if strings.ContainsAny(host, "/ ") || host == "" {
				wrong("replace_hosts", `has names of hosts, such as "cdn.shop.example", and %q is none`, host)
			}
		}
		for other := range r.Hosts {
			if strings.EqualFold(other, to) {
				wrong("replace_hosts", "puts %s in place of %s, and something else in place of %s", to, from, to)
			}
		}
	}
	r.viewers = nil
	for _, pair := range r.Viewers {
		v, err := newViewer(pair)
		if err != nil {
			wrong("viewers", "%s", err)
			continue
		}
		r.viewers = append(r.viewers, v)
	}
	return problems
}

var slot = lazy.New(`\{[a-z_]+\}`)

// newViewer reads how the address of a page becomes that of the picture.
func newViewer(pair []string) (v viewer, err error) {
	if len(pair) != 2 || !strings.Contains(pair[0], "://") || !strings.Contains(pair[1], "://") {
		return v, fmt.Errorf(`are pairs: the address of the page, and that of the picture, such as ["https://files.shop.example/d/{id}/view", "https://files.shop.example/get/{id}"]`)
	}
	slots := slot.FindAllString(pair[0], -1)
	expr := regexp.QuoteMeta(pair[0])
	to := strings.ReplaceAll(pair[1], "$", "$$")
	for n, name := range slots {
		expr = strings.Replace(expr, regexp.QuoteMeta(name), `([^/?&#]+)`, 1)
		to = strings.ReplaceAll(to, name, fmt.Sprintf("${%d}", n+1))
	}
	if missing := slot.FindString(to); missing != "" {
		return v, fmt.Errorf("have %s in the address of the picture, and not in that of the page", missing)
	}
	tail := `(?:[?#].*)?$`
	if strings.ContainsAny(pair[0], "?") {
		tail = `(?:[&#].*)?$`
	}
	v = viewer{regexp.MustCompile(`^` + expr + tail), to}
	example := slot.ReplaceAllString(pair[1], "1")
	if out, what := Mend(example); what != Picture || v.page.MatchString(out) {
		return v, fmt.Errorf("lead to %s, which is not the address of a picture either", pair[1])
	}
	return v, nil
}

// Read takes a cell apart as [Read] does, with the links as the rules have them.
func (r *Rules) Read(links []Link, cell string) []Link {
	from := len(links)
	links = Read(links, cell)
	for i := from; i < len(links); i++ {
		r.order(&links[i])
	}
	return links
}

// order writes a link as ordered.
func (r *Rules) order(l *Link) {
	switch {
	case l.Is == FileName && r.Addresses != nil:
		if out, found := r.Addresses.Find(bare(trimMarks(unwrap(marksOfEntities(l.As))))); found && stays(out) {
			l.Out, l.Is, l.key = out, look(parse(out)), ""
		}
	case l.Is == FileName && r.BaseURL != "":
		r.behindBase(l)
	case l.Is == Viewer:
		for _, v := range r.viewers {
			if v.page.MatchString(l.As) {
				if out, what := Mend(v.page.ReplaceAllString(l.As, v.to)); what == Picture && stays(out) {
					l.Out, l.Is, l.key = out, what, ""
				}
				break
			}
		}
	}
	if r.Addresses != nil {
		r.Addresses.Uses(l.Out)
	}
	if l.Is != Picture || !r.HTTPS && !r.DropTracking && !r.DropFragments && r.DropParameters == nil && r.Hosts == nil {
		return
	}
	a := parse(l.Out)
	if r.HTTPS && strings.EqualFold(a.scheme, "http") && (a.port == "" || a.port == ":80") {
		a.scheme, a.port = "https", ""
	}
	if r.Hosts != nil {
		for from, to := range r.Hosts {
			if strings.EqualFold(from, a.host) {
				a.host = to
				break
			}
		}
	}
	if a.query != "" && (r.DropTracking || r.DropParameters != nil) {
		a.dropParameters(func(name string) bool {
			return r.DropTracking && isTracking(name) || slices.Contains(r.DropParameters, name)
		})
	}
	if r.DropFragments {
		a.fragment = ""
	}
	if out := a.String(); out != l.Out && look(a) == Picture && stays(out) {
		l.Out, l.key = out, ""
	}
}

// Address returns the address that the rules make of the name of a file, the name if they make none.
func (r *Rules) Address(name string) string {
	l := Link{As: name, Out: name, Is: FileName}
	r.order(&l)
	return l.Out
}

// behindBase writes the name of a file behind the address of its folder.
func (r *Rules) behindBase(l *Link) {
	base := strings.TrimSuffix(r.BaseURL, "/") + "/"
	name := trimMarks(unwrap(marksOfEntities(l.As)))
	if _, path := cutHost(strings.SplitN(base, "://", 2)[1]); path == "/" {
		name = strings.TrimPrefix(bare(name), "/") // from the root, which is the folder
	}
	name, ok := Name(name)
	if !ok {
		return
	}
	switch r.NameCase {
	case "lower":
		name = inCase(name, strings.ToLower)
	case "upper":
		name = inCase(name, strings.ToUpper)
	}
	if out, what := Mend(base + name); what == Picture && stays(out) {
		l.Out, l.Is, l.key = out, what, ""
	}
}

// inCase changes the case of a name, and of what is encoded in it; one in another encoding than UTF-8 stays.
func inCase(name string, to func(string) string) string {
	query := ""
	if i := strings.IndexByte(name, '?'); i >= 0 {
		name, query = name[:i], name[i:]
	}
	text, err := url.PathUnescape(name)
	if err != nil || !utf8.ValidString(text) || addressed(name) {
		return name + query
	}
	return nameMarks.Replace(encode(strings.ReplaceAll(to(text), "%", "%25"), inPath)) + query
}
