//go:build !unix

package outside

import "testing"

// Postgres skips the test: only on Unix a server of its own is started for it.
func Postgres(t testing.TB) string {
	t.Helper()
	t.Skip("needs a PostgreSQL server of its own, which is only started on Unix")
	return ""
}
