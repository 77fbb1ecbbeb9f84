package main

import (
	"encoding/binary"
	"encoding/xml"
	"errors"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"unicode"
)

// eachMessage hands out the messages of a catalogue in the binary format of GNU
// gettext: a header with the number of texts and where two lists of them are, the
// original and the translated ones, each entry a length and a place.
func eachMessage(data []byte, add func(id, text string)) error {
	bad := errors.New("not a catalogue of messages")
	if len(data) < 28 {
		return bad
	}
	var order binary.ByteOrder = binary.LittleEndian
	if order.Uint32(data) != 0x950412de {
		if order = binary.BigEndian; order.Uint32(data) != 0x950412de {
			return bad
		}
	}
	text := func(list, i uint32) (string, bool) {
		entry := uint64(list) + 8*uint64(i)
		if entry+8 > uint64(len(data)) {
			return "", false
		}
		size, from := uint64(order.Uint32(data[entry:])), uint64(order.Uint32(data[entry+4:]))
		if from+size > uint64(len(data)) {
			return "", false
		}
		return string(data[from : from+size]), true
	}
	for i := range order.Uint32(data[8:]) {
		id, ok := text(order.Uint32(data[12:]), i)
		translated, there := text(order.Uint32(data[16:]), i)
		if !ok || !there {
			return bad
		}
		if _, rest, context := strings.Cut(id, "\x04"); context {
			id = rest
		}
		if id != "" { // the header of the catalogue
			add(id, translated)
		}
	}
	return nil
}

// names returns the texts of a language in the locale files, each once, and the letters
// that it has.
func names(locale string) (list []string, letters map[rune]bool, err error) {
	letters = make(map[rune]bool)
	for _, folder := range []string{"main", "annotations"} {
		more, err := read(filepath.Join(*cldr, folder, locale+".xml"), letters)
		if err != nil {
			return nil, nil, err
		}
		list = append(list, more...)
	}
	slices.Sort(list)
	return slices.Compact(list), letters, nil
}

// read returns the texts of a file, and enters the letters that it says a language
// has.
func read(path string, letters map[rune]bool) (list []string, err error) {
	file, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	defer file.Close()
	inLetters := false
	d := xml.NewDecoder(file)
	for skip := 0; ; {
		token, err := d.Token()
		if errors.Is(err, io.EOF) {
			return list, nil
		}
		if err != nil {
			return nil, err
		}
		switch token := token.(type) {
		case xml.StartElement:
			inLetters = token.Name.Local == "exemplarCharacters" && len(token.Attr) == 0
			switch {
			case skip > 0, slices.Contains([]string{"exemplarCharacters", "ellipsis", "pattern", "numbers", "eras", "generation",
				"identity"}, token.Name.Local):
				skip++
			}
		case xml.EndElement:
			inLetters = false
			if skip > 0 {
				skip--
			}
		case xml.CharData:
			for _, r := range string(token) {
				if inLetters && unicode.IsLetter(r) {
					letters[unicode.ToLower(r)] = true
				}
			}
			if skip == 0 {
				list = append(list, strings.TrimSpace(string(token)))
			}
		}
	}
}
