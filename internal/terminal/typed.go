package terminal

import "strings"

// Typed says in a message what to type: the setting ‹trust› is -trust, the command ‹begin› “zetanum
// begin”. Messages of the computation name these without knowing how it is said here: in marks of their own,
// so that nothing is taken for it that a file has, such as a heading “The setting stone”.
func Typed(message string) string {
	var b strings.Builder
	for {
		before, rest, found := strings.Cut(message, "‹")
		if !found {
			break
		}
		name, after, closed := strings.Cut(rest, "›")
		said, setting := cutThe(before, "setting")
		command := false
		if !setting {
			said, command = cutThe(before, "command")
		}
		switch {
		case closed && setting && isSetting(name):
			b.WriteString(said + "-" + name)
			message = after
		case closed && command && isCommand(name):
			bare, opened := strings.CutSuffix(said, "`")
			if after = strings.TrimPrefix(after, "`"); opened {
				b.WriteString(bare + "`zetanum " + name + "`")
			} else {
				b.WriteString(said + "“zetanum " + name + "”")
			}
			message = after
		default:
			b.WriteString(before + "‹")
			message = rest
		}
	}
	if b.Len() == 0 {
		return message
	}
	return b.String() + message
}

// cutThe takes “the setting ” away from the end of a text.
func cutThe(s, what string) (before string, found bool) {
	before, found = strings.CutSuffix(s, "he "+what+" ")
	if n := len(before) - 1; found && n >= 0 && (before[n] == 't' || before[n] == 'T') {
		return before[:n], true
	}
	return s, false
}

// isSetting reports whether words stand there with one dash between each two.
func isSetting(name string) bool {
	for word := range strings.SplitSeq(name, "-") {
		if !isWord(word) {
			return false
		}
	}
	return true
}

func isCommand(name string) bool {
	return isWord(strings.TrimPrefix(name, "help "))
}

func isWord(s string) bool {
	return s != "" && strings.Trim(s, "abcdefghijklmnopqrstuvwxyz") == ""
}
