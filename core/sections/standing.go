package sections

import (
	"strings"
	"sync/atomic"

	"github.com/cespare/xxhash/v2"
)

// A standing keeps cells of which a look has said that they may stand as they are: most columns have few that differ. Several may
// use it at the same time; who comes to the place of another takes it.
type standing [256]atomic.Pointer[string]

// has reports whether a cell is kept.
func (s *standing) has(cell string) bool {
	kept := s[xxhash.Sum64String(cell)%uint64(len(s))].Load()
	return kept != nil && *kept == cell
}

// keep keeps a cell.
func (s *standing) keep(cell string) {
	own := strings.Clone(cell)
	s[xxhash.Sum64String(cell)%uint64(len(s))].Store(&own)
}
