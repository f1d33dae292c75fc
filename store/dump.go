package store

import (
	"bytes"
	"context"
	"crypto/sha256"
	"database/sql"
	"encoding/base64"
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"maps"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/go-sql-driver/mysql"
	"github.com/pressly/goose/v3"
)

// A dump is every row of every table at one moment, as lines of JSON: first the version of the schema, then, for each table, a line with
// its columns and a line for each row. Sessions are not in it, nor what can be computed again.

// undumped are tables that a dump leaves out. One who is loaded with a dump has not made those that are told of in "dumps", and removes
// none of them.
var undumped = []string{"sessions", "computed", "sign_in_tries", "dumps", "instances"}

// DumpHead is the first line of a dump.
type DumpHead struct {
	Schema int64 `json:"schema"` // the last migration
}

// Dumped is what a dump holds.
type Dumped struct {
	Schema int64           // the last migration
	Tables map[string]Rows // by name
	Files  []string        // keys of the stored files that the rows name
}

// Rows are the rows of a table, in whatever order.
type Rows struct {
	Count int64  `json:"count"`
	Sum   uint64 `json:"sum"` // of the first eight bytes of the checksum of each
}

func (r *Rows) add(line []byte) {
	sum := sha256.Sum256(line)
	r.Count++
	r.Sum += binary.BigEndian.Uint64(sum[:])
}

