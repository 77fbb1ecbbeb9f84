package workbook

import (
	"encoding/binary"
	"fmt"
	"math"
	"strconv"
	"strings"
)

// The records of BIFF8 that say what is asked of cells, and what names stand for (MS-XLS, 2.3).
const (
	recExternSheet = 0x0017
	recName        = 0x0018
	recDV          = 0x01be
	recMulBlank    = 0x00be
	recBlank       = 0x0201
)

var (
	demandKinds = [...]string{"", "whole", "decimal", "list", "date", "time", "textLength", "custom"}
	demandOps   = [...]string{"between", "notBetween", "equal", "notEqual", "greaterThan", "lessThan", "greaterThanOrEqual", "lessThanOrEqual"}
)

// eachRecord calls do with the records of a part of the stream, until it ends.
func (b *Book) eachRecord(at int, do func(kind uint16, c *chars) error) error {
	for depth := 0; ; {
		rec, ok := recordAt(b.stream, at)
		if !ok {
			return fmt.Errorf("%w: it ends in the middle", ErrDamaged)
		}
		at = rec.after
		switch rec.kind {
		case recBOF:
			depth++
			continue
		case recEOF:
			if depth--; depth <= 0 {
				return nil
			}
			continue
		}
		if depth == 1 {
			if err := do(rec.kind, &chars{data: rec.data, more: rec.more}); err != nil {
				return err
			}
		}
	}
}

// binaryDemands returns what a sheet in BIFF8 asks of its cells (MS-XLS, 2.4.90).
func (b *Book) binaryDemands(s *Sheet) (list []Demand, err error) {
	f, err := b.formulas()
	if err != nil {
		return nil, err
	}
	err = b.eachRecord(s.at, func(kind uint16, c *chars) error {
		if kind != recDV || len(list) == mostDemands {
			return nil
		}
		flags := c.u32()
		d := Demand{Kind: demandKinds[min(int(flags&15), len(demandKinds)-1)], Blank: flags&0x100 != 0}
		if d.Kind != "list" {
			d.Op = demandOps[flags>>20&7]
		}
		for n := range 4 { // the titles and texts of what is shown, and of an error
			text, err := c.text(int(c.u16()))
			if err != nil {
				return err
			}
			if n == 2 {
				d.Prompt = strings.Trim(text, "\x00")
			}
		}
		for _, to := range []*string{&d.First, &d.Second} {
			size := int(c.u16())
			c.u16()
			*to = f.text(c.bytes(size))
		}
		for range min(int(c.u16()), mostAreas) {
			row, toRow, col, toCol := int(c.u16())+1, int(c.u16())+1, int(c.u16())+1, int(c.u16())+1
			if c.end {
				break
			}
			d.Areas = append(d.Areas, Area{col, row, toCol, toRow})
		}
		if c.end {
			return fmt.Errorf("%w: what is asked of its cells is cut", ErrDamaged)
		}
		if d.Op != "between" && d.Op != "notBetween" {
			d.Second = ""
		}
		list = append(list, d)
		return nil
	})
	return list, err
}

// binaryNames returns what names stand for.
func (b *Book) binaryNames() (map[string]string, error) {
	f, err := b.formulas()
	if err != nil {
		return nil, err
	}
	names := make(map[string]string)
	for _, n := range f.names {
		if name := strings.ToLower(n.name); names[name] == "" {
			names[name] = f.text(n.tokens)
		}
	}
	return names, nil
}

// A binaryFormulas writes formulas of a binary workbook.
type binaryFormulas struct {
	sheets []string // by the numbers that formulas have for them
	names  []binaryName
}

type binaryName struct {
	name   string
	tokens []byte
}

// formulas reads what formulas of the workbook refer to.
func (b *Book) formulas() (*binaryFormulas, error) {
	f := new(binaryFormulas)
	var all []string
	err := b.eachRecord(0, func(kind uint16, c *chars) error {
		switch kind {
		case recBoundSheet:
			c.u32()
			c.u16()
			name, err := c.text(int(c.u8()))
			if err != nil {
				return err
			}
			all = append(all, name)
		case recExternSheet:
			for range c.u16() {
				c.u16() // the book: of another one there is no sheet of that number, or a wrong one that has no such cells
				first := int(c.u16())
				c.u16()
				if c.end {
					break
				}
				name := ""
				if first < len(all) {
					name = all[first]
				}
				f.sheets = append(f.sheets, name)
			}
		case recName:
			flags := c.u16()
			c.u8()
			length, size := int(c.u8()), int(c.u16())
			c.bytes(8)
			name, err := c.text(length)
			if err != nil {
				return err
			}
			if flags&0x20 != 0 { // one of the program's own
				name = ""
			}
			f.names = append(f.names, binaryName{name, c.bytes(min(size, 1<<16))})
		}
		return nil
	})
	return f, err
}

