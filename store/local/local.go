// Package local runs a private MariaDB server for the demo and the tests: a data folder of its own, a socket that only
// this user can open, no network.
package local

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"time"

	"github.com/go-sql-driver/mysql"
)

// Server is a running MariaDB.
type Server struct {
	dir    string
	socket string
	lock   *os.File

	mutex    sync.Mutex
	cmd      *exec.Cmd     // nil if the server was found running, left by a killed process
	done     chan struct{} // closed when cmd has ended
	ended    error         // how it ended
	stopping bool
}

// ErrBusy says that another process uses the data folder.
var ErrBusy = errors.New("another Hue Keep runs on this data folder")

// Start starts a server on the data folder dir, which is made if it does not exist. A server that a killed process left
// behind on the same folder is taken over.
func Start(ctx context.Context, dir string) (*Server, error) {
	dir, err := filepath.Abs(dir)
	if err != nil {
		return nil, err
	}
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, err
	}
	s := &Server{dir: dir}
	if s.lock, err = os.OpenFile(filepath.Join(dir, "lock"), os.O_CREATE|os.O_RDWR, 0o600); err != nil {
		return nil, err
	}
	if err := syscall.Flock(int(s.lock.Fd()), syscall.LOCK_EX|syscall.LOCK_NB); err != nil {
		s.lock.Close()
		return nil, fmt.Errorf("%w (%s)", ErrBusy, dir)
	}
	if err := s.start(ctx); err != nil {
		s.lock.Close()
		return nil, err
	}
	return s, nil
}

// Running finds a server that another process runs on the data folder, to look at it beside that.
func Running(ctx context.Context, dir string) (*Server, error) {
	dir, err := filepath.Abs(dir)
	if err != nil {
		return nil, err
	}
	s := &Server{dir: dir}
	if s.socket, err = s.socketPath(); err != nil {
		return nil, err
	}
	return s, s.ping(ctx)
}

func (s *Server) start(ctx context.Context) error {
	socket, err := s.socketPath()
	if err != nil {
		return err
	}
	s.socket = socket
	if s.ping(ctx) == nil {
		return nil
	}
	server, err := Program()
	if err != nil {
		return err
	}
	data := filepath.Join(s.dir, "data")
	if err := os.MkdirAll(s.temporary(), 0o700); err != nil {
		return err
	}
	if _, err := os.Stat(filepath.Join(data, "mysql")); err != nil {
		if err := s.install(ctx, data); err != nil {
			return err
		}
	}
	log, err := os.OpenFile(filepath.Join(s.dir, "mariadb.log"), os.O_CREATE|os.O_APPEND|os.O_WRONLY, 0o600)
	if err != nil {
		return err
	}
	defer log.Close()
	s.cmd = exec.Command(server, append([]string{"--no-defaults", "--datadir=" + data, "--socket=" + socket,
		"--pid-file=" + filepath.Join(s.dir, "mariadb.pid"), "--skip-networking", "--skip-name-resolve",
		"--character-set-server=utf8mb4", "--collation-server=utf8mb4_bin", "--innodb-buffer-pool-size=128M",
		"--max-allowed-packet=256M", "--innodb-flush-log-at-trx-commit=1"}, asUser()...)...)
	s.cmd.Stdout, s.cmd.Stderr = log, log
	s.cmd.Env = s.environment()
	// A group of its own: Ctrl-C reaches this program first, which then stops the server in order.
	s.cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true}
	if err := s.cmd.Start(); err != nil {
		return fmt.Errorf("MariaDB did not start: %w", err)
	}
	cmd, done := s.cmd, make(chan struct{})
	s.done = done
	go func() {
		s.ended = cmd.Wait()
		close(done)
	}()
	for wait := time.NewTimer(90 * time.Second); ; {
		if s.ping(ctx) == nil {
			return nil
		}
		select {
		case <-s.done:
			return fmt.Errorf("MariaDB ended at once (%v); its log is %s:\n%s", s.ended, log.Name(), tail(log.Name()))
		case <-wait.C:
			_ = s.cmd.Process.Kill()
			return fmt.Errorf("MariaDB did not answer within 90 seconds; its log is %s", log.Name())
		case <-ctx.Done():
			_ = s.cmd.Process.Signal(syscall.SIGTERM)
			<-s.done
			return ctx.Err()
		case <-time.After(50 * time.Millisecond):
		}
	}
}

