package store

import (
	"context"
	"database/sql"
	"encoding/base64"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/go-sql-driver/mysql"
)

// A dump is every row of every table at one moment, as lines of JSON: first the version of the schema, then, for each table, a line with its
// columns and a line for each row. Sessions are not in it, nor what can be computed again.

// undumped are tables that a dump leaves out.
var undumped = []string{"sessions", "computed", "sign_in_tries"}

// DumpHead is the first line of a dump.
type DumpHead struct {
	Schema int64 `json:"schema"` // the last migration
}

// dumpTable is the line before the rows of a table.
type dumpTable struct {
	Table   string   `json:"table"`
	Columns []string `json:"columns"`
}

// bytesValue is a value that is no text.
type bytesValue struct {
	Base64 string `json:"base64"`
}

// raw opens the database with values as the server writes them.
func raw(dsn string) (*sql.DB, error) {
	c, err := mysql.ParseDSN(dsn)
	if err != nil {
		return nil, fmt.Errorf("the database setting is not a data source name: %w", err)
	}
	settle(c)
	c.ParseTime = false
	connector, err := mysql.NewConnector(c)
	if err != nil {
		return nil, err
	}
	return sql.OpenDB(connector), nil
}

// Dump writes every row as it stands at one moment, while others go on working, and lists the stored files that they name.
func Dump(ctx context.Context, dsn string, w io.Writer) (files []string, err error) {
	db, err := raw(dsn)
	if err != nil {
		return nil, err
	}
	defer db.Close()
	one, err := db.Conn(ctx)
	if err != nil {
		return nil, fmt.Errorf("the database cannot be reached: %w", err)
	}
	defer one.Close()
	for _, q := range []string{"SET SESSION TRANSACTION ISOLATION LEVEL REPEATABLE READ", "START TRANSACTION WITH CONSISTENT SNAPSHOT"} {
		if _, err := one.ExecContext(ctx, q); err != nil {
			return nil, err
		}
	}
	defer func() { _, _ = one.ExecContext(ctx, "ROLLBACK") }() // it only read
	out := json.NewEncoder(w)
	out.SetEscapeHTML(false)
	var head DumpHead
	if err := one.QueryRowContext(ctx, "SELECT MAX(version_id) FROM goose_db_version WHERE is_applied").Scan(&head.Schema); err != nil {
		return nil, fmt.Errorf("the database is none of Hue Keep: %w", err)
	}
	if err := out.Encode(head); err != nil {
		return nil, err
	}
	tables, err := tablesOf(ctx, one)
	if err != nil {
		return nil, err
	}
	for _, t := range tables {
		if err := dumpRows(ctx, one, out, t); err != nil {
			return nil, fmt.Errorf("table %s: %w", t, err)
		}
	}
	if !slices.Contains(tables, "files") { // of before files were put on record
		return nil, nil
	}
	rows, err := one.QueryContext(ctx, "SELECT blob_key FROM files")
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var key string
		if err := rows.Scan(&key); err != nil {
			return nil, err
		}
		files = append(files, key)
	}
	return files, rows.Err()
}

// tablesOf lists the tables of a database, but for those that tell of migrations and those that are left out.
func tablesOf(ctx context.Context, db *sql.Conn) (list []string, err error) {
	rows, err := db.QueryContext(ctx, "SELECT table_name FROM information_schema.tables WHERE table_schema = DATABASE() AND table_type = 'BASE TABLE' ORDER BY table_name")
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	for rows.Next() {
		var name string
		if err := rows.Scan(&name); err != nil {
			return nil, err
		}
		if !strings.HasPrefix(name, "goose_") && !slices.Contains(undumped, name) {
			list = append(list, name)
		}
	}
	return list, rows.Err()
}

func dumpRows(ctx context.Context, db *sql.Conn, out *json.Encoder, table string) error {
	rows, err := db.QueryContext(ctx, "SELECT * FROM `"+table+"`")
	if err != nil {
		return err
	}
	defer rows.Close()
	columns, err := rows.Columns()
	if err != nil {
		return err
	}
	if err := out.Encode(dumpTable{table, columns}); err != nil {
		return err
	}
	values, into, line := make([]sql.RawBytes, len(columns)), make([]any, len(columns)), make([]any, len(columns))
	for i := range values {
		into[i] = &values[i]
	}
	for rows.Next() {
		if err := rows.Scan(into...); err != nil {
			return err
		}
		for i, v := range values {
			switch {
			case v == nil:
				line[i] = nil
			case utf8.Valid(v):
				line[i] = string(v)
			default:
				line[i] = bytesValue{base64.StdEncoding.EncodeToString(v)}
			}
		}
		if err := out.Encode(line); err != nil {
			return err
		}
	}
	return rows.Err()
}

