package main

import (
	"archive/tar"
	"archive/zip"
	"bytes"
	"compress/gzip"
	"crypto/sha256"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/internal/cli"
	"zetanum/internal/licences"
)

// root is the folder of the sources.
var root = filepath.Join("..", "..")

// TestLicences: the licences of all modules that are built in are of known kinds, and they are what the program prints.
func TestLicences(t *testing.T) {
	text, err := collect(root)
	require.NoError(t, err)
	assert.True(t, text == licences.Text, "a module has changed: go run ./cmd/release -licences")
	for _, words := range []string{"Apache-2.0", "Go, its standard library: BSD-3-Clause", "The FreeType Project LICENSE"} {
		assert.Contains(t, text, words)
	}
	for text, want := range map[string]string{
		"Permission is hereby granted, free of\n charge, to any person obtaining a copy of this software": "MIT", "All rights reserved. Nobody may use this.": "",
		"Redistributions of source code must retain the above": "BSD-2-Clause", "Redistributions of source code must retain. Neither the name of": "BSD-3-Clause",
	} {
		name, ok := kindOf(text)
		assert.Equal(t, want, name)
		assert.Equal(t, want != "", ok)
	}
}

// TestRelease: a pack has all that belongs into it, the program in it runs and says what it was built from, and the same sources in another folder give
// the same bytes.
func TestRelease(t *testing.T) {
	if testing.Short() {
		t.Skip("builds the program twice")
	}
	only := runtime.GOOS + "/" + runtime.GOARCH
	there := filepath.Join(t.TempDir(), "elsewhere", "sources")
	for _, name := range []string{"cmd/zetanum", "core", "demo", "internal"} {
		require.NoError(t, os.CopyFS(filepath.Join(there, name), os.DirFS(filepath.Join(root, name))))
	}
	for _, name := range []string{"go.mod", "go.sum", "LICENSE"} {
		content, err := os.ReadFile(filepath.Join(root, name))
		require.NoError(t, err)
		require.NoError(t, os.WriteFile(filepath.Join(there, name), content, 0o666))
	}
	here, err := begin(root)
	require.NoError(t, err)
	other := *here
	other.root = there
	target := targets[slices.IndexFunc(targets, func(t target) bool { return t.String() == only })]
	name, pack, err := here.pack(target)
	require.NoError(t, err)
	_, again, err := other.pack(target)
	require.NoError(t, err)
	assert.Equal(t, fmt.Sprintf("%x", sha256.Sum256(pack)), fmt.Sprintf("%x", sha256.Sum256(again)))

	dir := t.TempDir()
	names := unpack(t, name, pack, dir)
	folder := strings.TrimSuffix(strings.TrimSuffix(name, ".tar.gz"), ".zip")
	for _, want := range []string{"README.txt", "LICENCES.txt", "JOBS.md", "zetanum.1", "completion/zetanum.bash", "completion/_zetanum", "completion/zetanum.fish", "completion/zetanum.ps1"} {
		assert.Contains(t, names, folder+"/"+want)
	}
	program := filepath.Join(dir, folder, "zetanum")
	said, err := exec.Command(program, "version").Output()
	require.NoError(t, err)
	assert.Contains(t, string(said), "zetanum "+cli.Version+" "+only+"\ncommit "+here.commit+"\n"+runtime.Version()+"\n")
	said, err = exec.Command(program, "version", "-licences").Output()
	require.NoError(t, err)
	assert.True(t, string(said) == licences.Text)
	content, err := os.ReadFile(program)
	require.NoError(t, err)
	where, err := filepath.Abs(root)
	require.NoError(t, err)
	assert.False(t, bytes.Contains(content, []byte(where)), "no path of this machine is in it")
}

// TestSums: the list of checksums is that of the packs.
func TestSums(t *testing.T) {
	assert.ErrorContains(t, makeAll(root, t.TempDir(), "plan9/386"), "no system")
	r := &release{}
	files := []file{{"a.txt", []byte("x\n"), false}, {"zetanum", []byte("program"), true}}
	packed, err := r.zipped("f", files)
	require.NoError(t, err)
	dir := t.TempDir()
	assert.Equal(t, []string{"f/a.txt", "f/zetanum"}, unpack(t, "f.zip", packed, dir))
}

// unpack unpacks a pack, and returns the names in it.
func unpack(t *testing.T, name string, pack []byte, dir string) (names []string) {
	t.Helper()
	put := func(name string, mode os.FileMode, r io.Reader) {
		names = append(names, name)
		path := filepath.Join(dir, filepath.FromSlash(name))
		require.NoError(t, os.MkdirAll(filepath.Dir(path), 0o777))
		content, err := io.ReadAll(r)
		require.NoError(t, err)
		require.NoError(t, os.WriteFile(path, content, mode))
	}
	if strings.HasSuffix(name, ".zip") {
		r, err := zip.NewReader(bytes.NewReader(pack), int64(len(pack)))
		require.NoError(t, err)
		for _, f := range r.File {
			content, err := f.Open()
			require.NoError(t, err)
			put(f.Name, 0o777, content)
		}
		return names
	}
	unzipped, err := gzip.NewReader(bytes.NewReader(pack))
	require.NoError(t, err)
	r := tar.NewReader(unzipped)
	for {
		h, err := r.Next()
		if err == io.EOF {
			return names
		}
		require.NoError(t, err)
		put(h.Name, os.FileMode(h.Mode), r)
	}
}