// install makes a new data folder beside the final one and moves it into place when it is whole, so that an interrupted
// install is not taken for a database.
func (s *Server) install(ctx context.Context, data string) error {
	install, err := program("mariadb-install-db", "/usr/bin/mariadb-install-db")
	if err != nil {
		return err
	}
	left, _ := filepath.Glob(data + ".new*")
	for _, l := range left {
		_ = os.RemoveAll(l) // what a killed one began may still be written to, and goes the next time
	}
	fresh, err := os.MkdirTemp(filepath.Dir(data), filepath.Base(data)+".new-")
	if err != nil {
		return err
	}
	// Nobody comes by a name: it is made also where the name of the machine leads nowhere.
	cmd := exec.CommandContext(ctx, install, append([]string{"--no-defaults", "--datadir=" + fresh,
		"--auth-root-authentication-method=normal", "--skip-test-db", "--force"}, asUser()...)...)
	cmd.Env = s.environment()
	out, err := cmd.CombinedOutput()
	if err != nil {
		return fmt.Errorf("mariadb-install-db: %w\n%s", err, out)
	}
	return os.Rename(fresh, data)
}

// temporary is the server's own folder for temporary tables: a server that starts removes what looks like a leftover in its
// own, and so would take those of another one away that shares it.
func (s *Server) temporary() string { return filepath.Join(s.dir, "tmp") }

func (s *Server) environment() []string { return append(os.Environ(), "TMPDIR="+s.temporary()) }

// asUser lets the server run as root where everything does; it refuses to otherwise.
func asUser() []string {
	if os.Geteuid() == 0 {
		return []string{"--user=root"}
	}
	return nil
}

// Program finds the server that is installed.
func Program() (string, error) { return program("mariadbd", "/usr/sbin/mariadbd") }

func program(name, usual string) (string, error) {
	if p, err := exec.LookPath(name); err == nil {
		return p, nil
	}
	if _, err := os.Stat(usual); err == nil {
		return usual, nil
	}
	return "", fmt.Errorf("%s is not installed; on Debian: apt-get install mariadb-server-core mariadb-client-core, or set HUEKEEP_DATABASE to a server", name)
}

// socketPath keeps the socket beside the data where its path is short enough for the system, and else in the folder for
// temporary files, in a folder of this user.
func (s *Server) socketPath() (string, error) {
	const longest = 100 // sockaddr_un holds 107 bytes and a zero
	if p := filepath.Join(s.dir, "mariadb.sock"); len(p) <= longest {
		return p, nil
	}
	var hash uint64 = 14695981039346656037
	for _, b := range []byte(s.dir) {
		hash = (hash ^ uint64(b)) * 1099511628211
	}
	folder := filepath.Join(os.TempDir(), fmt.Sprintf("huekeep-%d-%x", os.Geteuid(), hash))
	if err := os.MkdirAll(folder, 0o700); err != nil {
		return "", err
	}
	info, err := os.Lstat(folder)
	if err != nil {
		return "", err
	}
	if owner, ok := info.Sys().(*syscall.Stat_t); !ok || !info.IsDir() || int(owner.Uid) != os.Geteuid() || info.Mode().Perm() != 0o700 {
		return "", fmt.Errorf("%s belongs to somebody else", folder)
	}
	return filepath.Join(folder, "s"), nil
}

// DSN is the data source name for a database on the server.
func (s *Server) DSN(database string) string {
	c := mysql.NewConfig()
	c.User, c.Net, c.Addr, c.DBName = "root", "unix", s.socket, database
	return c.FormatDSN()
}

func (s *Server) open() (*sql.DB, error) { return sql.Open("mysql", s.DSN("")) }

