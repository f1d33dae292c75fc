package reading

import (
	"context"
	"encoding/json"
	"fmt"

	"huekeep/core/audit/kinds"
)

// Task is something that is done with one file that somebody brought, in a process of its own: reading it, to see that it can be, or making
// another of it. A is what else it needs to know.
type Task[A any] struct{ name string }

var tasks = map[string]func(arg, data []byte) ([]byte, error){}

// NewTask names what is done with files of a kind. It is called while a package is set up, so that every process knows all tasks.
func NewTask[A any](name string, f func(arg A, data []byte) ([]byte, error)) Task[A] {
	if tasks[name] != nil {
		panic("two tasks are named " + name)
	}
	tasks[name] = func(text, data []byte) ([]byte, error) {
		var arg A
		if err := json.Unmarshal(text, &arg); err != nil {
			return nil, fmt.Errorf("%s: %w", name, err)
		}
		return f(arg, data)
	}
	return Task[A]{name}
}

// Do does it with a file, in the house's turn. What is wrong with the file is a Sentence: what the task said, or that the file takes more
// time or memory than it may.
func (t Task[A]) Do(ctx context.Context, p *Pool, house int64, file string, arg A, data []byte) (made []byte, err error) {
	text, err := json.Marshal(arg)
	if err != nil {
		return nil, err
	}
	s := &session{pool: p, house: house}
	defer s.End()
	err = s.turn(ctx, nil, func([]byte) (err error) {
		made, err = s.ask(ctx, request{What: askTask, Task: t.name, Arg: text, Name: file, Limit: p.Limit}, data, patience,
			func(answer) error { return nil })
		return err
	})
	if err != nil {
		return nil, s.said(file, err)
	}
	return made, nil
}

// task does a task.
func (w *worker) task(r request, data []byte) error {
	f := tasks[r.Task]
	if f == nil {
		return fmt.Errorf("there is no task %q", r.Task)
	}
	var made []byte
	a, err := w.within(r, nil, func(kinds.Options) (err error) {
		made, err = f(r.Arg, data)
		return err
	})
	if err != nil {
		return err
	}
	return w.send(a, made)
}
