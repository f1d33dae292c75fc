package server_test

import (
	"context"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/filestore"
	"huekeep/keep"
	"huekeep/server"
	"huekeep/store"
)

// How the server is, over all houses, is for the accounts that run it: not for keepers, not for their programs, and not for who did so before.
func TestWhoRunsTheServer(t *testing.T) {
	s := newSite(t)
	asked := 0
	s.app = server.New(server.Options{Stations: s.keeper, Demo: true, Examine: func(context.Context) []server.Seen {
		asked++
		return []server.Seen{{Part: "files", Says: "they can be written"}, {Part: "mail", Says: "it is not set", Do: "Set it.", Must: true}}
	}})
	ctx := t.Context()
	require.NoError(t, s.keeper.People.AddMember(ctx, "keeps@bakery.example", "Keeps", "a lamp of nine hours", "Pellow Lane Bakery", keep.RoleKeeper))
	keeps := s.with(s.nobody().call("POST", "/session", o{"email": "keeps@bakery.example", "password": "a lamp of nine hours"}))
	runs := s.as("keeper")
	token := runs.call("POST", "/account/tokens", o{"name": "x", "house": runs.ferries(), "role": "keeper", "purpose": "everything", "days": 9}).at("token").(string)
	program := &person{site: s, bearerToken: token}
	for _, path := range []string{"/server", "/server/doctor"} {
		assert.Equal(t, 401, s.nobody().call("GET", path, nil).status)
		assert.Equal(t, 403, program.call("GET", path, nil).status)
		for _, p := range []*person{keeps, s.as("contributor"), s.as("reader")} {
			a := p.call("GET", path, nil)
			assert.Equal(t, 403, a.status)
			assert.Contains(t, a.text, "huekeep account EMAIL --runs")
			assert.NotContains(t, a.text, "Odelwick")
		}
		assert.Equal(t, 200, runs.call("GET", path, nil).status)
	}
	assert.Equal(t, 1, asked)
	assert.Equal(t, true, runs.call("GET", "/session", nil).at("runs"))
	assert.Nil(t, keeps.call("GET", "/session", nil).at("runs"))

	// Who is named may look, and who is not named any more may not, in the session that they have.
	require.NoError(t, s.keeper.Accounts.SetRuns(ctx, " Keeps@bakery.example", true))
	assert.Equal(t, 200, keeps.call("GET", "/server", nil).status)
	require.NoError(t, s.keeper.Accounts.SetRuns(ctx, "keeps@bakery.example", false))
	assert.Equal(t, 403, keeps.call("GET", "/server", nil).status)
	require.ErrorContains(t, s.keeper.Accounts.SetRuns(ctx, "nobody@bakery.example", true), "no account")

	a := runs.call("GET", "/server/doctor", nil)
	assert.Equal(t, 1, asked, "the doctor is not asked by each look")
	assert.Equal(t, "mail", a.at("parts", 1, "part"))
	assert.Equal(t, "Set it.", a.at("parts", 1, "do"))
	assert.Nil(t, a.at("parts", 0, "do"))
}

func TestHowTheServerIs(t *testing.T) {
	s := newSite(t)
	runs := s.as("keeper")
	ctx, now := t.Context(), time.Now().UTC().Truncate(time.Millisecond)
	a := runs.call("GET", "/server", nil)
	assert.Equal(t, "Odelwick Ferries", a.at("houses", 0, "name"))
	assert.EqualValues(t, 3, a.at("houses", 0, "people"))
	assert.EqualValues(t, len(runs.call("GET", house(runs.ferries(), "/colors"), nil).at("colors").([]any)), a.at("houses", 0, "colors"))
	assert.EqualValues(t, 3, a.at("people", "accounts"))
	assert.EqualValues(t, 3, a.at("people", "bare"))
	assert.EqualValues(t, 1, a.at("people", "sessions"))
	assert.Equal(t, false, a.at("dumps", "on"))
	assert.Equal(t, false, a.at("mails", "on"))
	assert.Empty(t, a.at("instances"))
	assert.Equal(t, o{"nightly": false, "failed": false}, o(runs.call("GET", house(runs.ferries(), "/settings"), nil).at("dumped").(map[string]any)))

	// Instances say that they are there, of which version.
	s.keeper.Instances.Version = "abc"
	serving, stop := context.WithCancel(ctx)
	done := make(chan bool)
	go func() { s.keeper.Instances.Serve(serving, 5*time.Millisecond); close(done) }()
	require.Eventually(t, func() bool {
		list := runs.call("GET", "/server", nil).at("instances").([]any)
		return len(list) == 1 && list[0].(map[string]any)["version"] == "abc" && list[0].(map[string]any)["here"] == true
	}, 20*time.Second, 20*time.Millisecond)
	stop()
	<-done
	assert.Empty(t, runs.call("GET", "/server", nil).at("instances"), "one that stops in order is not missed")
	require.NoError(t, s.db.Add(&store.Instance{Name: "killed", Host: "a", Version: "old", StartedAt: now.Add(-time.Hour), HeardAt: now.Add(-2 * time.Minute)}))
	a = runs.call("GET", "/server", nil)
	assert.Equal(t, false, a.at("instances", 0, "here"), "one that was killed is")
	assert.GreaterOrEqual(t, a.at("instances", 0, "silent"), 100.0, "the database's clock may be another one")

	// Nights, as houses and whoever runs the server see them.
	s.keeper.Dumps.Set.To = filestore.Memory()
	require.NoError(t, s.db.Add(&store.Night{Name: "first", BegunAt: now.Add(-48 * time.Hour), EndedAt: now.Add(-48 * time.Hour), Size: 5, RowCount: 7, Files: 1}))
	require.NoError(t, s.db.Add(&store.Night{Name: "second", BegunAt: now.Add(-24 * time.Hour), EndedAt: now.Add(-24 * time.Hour), Problem: "No room."}))
	a = runs.call("GET", "/server", nil)
	assert.Equal(t, true, a.at("dumps", "on"))
	assert.NotNil(t, a.at("dumps", "next"))
	assert.Equal(t, "No room.", a.at("dumps", "nights", 0, "problem"))
	assert.EqualValues(t, 7, a.at("dumps", "nights", 1, "rows"))
	dumped := s.as("reader").call("GET", house(runs.ferries(), "/settings"), nil).at("dumped").(map[string]any)
	assert.Equal(t, true, dumped["failed"])
	assert.NotNil(t, dumped["at"], "of the last one that there is")
	assert.NotContains(t, dumped, "problem", "what is wrong is of those who run it")
}
