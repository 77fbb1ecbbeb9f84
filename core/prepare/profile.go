package prepare

import (
	"bytes"
	"compress/zlib"
	"encoding/binary"
	"hash/crc32"
	"io"

	"zetanum/core/picture"
)

// mostProfile is how many bytes the profile of colours has at most.
const mostProfile = 4 << 20

// profile returns the profile of the colours of a picture (ICC.1), nil if it has none, or none of red, green and blue: without it, colours of
// phones and cameras would look paler. A picture that says something wrong there has none.
func profile(t picture.Type, r io.ReaderAt, size int64) []byte {
	var p []byte
	switch t {
	case picture.JPEG:
		p = ofJPEG(io.NewSectionReader(r, 0, size))
	case picture.PNG:
		p = ofPNG(io.NewSectionReader(r, 0, size))
	}
	if len(p) < 128 || len(p) > mostProfile || string(p[16:20]) != "RGB " || int(binary.BigEndian.Uint32(p)) != len(p) {
		return nil
	}
	return p
}

const (
	appTwo  = 0xE2              // the marker of segments with parts of a profile
	iccSign = "ICC_PROFILE\x00" // with which they begin
)

// ofJPEG puts the parts of a profile together (ICC.1:2010, B.4).
func ofJPEG(r io.ReadSeeker) []byte {
	var parts [256][]byte
	count := 0
	for at := int64(2); ; {
		var head [4]byte
		if _, err := r.Seek(at, io.SeekStart); err != nil {
			return nil
		}
		if _, err := io.ReadFull(r, head[:]); err != nil || head[0] != 0xFF || head[1] == 0xDA {
			break
		}
		if head[1] == 0xFF {
			at++
			continue
		}
		length := int64(binary.BigEndian.Uint16(head[2:]))
		if head[1] == appTwo && length > 16 {
			b := make([]byte, length-2)
			if _, err := io.ReadFull(r, b); err != nil {
				return nil
			}
			if string(b[:12]) == iccSign {
				parts[b[12]], count = b[14:], int(b[13])
			}
		}
		at += 2 + length
	}
	var whole []byte
	for n := 1; n <= count; n++ {
		whole = append(whole, parts[n]...)
	}
	return whole
}

// ofPNG unpacks the profile (PNG, 11.3.2.3).
func ofPNG(r io.ReadSeeker) []byte {
	for at := int64(8); ; {
		var head [8]byte
		if _, err := r.Seek(at, io.SeekStart); err != nil {
			return nil
		}
		if _, err := io.ReadFull(r, head[:]); err != nil || string(head[4:]) == "IDAT" {
			return nil
		}
		length := int64(binary.BigEndian.Uint32(head[:]))
		if string(head[4:]) == "iCCP" && length < mostProfile {
			b := make([]byte, length)
			if _, err := io.ReadFull(r, b); err != nil {
				return nil
			}
			end := bytes.IndexByte(b, 0)
			if end < 0 || end+2 > len(b) {
				return nil
			}
			packed, err := zlib.NewReader(bytes.NewReader(b[end+2:]))
			if err != nil {
				return nil
			}
			whole, err := io.ReadAll(io.LimitReader(packed, mostProfile+1))
			if err != nil {
				return nil
			}
			return whole
		}
		at += 12 + length
	}
}

// mostSegment is how much of a profile stands in one segment of a JPEG.
const mostSegment = 65519

// withProfile puts a profile into a picture that was just written: behind the first marker of a JPEG, or the first chunk of a PNG.
func withProfile(t picture.Type, b, p []byte) []byte {
	var out bytes.Buffer
	if t == picture.PNG {
		var data bytes.Buffer
		data.WriteString("iCCPprofile\x00\x00")
		z := zlib.NewWriter(&data)
		_, _ = z.Write(p) // into memory, where nothing goes wrong
		_ = z.Close()
		const header = 8 + 25 // IHDR
		out.Write(b[:header])
		out.Write(binary.BigEndian.AppendUint32(nil, uint32(data.Len()-4)))
		out.Write(data.Bytes())
		out.Write(binary.BigEndian.AppendUint32(nil, crc32.ChecksumIEEE(data.Bytes())))
		out.Write(b[header:])
		return out.Bytes()
	}
	count := (len(p) + mostSegment - 1) / mostSegment
	if count > 255 {
		return b
	}
	out.Write(b[:2])
	for n := 1; n <= count; n++ {
		part := p[:min(len(p), mostSegment)]
		p = p[len(part):]
		out.Write([]byte{0xFF, appTwo})
		out.Write(binary.BigEndian.AppendUint16(nil, uint16(len(part)+16)))
		out.WriteString(iccSign)
		out.Write([]byte{byte(n), byte(count)})
		out.Write(part)
	}
	out.Write(b[2:])
	return out.Bytes()
}
