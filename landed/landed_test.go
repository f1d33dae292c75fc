// Package landed_test holds this version against every one that landed. It is a package of its own, since the detector of races makes minutes of its
// seconds.
package landed_test

import (
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/core/swatchfile"
	"huekeep/filestore"
	"huekeep/keep"
	"huekeep/keep/stations"
	"huekeep/standin"
	"huekeep/store"
	"huekeep/store/storetest"
)

// What versions from before packed of their editions is packed byte for byte the same after an upgrade, and what was packed once stays even when
// its writer changes. Two versions often fixed the same edition; it is packed once.
func TestEditionsOfEveryVersionArePackedAsTheyWere(t *testing.T) {
	seen := map[string]bool{} // an edition, a packing and the checksum that came out
	for _, path := range storetest.Landed(t) {
		t.Run(filepath.Base(path), func(t *testing.T) {
			db, err := store.Open(t.Context(), storetest.Restored(t, path))
			require.NoError(t, err)
			defer db.Close()
			files := filestore.Memory()
			var sums map[string]string
			text, err := os.ReadFile(strings.TrimSuffix(path, ".sql.gz") + ".packings.json")
			require.NoError(t, err)
			require.NoError(t, json.Unmarshal(text, &sums))
			house, err := db.House(1)
			require.NoError(t, err)
			a := keep.Actor{House: keep.HouseOf(house), Role: keep.RoleKeeper}
			todo := map[string]string{}
			for of, sum := range sums {
				set, number, packing := place(of)
				e, err := db.Edition(1, set, number)
				require.NoError(t, err, of)
				text, err := json.Marshal(e)
				require.NoError(t, err, of)
				if key := string(text) + packing + sum; !seen[key] || packing == "css" {
					seen[key], todo[of] = true, sum
				}
			}
			for range 2 { // as it is made, and as it is kept, by another instance
				s := stations.New(db, files, standin.World())
				for of, sum := range todo {
					set, number, packing := place(of)
					packed, err := s.Send.Pack(t.Context(), a, set, number, packing)
					require.NoError(t, err, of)
					got := sha256.Sum256(packed.Data)
					assert.Equal(t, sum, hex.EncodeToString(got[:12]), of)
				}
			}
			e, err := db.Edition(1, 1, 1)
			require.NoError(t, err)
			css, err := swatchfile.FindPacking("css")
			require.NoError(t, err)
			e.Colors[0].Name = "Another name"
			other, err := css.Pack(e)
			require.NoError(t, err)
			kept, err := stations.New(db, files, standin.World()).Send.Pack(t.Context(), a, 1, 1, "css")
			require.NoError(t, err)
			assert.NotEqual(t, string(other), string(kept.Data))
			removed, err := keep.NewBase(db, files).Sweep(t.Context(), keep.NewBase(db, files).Now().AddDate(1, 0, 0))
			require.NoError(t, err)
			_, err = stations.New(db, files, standin.World()).Send.Pack(t.Context(), a, 1, 1, "css")
			require.NoError(t, err, "the sweep leaves what was packed; it removed %d others", removed)
		})
	}
}

// place takes "3 1 css" apart: a set, the number of an edition, a packing.
func place(of string) (set int64, number int, packing string) {
	at := strings.Fields(of)
	set, _ = strconv.ParseInt(at[0], 10, 64)
	number, _ = strconv.Atoi(at[1])
	return set, number, at[2]
}

func TestMain(m *testing.M) { storetest.Main(m) }
