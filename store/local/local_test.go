package local_test

import (
	"context"
	"errors"
	"path/filepath"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/store/local"
)

// Servers that are installed and started at the same moment, as the tests of several packages are, do not take each other's
// temporary tables away.
func TestServersBesideEachOther(t *testing.T) {
	const servers = 8
	var problems [servers]error
	var wait sync.WaitGroup
	for i := range servers {
		wait.Go(func() {
			s, err := local.Start(context.Background(), filepath.Join(t.TempDir(), "db"))
			if err == nil {
				err = errors.Join(s.Create(context.Background(), "house", false), s.Stop())
			}
			problems[i] = err
		})
	}
	wait.Wait()
	for _, err := range problems {
		assert.NoError(t, err)
	}
}

func TestADataFolderHasOneServer(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "db")
	s, err := local.Start(context.Background(), dir)
	require.NoError(t, err)
	defer func() { assert.NoError(t, s.Stop()) }()
	_, err = local.Start(context.Background(), dir)
	assert.ErrorIs(t, err, local.ErrBusy)
}
