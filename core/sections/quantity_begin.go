package sections

import (
	"fmt"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/quantity"
)

// beginQuantities proposes what amounts, dates, and yes and no need, one table for each field.
func beginQuantities(s *Seen, b *Draft) {
	cost := 0
	for _, c := range s.Columns {
		if c.Field == catalogue.Cost {
			cost = c.Filled
		}
	}
	for _, c := range s.Columns {
		var says, orders []string
		propose := func(why, order string) { says, orders = append(says, why), append(orders, order) }
		found := func(code catalogue.Code) (n int) {
			for _, f := range s.Found {
				if f.Code == code && f.Column == c.Heading {
					n += f.Cells
				}
			}
			return n
		}
		example := strings.TrimSpace(c.Example)
		switch kind := c.Field.Kind(); {
		case c.Field == catalogue.Unknown:
			continue
		case kind == catalogue.PriceKind:
			if n := cost - c.Filled; n > 0 && c.Field != catalogue.Cost && c.Field != catalogue.SalePrice {
				if propose(plural(n, "row")+" with a cost, and nothing here", "from    = \"cost\""); c.Field == catalogue.FloorPrice {
					orders = append(orders, "percent = 15                # or margin, times, plus")
				} else {
					orders = append(orders, "times   = 2                 # or percent, margin, plus; end_in = 0.95")
				}
			}
			if n := found(catalogue.SaleZero); n > 0 && c.Field == catalogue.SalePrice {
				propose(plural(n, "price")+" of 0", "zero    = \"none\"            # they mean that there is no sale")
			}
			if n := found(catalogue.PriceOpen); n > 0 {
				propose(plural(n, "price")+" that can be read in two ways", "decimal = \"comma\"           # or \"point\": which mark stands before decimals")
			}
			if p := quantity.ReadPrice(example, quantity.Form{}); p.Is == quantity.Value && (p.Currency != "" || p.Number.DecimalMark() == ',' || strings.Contains(example, ",")) {
				propose("written such as "+clean(example), "written = \"point\"           # bare numbers")
			}
		case kind == catalogue.MeasureKind:
			a := quantity.ReadAmounts(example, quantity.Form{})
			if _, dimension := quantity.Unit(a.Of[0].Unit); a.Is == quantity.Value && a.Of[0].Unit != "" && (dimension == "weight" || dimension == "length") {
				unit := map[string]string{"weight": "kg", "length": "cm"}[dimension]
				propose("written with its unit, such as "+clean(example), fmt.Sprintf("unit    = %q%s# the one that the target wants", unit, strings.Repeat(" ", 18-len(unit))))
			}
		case kind == catalogue.YesNoKind && example != "":
			propose("written such as "+clean(example), "yes     = \"1\"               # what the target wants\n# no      = \"0\"")
		case kind == catalogue.DateKind && example != "" && found(catalogue.DateOpen) > 0:
			propose("in which day and month are open", "form    = \"iso\"\n# first   = \"day\"             # or \"month\"")
		case kind == catalogue.DateKind && example != "" && (len(example) < 10 || example[4] != '-'):
			propose("written such as "+clean(example), "form    = \"iso\"             # or DD.MM.YYYY")
		}
		if orders == nil {
			continue
		}
		b.line("\n# %s: %s:\n# [%s]", clean(c.Heading), strings.Join(says, "; "), c.Field)
		for _, order := range orders {
			b.line("# %s", order)
		}
	}
}
