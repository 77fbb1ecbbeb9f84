package register

import (
	"errors"
	"fmt"
	"path/filepath"
	"slices"
	"strings"
)

// ErrNetwork says that a file lies where a database in a file is not safe.
var ErrNetwork = errors.New("a register in a file does not work on a network drive, where programs on two machines do not see each other's locks")

// networkKinds are the names of file systems that lie on other machines.
var networkKinds = []string{
	"9p", "afpfs", "afs", "ceph", "cifs", "coda", "davfs", "davfs2", "drvfs", "fuse.davfs", "fuse.gcsfuse", "fuse.glusterfs", "fuse.rclone", "fuse.s3fs",
	"fuse.smbnetfs", "fuse.sshfs", "gpfs", "lustre", "macfuse_sshfs", "ncpfs", "nfs", "nfs3", "nfs4", "smb2", "smb3", "smbfs", "virtiofs", "webdav",
}

func networkKind(name string) string {
	if slices.Contains(networkKinds, strings.ToLower(name)) {
		return name
	}
	return ""
}

// lies says on which kind of network drive a folder lies; another in tests.
var lies = networkOf

// onThisMachine refuses a file on a network drive: the log of SQLite needs memory that the programs share.
//
// See https://sqlite.org/wal.html, “All processes using a database must be on the same host computer”.
func onThisMachine(absolute string) error {
	dir := filepath.Dir(absolute)
	if real, err := filepath.EvalSymlinks(absolute); err == nil {
		dir = filepath.Dir(real)
	}
	if kind := lies(dir); kind != "" {
		return fmt.Errorf("%w (%s). Name a PostgreSQL server, postgres://USER@HOST/DATABASE, or a file on a disk of this machine", ErrNetwork, kind)
	}
	return nil
}
