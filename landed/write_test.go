//go:build fixture

package landed_test

import (
	"compress/gzip"
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"huekeep/core/swatchfile"
	"huekeep/filestore"
	"huekeep/keep"
	"huekeep/keep/audits"
	"huekeep/keep/stations"
	"huekeep/standin"
	"huekeep/store"
	"huekeep/store/storetest"
)

// TestWriteWhatLands writes the demo houses of this version as OUT.sql.gz, and what it packs of their editions as OUT.packings.json. It is run once, at the
// commit that landed.
func TestWriteWhatLands(t *testing.T) {
	out, dsn, ctx := os.Getenv("OUT"), storetest.DSN(t), t.Context()
	require.NotEmpty(t, out, "OUT says where, without an ending")
	db, err := store.Open(ctx, dsn)
	require.NoError(t, err)
	defer db.Close()
	raw, err := sql.Open("mysql", dsn)
	require.NoError(t, err)
	defer raw.Close()

	s := stations.New(db, filestore.Memory(), standin.World())
	require.NoError(t, s.Example.Load(ctx))
	require.NoError(t, s.Audits.LoadDemo(ctx))
	h, err := db.House(1)
	require.NoError(t, err)
	a := keep.Actor{House: keep.HouseOf(h), Role: keep.RoleKeeper, Name: "Keeper"}
	fill(t, s, a, raw)

	sums := map[string]string{}
	for _, e := range rows(t, raw, "SELECT set_id, number FROM editions ORDER BY set_id, number") {
		set, number, _ := place(string(e[0]) + " " + string(e[1]) + " -")
		for _, p := range swatchfile.Packings() {
			packed, err := s.Send.Pack(ctx, a, set, number, p.Name)
			if err != nil {
				t.Logf("edition %d of set %d has no %s: %v", number, set, p.Name, err)
				continue
			}
			sum := sha256.Sum256(packed.Data)
			sums[fmt.Sprintf("%d %d %s", set, number, p.Name)] = hex.EncodeToString(sum[:12])
		}
	}
	text, err := json.MarshalIndent(sums, "", " ")
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(out+".packings.json", text, 0o644))
	_, err = raw.ExecContext(ctx, "DELETE FROM packed_files")
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(out+".sql.gz", dumped(t, raw), 0o644))
}

// fill does what the demo has nothing of.
func fill(t *testing.T, s *stations.Stations, a keep.Actor, raw *sql.DB) {
	var project int64
	var path, hex string
	require.NoError(t, raw.QueryRow(`SELECT a.project_id, a.path, c.hex FROM audits a JOIN audit_colors c ON c.audit_id = a.id
		WHERE a.run_id = (SELECT MAX(id) FROM runs) AND c.verdict = 'drifted' LIMIT 1`).Scan(&project, &path, &hex))
	_, err := s.Audits.AddRemark(t.Context(), a, project, audits.Remark{Path: path, Color: hex, Text: `Was this ever "Buoy"?`}, 0)
	require.NoError(t, err)
}

// dumped is a database as statements, packed.
func dumped(t *testing.T, raw *sql.DB) []byte {
	var b strings.Builder
	z := gzip.NewWriter(&b)
	var tables []string
	for _, r := range rows(t, raw, "SELECT table_name FROM information_schema.tables WHERE table_schema = DATABASE()") {
		tables = append(tables, string(r[0]))
	}
	slices.Sort(tables)
	for _, name := range tables {
		made := rows(t, raw, "SHOW CREATE TABLE `"+name+"`")[0][1]
		fmt.Fprintln(z, strings.ReplaceAll(string(made), "\n", " ")+";")
	}
	for _, name := range tables {
		found, err := raw.Query("SELECT * FROM `" + name + "` LIMIT 0")
		require.NoError(t, err)
		columns, err := found.Columns()
		require.NoError(t, err)
		require.NoError(t, found.Close())
		for _, r := range rows(t, raw, "SELECT * FROM `"+name+"`") {
			var said []string
			for _, v := range r {
				if v == nil {
					said = append(said, "NULL")
				} else {
					said = append(said, "X'"+hex.EncodeToString(v)+"'")
				}
			}
			fmt.Fprintf(z, "INSERT INTO `%s` (`%s`) VALUES (%s);\n", name, strings.Join(columns, "`,`"), strings.Join(said, ","))
		}
	}
	require.NoError(t, z.Close())
	return []byte(b.String())
}

// rows are the rows of a query; NULL is nil.
func rows(t *testing.T, raw *sql.DB, query string) (list [][][]byte) {
	found, err := raw.Query(query)
	require.NoError(t, err)
	defer found.Close()
	columns, err := found.Columns()
	require.NoError(t, err)
	for found.Next() {
		row, into := make([][]byte, len(columns)), make([]any, len(columns))
		for i := range row {
			into[i] = &row[i]
		}
		require.NoError(t, found.Scan(into...))
		list = append(list, row)
	}
	require.NoError(t, found.Err())
	return list
}
