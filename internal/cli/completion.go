package cli

import (
	"flag"
	"fmt"
	"strings"

	"zetanum/core/catalogue"
)

type completionCommand struct {
	noFlags
}

// A shell is one for which there is a script: how that is used, and what writes it.
type shell struct {
	name, use string
	write     func(*script)
}

// shells returns all of them.
func shells() []shell {
	return []shell{
		{"bash", `eval "$(zetanum completion bash)" in ~/.bashrc`, (*script).bash},
		{"zsh", `eval "$(zetanum completion zsh)" in ~/.zshrc, behind compinit`, (*script).zsh},
		{"fish", `zetanum completion fish > ~/.config/fish/completions/zetanum.fish`, (*script).fish},
		{"powershell", `zetanum completion powershell | Out-String | Invoke-Expression in $PROFILE`, (*script).powershell},
	}
}

func shellNames() (names []string) {
	for _, s := range shells() {
		names = append(names, s.name)
	}
	return names
}

func (*completionCommand) about() about {
	long := "Prints a script by which a shell completes commands, flags, fields, findings and names of files when the Tab key is pressed. It is used so:"
	for _, s := range shells() {
		long += " " + s.name + ": " + s.use + "."
	}
	return about{name: "completion", args: "SHELL", short: "print what lets a shell complete commands", long: long, examples: []string{"zetanum completion bash", "zetanum completion powershell"}}
}

func (*completionCommand) run(s *session, names []string) (int, error) {
	if len(names) != 1 {
		return exitUsage, usagef("name a shell: %s", strings.Join(shellNames(), ", "))
	}
	for _, shell := range shells() {
		if shell.name == names[0] {
			w := new(script)
			shell.write(w)
			_, err := fmt.Fprint(s.stdout, w)
			return exitOK, err
		}
	}
	return exitUsage, usagef("there is no script for %q; there are: %s", names[0], strings.Join(shellNames(), ", "))
}

// A valueKind is what a flag, or what stands behind a command, takes.
type valueKind uint8

const (
	anyValue valueKind = iota // something to be typed
	noValue                   // a flag that stands alone
	fileValue
	fieldValue
	findingValue
	commandValue
	shellValue
)

// words are what completes a kind of value.
func (k valueKind) words() []string {
	switch k {
	case fieldValue:
		return catalogue.FieldNames()
	case findingValue:
		var names []string
		for _, c := range catalogue.Codes() {
			names = append(names, c.String())
		}
		return names
	case commandValue:
		names := []string{"jobs", "rulebook", "man"}
		for _, c := range commands() {
			names = append(names, c.about().name)
		}
		return names
	case shellValue:
		return shellNames()
	}
	return nil
}

// kindOf returns what a flag takes, by what the help calls that.
func kindOf(f *flag.Flag) (kind valueKind, name, says string) {
	name, says = flag.UnquoteUsage(f)
	if b, ok := f.Value.(interface{ IsBoolFlag() bool }); ok && b.IsBoolFlag() {
		return noValue, "", says
	}
	switch {
	case name == "FILE" || name == "DIR" || name == "FORM" || name == "FOLDER":
		return fileValue, name, says
	case strings.HasPrefix(name, "FINDING"):
		return findingValue, name, says
	case strings.HasPrefix(name, "FIELD"):
		return fieldValue, name, says
	}
	return anyValue, name, says
}

// behind returns what stands behind a command.
func behind(a about) valueKind {
	switch a.name {
	case "finding":
		return findingValue
	case "help":
		return commandValue
	case "completion":
		return shellValue
	case "barcode", "version", "register":
		return anyValue
	}
	return fileValue
}

// A script is what a shell reads.
type script struct{ strings.Builder }

func (w *script) line(format string, args ...any) { fmt.Fprintf(w, format+"\n", args...) }

// each calls do for each flag of a command.
func (w *script) each(c command, do func(f *flag.Flag, kind valueKind, name, says string)) {
	newFlags(c).VisitAll(func(f *flag.Flag) {
		kind, name, says := kindOf(f)
		do(f, kind, name, says)
	})
}