// ErrNotEmpty says that a database holds something already.
var ErrNotEmpty = errors.New("the database holds something already; a dump is loaded into an empty one")

// Empty says, with ErrNotEmpty, whether a database holds anybody's work.
func Empty(ctx context.Context, dsn string) error {
	db, err := raw(dsn)
	if err != nil {
		return err
	}
	defer db.Close()
	return empty(ctx, db)
}

func empty(ctx context.Context, db *sql.DB) error {
	var there int
	if err := db.QueryRowContext(ctx, "SELECT COUNT(*) FROM information_schema.tables WHERE table_schema = DATABASE() AND table_name = 'users'").Scan(&there); err != nil {
		return fmt.Errorf("the database cannot be reached: %w", err)
	}
	if there == 0 {
		return nil
	}
	if err := db.QueryRowContext(ctx, "SELECT (SELECT COUNT(*) FROM users) + (SELECT COUNT(*) FROM houses)").Scan(&there); err != nil {
		return err
	}
	if there > 0 {
		return ErrNotEmpty
	}
	return nil
}

// batch is how many rows are written with one statement.
const batch = 100

// LoadDump makes the schema that a dump was made with in an empty database, writes its rows, all or none, and brings the schema up to date.
func LoadDump(ctx context.Context, dsn string, r io.Reader) error {
	db, err := raw(dsn)
	if err != nil {
		return err
	}
	defer db.Close()
	in := json.NewDecoder(r)
	var head DumpHead
	if err := in.Decode(&head); err != nil || head.Schema == 0 {
		return errors.New("this is no dump of Hue Keep")
	}
	schema, err := migrator(db, Upgrade{})
	if err != nil {
		return err
	}
	if err := empty(ctx, db); err != nil {
		return err
	}
	if _, err := schema.DownTo(ctx, 0); err != nil { // what an interrupted one left, perhaps of another version
		return err
	}
	last := newest(schema)
	if head.Schema > last {
		return fmt.Errorf("the dump was made by a newer Hue Keep (schema %d; this one knows up to %d)", head.Schema, last)
	}
	if _, err := schema.UpTo(ctx, head.Schema); err != nil {
		return fmt.Errorf("the schema of the dump cannot be made: %w", err)
	}
	if err := loadRows(ctx, db, in); err != nil {
		return err
	}
	_, err = schema.Up(ctx)
	return err
}

func loadRows(ctx context.Context, db *sql.DB, in *json.Decoder) error {
	one, err := db.Conn(ctx)
	if err != nil {
		return err
	}
	defer one.Close()
	known, err := tablesOf(ctx, one)
	if err != nil {
		return err
	}
	// What points to what is whole when all rows are there. The connection is not used again.
	if _, err := one.ExecContext(ctx, "SET FOREIGN_KEY_CHECKS = 0"); err != nil {
		return err
	}
	tx, err := one.BeginTx(ctx, nil)
	if err != nil {
		return err
	}
	defer func() { _ = tx.Rollback() }() // after Commit it does nothing
	has := func(name string) bool { return slices.Contains(known, name) }
	if err := readRows(in, has, func(q string, values ...any) error { _, err := tx.ExecContext(ctx, q, values...); return err }); err != nil {
		return err
	}
	return tx.Commit()
}

