package reading

import (
	"bufio"
	"bytes"
	"context"
	"encoding/gob"
	"fmt"
	"io"
	"os"
	"os/exec"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"time"

	"huekeep/core/audit"
	"huekeep/core/limits"
)

// Turns decide who may read a file next. keep.Turns are some.
type Turns interface {
	Take(ctx context.Context, house int64) (done func(), err error)
	Now() (taken, waiting int, longest time.Duration)
}

// Pool begins sessions in processes of their own.
type Pool struct {
	Program string        // this program; empty to work within this process, in tests
	Limit   time.Duration // that a file may take
	Memory  int64         // bytes that a process may take
	Turns   Turns

	mutex sync.Mutex
	idle  []*process
	shut  bool

	late, died, begun atomic.Int64
}

// idleProcesses is how many processes wait for work.
const idleProcesses = 2

// patience is how long a process may take beyond its limit to say so itself; what does not is ended.
const patience = time.Second

// MemoryPerProcess is what a process may take: the 300 MB that one file may, what is kept of the others of its project, and the program.
const MemoryPerProcess = 768 << 20

// WorkCommand is the command of the program that a process is.
const WorkCommand = "read-apart"

// Count is what has happened so far.
type Count struct {
	Begun int64 // processes
	Died  int64 // that ended by themselves
	Late  int64 // files that took too long
}

// Counted says what has happened so far.
func (p *Pool) Counted() Count { return Count{p.begun.Load(), p.died.Load(), p.late.Load()} }

// Waiting says how many files are read, how many wait, and for how long the first of these does.
func (p *Pool) Waiting() (taken, waiting int, longest time.Duration) { return p.Turns.Now() }

// Begin begins work for a house.
func (p *Pool) Begin(house int64, rules audit.Rules) Session {
	return &session{pool: p, house: house, rules: &rules}
}

// Close ends the processes that wait for work.
func (p *Pool) Close() {
	p.mutex.Lock()
	defer p.mutex.Unlock()
	p.shut = true
	for _, w := range p.idle {
		w.kill()
	}
	p.idle = nil
}

// process is one that works.
type process struct {
	in     io.WriteCloser
	out    *bufio.Reader
	encode *gob.Encoder
	decode *gob.Decoder
	kill   func()
	ended  func() string // what it complained about, once it has ended
}

func (p *Pool) take() (*process, error) {
	p.mutex.Lock()
	if n := len(p.idle); n > 0 {
		w := p.idle[n-1]
		p.idle = p.idle[:n-1]
		p.mutex.Unlock()
		return w, nil
	}
	p.mutex.Unlock()
	p.begun.Add(1)
	if p.Program == "" {
		return p.within(), nil
	}
	return p.start()
}

// within works in this process.
func (p *Pool) within() *process {
	ctx, stop := context.WithCancel(context.Background())
	inRead, inWrite := io.Pipe()
	outRead, outWrite := io.Pipe()
	go func() { _ = outWrite.CloseWithError(Work(ctx, inRead, outWrite)) }()
	out := bufio.NewReader(outRead)
	return &process{in: inWrite, out: out, encode: gob.NewEncoder(inWrite), decode: gob.NewDecoder(out), ended: func() string { return "" },
		kill: func() { stop(); inRead.Close(); outRead.Close() }}
}