func (w *script) bash() {
	w.line("# Completion of zetanum for bash.")
	w.line("_zetanum() {")
	w.line("\tlocal cur=${COMP_WORDS[COMP_CWORD]} prev=${COMP_WORDS[COMP_CWORD-1]} cmd= words= i")
	w.line("\tfor ((i = 1; i < COMP_CWORD; i++)); do")
	w.line("\t\tcase ${COMP_WORDS[i]} in -*) ;; *) cmd=${COMP_WORDS[i]}; break ;; esac")
	w.line("\tdone")
	w.line("\tlocal files='compgen -f --'")
	taken := make(map[valueKind][]string)
	for _, c := range commands() {
		w.each(c, func(f *flag.Flag, kind valueKind, _, _ string) {
			if kind != noValue {
				taken[kind] = append(taken[kind], c.about().name+":-"+f.Name)
			}
		})
	}
	w.line("\tcase $cmd:$prev in")
	for _, kind := range []valueKind{anyValue, fileValue, fieldValue, findingValue} {
		w.line("\t%s)", strings.Join(taken[kind], "|"))
		switch kind {
		case anyValue:
			w.line("\t\treturn ;;")
		case fileValue:
			w.line("\t\tmapfile -t COMPREPLY < <($files \"$cur\"); return ;;")
		default:
			w.line("\t\tmapfile -t COMPREPLY < <(compgen -W %q -- \"$cur\"); return ;;", strings.Join(kind.words(), " "))
		}
	}
	w.line("\tesac")
	w.line("\tcase $cmd in")
	var names []string
	for _, c := range commands() {
		a := c.about()
		names = append(names, a.name)
		var flags []string
		w.each(c, func(f *flag.Flag, _ valueKind, _, _ string) { flags = append(flags, "-"+f.Name) })
		w.line("\t%s)", a.name)
		w.line("\t\tcase $cur in -*) mapfile -t COMPREPLY < <(compgen -W %q -- \"$cur\"); return ;; esac", strings.Join(flags, " "))
		if list := behind(a).words(); list != nil {
			w.line("\t\twords=%q ;;", strings.Join(list, " "))
		} else {
			w.line("\t\t;;")
		}
	}
	w.line("\t'')")
	w.line("\t\tmapfile -t COMPREPLY < <(compgen -W %q -- \"$cur\"; $files \"$cur\"); return ;;", strings.Join(names, " "))
	w.line("\tesac")
	w.line("\tif [ -n \"$words\" ]; then mapfile -t COMPREPLY < <(compgen -W \"$words\" -- \"$cur\"); else mapfile -t COMPREPLY < <($files \"$cur\"); fi")
	w.line("}")
	w.line("complete -o filenames -F _zetanum zetanum")
}

// single puts a text into single quotation marks, as all three other shells read it: doubled within, or closed and opened again.
func single(s, mark string) string { return "'" + strings.ReplaceAll(s, "'", mark) + "'" }

// short returns the beginning of what is said of a flag: up to the first bracket, colon or semicolon.
func short(says string) string {
	says = strings.NewReplacer("\\", "", "`", "").Replace(says)
	if i := strings.IndexAny(says, "(;:"); i > 0 {
		says = says[:i]
	}
	return catalogue.Shorten(strings.TrimSpace(says), 70)
}

func (w *script) zsh() {
	text := func(s string) string { return strings.NewReplacer("[", `\[`, "]", `\]`, ":", `\:`).Replace(s) }
	w.line("#compdef zetanum")
	w.line("# Completion of zetanum for zsh.")
	w.line("_zetanum() {")
	w.line("\tlocal -a commands")
	w.line("\tcommands=(")
	for _, c := range commands() {
		w.line("\t\t%s", single(c.about().name+":"+text(c.about().short), `'\''`))
	}
	w.line("\t)")
	w.line("\tif ((CURRENT == 2)); then")
	w.line("\t\t_describe command commands")
	w.line("\t\t_files")
	w.line("\t\treturn")
	w.line("\tfi")
	w.line("\tlocal command=$words[2]")
	w.line("\tshift words")
	w.line("\t((CURRENT--))")
	action := func(kind valueKind) string {
		switch kind {
		case fileValue:
			return "_files"
		case anyValue, noValue:
			return " "
		}
		return "(" + strings.Join(kind.words(), " ") + ")"
	}
	w.line("\tcase $command in")
	for _, c := range commands() {
		a := c.about()
		w.line("\t%s)", a.name)
		w.line("\t\t_arguments \\")
		w.each(c, func(f *flag.Flag, kind valueKind, name, says string) {
			spec := "*-" + f.Name + "[" + text(short(says)) + "]"
			if kind != noValue {
				spec += ":" + text(name) + ":" + action(kind)
			}
			w.line("\t\t\t%s \\", single(spec, `'\''`))
		})
		w.line("\t\t\t%s ;;", single("*:"+text(a.args)+":"+action(behind(a)), `'\''`))
	}
	w.line("\tesac")
	w.line("}")
	w.line("compdef _zetanum zetanum")
}

