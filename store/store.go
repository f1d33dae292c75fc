package store

import (
	"context"
	"database/sql/driver"
	"errors"
	"fmt"
	"log/slog"
	"math/rand/v2"
	"net"
	"regexp"
	"slices"
	"sync/atomic"
	"time"

	"github.com/go-sql-driver/mysql"
	gormmysql "gorm.io/driver/mysql"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
)

// DB is the database, or one transaction on it. Every method that reads or changes something of a house takes the
// house's id and looks at nothing else.
type DB struct {
	g       *gorm.DB
	running bool // it is a transaction
	room    *room
}

// room knows whether the database has room left.
type room struct{ full atomic.Int64 } // when something could not be kept last, in nanoseconds; 0 for never

// fullFor is how long a database counts as full that once was: what is small may still find a place.
const fullFor = 20 * time.Second

// Full says whether an error means that the database has no room left on its disk.
func Full(err error) bool {
	var failure *mysql.MySQLError
	if !errors.As(err, &failure) {
		return false
	}
	// Disk full, table full; 28 is ENOSPC, 122 EDQUOT, of a storage engine, of a write or of keeping a transaction.
	return slices.Contains([]uint16{20, 1021, 1114}, failure.Number) ||
		slices.Contains([]uint16{3, 1026, 1030, 1180}, failure.Number) && noSpace.MatchString(failure.Message)
}

var noSpace = regexp.MustCompile(`(?i)\b(28|122)\b|no space left|quota exceeded`)

// HasRoom says whether the database takes what is written. It tries only after something could not be kept.
func (d *DB) HasRoom(ctx context.Context) bool {
	last := d.room.full.Load()
	if last == 0 {
		return true
	}
	if time.Since(time.Unix(0, last)) < fullFor {
		return false
	}
	const probe = "probe"
	err := d.With(ctx).In(ctx, func(tx *DB) error {
		return errors.Join(tx.g.Create(&SignInPending{Who: probe, At: time.Unix(0, 0).UTC()}).Error,
			tx.g.Where("who = ?", probe).Delete(&SignInPending{}).Error)
	})
	if err == nil {
		d.room.full.CompareAndSwap(last, 0)
	}
	return !Full(err)
}

// ErrNotFound says that there is no such row, or that it belongs to another house.
var ErrNotFound = errors.New("there is no such thing in this house")

// ErrDuplicate says that a unique key is taken.
var ErrDuplicate = errors.New("the name is taken")

// ErrBusy says that others were in the way of a transaction each time it was tried.
var ErrBusy = errors.New("others are changing the same things at this moment")

// ErrGone says that something that a row points to, or that points to it, is in the way of a change.
var ErrGone = errors.New("something that this belongs to is gone, or something belongs to it")

// ErrUnfit says that a value is longer or larger than its column.
var ErrUnfit = errors.New("a value does not fit")

// ErrUncertain says that the database went away while a transaction was being kept: nobody knows whether it was.
var ErrUncertain = errors.New("it is not known whether the change was kept")

// Away says whether an error means that the database cannot be reached at this moment.
func Away(err error) bool {
	var refused *net.OpError
	var failure *mysql.MySQLError
	return errors.Is(err, driver.ErrBadConn) || errors.Is(err, mysql.ErrInvalidConn) || errors.As(err, &refused) ||
		// full, not joined, shutting down, read only, killed
		errors.As(err, &failure) && slices.Contains([]uint16{1040, 1047, 1053, 1077, 1080, 1290, 1317, 1927}, failure.Number)
}

// Open connects to MariaDB and brings its schema up to date. The data source name is the driver's:
// user:password@tcp(host:3306)/database or user@unix(/path/to/socket)/database.
func Open(ctx context.Context, dsn string) (*DB, error) { return OpenWith(ctx, dsn, Upgrade{}) }

// OpenWith is Open with what is done before the schema is changed.
func OpenWith(ctx context.Context, dsn string, u Upgrade) (*DB, error) {
	c, err := mysql.ParseDSN(dsn)
	if err != nil {
		return nil, fmt.Errorf("the database setting is not a data source name: %w", err)
	}
	settle(c)
	space := &room{}
	g, err := gorm.Open(gormmysql.New(gormmysql.Config{DSNConfig: c}), &gorm.Config{
		Logger:         slowLog{logger.Discard, space},
		TranslateError: true,
		NowFunc:        func() time.Time { return time.Now().UTC().Truncate(time.Millisecond) },
	})
	if err != nil {
		return nil, fmt.Errorf("the database cannot be reached: %w", err)
	}
	pool, err := g.DB()
	if err != nil {
		return nil, err
	}
	pool.SetMaxOpenConns(32)
	pool.SetMaxIdleConns(16)
	pool.SetConnMaxLifetime(time.Hour)
	if err := bringUp(ctx, pool, u); err != nil {
		_ = pool.Close()
		return nil, err
	}
	return &DB{g: g, room: space}, nil
}

