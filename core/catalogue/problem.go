package catalogue

// A Problem is something wrong with the rules of one room.
type Problem struct {
	Key  string // under which it stands
	Text string // what is wrong, and what would be right
}

// An Answer is a yes to the question of a finding.
type Answer struct {
	Finding Code   `json:"finding"`
	Column  string `json:"column,omitempty"` // by its heading; "" for all columns
}
