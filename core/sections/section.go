// Package sections has the sections of a rulebook, each in a file of its own: what it is
// decoded into, what is wrong with it, which files it names, what it orders, its
// documentation, and what it proposes for a rulebook to begin with. A file that is repaired
// is fitted to them, and they make the line: the steps through which its products go.
//
// To add a section: the rules in the room that knows the trade, a file here, a field of
// [Book] and a line in the list of [Book.Sections].
package sections

import (
	"zetanum/core/line"
	"zetanum/core/rulebook"
)

// A Section is one section of a rulebook, in the order of its life. What a section has
// nothing to say to it takes from [plain].
type Section interface {
	rulebook.Section

	// Files returns the names of files that stand in it, to be read and changed.
	Files() []*string
	// OneWay returns the rules that would change their own result again: where they
	// stand, and in Text the rule in words. They are refused on a file that is an output of ours.
	OneWay() []rulebook.Problem

	// Open reads what the section needs besides the sheet: once for each file that is
	// repaired.
	Open(*Sheet) error
	// Adds returns the names of the columns that it fills, which are added if they are
	// not there.
	Adds(*Sheet) ([]string, error)
	// Order says what columns are, and what is to be done to their cells.
	Order(*Sheet) error
	// Steps puts the steps of the section into the line.
	Steps(*Sheet) error
	// Output says how what is ready is written.
	Output(*Sheet, *line.Output) error

	// Begin writes what the section would order, to judge by a file, as comments.
	Begin(*Seen, *Draft)
	// Ask returns it as questions to a person.
	Ask(*Seen) []Question
}

// plain is a section that has nothing to say.
type plain struct{}

func (plain) Check() []rulebook.Problem         { return nil }
func (plain) Files() []*string                  { return nil }
func (plain) OneWay() []rulebook.Problem        { return nil }
func (plain) Open(*Sheet) error                 { return nil }
func (plain) Adds(*Sheet) ([]string, error)     { return nil, nil }
func (plain) Order(*Sheet) error                { return nil }
func (plain) Steps(*Sheet) error                { return nil }
func (plain) Output(*Sheet, *line.Output) error { return nil }
func (plain) Begin(*Seen, *Draft)               {}
func (plain) Ask(*Seen) []Question              { return nil }
