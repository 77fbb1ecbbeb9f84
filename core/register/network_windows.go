package register

import (
	"path/filepath"

	"golang.org/x/sys/windows"
)

// networkOf returns the kind of the network drive on which a folder lies, "" if it lies on none.
func networkOf(dir string) string {
	volume := filepath.VolumeName(dir)
	if len(volume) > 2 && volume[0] == volume[1] { // \\server\share
		return "a share"
	}
	root, err := windows.UTF16PtrFromString(volume + `\`)
	if err == nil && windows.GetDriveType(root) == windows.DRIVE_REMOTE {
		return "a share"
	}
	return ""
}
