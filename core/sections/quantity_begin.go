package sections

import (
	"fmt"
	"strings"

	"zetanum/core/catalogue"
	"zetanum/core/quantity"
	"zetanum/core/rulebook"
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

// askQuantities asks about prices, weights and dates.
func askQuantities(s *Seen) (list []Question) {
	cost := s.filled(catalogue.Cost)
	for _, c := range s.Columns {
		name, example := c.Field.String(), strings.TrimSpace(c.Example)
		found := func(code catalogue.Code) (n int) {
			for _, f := range s.Found {
				if f.Code == code && f.Column == c.Heading {
					n += f.Cells
				}
			}
			return n
		}
		switch kind := c.Field.Kind(); {
		case c.Field == catalogue.Unknown:
		case kind == catalogue.PriceKind:
			if n := cost - c.Filled; n > 0 && c.Field != catalogue.Cost && c.Field != catalogue.SalePrice {
				list = append(list, Question{Name: name + ".from", Rows: n, Says: fmt.Sprintf("%s a cost, and nothing under %s.", verb(n, "row", "has", "have"), shown(c.Heading)), Asks: "Reckon it from the cost?", Keys: []rulebook.Order{set(name, "from", "")},
					Ways: []Way{{Says: "the cost and so many percent", Type: "the percent, such as 40", With: func(typed string) ([]rulebook.Order, error) {
						percent := strings.TrimSpace(strings.TrimSuffix(strings.TrimSpace(typed), "%"))
						if p := quantity.ReadPrice(percent, quantity.Form{}); p.Is != quantity.Value || p.Currency != "" {
							return nil, fmt.Errorf("%q is no number of percent", typed)
						}
						return []rulebook.Order{lineOf(name, rulebook.Line{Key: "from", Value: `"cost"`}, rulebook.Line{Key: "percent", Value: strings.ReplaceAll(percent, ",", ".")})}, nil
					}}}})
			}
			if n := found(catalogue.SaleZero); n > 0 && c.Field == catalogue.SalePrice {
				list = append(list, yesNo(catalogue.SaleZero.String(), n, fmt.Sprintf("%s 0.", are(n, "sale price")), "Does 0 mean that there is no sale?", set(name, "zero", `"none"`)).on(catalogue.SaleZero, c.Heading))
			}
			if p := quantity.ReadPrice(example, quantity.Form{}); p.Is == quantity.Value && (p.Currency != "" || p.Number.DecimalMark() == ',' || strings.Contains(example, ",")) {
				list = append(list, yesNo(name+".written", c.Filled, fmt.Sprintf("Prices under %s are written such as %s, and importers read bare numbers with a point.", shown(c.Heading), clean(example)), "Write them so?", set(name, "written", `"point"`)))
			}
		case kind == catalogue.MeasureKind:
			a := quantity.ReadAmounts(example, quantity.Form{})
			if _, dimension := quantity.Unit(a.Of[0].Unit); a.Is == quantity.Value && a.Of[0].Unit != "" && (dimension == "weight" || dimension == "length") {
				unit := map[string]string{"weight": "kg", "length": "cm"}[dimension]
				list = append(list, yesNo(name+".unit", c.Filled, fmt.Sprintf("What stands under %s has its unit, such as %s, and importers read bare numbers with a point.", shown(c.Heading), clean(example)), fmt.Sprintf("Write it in %s, without the unit?", unit),
					lineOf(name, rulebook.Line{Key: "unit", Value: quoted(unit)}, rulebook.Line{Key: "written", Value: `"point"`})))
			}
		case kind == catalogue.DateKind && found(catalogue.DateOpen) > 0:
			q := Question{Name: name + ".first", Rows: found(catalogue.DateOpen), Says: fmt.Sprintf("In the dates under %s, such as %s, it is open which number is the day.", shown(c.Heading), clean(example)), Asks: "Which comes first?"}
			for _, first := range []string{"day", "month"} {
				q.Ways = append(q.Ways, Way{Says: "the " + first, Orders: []rulebook.Order{lineOf(name, rulebook.Line{Key: "form", Value: `"iso"`}, rulebook.Line{Key: "first", Value: quoted(first)})}})
			}
			list = append(list, q.on(catalogue.DateOpen, c.Heading))
		case kind == catalogue.DateKind && example != "" && (len(example) < 10 || example[4] != '-'):
			list = append(list, yesNo(name+".form", c.Filled, fmt.Sprintf("The dates under %s are written such as %s, and importers read 2026-03-31.", shown(c.Heading), clean(example)), "Write them so?", set(name, "form", `"iso"`)))
		}
	}
	return list
}
