package template

import (
	"cmp"
	"fmt"
	"strconv"
	"strings"

	"zetanum/core/catalogue"
)

// mostShown is how many values of a list are shown.
const mostShown = 4

// Says says in words what goes into a column: "one of 6: Plates, Bowls, …", "a number from 0.01 to 9999.99".
func (t *Template) Says(n int) string {
	c := &t.Columns[n]
	var list []string
	add := func(format string, args ...any) { list = append(list, fmt.Sprintf(format, args...)) }
	w := &t.wanted[n]
	switch {
	case c.Always != "":
		add("always %s", c.Always)
	case w.shape == answer && t.Ways.Yes != "" && len(c.List) != 2:
		add("%s or %s", t.Ways.Yes, t.Ways.No)
	case len(c.Seen) > 0 && len(c.List) == 0:
		shown := strings.Join(c.Seen[:min(mostShown, len(c.Seen))], ", ")
		if len(c.Seen) > mostShown {
			shown += ", …"
		}
		add("so far %s", shown)
	case len(c.List) == 1:
		add("always %s", c.List[0])
	case len(c.List) > 0:
		shown := strings.Join(c.List[:min(mostShown, len(c.List))], ", ")
		if len(c.List) > mostShown {
			shown += ", …"
		}
		if c.Depends > 0 {
			add("by what stands in %s, one of %d: %s", t.Columns[c.Depends-1].Name(), len(c.List), shown)
		} else {
			add("one of %d: %s", len(c.List), shown)
		}
	case w.shape == date:
		add("%s", strings.TrimSpace("a date "+t.Ways.Date))
	case w.shape == amount:
		kind := "a number"
		if c.Whole {
			kind = "a whole number"
		}
		switch {
		case c.Least != "" && c.Most != "":
			add("%s from %s to %s", kind, c.Least, c.Most)
		case c.Most != "":
			add("%s up to %s", kind, c.Most)
		case c.Least != "":
			add("%s from %s on", kind, c.Least)
		default:
			add("%s", kind)
		}
	case w.shape == code:
		add("a barcode")
	case w.shape == picture:
		add("a picture")
	case says(c.Rule, "parted"):
		add("several values, “%s” between them", cmp.Or(t.Ways.Separator, ","))
	case c.MostLength > 0 || c.Type == "text":
		add("a text")
	}
	if c.MostLength > 0 && len(c.List) == 0 && w.shape != code {
		add("at most %s characters", catalogue.Thousands(uint64(c.MostLength)))
	}
	if len(list) == 0 {
		if c.Rule != "" {
			return catalogue.Shorten(c.Rule, 60)
		}
		for _, sample := range t.samples {
			if n < len(sample) && strings.TrimSpace(sample[n]) != "" {
				return "such as " + catalogue.Shorten(strings.TrimSpace(sample[n]), 30)
			}
		}
	}
	return strings.Join(list, ", ")
}

// Rows says in words what the rows of the form are: "headings in row 4, names for programs in row 5, samples in rows 7 and 8".
func (t *Template) Rows() string {
	var says []string
	add := func(what string, rows ...int) {
		var list []string
		for _, r := range rows {
			if r > 0 {
				list = append(list, strconv.Itoa(r))
			}
		}
		switch n := len(list); {
		case n == 1:
			says = append(says, what+" in row "+list[0])
		case n > 3 && rows[n-1]-rows[0] == n-1:
			says = append(says, what+" in rows "+list[0]+" to "+list[n-1])
		case n > 1:
			says = append(says, what+" in rows "+strings.Join(list[:n-1], ", ")+" and "+list[n-1])
		}
	}
	add("lines of its own", t.Preamble...)
	add("groups", t.Groups...)
	add("headings", t.Headings)
	add("names for programs", t.Machine)
	add("what must be filled", t.Demands)
	add("rules", t.Rules...)
	if t.Export {
		add("products", t.Samples...)
	} else {
		add("samples", t.Samples...)
	}
	return strings.Join(says, ", ")
}

// Words says in words how the form writes things, one for each way that it shows.
func (w *Ways) Words() (says []string) {
	if w.Yes != "" {
		says = append(says, "yes and no as "+w.Yes+" and "+w.No)
	}
	if w.Date != "" {
		says = append(says, "dates as "+w.Date)
	}
	if w.Decimal != "" {
		says = append(says, map[string]string{".": "a point before decimals", ",": "a comma before decimals"}[w.Decimal])
	}
	if w.Separator != "" {
		says = append(says, "“"+w.Separator+"” between several values")
	}
	return says
}

// OffersOf returns the columns of a table as they may fill a form, with the cells of its first rows.
func OffersOf(columns *catalogue.Columns, rows [][]string) (offers []Offer) {
	for col, h := range columns.Headings[:columns.Own()] {
		o := Offer{Heading: h, Field: columns.Fields[col]}
		for _, row := range rows {
			cell := ""
			if col < len(row) {
				cell = row[col]
			}
			o.Cells = append(o.Cells, cell)
		}
		offers = append(offers, o)
	}
	return offers
}

// Example returns the first cell of an offer that has something in it.
func (o *Offer) Example() string {
	for _, cell := range o.Cells {
		if cell = strings.TrimSpace(cell); cell != "" {
			return cell
		}
	}
	return ""
}

// Part returns of the first cell with something in it one of several values, from 1; 0 for all of it.
func (o *Offer) Part(nth int) string {
	example := o.Example()
	if values := (&Writer{part: nth}).valuesOf(example, &Reading{Several: Several(o.Cells)}); nth > 0 && nth <= len(values) {
		return values[nth-1]
	}
	return example
}