// Rows counts the rows of all tables.
func (d Dumped) Rows() (n int64) {
	for _, r := range d.Tables {
		n += r.Count
	}
	return n
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

// Dump writes every row as it stands at one moment, while others go on working, and tells what it wrote.
func Dump(ctx context.Context, dsn string, w io.Writer) (d Dumped, err error) {
	db, err := raw(dsn)
	if err != nil {
		return d, err
	}
	defer db.Close()
	one, err := db.Conn(ctx)
	if err != nil {
		return d, fmt.Errorf("the database cannot be reached: %w", err)
	}
	defer one.Close()
	return dumpOf(ctx, one, w)
}

func dumpOf(ctx context.Context, one *sql.Conn, w io.Writer) (d Dumped, err error) {
	for _, q := range []string{"SET SESSION TRANSACTION ISOLATION LEVEL REPEATABLE READ", "START TRANSACTION WITH CONSISTENT SNAPSHOT"} {
		if _, err := one.ExecContext(ctx, q); err != nil {
			return d, err
		}
	}
	defer func() { _, _ = one.ExecContext(ctx, "ROLLBACK") }() // it only read
	out := lines{w: w}
	out.encoder = json.NewEncoder(&out.line)
	out.encoder.SetEscapeHTML(false)
	d.Tables = map[string]Rows{}
	if err := one.QueryRowContext(ctx, "SELECT MAX(version_id) FROM goose_db_version WHERE is_applied").Scan(&d.Schema); err != nil {
		return d, fmt.Errorf("the database is none of Hue Keep: %w", err)
	}
	if err := out.write(DumpHead{d.Schema}); err != nil {
		return d, err
	}
	tables, err := tablesOf(ctx, one)
	if err != nil {
		return d, err
	}
	for _, t := range tables {
		if d.Tables[t], err = dumpRows(ctx, one, &out, t); err != nil {
			return d, fmt.Errorf("table %s: %w", t, err)
		}
	}
	if !slices.Contains(tables, "files") { // of before files were put on record
		return d, nil
	}
	rows, err := one.QueryContext(ctx, "SELECT blob_key FROM files")
	if err != nil {
		return d, err
	}
	defer rows.Close()
	for rows.Next() {
		var key string
		if err := rows.Scan(&key); err != nil {
			return d, err
		}
		d.Files = append(d.Files, key)
	}
	return d, rows.Err()
}

// lines writes lines of JSON.
type lines struct {
	w       io.Writer
	encoder *json.Encoder
	line    bytes.Buffer // the last one, with its end
}

func (l *lines) write(v any) error {
	l.line.Reset()
	if err := l.encoder.Encode(v); err != nil {
		return err
	}
	_, err := l.w.Write(l.line.Bytes())
	return err
}

// last is the line that was written last, without its end.
func (l *lines) last() []byte { return bytes.TrimSuffix(l.line.Bytes(), []byte("\n")) }

// tablesOf lists the tables of a database, but for those that tell of migrations and those that are left out.
func tablesOf(ctx context.Context, db *sql.Conn) (list []string, err error) {
	rows, err := db.QueryContext(ctx,
		"SELECT table_name FROM information_schema.tables WHERE table_schema = DATABASE() AND table_type = 'BASE TABLE' ORDER BY table_name")
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

func dumpRows(ctx context.Context, db *sql.Conn, out *lines, table string) (n Rows, err error) {
	rows, err := db.QueryContext(ctx, "SELECT * FROM `"+table+"`")
	if err != nil {
		return n, err
	}
	defer rows.Close()
	columns, err := rows.Columns()
	if err != nil {
		return n, err
	}
	if err := out.write(dumpTable{table, columns}); err != nil {
		return n, err
	}
	values, into, line := make([]sql.RawBytes, len(columns)), make([]any, len(columns)), make([]any, len(columns))
	for i := range values {
		into[i] = &values[i]
	}
	for rows.Next() {
		if err := rows.Scan(into...); err != nil {
			return n, err
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
		if err := out.write(line); err != nil {
			return n, err
		}
		n.add(out.last())
	}
	return n, rows.Err()
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
	for _, table := range []string{"users", "houses"} { // a migration that was cut off has left the one without the other
		var there bool
		if err := db.QueryRowContext(ctx, tableExists, table).Scan(&there); err != nil {
			return fmt.Errorf("the database cannot be reached: %w", err)
		}
		if !there {
			continue
		}
		var rows bool
		if err := db.QueryRowContext(ctx, "SELECT EXISTS (SELECT 1 FROM "+table+")").Scan(&rows); err != nil {
			return err
		}
		if rows {
			return ErrNotEmpty
		}
	}
	return nil
}

// batch is how many rows are written with one statement.
const batch = 100

// LoadDump makes the schema that a dump was made with in an empty database, writes its rows, all or none, and brings the schema up to date.
func LoadDump(ctx context.Context, dsn string, r io.Reader) error {
	return loadDump(ctx, dsn, r, func(Dumped) error { return nil })
}

// TryDump loads a dump into an empty scratch database as LoadDump does, and before the schema is brought up to date reads it all again:
// rows that came out otherwise than they went in are an error.
func TryDump(ctx context.Context, dsn string, r io.Reader) (in Dumped, err error) {
	db, err := raw(dsn)
	if err != nil {
		return in, err
	}
	defer db.Close()
	err = loadDump(ctx, dsn, r, func(read Dumped) error {
		in = read
		one, err := db.Conn(ctx)
		if err != nil {
			return err
		}
		defer one.Close()
		out, err := dumpOf(ctx, one, io.Discard)
		if err != nil {
			return err
		}
		in.Files = out.Files
		return in.Differs(out)
	})
	return in, err
}

// Differs says, as an error, in which table the rows of a dump are not those of another one.
func (d Dumped) Differs(from Dumped) error {
	for _, t := range slices.Sorted(maps.Keys(d.Tables)) {
		if was, is := d.Tables[t], from.Tables[t]; was.Count != is.Count {
			return fmt.Errorf("table %s has %d rows and should have %d", t, is.Count, was.Count)
		} else if was != is {
			return fmt.Errorf("table %s has rows that are not what they were", t)
		}
	}
	return nil
}

// loadDump calls loaded when all rows are there, with the schema that they were dumped with.
func loadDump(ctx context.Context, dsn string, r io.Reader, loaded func(Dumped) error) error {
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
	if err := clear(ctx, db, schema); err != nil { // of what an interrupted one left, perhaps of another version
		return err
	}
	last := newest(schema)
	if head.Schema > last {
		return fmt.Errorf("the dump was made by a newer Hue Keep (schema %d; this one knows up to %d)", head.Schema, last)
	}
	if _, err := schema.UpTo(ctx, head.Schema); err != nil {
		return fmt.Errorf("the schema of the dump cannot be made: %w", err)
	}
	var tables map[string]Rows
	err = unchecked(ctx, db, func(one *sql.Conn) error { // what points to what is whole when all rows are there
		tables, err = loadRows(ctx, one, in)
		return err
	})
	if err != nil {
		return err
	}
	if err := loaded(Dumped{Schema: head.Schema, Tables: tables}); err != nil {
		return err
	}
	_, err = schema.Up(ctx)
	return err
}

// clear takes away the tables of a database that holds nobody's work, also those of a migration that was cut off, of which no version
// tells. The table of versions goes last: a database without one is not known to be ours, and nothing in it is touched.
func clear(ctx context.Context, db *sql.DB, schema *goose.Provider) error {
	var ours bool
	if err := db.QueryRowContext(ctx, tableExists, goose.DefaultTablename).Scan(&ours); err != nil || !ours {
		return err
	}
	if from, last := schemaOf(ctx, db), newest(schema); from > last {
		return fmt.Errorf("the database is of a newer Hue Keep (schema %d; this one knows up to %d)", from, last)
	}
	tables, err := everMade()
	if err != nil {
		return err
	}
	return unchecked(ctx, db, func(one *sql.Conn) error {
		_, err := one.ExecContext(ctx, "DROP TABLE IF EXISTS `"+strings.Join(append(tables, goose.DefaultTablename), "`, `")+"`")
		return err
	})
}

// unchecked runs f on a connection that does not ask whether what a row or a table points to is there.
func unchecked(ctx context.Context, db *sql.DB, f func(one *sql.Conn) error) error {
	one, err := db.Conn(ctx)
	if err != nil {
		return err
	}
	defer one.Close()
	if _, err := one.ExecContext(ctx, "SET FOREIGN_KEY_CHECKS = 0"); err != nil {
		return err
	}
	err = f(one)
	_, again := one.ExecContext(ctx, "SET FOREIGN_KEY_CHECKS = 1")
	return errors.Join(err, again)
}

// CountDump reads the rows of a dump from beginning to end, and says how many there are of which table.
func CountDump(r io.Reader) (d Dumped, err error) {
	in := json.NewDecoder(r)
	var head DumpHead
	if err := in.Decode(&head); err != nil || head.Schema == 0 {
		return d, errors.New("this is no dump of Hue Keep")
	}
	d.Schema = head.Schema
	d.Tables, err = readRows(in, func(string) bool { return true }, func(string, ...any) error { return nil })
	return d, err
}

func loadRows(ctx context.Context, one *sql.Conn, in *json.Decoder) (map[string]Rows, error) {
	known, err := tablesOf(ctx, one)
	if err != nil {
		return nil, err
	}
	tx, err := one.BeginTx(ctx, nil)
	if err != nil {
		return nil, err
	}
	defer func() { _ = tx.Rollback() }() // after Commit it does nothing
	has := func(name string) bool { return slices.Contains(known, name) }
	tables, err := readRows(in, has, func(q string, values ...any) error { _, err := tx.ExecContext(ctx, q, values...); return err })
	if err != nil {
		return nil, err
	}
	return tables, tx.Commit()
}

// readRows writes the rows of a dump, whose tables must be known, and counts them.
func readRows(in *json.Decoder, known func(table string) bool, exec func(q string, values ...any) error) (map[string]Rows, error) {
	tables := map[string]Rows{}
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
		q := "INSERT INTO `" + table.Table + "` (`" + strings.Join(table.Columns, "`,`") + "`) VALUES " +
			strings.TrimSuffix(strings.Repeat(row+",", len(waiting)), ",")
		waiting = waiting[:0]
		return exec(q, values...)
	}
	size := 0
	for {
		var line json.RawMessage
		if err := in.Decode(&line); errors.Is(err, io.EOF) {
			break
		} else if err != nil {
			return nil, fmt.Errorf("the dump is damaged: %w", err)
		}
		if line[0] == '{' {
			if err := flush(); err != nil {
				return nil, fmt.Errorf("table %s: %w", table.Table, err)
			}
			table, size = dumpTable{}, 0
			if err := json.Unmarshal(line, &table); err != nil || !known(table.Table) ||
				slices.ContainsFunc(table.Columns, func(c string) bool { return strings.ContainsAny(c, "`\x00") }) {
				return nil, fmt.Errorf("the dump is damaged: there is no table %q", table.Table)
			}
			tables[table.Table] = Rows{}
			continue
		}
		row, err := dumpedRow(line, len(table.Columns))
		if err != nil {
			return nil, fmt.Errorf("table %s: %w", table.Table, err)
		}
		n := tables[table.Table]
		n.add(line)
		tables[table.Table] = n
		waiting = append(waiting, row)
		if size += len(line); len(waiting) == batch || size > 8<<20 {
			if err := flush(); err != nil {
				return nil, fmt.Errorf("table %s: %w", table.Table, err)
			}
			size = 0
		}
	}
	if err := flush(); err != nil {
		return nil, fmt.Errorf("table %s: %w", table.Table, err)
	}
	return tables, nil
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
	if err := db.QueryRowContext(ctx, "SELECT VERSION(), @@max_allowed_packet, UNIX_TIMESTAMP(NOW(6))").Scan(&s.Version, &s.Packet,
		&clock); err != nil {
		return s, err
	}
	s.Clock = time.Duration((clock - float64(time.Now().UnixMicro())/1e6) * float64(time.Second))
	s.Schema = schemaOf(ctx, db)
	for _, q := range []string{"SELECT DISTINCT SUBSTRING(totp, 4, 8) FROM users WHERE totp LIKE 'k1:%'",
		"SELECT DISTINCT SUBSTRING(secret, 4, 8) FROM hooks WHERE secret LIKE 'k1:%'"} {
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
