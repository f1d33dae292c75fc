package store

import (
	"context"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"slices"
	"time"

	"github.com/go-sql-driver/mysql"
	"github.com/pressly/goose/v3"
	gormmysql "gorm.io/driver/mysql"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
)

//go:embed migrations/*.sql
var migrations embed.FS

// DB is the database, or one transaction on it. Every method that reads or changes something of a house takes the
// house's id and looks at nothing else.
type DB struct{ g *gorm.DB }

// ErrNotFound says that there is no such row, or that it belongs to another house.
var ErrNotFound = errors.New("there is no such thing in this house")

// ErrDuplicate says that a unique key is taken.
var ErrDuplicate = errors.New("the name is taken")

// ErrUnfit says that a value is longer or larger than its column.
var ErrUnfit = errors.New("a value does not fit")

// Open connects to MariaDB and brings its schema up to date. The data source name is the driver's:
// user:password@tcp(host:3306)/database or user@unix(/path/to/socket)/database.
func Open(ctx context.Context, dsn string) (*DB, error) {
	c, err := mysql.ParseDSN(dsn)
	if err != nil {
		return nil, fmt.Errorf("the database setting is not a data source name: %w", err)
	}
	c.ParseTime, c.Loc = true, time.UTC
	c.Collation = "utf8mb4_bin"
	c.MaxAllowedPacket = 256 << 20
	if c.Params == nil {
		c.Params = map[string]string{}
	}
	c.Params["sql_mode"] = "'TRADITIONAL'" // too long or out of range is an error, never cut off
	c.Params["time_zone"] = "'+00:00'"
	g, err := gorm.Open(gormmysql.New(gormmysql.Config{DSNConfig: c}), &gorm.Config{
		Logger:         logger.Default.LogMode(logger.Silent),
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
	folder, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return nil, err
	}
	p, err := goose.NewProvider(goose.DialectMySQL, pool, folder)
	if err != nil {
		return nil, err
	}
	if _, err := p.Up(ctx); err != nil {
		return nil, fmt.Errorf("the database schema cannot be brought up to date: %w", err)
	}
	return &DB{g}, nil
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

// In runs f in a transaction: all that it did is kept, or nothing. A deadlock with somebody else's transaction is tried
// again, so f must do nothing but work on tx.
func (d *DB) In(ctx context.Context, f func(tx *DB) error) error {
	for try := 0; ; try++ {
		err := d.g.WithContext(ctx).Transaction(func(g *gorm.DB) error { return f(&DB{g}) })
		var failure *mysql.MySQLError
		if errors.As(err, &failure) && (failure.Number == 1213 || failure.Number == 1205) && try < 5 {
			time.Sleep(time.Duration(10<<try) * time.Millisecond)
			continue
		}
		return err
	}
}

// With binds the database to a request's context.
func (d *DB) With(ctx context.Context) *DB { return &DB{d.g.WithContext(ctx)} }

// known turns GORM's errors into those of this package.
func known(err error) error {
	switch {
	case errors.Is(err, gorm.ErrRecordNotFound):
		return ErrNotFound
	case errors.Is(err, gorm.ErrDuplicatedKey):
		return ErrDuplicate
	}
	var failure *mysql.MySQLError
	if errors.As(err, &failure) && slices.Contains([]uint16{1264, 1265, 1292, 1366, 1406, 4025}, failure.Number) {
		return fmt.Errorf("%w: %s", ErrUnfit, failure.Message)
	}
	return err
}

// Add inserts a row or a slice of rows, with their new ids set.
func (d *DB) Add(rows any) error { return known(d.g.CreateInBatches(rows, 500).Error) }

// Save writes every column of a row.
func (d *DB) Save(row any) error {
	return known(d.g.Omit("Builds", "Spots", "Companions", "Colors", "Stops").Save(row).Error)
}
