package spread

import (
	"encoding/binary"
	"slices"
)

// A Role says what the numbers of a column are.
type Role uint8

// The roles. Prices of the first ones are in the order in which they should be: what a product costs is not more than the least that is
// asked for it, and so on.
const (
	Cost Role = iota
	Floor
	Sale
	Price
	List
	Wholesale
	Weight
	Stock
	numRoles
)

// isMoney reports whether the numbers are amounts of money.
func (r Role) isMoney() bool { return r <= Wholesale }

// A Column is one of a table.
type Column struct {
	Role Role
	// Of is the column, by its place, of which this one is the numbers that the shop has had; -1 for a column of the sheet.
	Of int
}

// mostRows is how many rows are kept; what stands below them is judged by them, but is not looked through for what is shifted.
const mostRows = 4 << 20

// MostCategories is how many categories are told apart: those whose hashes are the smallest.
const MostCategories = 4096

// A Table is what is kept of the rows of a sheet: an ordered monoid.
type Table struct {
	columns []Column
	chunks  []*chunk // in the order of the rows
	rows    int
}

// A chunk is a stretch of rows.
type chunk struct {
	numbers    []uint32
	category   []uint16 // by their places among the categories
	categories []uint64 // their hashes
	levels     [][]Level
	places     map[uint64]uint16 // of categories; nil once the chunk is done
}

// noCategory is the place of a row without one.
const noCategory = 1<<16 - 1

// New returns an empty table.
func New(columns []Column) *Table { return &Table{columns: columns} }

// Add takes in a row: its number, the hash of its category, 0 for none, and a level for each column.
func (t *Table) Add(number int, category uint64, levels []Level) {
	if t.rows >= mostRows {
		return
	}
	last := len(t.chunks) - 1
	if last < 0 || len(t.chunks[last].categories) >= noCategory {
		t.chunks = append(t.chunks, &chunk{places: make(map[uint64]uint16), levels: make([][]Level, len(t.columns))})
		last++
	}
	c := t.chunks[last]
	place := uint16(noCategory)
	if category != 0 {
		var known bool
		if place, known = c.places[category]; !known {
			if c.places == nil {
				c.places = make(map[uint64]uint16)
				for n, hash := range c.categories {
					c.places[hash] = uint16(n)
				}
			}
			place = uint16(len(c.categories))
			c.categories, c.places[category] = append(c.categories, category), place
		}
	}
	t.rows++
	c.numbers, c.category = append(c.numbers, uint32(number)), append(c.category, place)
	for n := range t.columns {
		c.levels[n] = append(c.levels[n], levels[n])
	}
}

// Place adds a number to those of all rows.
func (t *Table) Place(above int) {
	for _, c := range t.chunks {
		for i := range c.numbers {
			c.numbers[i] += uint32(above)
		}
	}
}

// Merge takes in the rows that come after.
func (t *Table) Merge(next *Table) {
	for _, c := range next.chunks {
		c.places = nil
		if over := t.rows + len(c.numbers) - mostRows; over > 0 {
			keep := len(c.numbers) - over
			c.numbers, c.category = c.numbers[:keep], c.category[:keep]
			for n := range c.levels {
				c.levels[n] = c.levels[n][:keep]
			}
		}
		if len(c.numbers) > 0 {
			t.chunks = append(t.chunks, c)
			t.rows += len(c.numbers)
		}
	}
}

// AppendBinary appends the rows.
func (t *Table) AppendBinary(b []byte) []byte {
	for _, c := range t.chunks {
		for i, number := range c.numbers {
			b = binary.AppendUvarint(b, uint64(number))
			hash := uint64(0)
			if c.category[i] != noCategory {
				hash = c.categories[c.category[i]]
			}
			b = binary.LittleEndian.AppendUint64(b, hash)
			for _, levels := range c.levels {
				b = binary.LittleEndian.AppendUint16(b, uint16(levels[i]))
			}
		}
	}
	return b
}

// rows are all rows of a table, one after the other.
type rows struct {
	columns  []Column
	numbers  []uint32
	category []int32 // -1 for none, or one that is not told apart
	count    int     // of categories
	levels   [][]Level
	hashes   []uint64 // of the categories

	counts []int32 // scratch
}

// Leave stands in place of the mark before decimals of a column that is not to be judged.
const Leave = '\x01'

// all puts the rows of a table together. decimals are the marks before decimals in its columns.
func (t *Table) all(decimals []rune) *rows {
	r := &rows{columns: t.columns, numbers: make([]uint32, 0, t.rows), category: make([]int32, 0, t.rows), levels: make([][]Level, len(t.columns))}
	var hashes []uint64
	for _, c := range t.chunks {
		hashes = append(hashes, c.categories...)
		if len(hashes) > 8*MostCategories {
			hashes = fewest(hashes)
		}
	}
	hashes = fewest(hashes)
	r.count, r.hashes = len(hashes), hashes
	for n := range r.levels {
		r.levels[n] = make([]Level, 0, t.rows)
	}
	for _, c := range t.chunks {
		ids := make([]int32, len(c.categories))
		for n, hash := range c.categories {
			at, found := slices.BinarySearch(hashes, hash)
			if ids[n] = int32(at); !found {
				ids[n] = -1
			}
		}
		r.numbers = append(r.numbers, c.numbers...)
		for _, place := range c.category {
			if place == noCategory {
				r.category = append(r.category, -1)
			} else {
				r.category = append(r.category, ids[place])
			}
		}
		for n, levels := range c.levels {
			for _, l := range levels {
				if decimals[n] == Leave {
					l = None
				}
				r.levels[n] = append(r.levels[n], l.settled(decimals[n]))
			}
		}
	}
	return r
}