// text writes a formula; "" if it has anything that lists, lengths and numbers do not need (MS-XLS, 2.5.198).
func (f *binaryFormulas) text(tokens []byte) string {
	var stack []string
	c := &chars{data: tokens}
	push := func(s string) { stack = append(stack, s) }
	pop := func(n int) (args []string, ok bool) {
		if n > len(stack) {
			return nil, false
		}
		args = append(args, stack[len(stack)-n:]...)
		stack = stack[:len(stack)-n]
		return args, true
	}
	call := func(name string, n int) bool {
		args, ok := pop(n)
		if push(name + "(" + strings.Join(args, ",") + ")"); !ok {
			return false
		}
		return true
	}
	for len(c.data) > 0 {
		switch token := c.u8(); token {
		case 0x17: // a text; those of a list have zeros between them
			text, err := c.text(int(c.u8()))
			if err != nil {
				return ""
			}
			push(`"` + strings.ReplaceAll(strings.ReplaceAll(text, "\x00", ","), `"`, `""`) + `"`)
		case 0x1e:
			push(strconv.Itoa(int(c.u16())))
		case 0x1f:
			push(strconv.FormatFloat(math.Float64frombits(binary.LittleEndian.Uint64(c.bytes(8))), 'f', -1, 64))
		case 0x13, 0x12: // a sign
			if token == 0x13 && len(stack) > 0 {
				stack[len(stack)-1] = "-" + stack[len(stack)-1]
			}
		case 0x15, 0x16: // brackets, an argument that is left out
			if token == 0x16 {
				push("")
			}
		case 0x24, 0x44, 0x64, 0x2c, 0x4c, 0x6c:
			row, col := int(c.u16())+1, int(c.u16()&0xff)+1
			push(ColumnName(col-1) + strconv.Itoa(row))
		case 0x25, 0x45, 0x65, 0x2d, 0x4d, 0x6d:
			push(f.area(c, ""))
		case 0x3a, 0x5a, 0x7a:
			sheet := f.sheet(int(c.u16()))
			row, col := int(c.u16())+1, int(c.u16()&0xff)+1
			push(sheet + "$" + ColumnName(col-1) + "$" + strconv.Itoa(row))
		case 0x3b, 0x5b, 0x7b:
			push(f.area(c, f.sheet(int(c.u16()))))
		case 0x23, 0x43, 0x63:
			n := int(c.u32())
			if n < 1 || n > len(f.names) || f.names[n-1].name == "" {
				return ""
			}
			push(f.names[n-1].name)
		case 0x21, 0x41, 0x61, 0x22, 0x42, 0x62:
			given := -1
			if token&0x1f == 2 {
				given = int(c.u8() & 0x7f)
			}
			of, known := binaryFunctions[c.u16()]
			if !known {
				return ""
			}
			if given < 0 {
				given = of.args
			}
			if !call(of.name, given) {
				return ""
			}
		case 0x19: // what is about how it is calculated
			if kind, n := c.u8(), int(c.u16()); kind&4 != 0 {
				c.bytes(2 * (n + 1))
			}
		case 0x08:
			args, ok := pop(2)
			if !ok {
				return ""
			}
			push(args[0] + "&" + args[1])
		default:
			return ""
		}
		if c.end {
			return ""
		}
	}
	if len(stack) != 1 {
		return ""
	}
	return stack[0]
}

// binaryFunctions are those by which lists depend on another cell, and days are written.
var binaryFunctions = map[uint16]struct {
	name string
	args int
}{148: {"INDIRECT", 1}, 120: {"SUBSTITUTE", 3}, 65: {"DATE", 3}, 78: {"OFFSET", 3}, 64: {"MATCH", 3}, 221: {"TODAY", 0}, 169: {"COUNTA", 1}, 0: {"COUNT", 1}}

func (f *binaryFormulas) sheet(n int) string {
	if n >= len(f.sheets) {
		return "'?'!"
	}
	return "'" + f.sheets[n] + "'!"
}

func (f *binaryFormulas) area(c *chars, sheet string) string {
	row, toRow, col, toCol := int(c.u16())+1, int(c.u16())+1, int(c.u16()&0xff)+1, int(c.u16()&0xff)+1
	return sheet + "$" + ColumnName(col-1) + "$" + strconv.Itoa(row) + ":$" + ColumnName(toCol-1) + "$" + strconv.Itoa(toRow)
}
