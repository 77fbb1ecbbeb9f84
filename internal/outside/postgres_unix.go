//go:build unix

package outside

import (
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"strconv"
	"syscall"
	"testing"
)

// Postgres starts a database server of its own for the test and returns how to reach it, as a
// connection string. It listens on a socket only, and is stopped when the test ends.
func Postgres(t testing.TB) string {
	t.Helper()
	bin := filepath.Dir(Program(t, "postgres"))
	// Not below the folder of the test, which another user may not enter.
	dir, err := os.MkdirTemp("/tmp", "zetanum-pg-")
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { os.RemoveAll(dir) })
	var as *syscall.SysProcAttr
	if os.Geteuid() == 0 { // whom a server refuses
		as = asNobody(t, dir)
	}
	call := func(name string, args ...string) *exec.Cmd {
		cmd := exec.Command(filepath.Join(bin, name), args...)
		cmd.Dir, cmd.SysProcAttr = dir, as
		return cmd
	}
	data := filepath.Join(dir, "data")
	run(t, call("initdb", "-D", data, "-U", "zetanum", "--auth=trust", "--no-sync", "-E", "UTF8", "--locale=C"))
	run(t, call("pg_ctl", "-D", data, "-w", "-l", filepath.Join(dir, "log"), "-o", "-k "+dir+" -c listen_addresses= -c fsync=off", "start"))
	t.Cleanup(func() { run(t, call("pg_ctl", "-D", data, "-w", "-m", "immediate", "stop")) })
	return "host=" + dir + " user=zetanum dbname=postgres"
}

// asNobody gives a folder to a user without rights, and returns how a command is run as that user.
func asNobody(t testing.TB, dir string) *syscall.SysProcAttr {
	t.Helper()
	nobody, err := user.Lookup("nobody")
	if err != nil {
		t.Fatal(err)
	}
	uid, _ := strconv.Atoi(nobody.Uid)
	gid, _ := strconv.Atoi(nobody.Gid)
	if err := os.Chown(dir, uid, gid); err != nil {
		t.Fatal(err)
	}
	return &syscall.SysProcAttr{Credential: &syscall.Credential{Uid: uint32(uid), Gid: uint32(gid)}}
}