// start starts the program anew, with nothing of what the server knows.
func (p *Pool) start() (*process, error) {
	cmd := exec.Command(p.Program, WorkCommand)
	cmd.Env = []string{fmt.Sprintf("GOMEMLIMIT=%d", p.Memory*3/4), fmt.Sprintf("%s=%d", memoryVariable, p.Memory), "GOMAXPROCS=2"}
	for _, name := range []string{"PATH", "TMPDIR", "LANG", "HOME", "XDG_CACHE_HOME", "CACHE_DIRECTORY"} {
		if v, ok := os.LookupEnv(name); ok {
			cmd.Env = append(cmd.Env, name+"="+v)
		}
	}
	// A group of its own, so that ffmpeg ends with it; and it ends when this program is killed.
	cmd.SysProcAttr = &syscall.SysProcAttr{Setpgid: true, Pdeathsig: syscall.SIGKILL}
	in, err := cmd.StdinPipe()
	if err != nil {
		return nil, err
	}
	out, err := cmd.StdoutPipe()
	if err != nil {
		return nil, err
	}
	complaint := &tail{}
	cmd.Stderr = complaint
	if err := cmd.Start(); err != nil {
		return nil, fmt.Errorf("a process for reading could not be started: %w", err)
	}
	done := make(chan struct{})
	reap := sync.OnceFunc(func() {
		_ = syscall.Kill(-cmd.Process.Pid, syscall.SIGKILL)
		_ = cmd.Wait()
		close(done)
	})
	buffered := bufio.NewReaderSize(out, 1<<16)
	return &process{in: in, out: buffered, encode: gob.NewEncoder(in), decode: gob.NewDecoder(buffered), kill: reap,
		ended: func() string { reap(); <-done; return complaint.String() }}, nil
}

// tail keeps the beginning of what a process complains about.
type tail struct {
	mutex sync.Mutex
	text  bytes.Buffer
}

func (t *tail) Write(b []byte) (int, error) {
	t.mutex.Lock()
	defer t.mutex.Unlock()
	if room := 8000 - t.text.Len(); room > 0 {
		t.text.Write(b[:min(len(b), room)])
	}
	return len(b), nil
}

func (t *tail) String() string {
	t.mutex.Lock()
	defer t.mutex.Unlock()
	return t.text.String()
}

// put gives a process back that can be used again.
func (p *Pool) put(w *process) {
	p.mutex.Lock()
	defer p.mutex.Unlock()
	if p.shut || len(p.idle) >= idleProcesses {
		w.kill()
		return
	}
	p.idle = append(p.idle, w)
}

// errDied says that a process ended by itself.
type errDied struct{ complaint string }

func (e errDied) Error() string { return "the process that read it ended: " + e.complaint }

// memory says whether a process ended for lack of memory. Threads need room for a stack; and where Go's own runtime is given none it does
// not always look, and faults on its own stack ("PC="), which no nil pointer of a program does: those are panics.
func (e errDied) memory() bool {
	return slices.ContainsFunc([]string{"out of memory", "cannot allocate memory", "pthread_create failed",
		"failed to create new OS thread", "SIGSEGV: segmentation violation\nPC="},
		func(said string) bool { return strings.Contains(e.complaint, said) })
}

// ask asks a process and follows its answers to the last. A process that has not answered in time is ended.
func (p *Pool) ask(ctx context.Context, w *process, r request, data []byte, patience time.Duration,
	each func(a answer) error) (written []byte, err error) {
	var late atomic.Bool
	timer := time.AfterFunc(r.Limit+patience, func() { late.Store(true); w.kill() })
	defer timer.Stop()
	stop := context.AfterFunc(ctx, w.kill)
	defer stop()
	broken := func(err error) error {
		switch {
		case ctx.Err() != nil:
			w.kill()
			return ctx.Err()
		case late.Load():
			return errLate
		}
		return errDied{fmt.Sprintf("%s (%v)", w.ended(), err)}
	}
	r.Size = int64(len(data))
	err = w.encode.Encode(r)
	if err == nil && len(data) > 0 {
		_, err = w.in.Write(data)
	}
	if err != nil {
		return nil, broken(err)
	}
	for {
		var a answer
		if err := w.decode.Decode(&a); err != nil {
			return nil, broken(err)
		}
		if a.Size > 0 && a.Size <= limits.UnpackedBytes {
			written = make([]byte, a.Size)
			if _, err := io.ReadFull(w.out, written); err != nil {
				return nil, broken(err)
			}
		}
		if err := each(a); err != nil {
			w.kill()
			return nil, err
		}
		switch {
		case !a.Done:
		case a.Late:
			return nil, errLate
		case a.Wrong != "":
			return nil, Sentence(a.Wrong)
		default:
			return written, nil
		}
	}
}