// windows returns stretches of the rows, so many of them and so long, one behind the other.
func (r *rows) windows(count, length int) *rows {
	w := &rows{columns: r.columns, count: r.count, hashes: r.hashes, levels: make([][]Level, len(r.levels))}
	for n := range count {
		from := n * (len(r.numbers) - length) / (count - 1)
		w.numbers, w.category = append(w.numbers, r.numbers[from:from+length]...), append(w.category, r.category[from:from+length]...)
		for c := range r.levels {
			w.levels[c] = append(w.levels[c], r.levels[c][from:from+length]...)
		}
	}
	return w
}

// fewest returns the smallest hashes, sorted, each once.
func fewest(hashes []uint64) []uint64 {
	slices.Sort(hashes)
	hashes = slices.Compact(hashes)
	return hashes[:min(len(hashes), MostCategories)]
}

// of returns the place of the column of a role, -1 if there is none; the first, and none of the shop's.
func (r *rows) of(role Role) int {
	return slices.IndexFunc(r.columns, func(c Column) bool { return c.Role == role && c.Of < 0 })
}

// A Spread is where the middle of levels is, and how far they are from it: the median of that, as a standard deviation; both in hundredths
// of a decade.
type Spread struct {
	Middle, Wide Level
	Count        int
}

// narrowest is how wide a spread is at least: where all prices are the same, one that is a little higher is no wonder.
const narrowest = 4

// fewLevels are sorted; more are counted.
const fewLevels = 32

// spreadOf returns the spread of levels, which it may sort; counts are scratch.
func spreadOf(levels []Level, counts *[]int32) Spread {
	if len(levels) == 0 {
		return Spread{}
	}
	if len(levels) <= fewLevels {
		slices.Sort(levels)
		return Spread{levels[(len(levels)-1)/2], wide(far(levels)), len(levels)}
	}
	least, most := slices.Min(levels), slices.Max(levels)
	bins := int(most) - int(least) + 1
	if cap(*counts) < bins {
		*counts = make([]int32, bins)
	}
	c := (*counts)[:bins]
	clear(c)
	for _, l := range levels {
		c[int(l)-int(least)]++
	}
	middle, below := 0, 0
	for below+int(c[middle]) <= (len(levels)-1)/2 {
		below += int(c[middle])
		middle++
	}
	distance, within := 0, int(c[middle])
	for within < len(levels)/2+1 {
		distance++
		if middle-distance >= 0 {
			within += int(c[middle-distance])
		}
		if middle+distance < bins {
			within += int(c[middle+distance])
		}
	}
	return Spread{least + Level(middle), wide(Level(distance)), len(levels)}
}

// wide returns the spread by the median of the distances from the middle.
func wide(distance Level) Level { return max(narrowest, Level(int(distance)*3/2)) }

// far returns the median of how far sorted levels are from their middle.
func far(levels []Level) (distance Level) {
	at := (len(levels) - 1) / 2
	middle, up, down := levels[at], levels[at:], levels[:at]
	i, j := 0, len(down)-1
	for range len(levels)/2 + 1 {
		switch {
		case j < 0 || i < len(up) && up[i]-middle <= middle-down[j]:
			distance = up[i] - middle
			i++
		default:
			distance = middle - down[j]
			j--
		}
	}
	return distance
}

// byCategory returns the spreads of values by category; value returns false where a row has none.
func (r *rows) byCategory(value func(i int) (Level, bool)) []Spread {
	counts := make([]int, r.count+1)
	for i, c := range r.category {
		if _, ok := value(i); ok && c >= 0 {
			counts[c+1]++
		}
	}
	for c := range r.count {
		counts[c+1] += counts[c]
	}
	all := make([]Level, counts[r.count])
	next := slices.Clone(counts)
	for i, c := range r.category {
		if v, ok := value(i); ok && c >= 0 {
			all[next[c]] = v
			next[c]++
		}
	}
	spreads := make([]Spread, r.count)
	for c := range spreads {
		spreads[c] = spreadOf(all[counts[c]:counts[c+1]], &r.counts)
	}
	return spreads
}

// overall returns the spread of all values.
func (r *rows) overall(value func(i int) (Level, bool)) Spread {
	all := make([]Level, 0, len(r.numbers))
	for i := range r.numbers {
		if v, ok := value(i); ok {
			all = append(all, v)
		}
	}
	return spreadOf(all, &r.counts)
}
