package workbook

import (
	"bytes"
	"encoding/binary"
	"math"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// rec returns a record of a stream: its number, and what is in it.
func rec(kind uint16, parts ...any) []byte {
	var data []byte
	for _, p := range parts {
		switch p := p.(type) {
		case int:
			data = binary.LittleEndian.AppendUint16(data, uint16(p))
		case uint32:
			data = binary.LittleEndian.AppendUint32(data, p)
		case byte:
			data = append(data, p)
		case float64:
			data = binary.LittleEndian.AppendUint64(data, math.Float64bits(p))
		case string:
			data = append(data, p...)
		}
	}
	return append(binary.LittleEndian.AppendUint16(binary.LittleEndian.AppendUint16(nil, kind), uint16(len(data))), data...)
}

// stream returns one of a workbook with a sheet of these records, and with more records
// before them.
func stream(more, rows []byte) []byte {
	bof := rec(recBOF, 0x0600, 5, 0, 0, uint32(0), uint32(0))
	name := func(at int) []byte { return rec(recBoundSheet, uint32(at), byte(0), byte(0), byte(1), byte(0), "P") }
	globals := bytes.Join([][]byte{bof, name(0), more, rec(recEOF)}, nil)
	copy(globals[len(bof):], name(len(globals)))
	return bytes.Join([][]byte{globals, bof, rows, rec(recEOF)}, nil)
}

// TestXLS: the records of binary workbooks are read, texts that go on in another record
// included.
func TestXLS(t *testing.T) {
	sst := bytes.Join([][]byte{
		rec(recSST, uint32(3), uint32(3), 4, byte(0), "abcd", 5, byte(0), "xy"), rec(recContinue, byte(1), "z\x00\xfc\x00\x42\x04"),
		rec(recContinue, 2, byte(8|4), 1, uint32(3), "pq", uint32(9), "ext"),
	}, nil)
	styles := bytes.Join([][]byte{rec(recXF, 0, 0), rec(recXF, 0, 14), rec(recFormat, 170, 8, byte(0), "dd.mm.yy"), rec(recXF, 0, 170)},
		nil)
	rows := bytes.Join([][]byte{
		rec(recColInfo, 1, 2, 0, 0, 1), rec(recRow, 1, 0, 9, 0, 0, 0, 0x20),
		rec(recLabelSST, 0, 0, 0, uint32(0)), rec(recLabelSST, 0, 1, 0, uint32(1)), rec(recLabelSST, 0, 2, 0, uint32(2)),
		rec(recNumber, 1, 0, 0, 9521234000013.0), rec(recRK, 1, 1, 0, uint32(1295<<2|3)),
		rec(recMulRK, 1, 2, 1, uint32(46000<<2|2), 2, uint32(46001<<2|2), 3),
		rec(recBoolErr, 1, 5, 0, byte(1), byte(0)), rec(recBoolErr, 1, 6, 0, byte(0x17), byte(1)),
		rec(recLabel, 1, 7, 0, 2, byte(1), "\xfc\x00!\x00"),
		rec(recFormula, 2, 0, 0, 2.5, 0, uint32(0)), rec(recFormula, 2, 1, 0, "\x00\x00\x00\x00\x00\x00\xff\xff", 0),
		rec(recString, 2, byte(0), "ok"),
		rec(recFormula, 2, 2, 0, "\x02\x00\x07\x00\x00\x00\xff\xff", 0), rec(recFormula, 2, 3, 0, "\x01\x00\x00\x00\x00\x00\xff\xff", 0),
		rec(recBOF, 0x0600, 0x20), rec(recNumber, 0, 0, 0, 1.0), rec(recEOF), rec(recMerged, 1, 4, 5, 0, 1),
	}, nil)
	b := &Book{stream: stream(append(styles, sst...), rows)}
	require.NoError(t, b.readGlobals())
	s := b.Sheets[0]
	assert.Equal(t, map[string]string{
		"A1": "t abcd", "B1": "t xyzüт", "C1": "t pq", "A2": "n 9521234000013", "B2": "n 12.95", "C2": "d 2025-12-09", "D2": "d 2025-12-10",
		"F2": "b TRUE", "G2": "e #REF!", "H2": "t ü!",
		"A3": "nf 2.5", "B3": "tf ok", "C3": "ef #DIV/0!", "D3": "bf FALSE",
	}, said(t, b, s))
	assert.Equal(t, []Range{{2, 3}}, s.HiddenColumns)
	assert.Equal(t, []Area{{1, 5, 2, 6}}, s.Merged)
	assert.Equal(t, 1, s.HiddenRows)

	for want, data := range map[error][]byte{
		ErrPassword: stream(rec(recFilePass, 1), nil), ErrOlder: rec(recBOF, 0x0500, 5),
		ErrDamaged: stream(nil, rec(recLabelSST, 0, 0, 0, uint32(7))), ErrNotWorkbook: append(rec(recBOF, 0x0600, 5), rec(recEOF)...),
	} {
		b := &Book{stream: data}
		err := b.readGlobals()
		if err == nil {
			err = b.Rows(b.Sheets[0], func(*Row) error { return nil })
		}
		assert.ErrorIs(t, err, want)
	}
}

// FuzzXLS: whatever a stream is, it is read or refused.
func FuzzXLS(f *testing.F) {
	f.Add(stream(rec(recSST, uint32(1), uint32(1), 2, byte(0), "ab"), rec(recLabelSST, 0, 0, 0, uint32(0))))
	f.Add(stream(rec(recXF, 0, 14), rec(recMulRK, 1, 2, 0, uint32(46), 0, uint32(47), 3)))
	file, err := os.ReadFile("testdata/office.xls")
	require.NoError(f, err)
	whole := opened(f, file)
	f.Add(whole.stream)
	f.Fuzz(func(t *testing.T, data []byte) {
		b := &Book{stream: data}
		if b.readGlobals() != nil {
			return
		}
		for _, s := range b.Sheets {
			last := 0
			b.Rows(s, func(row *Row) error {
				assert.Greater(t, row.Number, last)
				last = row.Number
				return nil
			})
		}
	})
}

// FuzzCompound: whatever a compound file is, it is read or refused.
func FuzzCompound(f *testing.F) {
	file, err := os.ReadFile("testdata/office.xls")
	require.NoError(f, err)
	f.Add(file[8:])
	f.Fuzz(func(t *testing.T, data []byte) {
		data = append([]byte(Binary), data...)
		Open(bytes.NewReader(data), int64(len(data)))
	})
}
