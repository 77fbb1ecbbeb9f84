package cli

import (
	"os"
	"path"
	"path/filepath"
	"runtime"
	"slices"
	"strings"

	"zetanum/core/fetch"
	"zetanum/core/folder"
)

// named returns the files that arguments name. One with * or ? in it that is no file's
// name stands for all files that it fits: not every shell puts them in its place.
func named(args []string) (files []string, err error) {
	for _, arg := range args {
		if arg == "-" || fetch.IsAddress(arg) {
			files = append(files, arg)
			continue
		}
		if _, err := os.Lstat(arg); err != nil && strings.ContainsAny(filepath.Base(arg), "*?") {
			found, err := fitting(arg)
			if err != nil {
				return nil, err
			}
			files = append(files, found...)
			continue
		}
		if err := folder.CheckName(arg); err != nil {
			return nil, usagef("%v", err)
		}
		files = append(files, arg)
	}
	return files, nil
}

// fitting returns the files of a folder that a pattern fits, in the order of their names.
// Hidden files, and those by which a program marks what it has open, are not meant.
func fitting(pattern string) (files []string, err error) {
	dir, base := filepath.Split(pattern)
	shown := dir
	if dir == "" {
		shown = "this folder"
	}
	if strings.ContainsAny(dir, "*?") {
		return nil, usagef("%s: * and ? may stand in the name of a file, not in that of a folder", pattern)
	}
	entries, err := os.ReadDir(filepath.Clean(dir))
	if err != nil {
		return nil, usagef("%s: there is no folder %s", pattern, shown)
	}
	fold := func(name string) string {
		if folder.SameName("a", "A") {
			return strings.ToLower(name)
		}
		return name
	}
	base = strings.NewReplacer("[", `\[`, `\`, `\\`).Replace(fold(base))
	for _, e := range entries {
		if strings.HasPrefix(e.Name(), ".") || strings.HasPrefix(e.Name(), "~$") {
			continue
		}
		if fits, err := path.Match(base, fold(e.Name())); err != nil || !fits {
			continue
		}
		if info, err := os.Stat(dir + e.Name()); err == nil && info.Mode().IsRegular() {
			files = append(files, dir+e.Name())
		}
	}
	if len(files) == 0 {
		return nil, usagef("%s: no file of %s fits", pattern, shown)
	}
	slices.Sort(files)
	return files, nil
}

// quoted writes an argument so that it can be copied to a command line.
func quoted(arg string) string {
	switch {
	case !strings.ContainsAny(arg, " \t'$&()<>|;*?`\"!#") && arg != "":
		return arg
	case runtime.GOOS != "windows" && strings.ContainsAny(arg, "$`\"!\\"):
		return "'" + strings.ReplaceAll(arg, "'", `'\''`) + "'"
	}
	return `"` + strings.ReplaceAll(arg, `"`, `\"`) + `"`
}
