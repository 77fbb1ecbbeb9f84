package rehearse

import (
	"bufio"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"slices"

	"golang.org/x/text/encoding"
	"golang.org/x/text/transform"

	"zetanum/core/catalogue"
	"zetanum/core/charset"
)

// isForm returns why the file as a whole is refused: it is in another encoding than the importer reads, or not in the form of the template.
func (r *rehearsal) isForm() (string, error) {
	if why, err := r.encoding(); why != "" || err != nil {
		return why, err
	}
	if r.Form == nil || r.ready.InForm {
		return "", nil
	}
	return "it does not have the headings of the template " + r.Form.Path, nil
}

// encoding returns why the importer would read other characters than there are: the file is in UTF-8, and it reads another encoding, or it is not.
func (r *rehearsal) encoding() (string, error) {
	want, known := charset.Parse(r.Reading.Encoding)
	if !known || want.Wide() || r.ready.Form.Spooled || r.ready.Member != "" {
		return "", nil
	}
	file, err := os.Open(r.Ready)
	if errors.Is(err, fs.ErrNotExist) { // it is read from its parts, which we have written
		return "", nil
	}
	if err != nil {
		return "", err
	}
	defer file.Close()
	var other highBytes
	_, err = io.Copy(&other, transform.NewReader(bufio.NewReaderSize(file, 1<<18), encoding.UTF8Validator))
	switch {
	case errors.Is(err, encoding.ErrInvalidUTF8) && want == charset.UTF8:
		return "it is not in UTF-8, which the importer reads: letters with accents would be lost", nil
	case errors.Is(err, encoding.ErrInvalidUTF8):
		return "", nil
	case err == nil && bool(other) && want != charset.UTF8:
		return fmt.Sprintf("it is in UTF-8, and the importer reads %s: letters with accents would be two signs each", want), nil
	}
	return "", err
}

// highBytes says whether bytes were written that are not of ASCII.
type highBytes bool

func (h *highBytes) Write(b []byte) (int, error) {
	*h = *h || highBytes(slices.ContainsFunc(b, func(c byte) bool { return c >= 0x80 }))
	return len(b), nil
}

// tooLarge looks whether the file is more than the importer takes.
func (r *rehearsal) tooLarge() {
	rows := r.Rows
	if rows == 0 && r.Form != nil {
		rows = r.Form.MostRows
	}
	switch {
	case r.report.Form != "":
	case rows > 0 && r.report.Rows > rows:
		r.report.Form = fmt.Sprintf("it has %s rows, and %s is the most that a file may have; a repair with that limit under [target.limits] cuts it",
			catalogue.Thousands(uint64(r.report.Rows)), catalogue.Thousands(uint64(rows)))
	case r.Bytes > 0 && r.ready.Size > r.Bytes:
		r.report.Form = fmt.Sprintf("it has %s bytes, and %s is the most that a file may have", catalogue.Thousands(uint64(r.ready.Size)), catalogue.Thousands(uint64(r.Bytes)))
	}
}
