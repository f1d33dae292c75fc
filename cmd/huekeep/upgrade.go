package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"path/filepath"
	"time"

	"huekeep/keep/dumps"
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
		if path := unfinished(folder); path != "" {
			back = "load " + path
		}
		return nil, fmt.Errorf("%w\nTo go on, start this program again: it begins where it stopped. To go back, empty the database and %s with the Hue Keep from before (huekeep load)", err, back)
	}
	if err == nil {
		err = os.Remove(marker(folder))
		if errors.Is(err, os.ErrNotExist) {
			err = nil
		}
	}
	return db, err
}

// marker is a file that is there while an upgrade is under way, with the name of the dump from before it.
func marker(folder string) string { return filepath.Join(folder, "upgrade-unfinished") }

// unfinished is the dump from before an upgrade that was cut off; empty for none.
func unfinished(folder string) string {
	name, err := os.ReadFile(marker(folder))
	if path := filepath.Join(folder, filepath.Base(string(name))); err == nil && exists(path) {
		return path
	}
	return ""
}

func upgradePath(folder string, from, to int64) string {
	return filepath.Join(folder, fmt.Sprintf("upgrade-%d-%d.dump", from, to))
}

func exists(path string) bool { _, err := os.Stat(path); return err == nil }

// dumpBefore writes what the database holds. The dump of an upgrade that was cut off stays: the database is none of either version by then.
func dumpBefore(ctx context.Context, p place, folder string, from, to int64) error {
	if path := unfinished(folder); path != "" {
		slog.Info("an upgrade goes on; the dump from before it stays", "dump", path)
		return nil
	}
	path := upgradePath(folder, from, to)
	if err := os.MkdirAll(folder, 0o700); err != nil {
		return err
	}
	if err := wholeFile(path, func(f *os.File) error {
		_, err := dumps.Write(ctx, p.place(), dumps.How{Version: version(), Bare: true}, f)
		return err
	}); err != nil {
		return fmt.Errorf("what is in the database could not be dumped before the upgrade: %w. Nothing was changed. HUEKEEP_UPGRADE_DUMP=0 upgrades without a dump", err)
	}
	if err := os.WriteFile(marker(folder), []byte(filepath.Base(path)), 0o600); err != nil {
		return err
	}
	slog.Info("the database was dumped before its upgrade", "dump", path, "kept", keptUpgrade.String())
	return nil
}
