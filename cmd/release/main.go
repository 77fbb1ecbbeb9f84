// Command release makes what is given away: for each system the static program, packed with what lets shells complete its commands, its page for man,
// the licences of all that is built in and a short text to begin with; and checksums of the packs.
//
//	go run ./cmd/release -out dist
//	go run ./cmd/release -licences      renew internal/licences/licences.txt
//
// The same commit gives the same bytes, on any machine with the same version of Go.
package main

import (
	"archive/tar"
	"archive/zip"
	"bytes"
	"compress/gzip"
	"crypto/sha256"
	"errors"
	"flag"
	"fmt"
	"io"
	"log"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"zetanum/internal/cli"
	"zetanum/internal/licences"
)

// A target is a system that the program is built for.
type target struct{ os, arch string }

var targets = []target{{"linux", "amd64"}, {"linux", "arm64"}, {"windows", "amd64"}, {"windows", "arm64"}, {"darwin", "amd64"}, {"darwin", "arm64"}}

func (t target) String() string { return t.os + "/" + t.arch }

// A release is what all packs have in common.
type release struct {
	root   string // of the sources
	commit string
	date   time.Time // of the commit
	shared []file    // what goes into each pack
}

// A file is one of a pack.
type file struct {
	name    string
	content []byte
	runs    bool // it is a program
}

func main() {
	log.SetFlags(0)
	out := flag.String("out", "dist", "write the packs into this folder")
	only := flag.String("only", "", "make them for this system alone, such as linux/amd64")
	renew := flag.Bool("licences", false, "renew the list of licences, and make no packs")
	flag.Parse()
	root, err := os.Getwd()
	if err == nil && *renew {
		err = renewLicences(root)
	} else if err == nil {
		err = makeAll(root, *out, *only)
	}
	if err != nil {
		log.Fatal(err)
	}
}

// renewLicences writes the licences of all that is built in to where the program has them from.
func renewLicences(root string) error {
	text, err := collect(root)
	if err != nil {
		return err
	}
	return os.WriteFile(filepath.Join(root, "internal", "licences", "licences.txt"), []byte(text), 0o644)
}

// makeAll makes the packs, and the list of their checksums.
func makeAll(root, out, only string) error {
	r, err := begin(root)
	if err != nil {
		return err
	}
	if err := os.MkdirAll(out, 0o777); err != nil {
		return err
	}
	var sums bytes.Buffer
	for _, t := range targets {
		if only != "" && only != t.String() {
			continue
		}
		name, pack, err := r.pack(t)
		if err != nil {
			return fmt.Errorf("%s: %w", t, err)
		}
		if err := os.WriteFile(filepath.Join(out, name), pack, 0o644); err != nil {
			return err
		}
		fmt.Fprintf(&sums, "%x  %s\n", sha256.Sum256(pack), name)
		log.Printf("%s  %.1f MB", name, float64(len(pack))/(1<<20))
	}
	if sums.Len() == 0 {
		return fmt.Errorf("there is no system %q", only)
	}
	return os.WriteFile(filepath.Join(out, "SHA256SUMS"), sums.Bytes(), 0o644)
}

// begin gathers what all packs have.
func begin(root string) (*release, error) {
	r := &release{root: root, commit: "unknown", date: time.Unix(1<<30, 0).UTC()}
	if hash, err := git(root, "rev-parse", "--short=12", "HEAD"); err == nil {
		r.commit = hash
		if changed, err := git(root, "status", "--porcelain"); err == nil && changed != "" {
			r.commit += " with changes"
		}
		if seconds, err := git(root, "log", "-1", "--format=%ct"); err == nil {
			if n, err := strconv.ParseInt(seconds, 10, 64); err == nil {
				r.date = time.Unix(n, 0).UTC()
			}
		}
	}
	for name, args := range map[string][]string{
		"completion/zetanum.bash": {"completion", "bash"}, "completion/_zetanum": {"completion", "zsh"}, "completion/zetanum.fish": {"completion", "fish"},
		"completion/zetanum.ps1": {"completion", "powershell"}, "zetanum.1": {"help", "man"}, "JOBS.md": {"help", "jobs"},
	} {
		text, err := cli.Says(args...)
		if err != nil {
			return nil, err
		}
		r.shared = append(r.shared, file{name: name, content: []byte(text)})
	}
	r.shared = append(r.shared, file{name: "LICENCES.txt", content: []byte(licences.Text)})
	return r, nil
}

func git(root string, args ...string) (string, error) {
	cmd := exec.Command("git", args...)
	cmd.Dir = root
	out, err := cmd.Output()
	return strings.TrimSpace(string(out)), err
}

// build builds the program.
func (r *release) build(t target) ([]byte, error) {
	dir, err := os.MkdirTemp("", "zetanum-release-*")
	if err != nil {
		return nil, err
	}
	defer os.RemoveAll(dir)
	path := filepath.Join(dir, "zetanum")
	cmd := exec.Command("go", "build", "-trimpath", "-buildvcs=false", "-ldflags", "-s -w -buildid= -X 'zetanum/internal/cli.commit="+r.commit+"'", "-o", path, "./cmd/zetanum")
	cmd.Dir, cmd.Env = r.root, append(os.Environ(), "GOOS="+t.os, "GOARCH="+t.arch, "CGO_ENABLED=0", "GOFLAGS=", "GOAMD64=v1", "GOARM64=v8.0")
	if out, err := cmd.CombinedOutput(); err != nil {
		return nil, errors.New(strings.TrimSpace(string(out)))
	}
	return os.ReadFile(path)
}

