package spill

import (
	"bytes"
	"encoding/binary"
	"fmt"
	"math/rand/v2"
	"os"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// TestSpill: however little is kept in memory, records come in order, those of a number are
// found, texts are where they were put, and no file stays.
func TestSpill(t *testing.T) {
	r := rand.New(rand.NewPCG(16, 6))
	for range 60 {
		dir := t.TempDir()
		s := &Sorter{Dir: dir, Most: 1 + r.IntN(400)}
		var want []Record
		numbers := 1 + r.Uint32N(600)
		for range r.IntN(1000) {
			var record Record
			binary.BigEndian.PutUint32(record[:], r.Uint32N(numbers))
			binary.BigEndian.PutUint32(record[Width-4:], r.Uint32N(5))
			want = append(want, record)
			require.NoError(t, s.Add(record))
		}
		slices.SortFunc(want, func(a, b Record) int { return bytes.Compare(a[:], b[:]) })
		if r.IntN(2) == 0 {
			var got []Record
			require.NoError(t, s.Each(func(r *Record) error { got = append(got, *r); return nil }))
			require.Equal(t, want, got)
			require.NoError(t, s.Close())
		} else {
			table, err := s.Table()
			require.NoError(t, err)
			require.NoError(t, s.Close())
			require.Equal(t, len(want), table.Len())
			find := table.Finder()
			for i := range 2 * (numbers + 2) { // one after the other, and then anyhow
				number := i
				if i >= numbers+2 {
					number = r.Uint32N(numbers + 2)
				}
				var those []Record
				for _, w := range want {
					if binary.BigEndian.Uint32(w[:]) == number {
						those = append(those, w)
					}
				}
				got, err := find.Find(number, nil)
				require.NoError(t, err)
				require.Equal(t, those, got)
			}
			require.NoError(t, table.Close())
		}
		b := &Bytes{Dir: dir, Most: r.IntN(3000)}
		texts := make(map[int64][]byte)
		for range 200 {
			text := bytes.Repeat([]byte{byte(r.Uint32())}, r.IntN(30))
			if r.IntN(50) == 0 {
				text = bytes.Repeat(text, 40_000)
			}
			at, err := b.Append(text)
			require.NoError(t, err)
			if len(text) > 0 {
				texts[at] = text
			}
		}
		for at, text := range texts {
			got, err := b.At(at, len(text))
			require.NoError(t, err)
			require.True(t, bytes.Equal(text, got))
		}
		require.NoError(t, b.Close())
		left, err := os.ReadDir(dir)
		require.NoError(t, err)
		assert.Empty(t, left)
	}
}

func BenchmarkSorter(b *testing.B) {
	for _, most := range []int{0, 100_000} {
		b.Run(fmt.Sprint("most=", most), func(b *testing.B) {
			r := rand.New(rand.NewPCG(1, 2))
			for b.Loop() {
				s := &Sorter{Dir: b.TempDir(), Most: most}
				var record Record
				for range 500_000 {
					binary.BigEndian.PutUint64(record[:], r.Uint64())
					if err := s.Add(record); err != nil {
						b.Fatal(err)
					}
				}
				if err := s.Each(func(*Record) error { return nil }); err != nil {
					b.Fatal(err)
				}
				if err := s.Close(); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}
