//go:build unix

package outside

import (
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestThere: what later tests need can be run here, whoever runs it.
func TestThere(t *testing.T) {
	t.Run("a database server answers", func(t *testing.T) {
		source := Postgres(t)
		psql, err := exec.LookPath("psql")
		require.NoError(t, err)
		assert.Equal(t, "9521234000013\n", run(t, exec.Command(psql, "-X", "-A", "-t", "-d", source, "-c", "select '9521234000013'")))
	})
	t.Run("a browser runs a page", func(t *testing.T) {
		path := filepath.Join(t.TempDir(), "page.html")
		require.NoError(t, os.WriteFile(path, []byte(`<p>none</p><script>document.querySelector("p").textContent = "hive " + 6 * 7</script>`), 0o666))
		assert.Contains(t, Page(t, "file://"+path), "<p>hive 42</p>")
	})
}
