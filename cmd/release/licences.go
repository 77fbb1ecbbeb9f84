package main

import (
	"bytes"
	"fmt"
	"maps"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
)

// A kind of licence, and words that stand in it and in no other.
type kind struct {
	name  string
	words []string
}

// kinds are those that somebody has looked at: all of them let a program be given away that is built with what they are of, if their text goes with it.
var kinds = []kind{
	{"OFL-1.1", []string{"SIL OPEN FONT LICENSE", "Version 1.1"}},
	{"Apache-2.0", []string{"Apache License", "Version 2.0, January 2004"}},
	{"MIT", []string{"Permission is hereby granted, free of charge, to any person obtaining a copy"}},
	{"BSD-3-Clause", []string{"Redistributions of source code must retain", "Neither the name"}},
	{"BSD-3-Clause", []string{"Redistributions of source code must retain", "may not be used to endorse or promote products"}},
	{"BSD-2-Clause", []string{"Redistributions of source code must retain"}},
	{"ISC", []string{"Permission to use, copy, modify, and/or distribute this software for any purpose"}},
	{"FreeType", []string{"Portions of this software are copyright", "The FreeType Project"}},
	{"FreeType", []string{"Freetype-Go", "FreeType License"}},
	{"CC-BY-4.0", []string{"Creative Commons Attribution 4.0 International Public License"}},
	{"CC-BY-3.0", []string{"Creative Commons", "Attribution 3.0"}},
	{"public domain", []string{"has been dedicated to the public domain by the authors"}},
	{"Unlicense", []string{"This is free and unencumbered software released into the public domain"}},
}

// kindOf returns the kind of a licence; ok is false if it is none that is known.
func kindOf(text string) (name string, ok bool) {
	text = strings.Join(strings.Fields(text), " ")
	for _, k := range kinds {
		if !slices.ContainsFunc(k.words, func(w string) bool { return !strings.Contains(text, w) }) {
			return k.name, true
		}
	}
	return "", false
}

// A module is one that is built in.
type module struct{ path, version, dir string }

// modules returns those that are built into the program on any system.
func modules(root string) ([]module, error) {
	all := make(map[string]module)
	for _, t := range targets {
		cmd := exec.Command("go", "list", "-deps", "-f", "{{with .Module}}{{if not .Main}}{{.Path}}\t{{.Version}}\t{{.Dir}}{{end}}{{end}}", "./cmd/zetanum")
		cmd.Dir, cmd.Env = root, append(os.Environ(), "GOOS="+t.os, "GOARCH="+t.arch, "CGO_ENABLED=0")
		out, err := cmd.Output()
		if err != nil {
			return nil, fmt.Errorf("the modules of %s/%s: %w", t.os, t.arch, err)
		}
		for line := range strings.Lines(string(out)) {
			if f := strings.Split(strings.TrimSpace(line), "\t"); len(f) == 3 {
				all[f[0]] = module{f[0], f[1], f[2]}
			}
		}
	}
	var list []module
	for _, path := range slices.Sorted(maps.Keys(all)) {
		list = append(list, all[path])
	}
	return list, nil
}

// noteSize is how long a file may be, in bytes, that is a note besides the licence.
const noteSize = 400

// licenceNames are the beginnings of the names of files that have a licence.
var licenceNames = []string{"license", "licence", "copying", "unlicense", "ofl", "notice"}

// chosen are licences that lie elsewhere, where a module lets one of several be chosen.
var chosen = map[string]string{"github.com/golang/freetype": "licenses/ftl.txt"}

// licenceFiles returns the files of a module that have licences.
func licenceFiles(m module) (paths []string, err error) {
	dir := m.dir
	if name := chosen[m.path]; name != "" {
		paths = append(paths, filepath.Join(dir, filepath.FromSlash(name)))
	}
	entries, err := os.ReadDir(dir)
	for _, e := range entries {
		name := strings.ToLower(e.Name())
		if e.Type().IsRegular() && !strings.HasSuffix(name, ".go") && slices.ContainsFunc(licenceNames, func(begin string) bool { return strings.HasPrefix(name, begin) }) {
			paths = append(paths, filepath.Join(dir, e.Name()))
		}
	}
	return paths, err
}

// collect returns the licences of all that is built in.
func collect(root string) (string, error) {
	list, err := modules(root)
	if err != nil {
		return "", err
	}
	goRoot, err := exec.Command("go", "env", "GOROOT").Output()
	if err != nil {
		return "", err
	}
	own := []module{{"zetanum", "", root}, {"Go, its standard library", "", strings.TrimSpace(string(goRoot))}}
	var b bytes.Buffer
	for _, m := range append(own, list...) {
		paths, err := licenceFiles(m)
		if err != nil {
			return "", err
		}
		known := false
		for _, path := range paths {
			content, err := os.ReadFile(path)
			if err != nil {
				return "", err
			}
			name, ok := kindOf(string(content))
			known = known || ok
			if !ok && len(content) > noteSize && !strings.HasPrefix(strings.ToLower(filepath.Base(path)), "notice") {
				return "", fmt.Errorf("%s: the licence in %s is of no kind that is known; look at it, and add it to the kinds", m.path, filepath.Base(path))
			}
			head := strings.TrimSpace(m.path + " " + m.version)
			if name != "" {
				head += ": " + name
			}
			text := strings.TrimSpace(strings.ReplaceAll(string(content), "\r\n", "\n"))
			fmt.Fprintf(&b, "%s\n%s\n\n%s\n\n\n", head, strings.Repeat("=", len(head)), text)
		}
		if !known {
			return "", fmt.Errorf("%s has no licence in %s, and is built in", m.path, m.dir)
		}
	}
	return b.String(), nil
}
