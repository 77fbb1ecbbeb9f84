// Package licences holds the licences of all that is built into the program. The command release, in cmd, collects them from the modules; a test there
// fails if one is missing or is of a kind that nobody has looked at.
package licences

import _ "embed"

// Text is the licences: of the program itself, of Go, and of each module, with its name above it.
//
//go:embed licences.txt
var Text string
