package sections

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"slices"

	"zetanum/core/catalogue"
	"zetanum/core/disk"
	"zetanum/core/mint"
	"zetanum/core/rulebook"
)

// Remember writes answers into the lists of [answers] of a rulebook, and takes them out of
// those that said something else; the file is made if there is none. Nothing is written if what
// comes of it would not say so.
func Remember(path string, said catalogue.Decisions) error {
	content, err := readAny(path)
	if err != nil {
		return err
	}
	for _, d := range said {
		key, word := listed(&d)
		var others []rulebook.List
		for _, list := range new(Answers).lists() {
			if list.key != key {
				others = append(others, rulebook.List{Table: "answers", Key: list.key})
			}
		}
		content = rulebook.Put(content, rulebook.List{Table: "answers", Key: key}, word, others)
	}
	return replace(path, content, func(written string) error {
		book, err := Load(written)
		if err != nil {
			return err
		}
		for _, d := range said {
			d.Answer = max(d.Answer, catalogue.Yes)
			if d.Value != "" {
				d.Answer = catalogue.Unanswered
			}
			if !slices.Contains(book.Answers.Decisions(), d) {
				return errors.New("it has answers in another form than [answers] with a list for each kind; write them there yourself")
			}
		}
		return nil
	})
}

// RememberMint writes a rule that makes codes into a rulebook, behind those that are there, and returns its name; the rulebook is made if there is none.
func RememberMint(path string, rule mint.Rule) (string, error) {
	content, err := readAny(path)
	if err != nil {
		return "", err
	}
	order := newOf("mint", "into", quoted(rule.Into), "from", quoted(rule.From))
	if len(rule.By) > 0 {
		order.Lines = append(order.Lines, rulebook.Line{Key: "by", Value: listOf(rule.By)})
	}
	return path, replace(path, rulebook.Add(content, order, "", Places()), func(written string) error {
		book, err := Load(written)
		if err == nil && !slices.ContainsFunc(book.Mint, func(r mint.Rule) bool { return r.From == rule.From }) {
			err = errors.New("the rule would not be read as it is meant; write it there yourself")
		}
		return err
	})
}

// listed returns the key of the list in which a decision stands, and how it is written there.
func listed(d *catalogue.Decision) (key, word string) {
	word = d.Finding.String()
	if d.Column != "" {
		word += "=" + d.Column
	}
	answer := max(d.Answer, catalogue.Yes)
	if d.Value != "" {
		answer, word = catalogue.Unanswered, word+":"+d.Value
	}
	for _, list := range new(Answers).lists() {
		if list.answer == answer {
			key = list.key
		}
	}
	return key, word
}

// replace writes a file anew, whole or not at all, if what has been written stands a check.
func replace(path string, content []byte, check func(written string) error) (err error) {
	f, err := os.CreateTemp(filepath.Dir(path), "zetanum-*.toml")
	if err != nil {
		return err
	}
	defer func() {
		if err != nil {
			err = errors.Join(fmt.Errorf("%s could not be changed: %w", path, err), os.Remove(f.Name()))
		}
	}()
	_, err = f.Write(content)
	if err = errors.Join(err, disk.Flush(f), f.Close()); err != nil {
		return err
	}
	if err = check(f.Name()); err != nil {
		return err
	}
	mode := fs.FileMode(0o644)
	if info, statErr := os.Stat(path); statErr == nil {
		mode = info.Mode()
	}
	return errors.Join(os.Chmod(f.Name(), mode), os.Rename(f.Name(), path))
}

// readAny reads a rulebook; nothing stands in one that is not there.
func readAny(path string) ([]byte, error) {
	content, err := os.ReadFile(path)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, nil
	}
	return content, err
}

// Write writes the text of a rulebook, whole or not at all, if it can be read.
func Write(path string, text []byte) error {
	return replace(path, text, func(string) error {
		_, err := Parse(path, text)
		return err
	})
}
