package store

import (
	"context"
	"database/sql"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"path"
	"regexp"
	"slices"
	"strings"
	"time"

	"github.com/go-sql-driver/mysql"
	"github.com/pressly/goose/v3"
	"github.com/pressly/goose/v3/database"
	"github.com/pressly/goose/v3/lock"
)

//go:embed migrations/*.sql
var migrations embed.FS

// Migrations run statement by statement, and a migration that was cut off begins again with its first one: MariaDB keeps each statement
// that changes a table wholly or not at all (since 10.6) and by itself, so that what is found done already is passed over. What changes
// rows has to come to the same when it runs twice before its migration has ended.

// Upgrade is what happens before the first statement of an upgrade of a database that holds something.
type Upgrade struct {
	// Before is called while no other instance changes the schema. Its error ends the upgrade before anything was done.
	Before func(ctx context.Context, from, to int64) error
	// Done is told of each statement that was run or found done; nil but in tests.
	Done func(version int64, statement int)
}

// lease is how long the turn of an instance that changes the schema outlasts it.
const (
	lease     = 12 * time.Second
	heartbeat = 3 * time.Second
)

// bringUp brings the schema up to date. Several instances may start at once on one database: one does it, the others wait.
func bringUp(ctx context.Context, pool *sql.DB, u Upgrade) error {
	locker, err := lock.NewMySQLTableLocker(lock.WithTableLeaseDuration(lease), lock.WithTableHeartbeatInterval(heartbeat),
		lock.WithTableLockTimeout(time.Second, 600))
	if err != nil {
		return err
	}
	p, err := migrator(pool, u, goose.WithLocker(locker))
	if err != nil {
		return err
	}
	from := schemaOf(ctx, pool)
	if last := newest(p); from > last {
		return fmt.Errorf("the database is of a newer Hue Keep (schema %d; this one knows up to %d)", from, last)
	}
	if _, err := p.Up(ctx); err != nil {
		return &UpgradeError{From: from, To: newest(p), err: err}
	}
	return nil
}

// UpgradeError says that the schema could not be brought up to date. What was done stays, and the next start goes on from there.
type UpgradeError struct {
	From, To int64
	err      error
}

func (e *UpgradeError) Error() string {
	return fmt.Sprintf("the database schema cannot be brought up to date (from %d to %d): %v", e.From, e.To, e.err)
}

func (e *UpgradeError) Unwrap() error { return e.err }

func newest(p *goose.Provider) int64 { return p.ListSources()[len(p.ListSources())-1].Version }

// schemaOf is the last migration that a database has had; 0 before the first start.
func schemaOf(ctx context.Context, pool *sql.DB) (version int64) {
	_ = pool.QueryRowContext(ctx, "SELECT COALESCE(MAX(version_id), 0) FROM goose_db_version WHERE is_applied").Scan(&version)
	return version
}

const tableExists = "SELECT EXISTS (SELECT 1 FROM information_schema.tables WHERE table_schema = DATABASE() AND table_name = ?)"

// versions is the table of migrations. It is made and gets its first row, the zero version, in two steps of which each stays by itself: one
// that has no row is left by a start that was killed in between, or whose second step did not come to pass, and is taken for none.
type versions struct{ database.Store }

// TableExists says whether there is the table, with its first row.
func (v versions) TableExists(ctx context.Context, db database.DBTxConn) (begun bool, err error) {
	if there, err := v.made(ctx, db); err != nil || !there {
		return false, err
	}
	err = db.QueryRowContext(ctx, "SELECT EXISTS (SELECT 1 FROM "+v.Tablename()+")").Scan(&begun)
	return begun, err
}

// CreateVersionTable makes the table where it is not there yet.
func (v versions) CreateVersionTable(ctx context.Context, db database.DBTxConn) error {
	if there, err := v.made(ctx, db); err != nil || there {
		return err
	}
	return v.Store.CreateVersionTable(ctx, db)
}

func (v versions) made(ctx context.Context, db database.DBTxConn) (there bool, err error) {
	err = db.QueryRowContext(ctx, tableExists, v.Tablename()).Scan(&there)
	return there, err
}

// migration is one of the files of migrations.
type migration struct {
	version    int64
	statements []string
}