func (s *Server) ping(ctx context.Context) error {
	if _, err := os.Stat(s.socket); err != nil {
		return err
	}
	db, err := s.open()
	if err != nil {
		return err
	}
	defer db.Close()
	ctx, cancel := context.WithTimeout(ctx, 2*time.Second)
	defer cancel()
	return db.PingContext(ctx)
}

// Create makes a database if it does not exist; fresh drops an old one first. The name must be a plain word.
func (s *Server) Create(ctx context.Context, database string, fresh bool) error {
	db, err := s.open()
	if err != nil {
		return err
	}
	defer db.Close()
	if fresh {
		if _, err := db.ExecContext(ctx, "DROP DATABASE IF EXISTS `"+database+"`"); err != nil {
			return err
		}
	}
	_, err = db.ExecContext(ctx, "CREATE DATABASE IF NOT EXISTS `"+database+"` CHARACTER SET utf8mb4 COLLATE utf8mb4_bin")
	return err
}

// Guard starts the server again when it has ended by itself, until the context ends.
func (s *Server) Guard(ctx context.Context) {
	for ctx.Err() == nil {
		s.mutex.Lock()
		done := s.done
		s.mutex.Unlock()
		if done == nil { // it was found running: nothing tells that it ends but its silence
			select {
			case <-ctx.Done():
				return
			case <-time.After(time.Second):
			}
			if s.ping(ctx) == nil || s.alive() {
				continue
			}
		} else {
			select {
			case <-ctx.Done():
				return
			case <-done:
			}
		}
		s.mutex.Lock()
		if s.stopping || ctx.Err() != nil {
			s.mutex.Unlock()
			return
		}
		slog.Error("the private MariaDB has ended and is started again", "folder", s.dir, "how", s.ended)
		s.cmd, s.done = nil, nil
		err := s.start(ctx)
		s.mutex.Unlock()
		if err != nil && ctx.Err() == nil {
			slog.Error("the private MariaDB could not be started again", "error", err)
			select {
			case <-ctx.Done():
			case <-time.After(2 * time.Second):
			}
		}
	}
}

// alive says whether the process of a server that was found running is there.
func (s *Server) alive() bool {
	pid, err := s.pid()
	return err == nil && syscall.Kill(pid, 0) == nil
}

func (s *Server) pid() (int, error) {
	text, err := os.ReadFile(filepath.Join(s.dir, "mariadb.pid"))
	if err != nil {
		return 0, err
	}
	return strconv.Atoi(strings.TrimSpace(string(text)))
}

// Allow makes an account that reaches everything, from this machine.
func (s *Server) Allow(ctx context.Context, user, password string) error {
	db, err := s.open()
	if err != nil {
		return err
	}
	defer db.Close()
	_, err = db.ExecContext(ctx, "GRANT ALL ON *.* TO '"+user+"'@'127.0.0.1' IDENTIFIED BY '"+password+"'")
	return err
}

// Stop ends the server in order and waits for it.
func (s *Server) Stop() error {
	s.mutex.Lock()
	s.stopping = true
	s.mutex.Unlock()
	defer s.lock.Close()
	if s.cmd == nil { // taken over: stop it through its process id
		pid, err := s.pid()
		if err != nil {
			return err
		}
		if err := syscall.Kill(pid, syscall.SIGTERM); err != nil {
			return err
		}
		for range 300 {
			if syscall.Kill(pid, 0) != nil {
				return nil
			}
			time.Sleep(100 * time.Millisecond)
		}
		return fmt.Errorf("MariaDB (process %d) did not stop within 30 seconds", pid)
	}
	if err := s.cmd.Process.Signal(syscall.SIGTERM); err != nil && !errors.Is(err, os.ErrProcessDone) {
		return err
	}
	select {
	case <-s.done:
		return nil
	case <-time.After(30 * time.Second):
		_ = s.cmd.Process.Kill()
		return fmt.Errorf("MariaDB did not stop within 30 seconds and was killed")
	}
}

func tail(file string) string {
	data, err := os.ReadFile(file)
	if err != nil {
		return ""
	}
	lines := strings.Split(strings.TrimSpace(string(data)), "\n")
	return strings.Join(lines[max(0, len(lines)-10):], "\n")
}
