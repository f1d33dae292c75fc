package storetest

import (
	"context"
	"database/sql"
	"fmt"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"huekeep/store/local"
)

// Cluster is a Galera cluster of two nodes on loopback. The first counts twice, so that the cluster outlives the loss of the second; real
// ones have three nodes or more.
type Cluster struct {
	t     testing.TB
	Nodes [2]*Node
}

// Node is one MariaDB of a cluster.
type Node struct {
	t           testing.TB
	dir         string
	port, group int
	ist, sst    int
	weight      int
	others      string
	donor       string // the log of the first node
	cmd         *exec.Cmd
	done        chan struct{}
}

// Where Debian's packages put what a cluster needs: the library, and the scripts that carry state over, which scripts/setup.sh takes out of
// the server's package without installing that.
const (
	galera  = "/usr/lib/galera/libgalera_smm.so"
	scripts = "/usr/local/lib/huekeep-test/galera/usr/bin"
)

// StartCluster starts one, or skips the test where Galera is not installed.
func StartCluster(t testing.TB) *Cluster {
	for _, file := range []string{galera, filepath.Join(scripts, "wsrep_sst_rsync")} {
		if _, err := os.Stat(file); err != nil {
			if os.Getenv("CI") != "" {
				t.Fatalf("%s is not there; see scripts/setup.sh", file)
			}
			t.Skipf("%s is not there; make setup-test brings it", file)
		}
	}
	c := &Cluster{t: t}
	first := t.TempDir()
	// The data of both nodes begin alike, so that no state has to be carried over when the second one joins.
	server, err := local.Start(context.Background(), first)
	require.NoError(t, err)
	require.NoError(t, server.Create(context.Background(), "cluster", true))
	require.NoError(t, server.Allow(context.Background(), "huekeep", "a password of tests"))
	require.NoError(t, server.Stop())
	ports := freePorts(t, 8)
	for i := range c.Nodes {
		c.Nodes[i] = &Node{t: t, dir: t.TempDir(), port: ports[4*i], group: ports[4*i+1], ist: ports[4*i+2], sst: ports[4*i+3],
			weight: 2 - i}
	}
	for i, n := range c.Nodes {
		n.donor = filepath.Join(c.Nodes[0].dir, "log")
		n.others = fmt.Sprintf("127.0.0.1:%d,127.0.0.1:%d", c.Nodes[0].group, c.Nodes[1].group)
		if i == 0 {
			require.NoError(t, os.CopyFS(filepath.Join(n.dir, "data"), os.DirFS(filepath.Join(first, "data"))))
		}
	}
	c.Nodes[0].start(true)
	c.Nodes[0].stop()
	require.NoError(t, os.CopyFS(filepath.Join(c.Nodes[1].dir, "data"), os.DirFS(filepath.Join(c.Nodes[0].dir, "data"))))
	c.Nodes[0].start(true)
	c.Nodes[1].start(false)
	t.Cleanup(func() {
		for _, n := range c.Nodes {
			n.Kill()
		}
	})
	return c
}

func freePorts(t testing.TB, n int) (list []int) {
	for range n {
		l, err := net.Listen("tcp", "127.0.0.1:0")
		require.NoError(t, err)
		defer l.Close()
		list = append(list, l.Addr().(*net.TCPAddr).Port)
	}
	return list
}

// DSN is the data source name of the cluster's database on this node.
func (n *Node) DSN() string {
	return fmt.Sprintf("huekeep:a password of tests@tcp(127.0.0.1:%d)/cluster?wsrep_sync_wait=1", n.port)
}

func (n *Node) arguments(more ...string) []string {
	options := fmt.Sprintf("gmcast.listen_addr=tcp://127.0.0.1:%d;ist.recv_addr=127.0.0.1:%d;pc.weight=%d;evs.keepalive_period=PT0.5S;evs.suspect_timeout=PT2S;evs.inactive_timeout=PT4S;evs.install_timeout=PT4S", n.group, n.ist, n.weight)
	a := []string{"--no-defaults", "--datadir=" + filepath.Join(n.dir, "data"), "--socket=" + filepath.Join(n.dir, "s"),
		"--pid-file=" + filepath.Join(n.dir, "pid"),
		fmt.Sprintf("--port=%d", n.port), "--bind-address=127.0.0.1", "--skip-name-resolve", "--character-set-server=utf8mb4",
		"--collation-server=utf8mb4_bin",
		"--innodb-buffer-pool-size=64M", "--max-allowed-packet=256M", "--innodb-flush-log-at-trx-commit=1", "--binlog-format=ROW",
		"--innodb-autoinc-lock-mode=2",
		"--wsrep-on=ON", "--wsrep-provider=" + galera, "--wsrep-cluster-name=huekeep-test", "--wsrep-sst-method=rsync",
		fmt.Sprintf("--wsrep-sst-receive-address=127.0.0.1:%d", n.sst), "--wsrep-retry-autocommit=4",
		fmt.Sprintf("--wsrep-node-address=127.0.0.1:%d", n.group), "--wsrep-provider-options=" + options}
	if os.Geteuid() == 0 {
		a = append(a, "--user=root")
	}
	return append(a, more...)
}

