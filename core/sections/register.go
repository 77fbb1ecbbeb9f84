package sections

import (
	"zetanum/core/register"
	"zetanum/core/rulebook"
)

// Register says where codes that have been issued are remembered: [register].
type Register struct {
	// At is a file, or the address of a PostgreSQL server.
	At string `toml:"at" json:"at,omitempty"`
	// Source says whose barcodes those are of rows that name no supplier.
	Source string `toml:"source" json:"source,omitempty"`
}

// registerSection names the register.
type registerSection struct {
	plain
	rules *Register
}

func (*registerSection) Parts() []rulebook.Part {
	return []rulebook.Part{{
		Name: "register", Line: "[register]",
		Says: "What remembers the codes that have been issued, so that none is issued twice: not in next month's file, and not by a " +
			"colleague at the same moment. Without one, codes are compared with those in the file. It also remembers the barcodes that " +
			"were whole in a file and went out with it, so that a file in which they are lost gets them back by the SKU.",
		Keys: []rulebook.Key{{
			Name: "at",
			Says: "A file, which is made when the first code is issued, or the address of a PostgreSQL server, for teams and several machines: " +
				"postgres://USER@HOST/DATABASE. The password comes from the environment (PGPASSWORD) or from the user's file of passwords.",
			Example: `at = "zetanum.register"`,
		}, {
			Name: "source",
			Says: "Whose barcodes those are of rows that name no supplier: under that name and the SKU they are remembered, and looked up where " +
				"they are lost. Without it, the name of the file without its numbers.",
			Example: `at     = "zetanum.register"
source = "Hollowbrook"`,
		}},
	}}
}

func (s *registerSection) Tables() []rulebook.Table {
	return []rulebook.Table{{Name: "register", Into: s.rules}}
}

func (s *registerSection) Files() []*string {
	if register.IsServer(s.rules.At) {
		return nil
	}
	return []*string{&s.rules.At}
}

func (*registerSection) Begin(s *Seen, b *Draft) {
	for _, f := range s.Found {
		if f.Code.String() == "sku.missing" {
			b.line("\n# [register]\n# at = \"zetanum.register\"        # remembers the codes that are issued")
			return
		}
	}
}
