package catalogue

// A Problem is something wrong with the rules of one room.
type Problem struct {
	Key  string // under which it stands
	Text string // what is wrong, and what would be right
}
