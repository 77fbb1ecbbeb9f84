package reference

import (
	"fmt"
	"path/filepath"
	"strings"
	"unicode"

	"github.com/cespare/xxhash/v2"

	"zetanum/core/register"
	"zetanum/core/text"
)

// MemoryKey returns the number under which the barcode of an SKU is remembered, 0 if there is no SKU. The
// SKU is compared exactly, but for spaces around it, the source without case.
func MemoryKey(source, sku string) uint64 {
	if sku = text.Typed(strings.TrimSpace(sku)); sku == "" {
		return 0
	}
	var d xxhash.Digest
	d.ResetWithSeed(xxhash.Sum64String(strings.ToLower(source)))
	d.WriteString(sku)
	return max(1, d.Sum64())
}

// SourceOf returns whose list a file is, if no row names a supplier: what stands in its name besides numbers,
// which are those of the month or of the version.
func SourceOf(file string) string {
	file = strings.TrimSuffix(filepath.Base(file), filepath.Ext(file))
	words := strings.FieldsFunc(strings.ToLower(file), func(r rune) bool { return !unicode.IsLetter(r) && !unicode.IsMark(r) })
	return strings.Join(words, " ")
}

// A Memory is what a register remembers of the SKUs whose barcodes a file has lost.
type Memory map[uint64][]register.Seen // by [MemoryKey]; several, if several codes are remembered

// NewMemory puts in order what has been recalled.
func NewMemory(list []register.Seen) Memory {
	m := make(Memory, len(list))
	for _, s := range list {
		m[s.Key] = append(m[s.Key], s)
	}
	return m
}

// Look asks for the barcode of a key. Several codes of one SKU are no answer, nor is a code that several SKUs
// of the source have had.
func (m Memory) Look(key uint64) Answer {
	list := m[key]
	switch {
	case len(list) == 0:
		return Answer{}
	case len(list) > 1:
		return Answer{State: KeyTwice, seen: list}
	case list[0].Elsewhere != "":
		return Answer{State: CodeTwice, Code: list[0].Code, seen: list}
	}
	return Answer{State: Found, Code: list[0].Code, seen: list}
}

// whereSeen says in words what is remembered.
func (a *Answer) whereSeen() string {
	s := &a.seen[0]
	switch a.State {
	case KeyTwice:
		return fmt.Sprintf("the register remembers two codes of this SKU, %s of %s and %s of %s", s.Code, s.Day, a.seen[1].Code, a.seen[1].Day)
	case CodeTwice:
		return fmt.Sprintf("the register remembers %s of %s, and of the SKU %s, too", s.Code, s.Day, s.Elsewhere)
	}
	return fmt.Sprintf("the register, of %s, remembers %s", s.Day, s.Code)
}