func (w *script) fish() {
	w.line("# Completion of zetanum for fish.")
	w.line("complete -c zetanum -n __fish_use_subcommand -F")
	for _, c := range commands() {
		a := c.about()
		w.line("complete -c zetanum -n __fish_use_subcommand -a %s -d %s", a.name, single(a.short, `\'`))
		if kind := behind(a); kind != fileValue {
			w.line("complete -c zetanum -n '__fish_seen_subcommand_from %s' -f -a %s", a.name, single(strings.Join(kind.words(), " "), `\'`))
		}
		w.each(c, func(f *flag.Flag, kind valueKind, _, says string) {
			takes := ""
			switch kind {
			case noValue:
			case fileValue:
				takes = " -r -F"
			case anyValue:
				takes = " -x"
			default:
				takes = " -x -a " + single(strings.Join(kind.words(), " "), `\'`)
			}
			w.line("complete -c zetanum -n '__fish_seen_subcommand_from %s' -o %s%s -d %s", a.name, f.Name, takes, single(short(says), `\'`))
		})
	}
}

func (w *script) powershell() {
	list := func(words []string) string {
		var quotedWords []string
		for _, word := range words {
			quotedWords = append(quotedWords, single(word, "''"))
		}
		return "@(" + strings.Join(quotedWords, ", ") + ")"
	}
	w.line("# Completion of zetanum for PowerShell.")
	w.line("Register-ArgumentCompleter -Native -CommandName zetanum -ScriptBlock {")
	w.line("\tparam($wordToComplete, $commandAst, $cursorPosition)")
	w.line("\t$words = @($commandAst.CommandElements | ForEach-Object { $_.ToString() })")
	w.line("\tif ($wordToComplete -ne '' -and $words.Count -gt 1) { $words = @($words[0..($words.Count - 2)]) }")
	w.line("\t$command = @($words | Select-Object -Skip 1 | Where-Object { -not $_.StartsWith('-') })[0]")
	w.line("\t$last = $words[-1]")
	w.line("\t$lists = @{")
	for _, kind := range []valueKind{fieldValue, findingValue, commandValue, shellValue} {
		w.line("\t\t%d = %s", kind, list(kind.words()))
	}
	w.line("\t}")
	w.line("\t$takes = @{")
	for _, c := range commands() {
		var parts []string
		w.each(c, func(f *flag.Flag, kind valueKind, _, _ string) {
			parts = append(parts, fmt.Sprintf("%s = %d", single("-"+f.Name, "''"), kind))
		})
		parts = append(parts, fmt.Sprintf("'' = %d", behind(c.about())))
		w.line("\t\t%s = @{ %s }", single(c.about().name, "''"), strings.Join(parts, "; "))
	}
	w.line("\t}")
	w.line("\t$found = @()")
	w.line("\tif (-not $command) { $found = @($takes.Keys) }")
	w.line("\telseif ($takes.ContainsKey($command)) {")
	w.line("\t\t$flags = $takes[$command]")
	w.line("\t\t$kind = $flags['']")
	w.line("\t\tif ($flags.ContainsKey($last) -and $flags[$last] -ne %d) { $kind = $flags[$last] }", noValue)
	w.line("\t\telseif ($wordToComplete.StartsWith('-')) { $found = @($flags.Keys | Where-Object { $_ -ne '' }); $kind = %d }", anyValue)
	w.line("\t\tif ($lists.ContainsKey([int]$kind)) { $found = $lists[[int]$kind] }")
	w.line("\t}")
	w.line("\t$found | Where-Object { $_.StartsWith($wordToComplete) } | Sort-Object | ForEach-Object {")
	w.line("\t\t[System.Management.Automation.CompletionResult]::new($_, $_, 'ParameterValue', $_)")
	w.line("\t}")
	w.line("}")
}
