package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"path/filepath"
	"time"

	"huekeep/store"
)

// keptUpgrade is how long the dump from before an upgrade is kept.
const keptUpgrade = 7 * 24 * time.Hour

// upgradeDumps are the dumps that lie beside the data.
func upgradeDumps(folder string) []string {
	list, _ := filepath.Glob(filepath.Join(folder, "upgrade-*-*.dump")) // the pattern is well-formed
	return list
}

// openDatabase opens the database and brings its schema up to date. What it holds is dumped first, beside the data.
func openDatabase(ctx context.Context, p place) (*store.DB, error) {
	wanted, err := choice("UPGRADE_DUMP", "1", "0")
	if err != nil {
		return nil, err
	}
	folder, err := filepath.Abs(setting("DATA", ".huekeep"))
	if err != nil {
		return nil, err
	}
	for _, old := range upgradeDumps(folder) {
		if info, err := os.Stat(old); err == nil && time.Since(info.ModTime()) > keptUpgrade {
			_ = os.Remove(old) // the next start tries again
		}
	}
	u := store.Upgrade{}
	if wanted == "1" {
		u.Before = func(ctx context.Context, from, to int64) error { return dumpBefore(ctx, p, folder, from, to) }
	}
	db, err := store.OpenWith(ctx, p.dsn, u)
	var failed *store.UpgradeError
	if errors.As(err, &failed) {
		back := "load the dump that you made before the upgrade"
		if path := upgradePath(folder, failed.From, failed.To); exists(path) {
			back = "load " + path
		}
		return nil, fmt.Errorf("%w\nTo go on, start this program again: it begins where it stopped. To go back, empty the database and %s with the Hue Keep from before (huekeep load)", err, back)
	}
	return db, err
}

func upgradePath(folder string, from, to int64) string {
	return filepath.Join(folder, fmt.Sprintf("upgrade-%d-%d.dump", from, to))
}

func exists(path string) bool { _, err := os.Stat(path); return err == nil }

// dumpBefore writes what the database holds. The dump of an upgrade that was cut off stays: the database is none of either version by then.
func dumpBefore(ctx context.Context, p place, folder string, from, to int64) error {
	path := upgradePath(folder, from, to)
	if exists(path) {
		slog.Info("an upgrade goes on; the dump from before it stays", "dump", path)
		return nil
	}
	if err := os.MkdirAll(folder, 0o700); err != nil {
		return err
	}
	if err := wholeFile(path, func(f *os.File) error {
		_, err := dump(ctx, p, f, false)
		return err
	}); err != nil {
		return fmt.Errorf("what is in the database could not be dumped before the upgrade: %w. Nothing was changed. HUEKEEP_UPGRADE_DUMP=0 upgrades without a dump", err)
	}
	slog.Info("the database was dumped before its upgrade", "dump", path, "kept", keptUpgrade.String())
	return nil
}
