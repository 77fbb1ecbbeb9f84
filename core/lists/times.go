package lists

import "strings"

// Times says how often texts occur. It has copies of them, so that they may be cells of a part: a map of the numbers themselves would take
// a text that it counts again for its key, in place of the copy that it has.
type Times map[string]*int

// Add counts a text n times.
func (t *Times) Add(text string, n int) {
	if *t == nil {
		*t = make(Times)
	}
	times := (*t)[text]
	if times == nil {
		times = new(int)
		(*t)[strings.Clone(text)] = times
	}
	*times += n
}

// Of returns how often a text occurs.
func (t Times) Of(text string) int {
	if times := t[text]; times != nil {
		return *times
	}
	return 0
}
