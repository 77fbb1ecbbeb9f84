// Package line is the machine that carries products past the steps that
// repair them. It knows no field and no rule.
//
// A source is read twice. The survey reads it part by part ([Survey]); several
// workers let every step that has something to learn look at the products of a
// part, and what they learn is merged in the order of the parts, so that it
// does not depend on who read what. The survey also cuts the parts and notes
// where they lie.
//
// The repair ([Run]) takes the same parts up again. A worker turns a part into
// the rows that go to each output; the writer puts them out in order. What only
// a look at all repaired values can tell (two products with one barcode, the
// same row twice) is noticed by the writer in a table of claims. When the last
// part is through, such rows may have to be held after all: then the parts they
// lie in are repaired once more, with that known, and put in the place of the
// first version. All others are copied as they are.
package line