// settle sets what every connection has in common.
func settle(c *mysql.Config) {
	c.ParseTime, c.Loc = true, time.UTC
	c.Collation = "utf8mb4_bin"
	c.MaxAllowedPacket = 256 << 20
	c.InterpolateParams = true // one way to the server and back instead of three
	if c.Params == nil {
		c.Params = map[string]string{}
	}
	c.Params["sql_mode"] = "'TRADITIONAL'" // too long or out of range is an error, never cut off
	c.Params["time_zone"] = "'+00:00'"
}

// Close ends the connections.
func (d *DB) Close() error {
	pool, err := d.g.DB()
	if err != nil {
		return err
	}
	return pool.Close()
}

// Ping says whether the database answers.
func (d *DB) Ping(ctx context.Context) error {
	pool, err := d.g.DB()
	if err != nil {
		return err
	}
	return pool.PingContext(ctx)
}

// slowQuery is how long a query takes that is noted.
const slowQuery = 500 * time.Millisecond

// slowLog notes slow queries, without the values in them. Errors reach whoever asked and are noted there.
type slowLog struct {
	logger.Interface
	room *room
}

// LogMode implements logger.Interface.
func (l slowLog) LogMode(logger.LogLevel) logger.Interface { return l }

// ParamsFilter keeps values out of what is noted.
func (l slowLog) ParamsFilter(_ context.Context, sql string, _ ...any) (string, []any) {
	return sql, nil
}

// Trace implements logger.Interface.
func (l slowLog) Trace(_ context.Context, begun time.Time, query func() (string, int64), err error) {
	if Full(err) {
		l.room.full.Store(time.Now().UnixNano())
	}
	if took := time.Since(begun); took >= slowQuery {
		text, rows := query()
		slog.Warn("slow query", "ms", took.Milliseconds(), "rows", rows, "sql", text[:min(len(text), 1000)])
	}
}

// tries is how often a transaction is begun that others are in the way of.
const tries = 8

// In runs f in a transaction: all that it did is kept, or nothing. On a running transaction it only calls f, which belongs to
// that one then. After a deadlock or a lock that was not to be had in time the outermost call runs f again, so f must have no
// effect outside the database but for what it sets anew each time; after several tries the error is ErrBusy.
func (d *DB) In(ctx context.Context, f func(tx *DB) error) error {
	if d.running {
		return f(d.With(ctx))
	}
	for try := 1; ; try++ {
		done := false // all but being kept
		err := d.g.WithContext(ctx).Transaction(func(g *gorm.DB) error {
			tx := &DB{g, true, d.room}
			err := f(tx)
			if err == nil {
				err = tx.marked(ctx)
			}
			done = err == nil
			return err
		})
		if Full(err) { // perhaps where it was kept, of which nobody else hears
			d.room.full.Store(time.Now().UnixNano())
		}
		if done && Away(err) {
			return fmt.Errorf("%w: %w", ErrUncertain, err)
		}
		var failure *mysql.MySQLError
		if !errors.As(err, &failure) || failure.Number != 1213 && failure.Number != 1205 {
			return known(err)
		}
		if try == tries {
			return fmt.Errorf("%w: %s", ErrBusy, failure.Message)
		}
		// Whoever was in the way is not met again at the same moment.
		wait := time.Duration(5<<try) * time.Millisecond
		select {
		case <-time.After(wait/2 + rand.N(wait)):
		case <-ctx.Done():
			return ctx.Err()
		}
	}
}

// alone makes a change that is often met by others at the same row, by itself if no transaction is running, and again when
// they were in the way.
func (d *DB) alone(f func(tx *DB) error) error { return d.In(d.g.Statement.Context, f) }

// With binds the database to a request's context.
func (d *DB) With(ctx context.Context) *DB { return &DB{d.g.WithContext(ctx), d.running, d.room} }

// known turns GORM's errors into those of this package.
func known(err error) error {
	switch {
	case errors.Is(err, gorm.ErrRecordNotFound):
		return ErrNotFound
	case errors.Is(err, gorm.ErrDuplicatedKey):
		return ErrDuplicate
	}
	var failure *mysql.MySQLError
	if errors.As(err, &failure) && (failure.Number == 1213 || failure.Number == 1205) {
		return fmt.Errorf("%w: %w", ErrBusy, failure) // In begins again
	}
	if errors.As(err, &failure) && slices.Contains([]uint16{1451, 1452}, failure.Number) {
		return fmt.Errorf("%w: %s", ErrGone, failure.Message)
	}
	if errors.As(err, &failure) && slices.Contains([]uint16{1153, 1264, 1265, 1292, 1366, 1406, 4025}, failure.Number) {
		return fmt.Errorf("%w: %s", ErrUnfit, failure.Message)
	}
	return err
}

// Add inserts a row or a slice of rows, with their new ids set.
func (d *DB) Add(rows any) error {
	return d.alone(func(tx *DB) error { return known(tx.g.CreateInBatches(rows, 500).Error) })
}

// Save writes every column of a row.
func (d *DB) Save(row any) error {
	return d.alone(func(tx *DB) error { return known(tx.g.Save(row).Error) })
}

// Impatient makes a transaction wait for a lock for no more than a second.
func (d *DB) Impatient() error { return d.g.Exec("SET innodb_lock_wait_timeout = 1").Error }
