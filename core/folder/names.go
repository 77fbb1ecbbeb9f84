package folder

import (
	"errors"
	"fmt"
	"slices"
	"strings"
)

// ErrName says that no file can have a name.
var ErrName = errors.New("no file can have this name on this system")

// devices are the names that stand for devices in every folder on some systems, whatever
// their ending.
var devices = []string{"con", "prn", "aux", "nul", "conin$", "conout$"}

// IsDevice reports whether a name stands for a device on some systems: CON, or nul.csv.
func IsDevice(name string) bool {
	name, _, _ = strings.Cut(strings.ToLower(name), ".")
	name = strings.TrimRight(name, " ")
	for _, port := range []string{"com", "lpt"} {
		if number, ok := strings.CutPrefix(name, port); ok && len([]rune(number)) == 1 && strings.ContainsAny(number, "0123456789¹²³") {
			return true
		}
	}
	return slices.Contains(devices, name)
}

// checkName is [CheckName] for systems on which the name of a file may not be anything.
func checkName(path string) error {
	rest := strings.TrimPrefix(strings.TrimPrefix(path, `\\?\`), `\\.\`)
	if len(rest) > 1 && rest[1] == ':' {
		rest = rest[2:] // a drive
	}
	for _, name := range strings.FieldsFunc(rest, func(r rune) bool { return r == '/' || r == '\\' }) {
		why := ""
		switch bad := strings.IndexFunc(name, func(r rune) bool { return r < ' ' || strings.ContainsRune(`:*?"<>|`, r) }); {
		case bad >= 0:
			why = fmt.Sprintf("it has a %q", name[bad])
		case IsDevice(name):
			why = "it is that of a device"
		case name != "." && name != ".." && strings.TrimRight(name, ". ") != name:
			why = "it ends with a point or a space, which would be left out"
		default:
			continue
		}
		return fmt.Errorf("%q: %w: %s; choose another", name, ErrName, why)
	}
	return nil
}
