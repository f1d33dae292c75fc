package standin_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"huekeep/core/hostile"
	"huekeep/core/swatchfile"
	"huekeep/standin"
)

// Whatever an application is sent, it answers with colors or with a sentence.
func FuzzReceive(f *testing.F) {
	e := edition(3)
	for _, p := range swatchfile.Packings() {
		data, err := p.Pack(e)
		require.NoError(f, err)
		if len(data) < 100_000 {
			f.Add(p.FileName(e), data)
		}
	}
	apps := standin.Applications()
	f.Fuzz(func(t *testing.T, name string, data []byte) {
		defer hostile.Timely(t, len(name))()
		for _, app := range apps {
			r, err := app.Receive(name, data)
			if err == nil {
				require.NotEmpty(t, r.Colors)
			} else {
				require.NotEmpty(t, err.Error())
			}
		}
	})
}