// readRows writes the rows of a dump, whose tables must be known.
func readRows(in *json.Decoder, known func(table string) bool, exec func(q string, values ...any) error) error {
	var table dumpTable
	var waiting [][]any
	flush := func() error {
		if len(waiting) == 0 {
			return nil
		}
		row := "(" + strings.TrimSuffix(strings.Repeat("?,", len(table.Columns)), ",") + ")"
		var values []any
		for _, w := range waiting {
			values = append(values, w...)
		}
		q := "INSERT INTO `" + table.Table + "` (`" + strings.Join(table.Columns, "`,`") + "`) VALUES " + strings.TrimSuffix(strings.Repeat(row+",", len(waiting)), ",")
		waiting = waiting[:0]
		return exec(q, values...)
	}
	size := 0
	for {
		var line json.RawMessage
		if err := in.Decode(&line); errors.Is(err, io.EOF) {
			break
		} else if err != nil {
			return fmt.Errorf("the dump is damaged: %w", err)
		}
		if line[0] == '{' {
			if err := flush(); err != nil {
				return fmt.Errorf("table %s: %w", table.Table, err)
			}
			table, size = dumpTable{}, 0
			if err := json.Unmarshal(line, &table); err != nil || !known(table.Table) || slices.ContainsFunc(table.Columns, func(c string) bool { return strings.ContainsAny(c, "`\x00") }) {
				return fmt.Errorf("the dump is damaged: there is no table %q", table.Table)
			}
			continue
		}
		row, err := dumpedRow(line, len(table.Columns))
		if err != nil {
			return fmt.Errorf("table %s: %w", table.Table, err)
		}
		waiting = append(waiting, row)
		if size += len(line); len(waiting) == batch || size > 8<<20 {
			if err := flush(); err != nil {
				return fmt.Errorf("table %s: %w", table.Table, err)
			}
			size = 0
		}
	}
	if err := flush(); err != nil {
		return fmt.Errorf("table %s: %w", table.Table, err)
	}
	return nil
}

func dumpedRow(line []byte, columns int) ([]any, error) {
	var cells []json.RawMessage
	if err := json.Unmarshal(line, &cells); err != nil || len(cells) != columns {
		return nil, errors.New("the dump is damaged: a row does not fit its table")
	}
	out := make([]any, columns)
	for i, c := range cells {
		if len(c) > 0 && c[0] == '{' {
			var b bytesValue
			if err := json.Unmarshal(c, &b); err != nil {
				return nil, err
			}
			data, err := base64.StdEncoding.DecodeString(b.Base64)
			if err != nil {
				return nil, err
			}
			out[i] = data
			continue
		}
		var text *string
		if err := json.Unmarshal(c, &text); err != nil {
			return nil, err
		}
		if text != nil {
			out[i] = *text
		}
	}
	return out, nil
}

// State is what there is to know of a database.
type State struct {
	Version string
	Schema  int64         // the last migration that it has had
	Newest  int64         // the last one that this program knows
	Packet  int64         // the longest statement that it takes, in bytes
	Clock   time.Duration // how far its clock is ahead of this machine's
	Keys    []string      // ids of the keys that its secrets are encrypted with
}

// Reach says whether a database can be reached.
func Reach(ctx context.Context, dsn string) error {
	db, err := raw(dsn)
	if err != nil {
		return err
	}
	defer db.Close()
	return db.PingContext(ctx)
}

// Look asks a database about itself and changes nothing.
func Look(ctx context.Context, dsn string) (s State, err error) {
	db, err := raw(dsn)
	if err != nil {
		return s, err
	}
	defer db.Close()
	schema, err := migrator(db, Upgrade{})
	if err != nil {
		return s, err
	}
	s.Newest = newest(schema)
	var clock float64
	if err := db.QueryRowContext(ctx, "SELECT VERSION(), @@max_allowed_packet, UNIX_TIMESTAMP(NOW(6))").Scan(&s.Version, &s.Packet, &clock); err != nil {
		return s, err
	}
	s.Clock = time.Duration((clock - float64(time.Now().UnixMicro())/1e6) * float64(time.Second))
	s.Schema = schemaOf(ctx, db)
	for _, q := range []string{"SELECT DISTINCT SUBSTRING(totp, 4, 8) FROM users WHERE totp LIKE 'k1:%'", "SELECT DISTINCT SUBSTRING(secret, 4, 8) FROM hooks WHERE secret LIKE 'k1:%'"} {
		rows, err := db.QueryContext(ctx, q)
		if err != nil {
			continue // before the first start, or of a version from before
		}
		for rows.Next() {
			var id string
			if err := rows.Scan(&id); err != nil {
				return s, errors.Join(err, rows.Close())
			}
			if !slices.Contains(s.Keys, id) {
				s.Keys = append(s.Keys, id)
			}
		}
		if err := errors.Join(rows.Err(), rows.Close()); err != nil {
			return s, err
		}
	}
	return s, nil
}
