package target

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/pattern"
)

// A Fill says what fills a column of a template. The zero Fill says that nothing does.
type Fill struct {
	From   string // a field, a heading, or a pattern with names in braces
	Part   int    // which of several values in its cells, from 1; 0 for all
	Rest   bool   // and those behind it
	Always string // what stands there in every row, in place of From
	Refers string // what its values are of other products: RefersSKU, which is looked for, or RefersID, in whose place the shop's own number is written
	Words  *Words // what is written in place of values; nil if they are written as they are
}

// What values can be of other products.
const (
	RefersSKU = "sku"
	RefersID  = "id"
)

// Refers reports whether a column of the template refers to other products in some way.
func (r *Rules) Refers(how string) bool {
	for _, list := range r.Fills() {
		for i := range list {
			if list[i].Refers == how {
				return true
			}
		}
	}
	return false
}

// Words are what a target calls values.
type Words struct {
	File string            // a sheet of two columns, ours and theirs; "" if they are said
	Said map[string]string // theirs by ours
}

// Fills are what a rulebook says of the columns of a template, by their headings: what [Rules.Fills] reads.
type Fills map[string]any

// IsPattern reports whether From is a pattern.
func (f *Fill) IsPattern() bool { return strings.ContainsRune(f.From, '{') }

// Fills returns what fills the columns of a template, by their headings. Where several columns have one heading, there is one for each of them.
func (r *Rules) Fills() map[string][]Fill {
	fills := make(map[string][]Fill)
	for heading, said := range r.Columns {
		list, err := fillsOf(said)
		if err == nil {
			fills[heading] = list
		}
	}
	return fills
}

// Check returns what is wrong with what is said of columns.
func (r Fills) Check() (problems []catalogue.Problem) {
	for _, heading := range slices.Sorted(maps.Keys(r)) {
		list, err := fillsOf(r[heading])
		for i := range list {
			if f := &list[i]; err == nil && f.IsPattern() {
				_, err = pattern.Parse(f.From)
			}
		}
		if err != nil {
			problems = append(problems, catalogue.Problem{Key: heading, Text: err.Error()})
		}
	}
	return problems
}

// fillsOf reads what a rulebook says of a column.
func fillsOf(said any) (list []Fill, err error) {
	if several, ok := said.([]any); ok && len(several) > 0 {
		for _, one := range several {
			f, err := fillOf(one)
			if err != nil {
				return nil, err
			}
			list = append(list, f)
		}
		return list, nil
	}
	f, err := fillOf(said)
	return []Fill{f}, err
}

func fillOf(said any) (f Fill, err error) {
	const right = `what fills a column is a field or heading, "price"; a pattern, "{brand} {title}"; a fixed value, { always = "EUR" }; one of several ` +
		`values, { from = "images", part = 2 }, and with rest = true those behind it, too; values in the target's words, { from = "category", words = { Wax = ` +
		`"Candles" } }; other products, { from = "Goes with", refers = "sku" }, or refers = "id" for the shop's own numbers of them; or false, if it stays empty`
	switch said := said.(type) {
	case string:
		if f.From = said; strings.TrimSpace(said) == "" {
			return f, fmt.Errorf("nothing is said; %s", right)
		}
		return f, nil
	case bool:
		if !said {
			return f, nil
		}
	case map[string]any:
		for key, value := range said {
			text, isText := value.(string)
			number, isNumber := value.(int64)
			if f, ok := value.(float64); ok && f == math.Trunc(f) { // as a manifest has it
				number, isNumber = int64(f), true
			}
			rest, isRest := value.(bool)
			switch {
			case key == "always" && isText && text != "":
				f.Always = text
			case key == "from" && isText && text != "":
				f.From = text
			case key == "part" && isNumber && number > 0 && number < 1000:
				f.Part = int(number)
			case key == "rest" && isRest:
				f.Rest = rest
			case key == "refers" && (text == RefersSKU || text == RefersID):
				f.Refers = text
			case key == "words" && isText && text != "":
				f.Words = &Words{File: text}
			case key == "words":
				table, isTable := value.(map[string]any)
				if f.Words = (&Words{Said: make(map[string]string)}); !isTable || len(table) == 0 {
					return f, fmt.Errorf("words is a table of what the target calls our values, { \"Honey jars\" = \"Honey\" }, or a file with two columns, ours and theirs")
				}
				for ours, theirs := range table {
					word, isWord := theirs.(string)
					if !isWord {
						return f, fmt.Errorf("words: %q = %v, and that is no text", ours, theirs)
					}
					f.Words.Said[ours] = word
				}
			default:
				return f, fmt.Errorf("%s = %v is not what can be said; %s", key, value, right)
			}
		}
		if (f.Always == "") != (f.From == "") && (f.Part == 0 || f.From != "" && !f.IsPattern()) && (!f.Rest || f.Part > 0) && (f.Words == nil && f.Refers == "" || f.From != "" && !f.IsPattern()) {
			return f, nil
		}
	}
	return f, fmt.Errorf("%v is not what can be said; %s", said, right)
}

// WithFiles returns the fills with other names for the files that they name.
func (r Fills) WithFiles(change func(name string) string) Fills {
	if r == nil {
		return nil
	}
	var changed func(said any) any
	changed = func(said any) any {
		switch said := said.(type) {
		case []any:
			list := make([]any, len(said))
			for i := range said {
				list[i] = changed(said[i])
			}
			return list
		case map[string]any:
			if file, ok := said["words"].(string); ok && file != "" {
				said = maps.Clone(said)
				said["words"] = change(file)
			}
			return said
		}
		return said
	}
	with := make(Fills, len(r))
	for heading, said := range r {
		with[heading] = changed(said)
	}
	return with
}