// written are all migrations, in their order.
func written() (list []migration, err error) {
	names, err := fs.Glob(migrations, "migrations/*.sql")
	if err != nil {
		return nil, err
	}
	slices.Sort(names)
	for i, name := range names {
		if number, _, _ := strings.Cut(path.Base(name), "_"); number != fmt.Sprintf("%05d", i+1) {
			return nil, fmt.Errorf("before migration %s there is a gap, or there are two of its number", name)
		}
		text, err := migrations.ReadFile(name)
		if err != nil {
			return nil, err
		}
		list = append(list, migration{int64(i + 1), statements(string(text))})
	}
	return list, nil
}

var making = regexp.MustCompile(`(?i)^CREATE TABLE (\w+)|^RENAME TABLE \w+ TO (\w+)|^ALTER TABLE \w+ RENAME TO (\w+)`)

// everMade are the names of all tables that some version had.
func everMade() (tables []string, err error) {
	list, err := written()
	for _, m := range list {
		for _, s := range m.statements {
			if made := making.FindStringSubmatch(s); made != nil {
				tables = append(tables, strings.Join(made[1:], ""))
			}
		}
	}
	slices.Sort(tables) // one may have been made anew
	return slices.Compact(tables), err
}

func migrator(pool *sql.DB, u Upgrade, more ...goose.ProviderOption) (*goose.Provider, error) {
	all, err := written()
	if err != nil {
		return nil, err
	}
	begun := false
	var list []*goose.Migration
	for _, m := range all {
		list = append(list, goose.NewGoMigration(m.version, &goose.GoFunc{RunDB: func(ctx context.Context, db *sql.DB) error {
			if from := schemaOf(ctx, db); !begun && from > 0 && u.Before != nil {
				if err := u.Before(ctx, from, all[len(all)-1].version); err != nil {
					return err
				}
			}
			begun = true
			return runAgain(ctx, db, m.statements, func(n int) {
				if u.Done != nil {
					u.Done(m.version, n)
				}
			})
		}}, nil))
	}
	kept, err := database.NewStore(goose.DialectMySQL, goose.DefaultTablename)
	if err != nil {
		return nil, err
	}
	return goose.NewProvider(goose.DialectCustom, pool, nil,
		append(more, goose.WithStore(versions{kept}), goose.WithGoMigrations(list...), goose.WithDisableGlobalRegistry(true))...)
}

// runAgain runs statements of which the first ones may have been run before.
func runAgain(ctx context.Context, db *sql.DB, list []string, done func(n int)) error {
	for i, s := range list {
		if _, err := db.ExecContext(ctx, s); err != nil {
			if !doneBefore(s, err) {
				return fmt.Errorf("statement %d: %w", i+1, err)
			}
			slog.Info("a statement of an upgrade that was cut off had been done", "statement", i+1)
		}
		done(i + 1)
	}
	return nil
}

// doneBefore says whether an error of a statement that changes a table means that it was done before: what it makes is there, or what it
// takes away or renames is gone. A statement is done as a whole, so that the first part tells of all.
func doneBefore(statement string, err error) bool {
	var failure *mysql.MySQLError
	if !errors.As(err, &failure) {
		return false
	}
	switch verb, _, _ := strings.Cut(statement, " "); strings.ToUpper(verb) {
	case "CREATE":
		return failure.Number == 1050 || failure.Number == 1061
	case "DROP":
		return failure.Number == 1051 || failure.Number == 1091
	case "ALTER":
		// Columns, keys and constraints that are there or gone; 121 is a foreign key of that name. An unknown column counts where one is
		// renamed.
		return slices.Contains([]uint16{1060, 1061, 1091, 1826}, failure.Number) ||
			failure.Number == 1005 && strings.Contains(failure.Message, "errno: 121") ||
			failure.Number == 1054 && strings.Contains(strings.ToUpper(statement), " RENAME COLUMN ")
	}
	return false
}

// statements splits SQL at the semicolons outside of strings and comments, which are left out.
func statements(text string) (list []string) {
	var b strings.Builder
	for i := 0; i < len(text); i++ {
		switch c := text[i]; {
		case strings.HasPrefix(text[i:], "--"):
			end := strings.IndexByte(text[i:], '\n')
			if end < 0 {
				end = len(text) - i
			}
			i += end - 1
		case c == '\'' || c == '"' || c == '`':
			end := strings.IndexByte(text[i+1:], c)
			if end < 0 {
				end = len(text) - i - 2
			}
			b.WriteString(text[i : i+end+2])
			i += end + 1
		case c == ';':
			if s := strings.TrimSpace(b.String()); s != "" {
				list = append(list, s)
			}
			b.Reset()
		default:
			b.WriteByte(c)
		}
	}
	if s := strings.TrimSpace(b.String()); s != "" {
		list = append(list, s)
	}
	return list
}
