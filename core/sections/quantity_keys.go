package sections

import "zetanum/core/rulebook"

// quantityKeys are the keys of fields that are numbers, prices, measures, dates, yes and no.
func quantityKeys() []rulebook.Key {
	return []rulebook.Key{
		{
			Name: "decimal",
			Says: "Whether a point or a comma stands before decimals in the source, where the column does not settle it: in 1.234 it may be either. " +
				"It goes with fields of type price, measure and number, as the next three do.",
			Example: `decimal = "comma"
written = "point"`,
			Line: "[price]",
		},
		{
			Name: "written",
			Says: "Writes bare numbers, without currencies, units and marks between thousands, with a point or a comma before their decimals; where " +
				"nothing is said, what is written has the mark that the column has. Three decimals get a zero behind them, as they could be taken for thousands.",
			Example: `written = "point"`,
			Line:    "[price]",
		},
		{
			Name:    "decimals",
			Says:    "How many decimals numbers are written with; as many as there are, if nothing is said, and two where prices are reckoned.",
			Example: `decimals = 2`,
			Line:    "[price]",
		},
		{
			Name: "round",
			Says: "What becomes of further decimals: half-up, as when nothing is said, half-even, up or down.",
			Example: `decimals = 2
round    = "half-even"`,
			Line: "[price]",
		},
		{
			Name: "words",
			Says: "A sheet with words in its first column and the numbers in whose place they stand in the second, below a heading. Other words are " +
				"held. It goes with fields of type number.",
			Example: `words = "stock-words.csv"`,
			Line:    "[stock]",
		},
		{
			Name: "read",
			Says: `Which of "about" (ca. 12), "from" (from 12) and "range" (12–15) are read as their number, a range as its first; they are held ` +
				"otherwise. In fields of type number, such as the stock, \"about\" is >10, 10+ and ca. 10. It goes with these and those of type " +
				"price alone, as the others do down to currency_in.",
			Example: `read    = ["about", "from"]
written = "point"`,
			Line: "[price]",
		},
		{
			Name:    "clear",
			Says:    `Which of "about", "from", "range", "request" (price on request) and "dash" are written empty; they are held otherwise. In fields of type number it has "about" and "dash".`,
			Example: `clear = ["request", "dash"]`,
			Line:    "[price]",
		},
		{
			Name:    "zero",
			Says:    `"none" writes a price of 0 empty: there is no such price.`,
			Example: `zero = "none"`,
			Line:    "[sale_price]",
		},
		{
			Name: "from",
			Says: "Another field or heading from whose amounts these are reckoned, where they are empty; the column is added if it is not there. Rows " +
				"in which there is nothing to reckon from are named. In a field of type html it is the field of which an empty cell gets the beginning.",
			Example: `from    = "cost"
percent = 15`,
			Line: "[floor_price]",
		},
		{
			Name: "over",
			Says: "With from: also cells that have something are written.",
			Example: `from  = "cost"
times = 2.2
over  = true`,
			Line: "[price]",
		},
		{
			Name: "once",
			Says: "Without from: amounts are reckoned from themselves, so that an output of ours is refused.",
			Example: `times = 1.05
once  = true`,
			Line: "[price]",
		},
		{
			Name: "times",
			Says: "The factor by which amounts are multiplied. What is said of one amount is done in this order: times, plus, percent, margin, tax, " +
				"at_least, at_most, decimals and round, end_in. All of it is reckoned exactly.",
			Example: `from  = "cost"
times = 2.2`,
			Line: "[price]",
		},
		{
			Name: "plus",
			Says: "What is added.",
			Example: `from  = "cost"
times = 2.2
plus  = 0.50`,
			Line: "[price]",
		},
		{
			Name: "percent",
			Says: "The percentage that is put on top: of a cost of 4.00, 15 makes 4.60.",
			Example: `from    = "cost"
percent = 15`,
			Line: "[floor_price]",
		},
		{
			Name: "margin",
			Says: "The percentage of the price that is left above the cost: of a cost of 7.00, 30 makes 10.00.",
			Example: `from   = "cost"
margin = 30`,
			Line: "[price]",
		},
		{
			Name: "tax",
			Says: "A tax as a share, 0.2 for twenty percent; from_tax says whether it is taken out or added.",
			Example: `tax      = 0.2
from_tax = "gross"
once     = true`,
			Line: "[price]",
		},
		{
			Name: "from_tax",
			Says: `What the amounts are that are there: "gross" has the tax taken out of them, "net" has it added.`,
			Example: `from     = "cost"
tax      = 0.2
from_tax = "net"`,
			Line: "[price]",
		},
		{
			Name: "at_least",
			Says: "What is less becomes this.",
			Example: `from     = "cost"
times    = 2.2
at_least = 1.99`,
			Line: "[price]",
		},
		{
			Name: "at_most",
			Says: "What is more becomes this.",
			Example: `from    = "cost"
times   = 2.2
at_most = 499`,
			Line: "[price]",
		},
		{
			Name: "end_in",
			Says: "What prices end in: the nearest such price is written, the one above with round = \"up\", the one below with \"down\".",
			Example: `from   = "cost"
times  = 2.2
end_in = 0.95`,
			Line: "[price]",
		},
		{
			Name: "change_at_most",
			Says: "The share by which a price may become more or less, 0.3 for thirty percent; products beyond it are held.",
			Example: `from           = "cost"
times          = 2.2
over           = true
change_at_most = 0.3`,
			Line: "[price]",
		},
		{
			Name:    "margin_at_least",
			Says:    "The share of the price that has to be left above the cost; prices of which less is left are named.",
			Example: `margin_at_least = 0.25`,
			Line:    "[price]",
		},
		{
			Name:    "dated",
			Says:    "Every price of a sale has to say from when to when: those without both dates are held.",
			Example: `dated = true`,
			Line:    "[sale_price]",
		},
		{
			Name: "currency",
			Says: "The currency in which all prices are. Signs and codes of it are taken off, and prices in another are held.",
			Example: `currency = "EUR"
written  = "point"`,
			Line: "[price]",
		},
		{
			Name: "currency_in",
			Says: "The field or heading that takes the currency, where it is empty; it is added if it is not there.",
			Example: `currency    = "EUR"
currency_in = "currency"`,
			Line: "[price]",
		},
		{
			Name: "unit",
			Says: "The unit in which measures are written, as bare numbers. A unit in the cell counts more than one in the heading. It goes with " +
				"fields of type measure, as bare, unit_from and sides do.",
			Example: `unit     = "kg"
decimals = 3`,
			Line: "[weight]",
		},
		{
			Name: "bare",
			Says: "The unit of numbers without one, where the heading names none; without it they are held.",
			Example: `unit = "kg"
bare = "g"`,
			Line: "[weight]",
		},
		{
			Name: "unit_from",
			Says: "The field or heading of the column that has the unit of each; the unit that is written is put there, too.",
			Example: `unit      = "kg"
unit_from = "Weight unit"`,
			Line: "[weight]",
		},
		{
			Name: "sides",
			Says: "The fields or headings that take the sides of cells such as 10 x 20 x 5 cm, where they are empty.",
			Example: `type  = "text"
unit  = "cm"
sides = ["length", "width", "height"]`,
			Line: "[field.dimensions]",
		},
		{
			Name: "yes",
			Says: "What is written for yes; no says what for no. Yes and no are known in the languages of headings, and by letters and marks where " +
				"the column shows what they mean.",
			Example: `yes = "1"
no  = "0"`,
			Line: "[in_stock]",
		},
		{
			Name: "no",
			Says: "What is written for no.",
			Example: `yes = "TRUE"
no  = "FALSE"`,
			Line: "[published]",
		},
		{
			Name: "empty",
			Says: `What an empty cell means: "yes", "no", or "hold". It stays empty if nothing is said.`,
			Example: `yes   = "1"
no    = "0"
empty = "no"`,
			Line: "[published]",
		},
		{
			Name:    "choices",
			Says:    "What is written for words, by what is written. Other words and numbers are held.",
			Example: `choices = { 1 = "shop and search", 2 = "shop only", 4 = "hidden" }`,
			Line:    "[published]",
		},
		{
			Name: "form",
			Says: "How dates are written: YYYY-MM-DD, DD.MM.YYYY, YYYY-MM-DD hh:mm, with ZZ for the zone; iso for ISO 8601, with the time where there is " +
				"one. It goes with fields of type date, as the next four do.",
			Example: `form = "iso"`,
			Line:    "[sale_from]",
		},
		{
			Name: "first",
			Says: "Which comes first in the dates of the source, where the column does not settle it: day, month or year.",
			Example: `form  = "iso"
first = "day"`,
			Line: "[sale_from]",
		},
		{
			Name: "zone",
			Says: "The time zone in which times are written.",
			Example: `form = "YYYY-MM-DD hh:mm"
zone = "Europe/Berlin"`,
			Line: "[sale_from]",
		},
		{
			Name: "times_in",
			Says: "The time zone of times in the source that name none.",
			Example: `form     = "YYYY-MM-DD hh:mm"
zone     = "Europe/Berlin"
times_in = "UTC"`,
			Line: "[sale_from]",
		},
		{
			Name: "count_from",
			Says: "1904 where dates that are numbers of days are counted from that year on; from 1900 if nothing is said.",
			Example: `form       = "iso"
count_from = 1904`,
			Line: "[sale_from]",
		},
	}
}