// start starts the node and waits until it is part of the cluster. One that was killed first finds out how far it had come.
func (n *Node) start(first bool) {
	server, err := local.Program()
	require.NoError(n.t, err)
	require.NoError(n.t, os.MkdirAll(filepath.Join(n.dir, "tmp"), 0o700))
	environment := append(os.Environ(), "TMPDIR="+filepath.Join(n.dir, "tmp"), "PATH="+scripts+":"+os.Getenv("PATH"))
	more := []string{"--wsrep-cluster-address=gcomm://" + n.others}
	if first {
		more = []string{"--wsrep-cluster-address=gcomm://" + n.others, "--wsrep-new-cluster"}
	}
	if state, err := os.ReadFile(filepath.Join(n.dir, "data", "grastate.dat")); err == nil &&
		strings.Contains(string(state), "seqno:   -1") {
		cmd := exec.Command(server, n.arguments(more[0], "--wsrep-recover")...)
		cmd.Env = environment
		log, _ := cmd.CombinedOutput() // it ends when it has said it
		found := regexp.MustCompile(`Recovered position: ([0-9a-f-]+:\d+)`).FindAllSubmatch(log, -1)
		require.NotEmpty(n.t, found, string(log))
		more = append(more, "--wsrep-start-position="+string(found[len(found)-1][1]))
	}
	require.NoError(n.t, os.Chmod(n.dir, 0o777)) // the one who receives for root is nobody
	require.NoError(n.t, os.Chmod(filepath.Join(n.dir, "data"), 0o777))
	log, err := os.OpenFile(filepath.Join(n.dir, "log"), os.O_CREATE|os.O_APPEND|os.O_WRONLY, 0o600)
	require.NoError(n.t, err)
	defer log.Close()
	n.cmd = exec.Command(server, n.arguments(more...)...)
	n.cmd.Stdout, n.cmd.Stderr, n.cmd.Env = log, log, environment
	require.NoError(n.t, n.cmd.Start())
	n.done = make(chan struct{})
	cmd, done := n.cmd, n.done
	go func() { _ = cmd.Wait(); close(done) }()
	end := time.Now().Add(60 * time.Second)
	for !n.synced() {
		select {
		case <-n.done:
		case <-time.After(100 * time.Millisecond):
			if time.Now().Before(end) {
				continue
			}
		}
		text, _ := os.ReadFile(log.Name())
		n.t.Fatalf("a node does not join the cluster:\n%s\nthe other one:\n%s", text, n.told())
	}
}

// told is the end of what the other node logs.
func (n *Node) told() string {
	text, _ := os.ReadFile(n.donor)
	return string(text[max(0, len(text)-12000):])
}

func (n *Node) synced() bool {
	db, err := sql.Open("mysql", n.DSN())
	if err != nil {
		return false
	}
	defer db.Close()
	ctx, stop := context.WithTimeout(context.Background(), 2*time.Second)
	defer stop()
	var name, state string
	return db.QueryRowContext(ctx, "SHOW STATUS LIKE 'wsrep_local_state_comment'").Scan(&name, &state) == nil && state == "Synced"
}

func (n *Node) stop() {
	_ = n.cmd.Process.Signal(syscall.SIGTERM)
	<-n.done
}

// Kill ends the node at once, as a power cut does.
func (n *Node) Kill() {
	_ = n.cmd.Process.Kill()
	<-n.done
}

// Part cuts the node off from the others, and both go on; Join lets it find them again, and waits until it is part of the cluster.
func (n *Node) Part() { n.isolate(1) }

func (n *Node) Join() {
	n.isolate(0)
	require.Eventually(n.t, n.synced, 60*time.Second, 100*time.Millisecond, "a node that was cut off joins again:\n%s", n.told())
}

func (n *Node) isolate(how int) {
	db, err := sql.Open("mysql", fmt.Sprintf("root@unix(%s)/", filepath.Join(n.dir, "s")))
	require.NoError(n.t, err)
	defer db.Close()
	_, err = db.Exec(fmt.Sprintf("SET GLOBAL wsrep_provider_options='gmcast.isolate=%d'", how))
	require.NoError(n.t, err)
}

// Back starts a node again that was killed; it takes from the other one what it missed.
func (n *Node) Back() { n.start(false) }
