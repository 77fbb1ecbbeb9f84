package spread

import (
	"math"
	"math/big"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
)

// TestLevels: a level is the nearest hundredth of a decade, exactly.
func TestLevels(t *testing.T) {
	t.Parallel()
	for k, h := range hundredths { // h^200 ≥ 10^(3600+2k-1) > (h-1)^200
		power := func(n uint64) *big.Int {
			return new(big.Int).Exp(new(big.Int).SetUint64(n), big.NewInt(200), nil)
		}
		limit := new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(3600+2*k+1)), nil)
		assert.True(t, power(h).Cmp(limit) >= 0 && power(h-1).Cmp(limit) < 0, k)
	}
	for _, tt := range []struct {
		coef uint64
		exp  int
		want Level
	}{{1, 0, 0}, {10, 0, 100}, {1, 2, 200}, {1000, -3, 0}, {5, -1, -30}, {99999, 0, 500}, {316, -2, 50}, {0, 3, Nought}, {math.MaxUint64, 0, 1927}, {1, -400, least}} {
		assert.Equal(t, tt.want, LevelOf(tt.coef, tt.exp), "%d e%d", tt.coef, tt.exp)
	}
	open := LevelOf(1234, 0).Open(',')
	assert.Equal(t, []Level{9, 309, Unread}, []Level{open.settled(','), open.settled('.'), open.settled(0)})
	assert.Equal(t, None, None.Open('.').settled('.'))
	for _, all := range [][]Level{{5}, {1, 2, 3}, {7, 7, 7, 90}, {-40, 0, 10, 300, 4}} {
		assert.GreaterOrEqual(t, spreadOf(all, new([]int32)).Wide, Level(narrowest))
	}
	for n := range 300 { // sorted or counted, it is the same
		var all []Level
		for i := range n + 1 {
			all = append(all, Level((i*i*7919+i*31)%(100+n)))
		}
		want := slices.Clone(all)
		slices.Sort(want)
		assert.Equal(t, Spread{want[n/2], wide(far(want)), n + 1}, spreadOf(all, new([]int32)), n)
	}
	assert.Equal(t, Spread{10, 15, 5}, spreadOf([]Level{20, 0, 10, 9, 500}, new([]int32)))
}

// A shop makes honest catalogues: categories of a middle and a spread each, costs from which prices follow, some sales, weights, some products
// that are much dearer than the others.
type shop struct {
	*rand.Rand
	rows    int
	cats    int
	sorted  bool
	numbers [4][]float64
	cat     []int
}

var shopColumns = []Column{{Cost, -1}, {Price, -1}, {Sale, -1}, {Weight, -1}}

func newShop(seed uint64) *shop {
	s := &shop{Rand: rand.New(rand.NewPCG(seed, 1))}
	s.rows, s.cats, s.sorted = 40+s.IntN(200), 1+s.IntN(9), s.IntN(4) == 0
	middle, wide, heavy := make([]float64, s.cats), make([]float64, s.cats), make([]float64, s.cats)
	for c := range s.cats {
		middle[c], wide[c], heavy[c] = 10*math.Pow(10, 2*s.Float64()), .05+.3*s.Float64()*s.Float64(), .01*math.Pow(10, 3.5*s.Float64())
	}
	markup, step := 1.3+1.5*s.Float64(), .01+.06*s.Float64()
	for i := range s.rows {
		c := s.IntN(s.cats)
		if s.sorted {
			c = i * s.cats / s.rows
		}
		price := middle[c] * math.Pow(10, wide[c]*s.NormFloat64())
		if s.IntN(40) == 0 {
			price *= math.Pow(10, 2*s.Float64()-.5)
		}
		cost, sale := price/(markup*math.Pow(10, step*s.NormFloat64())), math.NaN()
		if s.IntN(5) == 0 {
			sale = cost + (price-cost)*(.2+.6*s.Float64())
		}
		weight := heavy[c] * math.Pow(price/middle[c], .3) * math.Pow(10, .15*s.NormFloat64())
		s.cat = append(s.cat, c+1)
		for n, v := range []float64{cost, price, sale, weight} {
			s.numbers[n] = append(s.numbers[n], v)
		}
	}
	return s
}

// table returns the columns of the catalogue as tables of so many rows each.
func (s *shop) tables(columns []Column, use []int, size int) (all []*Table) {
	levels := make([]Level, len(use))
	for i := range s.rows {
		if i%size == 0 {
			all = append(all, New(columns))
		}
		for n, c := range use {
			if levels[n] = None; !math.IsNaN(s.numbers[c][i]) {
				levels[n] = LevelOf(uint64(math.Round(1000*s.numbers[c][i])), -3)
			}
		}
		all[len(all)-1].Add(i%size+2, uint64(s.cat[i]), levels)
	}
	for n, t := range all {
		t.Place(n * size)
	}
	return all
}

