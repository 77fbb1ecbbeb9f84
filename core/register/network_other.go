//go:build !linux && !windows

package register

import "golang.org/x/sys/unix"

// networkOf returns the kind of the network drive on which a folder lies, "" if it lies on none.
func networkOf(dir string) string {
	var stat unix.Statfs_t
	if unix.Statfs(dir, &stat) != nil {
		return ""
	}
	return networkKind(unix.ByteSliceToString(stat.Fstypename[:]))
}
