package register

import (
	"database/sql"
	"fmt"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/barcode"
)

// seen is a barcode to be remembered, of a number without its check digit.
func seen(source, sku string, number uint64, title string) Seen {
	code, err := barcode.Complete(fmt.Sprint(number))
	if err != nil {
		panic(err)
	}
	return Seen{Source: source, SKU: sku, Title: title, Code: code, Key: testKeys.Seen(source, sku)}
}

// TestRemember: barcodes are remembered when the run is over, and not before; several of one SKU, and one of
// several SKUs, are told apart; and a file is not answered with what it had itself.
func TestRemember(t *testing.T) {
	onBoth(t, func(t *testing.T, open func() *Register, c *clock) {
		ctx, r := t.Context(), open()
		recall := func(but uint64, skus ...string) (said []string) {
			var keys []uint64
			for _, sku := range skus {
				keys = append(keys, testKeys.Seen("hollowbrook", sku))
			}
			list, err := r.Recall(ctx, keys, but)
			require.NoError(t, err)
			for _, s := range list {
				said = append(said, fmt.Sprintf("%s %s %s %s", s.SKU, s.Code, s.Day, s.Elsewhere))
			}
			return said
		}
		begin := func(day string, file uint64) *Run {
			run, err := r.Begin(ctx, day, file, false)
			require.NoError(t, err)
			return run
		}
		may := begin("2026-05-01", 5)
		differing, err := may.Remember(ctx, []Seen{
			seen("hollowbrook", "A", 952123400001, "Bell"), seen("hollowbrook", "B", 952123400002, "Axle"),
			seen("hollowbrook", "C", 952123400003, "Grip"), seen("hollowbrook", "A", 952123400001, "Bell"),
			seen("saltmarsh", "B", 952123400009, "Kelp"),
		}, []uint64{11, 12})
		require.NoError(t, err)
		assert.Empty(t, differing)
		assert.Equal(t, 4, may.Noted)
		assert.Empty(t, recall(0, "A", "B"), "the run is not over")
		serial, err := may.Commit(ctx)
		require.NoError(t, err)
		assert.Equal(t, uint64(1), serial)
		known, err := r.Stretches(ctx)
		require.NoError(t, err)
		assert.Equal(t, map[uint64]bool{11: true, 12: true}, known)
		assert.ElementsMatch(t, []string{"A 9521234000013 2026-05-01 ", "B 9521234000020 2026-05-01 "}, recall(0, "A", "B", "D"))
		assert.Empty(t, recall(5, "A", "B"), "the same file")

		june := begin("2026-06-01", 6)
		differing, err = june.Remember(ctx, []Seen{seen("hollowbrook", "A", 952123400004, "Bell"), seen("hollowbrook", "D", 952123400003, "Grip"),
			seen("hollowbrook", "B", 952123400002, "Axle, long")}, nil)
		require.NoError(t, err)
		require.Len(t, differing, 1)
		assert.Equal(t, "9521234000044 9521234000013 2026-05-01", fmt.Sprint(differing[0].Now.Code, " ", differing[0].Was.Code, " ", differing[0].Was.Day))
		_, err = june.Commit(ctx)
		require.NoError(t, err)
		assert.ElementsMatch(t, []string{"A 9521234000013 2026-05-01 ", "A 9521234000044 2026-06-01 ", "B 9521234000020 2026-05-01 ",
			"C 9521234000037 2026-05-01 D", "D 9521234000037 2026-06-01 C"}, recall(0, "A", "B", "C", "D"))

		// What a run has that fails, or is killed, is not remembered, and those who relied on it look again.
		fails, other, killed := begin("2026-07-01", 7), begin("2026-07-01", 8), begin("2026-07-01", 9)
		for n, run := range []*Run{fails, other, killed} {
			_, err := run.Remember(ctx, []Seen{seen("hollowbrook", "E", 952123400005, "Hook"), seen("hollowbrook", fmt.Sprint("F", n), 952123400010+uint64(n), "")}, []uint64{uint64(20 + n)})
			require.NoError(t, err)
		}
		_, err = other.Commit(ctx)
		require.NoError(t, err)
		require.NoError(t, fails.Rollback())
		assert.Equal(t, []string{"F1 9521234000112 2026-07-01 "}, recall(0, "E", "F0", "F1", "F2"))
		known, err = r.Stretches(ctx)
		require.NoError(t, err)
		assert.Empty(t, known)
		killed.end()
		c.forward(Lease + time.Second)
		require.NoError(t, r.Tidy(ctx))
		check, err := r.Verify(ctx)
		require.NoError(t, err)
		assert.Equal(t, Check{Serial: 3, Seen: 7}, check)

		found, err := r.FindSeen(ctx, "9521234000037", func(string) uint64 { return 0 })
		require.NoError(t, err)
		require.Len(t, found, 2)
		require.NoError(t, r.ForgetSeen(ctx, &found[1]))
		assert.Equal(t, []string{"C 9521234000037 2026-05-01 "}, recall(0, "C", "D"))
		found, err = r.FindSeen(ctx, "B", func(source string) uint64 { return testKeys.Seen(source, "B") })
		require.NoError(t, err)
		assert.Len(t, found, 2, "of two sources")
		sums, err := r.SeenSums(ctx)
		require.NoError(t, err)
		assert.Equal(t, []Sum{{"hollowbrook", 5, "2026-07-01"}, {"saltmarsh", 1, "2026-05-01"}}, sums)
	})
}

// TestForward: a register of an earlier version is brought forward with all that it has, and a copy stays of
// how it was; one that cannot be copied stays as it is.
func TestForward(t *testing.T) {
	dir := t.TempDir()
	at := filepath.Join(dir, "codes.register")
	db, err := sql.Open("sqlite", "file:"+at)
	require.NoError(t, err)
	for _, statement := range append(fileDialect{}.steps()[0], "insert into runs values (1, 1, 0, '2026-01-01')", "insert into codes values (7, 'sku', 'A-1', 'bell', 1)") {
		_, err := db.Exec(statement)
		require.NoError(t, err)
	}
	require.NoError(t, db.Close())
	writeFile := func(name string) { require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte("mine"), 0o666)) }
	writeFile("codes.register.version-1")
	r, err := Open(t.Context(), at, false, time.Now)
	require.NoError(t, err)
	check, err := r.Verify(t.Context())
	require.NoError(t, err)
	assert.Equal(t, Check{Codes: 1}, check)
	require.NoError(t, r.Close())
	mine, err := os.ReadFile(filepath.Join(dir, "codes.register.version-1"))
	require.NoError(t, err)
	assert.Equal(t, "mine", string(mine))
	db, err = sql.Open("sqlite", "file:"+filepath.Join(dir, "codes.register.version-1-2"))
	require.NoError(t, err)
	defer db.Close()
	var version, codes int
	require.NoError(t, db.QueryRow("pragma user_version").Scan(&version))
	require.NoError(t, db.QueryRow("select count(*) from codes").Scan(&codes))
	assert.Equal(t, []int{1, 1}, []int{version, codes})
}
