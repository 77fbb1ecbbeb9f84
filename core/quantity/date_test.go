package quantity

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"zetanum/core/catalogue"
)

// TestDateSet: columns of dates are read as what they are, or asked about.
func TestDateSet(t *testing.T) {
	var s scores
	for _, c := range columnsOf(t, "dates.jsonl") {
		var o Orders
		for _, cell := range c.Cells {
			o.Learn(cell)
		}
		form := o.Form(2026)
		switch c.Order {
		case "day-month-year":
			form = form.In(DayFirst)
		case "month-day-year":
			form = form.In(MonthFirst)
		}
		form.Old = c.Workbook == "1904"
		rule := DateRule{Form: strings.NewReplacer("Thh", "Thh", "±hh:mm", "ZZ").Replace(c.target("form")), Zone: c.target("zone"), TimesIn: c.SourceZone}
		if c.Kind == "mixed-forms" {
			rule.Form = "iso"
		}
		require.Empty(t, rule.Check(catalogue.DateKind))
		dating := NewDating(&rule)
		for i, cell := range c.Cells {
			got, is := dating.Of(cell, form)
			switch is {
			case Value:
			case Dash:
				got = ""
			case Asked:
				got = "ask"
			default:
				got = "held:" + is.String()
			}
			s.judge(t, &c, i, got)
		}
	}
	s.assert(t, "dates", 98)
}

// TestReadDate: what the set does not have, and what must not be taken for a date.
func TestReadDate(t *testing.T) {
	form := DateForm{Year: 2026}
	for _, tt := range []struct {
		cell string
		form DateForm
		want string
	}{
		{"31.12.1999", form, "1999-12-31"},
		{"03.04.2024", form, "asked"},
		{"03/04/2024", form.In(DayFirst), "2024-04-03"},
		{"03/04/2024", form.In(MonthFirst), "2024-03-04"},
		{"31/12/2024", form.In(MonthFirst), "impossible"},
		{"24-12-31", form.In(YearFirst), "2024-12-31"},
		{"24-12-31", form, "asked"},
		{"5 May 46", form, "2046-05-05"},
		{"5 May 47", form, "1947-05-05"},
		{"2024-02-30", form, "impossible"},
		{"2024-12-31T24:00", form, "impossible"},
		{"2024-12-31 7:05 pm", form, "2024-12-31 19:05:00"},
		{"12/31/2024, 12:00 AM", form, "2024-12-31 00:00:00"},
		{"2024-12-31 13:05 pm", form, "impossible"},
		{"12/2024", form, "partial"},
		{"May 2024", form, "partial"},
		{"spring 2024", form, "words"},
		{"1.234", form, "impossible"},
		{"12.50", form, "impossible"},
		{"9521234000013", form, "impossible"},
		{"99999999", form, "impossible"},
		{"1.2.3.4", form, "words"},
		{"2024-05-01 - 2024-06-01", form, "words"},
		{"10:30", form, "words"},
		{"M6 x 20", form, "words"},
		{"60", form, "impossible"},
		{"36526", form, "2000-01-01"},
		{"35064", DateForm{Year: 2026, Old: true}, "2000-01-01"},
		{"45000.999999", form, "2023-03-15 23:59:59"},
		{"may be", form, "partial"},
		{"5 Mayıs 2024", form, "2024-05-05"},
		{"5 MAYIS 2024", form, "2024-05-05"},
	} {
		m := ReadDate(tt.cell, tt.form)
		got := m.Is.String()
		if m.Is == Value {
			got = m.Time(time.UTC).Format("2006-01-02")
			if m.HasTime {
				got = m.Time(time.UTC).Format("2006-01-02 15:04:05")
			}
		}
		assert.Equal(t, tt.want, got, "%q", tt.cell)
	}
}

// FuzzReadDate: whatever a cell says, a date that is read is one that there is, and is read the same once it has been written.
func FuzzReadDate(f *testing.F) {
	for _, s := range []string{"31.12.2024", "2024-05-01T10:00:00+02:00", "5. Mai 24", "45000.5", "Mon, 5 June 2025 5 pm", "20250401", "1er août 2020"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		var o Orders
		o.Learn(s)
		for _, form := range []DateForm{o.Form(2026), {Year: 2026, Old: true}} {
			m := ReadDate(s, form)
			if m.Is != Value {
				continue
			}
			at := m.Time(time.UTC)
			if again := ReadDate(at.Format(time.RFC3339), DateForm{}); again.Is != Value || !again.Time(time.UTC).Equal(at) {
				t.Fatalf("%q is read as %s, and that as %+v", s, at, again)
			}
		}
	})
}

func BenchmarkReadDate(b *testing.B) {
	cells := []string{"31.12.2024", "2024-05-01", "5. Mai 2024", "45000"}
	form := DateForm{By: [4]Order{DayFirst}, Year: 2026}
	b.ReportAllocs()
	for i := 0; b.Loop(); i++ {
		ReadDate(cells[i%len(cells)], form)
	}
}
