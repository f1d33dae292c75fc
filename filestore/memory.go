package filestore

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"maps"
	"sync"
	"time"
)

type memory struct {
	lock  sync.Mutex
	files map[string]held
}

type held struct {
	data []byte
	at   time.Time
}

// Memory is a place for files that ends with the program.
func Memory() Store { return &memory{files: map[string]held{}} }

func (m *memory) Write(_ context.Context, key string, r io.Reader, size int64) error {
	if err := check(key); err != nil {
		return err
	}
	var data []byte
	var err error
	if size == Unsized {
		data, err = io.ReadAll(r)
	} else {
		data = make([]byte, size)
		_, err = io.ReadFull(r, data)
	}
	if err != nil {
		return err
	}
	m.lock.Lock()
	defer m.lock.Unlock()
	m.files[key] = held{data, time.Now()}
	return nil
}

func (m *memory) Open(_ context.Context, key string) (io.ReadCloser, int64, error) {
	m.lock.Lock()
	defer m.lock.Unlock()
	f, ok := m.files[key]
	if !ok {
		return nil, 0, fmt.Errorf("%s: %w", key, ErrNotFound)
	}
	return io.NopCloser(bytes.NewReader(f.data)), int64(len(f.data)), nil
}

func (m *memory) Remove(_ context.Context, key string) error {
	m.lock.Lock()
	defer m.lock.Unlock()
	if _, ok := m.files[key]; !ok {
		return fmt.Errorf("%s: %w", key, ErrNotFound)
	}
	delete(m.files, key)
	return nil
}

func (m *memory) Each(_ context.Context, f func(Entry) error) error {
	m.lock.Lock()
	all := maps.Clone(m.files)
	m.lock.Unlock()
	for key, file := range all {
		if err := f(Entry{key, int64(len(file.data)), file.at}); err != nil {
			return err
		}
	}
	return nil
}

func (m *memory) Ready(context.Context) error { return nil }