func (s *shop) judge(use ...int) Verdict {
	var columns []Column
	for _, c := range use {
		columns = append(columns, shopColumns[c])
	}
	return s.tables(columns, use, s.rows)[0].Judge(make([]rune, len(use)))
}

// shift moves the numbers of rows up by one, as when a cell is deleted.
func (s *shop) shift(col, first, last int) {
	for i := first; i <= last; i++ {
		if i+1 < s.rows {
			s.numbers[col][i] = s.numbers[col][i+1]
		}
	}
	s.numbers[col][last] = math.NaN()
}

// TestHonest: in honest catalogues nothing is said of numbers that the costs explain, and nothing is shifted or swapped.
func TestHonest(t *testing.T) {
	t.Parallel()
	for seed := range uint64(400) {
		for _, use := range [][]int{{0, 1, 2, 3}, {1, 2, 3}, {1}, {3, 1}} {
			v := newShop(seed).judge(use...)
			assert.Empty(t, v.Shifts, "%d %v", seed, use)
			assert.Empty(t, v.Swaps, "%d %v", seed, use)
			if use[0] == 0 {
				assert.Empty(t, v.Odd, "%d", seed)
			}
		}
	}
}

// TestPlanted: what is planted is found where there is something to see it by: all of it beside costs, most of it without.
func TestPlanted(t *testing.T) {
	if testing.Short() {
		t.Skip("of few catalogues the figures say too little")
	}
	t.Parallel()
	for _, tt := range []struct {
		use                  []int
		shifted, odd, swaped int // percent
	}{{[]int{0, 1, 2, 3}, 97, 99, 99}, {[]int{1, 2, 3}, 90, 80, 0}, {[]int{1}, 85, 75, 0}} {
		var all, shifted, odd, swapped int
		for seed := range uint64(400) {
			s := newShop(seed + 5000)
			if s.sorted || s.cats < 4 {
				continue
			}
			all++
			first := s.IntN(s.rows / 2)
			last := min(s.rows-1, first+20+s.IntN(s.rows))
			s.shift(1, first, last)
			for _, f := range s.judge(tt.use...).Shifts {
				if 10*(min(f.Last-2, last)-max(f.First-2, first)+1) >= 8*(last-first+1) && f.By == 1 {
					shifted++
				}
			}
			s = newShop(seed + 5000)
			at := s.IntN(s.rows)
			s.numbers[1][at] *= 100
			for _, o := range s.judge(tt.use...).Odd {
				if o.Row == at+2 && o.Tens == 2 {
					odd++
				}
			}
			s = newShop(seed + 5000)
			s.numbers[0], s.numbers[1] = s.numbers[1], s.numbers[0]
			for _, f := range s.judge(tt.use...).Swaps {
				if 10*f.Rows >= 9*s.rows && shopColumns[tt.use[f.Lower]].Role == Cost && shopColumns[tt.use[f.Upper]].Role == Price {
					swapped++
				}
			}
		}
		t.Logf("%v: of %d each, shifted stretches %d, lost decimals %d, swapped columns %d", tt.use, all, shifted, odd, swapped)
		assert.GreaterOrEqual(t, 100*shifted, tt.shifted*all)
		assert.GreaterOrEqual(t, 100*odd, tt.odd*all)
		assert.GreaterOrEqual(t, 100*swapped, tt.swaped*all)
	}
}

// TestCut: however the rows are cut, the verdict is the same.
func TestCut(t *testing.T) {
	t.Parallel()
	use := []int{0, 1, 2, 3}
	for seed := range uint64(30) {
		s := newShop(seed + 9000)
		s.shift(1, 5, s.rows/2)
		s.numbers[3][s.rows-3] *= 1000
		whole := s.tables(shopColumns, use, s.rows)[0]
		bytes, want := whole.AppendBinary(nil), whole.Judge(make([]rune, 4))
		for _, size := range []int{1, 7, 50} {
			parts := s.tables(shopColumns, use, size)
			for len(parts) > 1 { // in any order of bracketing
				n := s.IntN(len(parts) - 1)
				parts[n].Merge(parts[n+1])
				parts = append(parts[:n+1], parts[n+2:]...)
			}
			assert.Equal(t, bytes, parts[0].AppendBinary(nil))
			assert.Equal(t, want, parts[0].Judge(make([]rune, 4)))
		}
	}
}

func BenchmarkJudge(b *testing.B) {
	s := &shop{Rand: rand.New(rand.NewPCG(1, 1)), rows: 300000}
	for range s.rows {
		s.cat = append(s.cat, 1+s.IntN(900))
		for n := range s.numbers {
			s.numbers[n] = append(s.numbers[n], 10*math.Exp(s.NormFloat64()))
		}
	}
	t := s.tables(shopColumns, []int{0, 1, 2, 3}, s.rows)[0]
	b.ReportAllocs()
	for b.Loop() {
		t.Judge(make([]rune, 4))
	}
}

func BenchmarkLevelOf(b *testing.B) {
	for i := uint64(1); b.Loop(); i++ {
		LevelOf(i*7919%1000000, -2)
	}
}
