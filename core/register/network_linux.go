package register

import (
	"bufio"
	"fmt"
	"os"
	"strings"

	"golang.org/x/sys/unix"
)

// networkOf returns the kind of the network drive on which a folder lies, "" if it lies on none.
func networkOf(dir string) string {
	var stat unix.Stat_t
	f, err := os.Open("/proc/self/mountinfo")
	if err != nil || unix.Stat(dir, &stat) != nil {
		return ""
	}
	defer f.Close()
	device := fmt.Sprintf("%d:%d", unix.Major(stat.Dev), unix.Minor(stat.Dev))
	for lines := bufio.NewScanner(f); lines.Scan(); {
		// 36 35 98:0 /root /mount options … - type source options, as proc_pid_mountinfo(5) has it
		before, after, _ := strings.Cut(lines.Text(), " - ")
		if fields := strings.Fields(before); len(fields) > 2 && fields[2] == device {
			kind, _, _ := strings.Cut(after, " ")
			return networkKind(kind)
		}
	}
	return ""
}