// pack makes the pack of a system, and returns its name.
func (r *release) pack(t target) (name string, content []byte, err error) {
	program, err := r.build(t)
	if err != nil {
		return "", nil, err
	}
	files := slices.Clone(r.shared)
	binary := "zetanum"
	switch t.os {
	case "windows":
		binary += ".exe"
	case "linux":
		files = append(files, file{name: "zetanum.desktop", content: []byte(desktop)})
	case "darwin":
		files = append(files, file{name: "Zetanum.command", content: []byte(double), runs: true})
	}
	files = append(files, file{name: binary, content: program, runs: true}, file{name: "README.txt", content: []byte(readme(t, r.commit))})
	slices.SortFunc(files, func(a, b file) int { return strings.Compare(a.name, b.name) })
	folder := fmt.Sprintf("zetanum-%s-%s-%s", cli.Version, t.os, t.arch)
	if t.os == "windows" {
		for i := range files {
			if strings.HasSuffix(files[i].name, ".txt") {
				files[i].content = bytes.ReplaceAll(files[i].content, []byte("\n"), []byte("\r\n"))
			}
		}
		content, err = r.zipped(folder, files)
		return folder + ".zip", content, err
	}
	content, err = r.tarred(folder, files)
	return folder + ".tar.gz", content, err
}

func (r *release) zipped(folder string, files []file) ([]byte, error) {
	var b bytes.Buffer
	w := zip.NewWriter(&b)
	for _, f := range files {
		into, err := w.CreateHeader(&zip.FileHeader{Name: folder + "/" + f.name, Method: zip.Deflate, Modified: r.date})
		if err != nil {
			return nil, err
		}
		if _, err := into.Write(f.content); err != nil {
			return nil, err
		}
	}
	err := w.Close()
	return b.Bytes(), err
}

func (r *release) tarred(folder string, files []file) ([]byte, error) {
	var b bytes.Buffer
	packed, err := gzip.NewWriterLevel(&b, gzip.BestCompression)
	if err != nil {
		return nil, err
	}
	w := tar.NewWriter(packed)
	for _, f := range files {
		mode := int64(0o644)
		if f.runs {
			mode = 0o755
		}
		if err := w.WriteHeader(&tar.Header{Name: folder + "/" + f.name, Mode: mode, Size: int64(len(f.content)), ModTime: r.date, Format: tar.FormatPAX}); err != nil {
			return nil, err
		}
		if _, err := io.Copy(w, bytes.NewReader(f.content)); err != nil {
			return nil, err
		}
	}
	err = errors.Join(w.Close(), packed.Close())
	return b.Bytes(), err
}

// desktop lets file managers open tables with the program, in a window that waits to be read.
const desktop = `[Desktop Entry]
Type=Application
Name=Zetanum
Comment=Repair product spreadsheets before they are imported into a shop
Exec=env ZETANUM_WINDOW=1 zetanum %F
Terminal=true
MimeType=text/csv;text/tab-separated-values;application/vnd.openxmlformats-officedocument.spreadsheetml.sheet;application/vnd.oasis.opendocument.spreadsheet;
Categories=Office;
`

// double starts the program by a double click.
const double = `#!/bin/sh
cd "$(dirname "$0")" || exit
ZETANUM_WINDOW=1 exec ./zetanum "$@"
`

// readme is what somebody reads who has unpacked it.
func readme(t target, commit string) string {
	install := map[string]string{
		"linux": "Put zetanum into a folder in which programs are looked for, such as ~/.local/bin, zetanum.1 into\n~/.local/share/man/man1, and zetanum.desktop into ~/.local/share/applications: then a file manager\n" +
			"can open tables with it.",
		"darwin":  "Put zetanum into a folder in which programs are looked for, such as /usr/local/bin. Or open\nZetanum.command by a double click, and drag a file into its window.",
		"windows": "Drag a table onto zetanum.exe, or open it by a double click: it says what it found, asks, and writes\na folder beside the file. To type commands, put it into a folder that is in the PATH.",
	}[t.os]
	return fmt.Sprintf(`Zetanum %s for %s
commit %s

Zetanum repairs product spreadsheets before they are imported into a shop: barcodes that a spreadsheet
program spoilt, titles, tags, texts, links, prices. Only what is proved is written, and no file of yours
is ever changed.

%s

  zetanum demo                     lays out an example and repairs it
  zetanum stock.csv                looks at a file
  zetanum begin -ask stock.csv     asks what is to be done with what was found
  zetanum repair stock.csv         repairs it
  zetanum help jobs                how jobs are done; JOBS.md is the same

The folder completion has what lets a shell complete commands: zetanum help completion says how.
LICENCES.txt has the licences of all that is built in. Nothing is sent anywhere.
`, cli.Version, t, commit, install)
}
