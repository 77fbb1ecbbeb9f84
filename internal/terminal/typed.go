package terminal

import (
	"strings"

	"zetanum/core/lazy"
)

// What messages of the computation name without knowing how it is said here: in marks of their own,
// so that nothing is taken for it that a file has, such as a heading “The setting stone”.
var (
	settingNamed = lazy.New(`[Tt]he setting ‹([a-z]+(?:-[a-z]+)*)›`)
	commandNamed = lazy.New("(`?)[Tt]he command ‹((?:help )?[a-z]+)›`?")
)

// Typed says in a message what to type: the setting ‹trust› is -trust, the command ‹begin› “zetanum
// begin”.
func Typed(message string) string {
	if !strings.Contains(message, "‹") {
		return message
	}
	message = settingNamed.ReplaceAllString(message, "-$1")
	return commandNamed.ReplaceAllStringFunc(message, func(m string) string {
		parts := commandNamed.FindStringSubmatch(m)
		if parts[1] != "" {
			return "`zetanum " + parts[2] + "`"
		}
		return "“zetanum " + parts[2] + "”"
	})
}
