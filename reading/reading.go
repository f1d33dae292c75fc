// Package reading reads and repaints the project files of others in processes of their own: the same program, started with a limit of
// memory and without the settings of the server, so that what a file does to a reader ends with that process. A process is used for many
// files and ended at once when somebody gives up or a file takes too long.
package reading

import (
	"context"
	"errors"
	"fmt"
	"path"
	"time"

	"huekeep/core/audit"
	"huekeep/core/gather"
	"huekeep/core/limits"
	"huekeep/core/repaint"
)

// Watch is told how far a file is: in the user's terms, and the share of it, 0 to 1.
type Watch func(what string, share float64)

// Load gives the bytes of a file; it may be called again.
type Load func(ctx context.Context) ([]byte, error)

// Session is work on the files of one project, by the rules that it was begun with.
type Session interface {
	// Read finds the colors in a file and gives its report, if it hangs on no other file (audit.Scan.Alone); nil for one whose report comes
	// with Judge. An error that is Sentence names the file and what is wrong with it; the others can still be read.
	Read(ctx context.Context, name string, load Load, watch Watch) (*audit.Report, error)
	// Judge judges the files that were read and have no report yet, in their order, with what they use of each other. Over is told of those
	// with which that comes to too much.
	Judge(ctx context.Context, each func(report audit.Report) error, over func(file audit.Unread)) error
	// Repaint repaints a file by itself.
	Repaint(ctx context.Context, name string, load Load, plan Plan, watch Watch) (*repaint.Result, error)
	// Classes are the utility classes that a file names, and those that a plan does not change at every place of it (repaint.Classes).
	Classes(ctx context.Context, name string, load Load, plan Plan) (all, held []string, err error)
	// End gives the process back.
	End()
}

// Reader begins sessions.
type Reader interface {
	Begin(house int64, rules audit.Rules) Session
	// Gather finds the colors of a file that somebody was sent. Sentences are its errors where the file is to blame.
	Gather(ctx context.Context, house int64, name string, data []byte) (gather.Found, error)
}

// Plan is a plan of repainting; an empty one does what needs no decision.
type Plan struct {
	Colors []repaint.Step
	Link   bool
	Theme  map[string]string
	Stay   map[string]string // utility classes that keep their names, and why
}

func (p Plan) of(before audit.Report) repaint.Plan {
	plan := repaint.Plan{Colors: p.Colors, Link: p.Link, Theme: p.Theme, Stay: p.Stay}
	if len(p.Colors) == 0 {
		plan.Colors = repaint.Usual(before).Colors
	}
	return plan
}

// Sentence is an error that a person can read: what is wrong with a file.
type Sentence string

func (s Sentence) Error() string { return string(s) }

// TimePerFile is how long a file may take, unless the settings say otherwise.
const TimePerFile = limits.FileSeconds * time.Second

// tooLong is what is said of a file that took longer than it may.
func tooLong(name string, limit time.Duration) error {
	return Sentence(fmt.Sprintf("%s: it takes too long to read (over %s)", path.Base(name), seconds(limit)))
}

func seconds(d time.Duration) string {
	if d < 2*time.Second {
		return fmt.Sprintf("%.1f seconds", d.Seconds())
	}
	return fmt.Sprintf("%.0f seconds", d.Seconds())
}

// errLate ends a reader from within.
var errLate = errors.New("it takes too long")
