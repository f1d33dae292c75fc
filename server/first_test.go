package server_test

import (
	"fmt"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/filestore"
	"huekeep/keep/stations"
	"huekeep/server"
	"huekeep/standin"
	"huekeep/store/storetest"
)

// emptySite is a server that nobody has an account of.
func emptySite(t *testing.T) *site {
	t.Parallel()
	db := storetest.Open(t)
	k := stations.New(db, filestore.Memory(), standin.World())
	k.Accounts.Cost = cheap
	return &site{t, server.New(server.Options{Stations: k}), k, db}
}

func TestTheFirstAccountIsMadeWithTheCodeOfTheLog(t *testing.T) {
	s := emptySite(t)
	code, err := s.keeper.Accounts.FirstCode(t.Context())
	require.NoError(t, err)
	require.Regexp(t, `^[A-Z2-9]{4}-[A-Z2-9]{4}-[A-Z2-9]{4}$`, code)
	other := stations.New(s.db, filestore.Memory(), standin.World()) // another instance, with the same keys
	other.Base.Keys = s.keeper.Base.Keys
	same, err := other.Accounts.FirstCode(t.Context())
	require.NoError(t, err)
	assert.Equal(t, code, same)

	somebody := s.nobody()
	assert.Equal(t, true, somebody.call("GET", "/sign-in", nil).at("first"))
	body := func(code string) o {
		return o{"code": code, "name": "Ana \"Quay\" <Pier>", "email": "Ana@house.example", "password": "a lamp of nine hours", "house": "Ferry & Sons"}
	}
	with := func(field string, value any) o {
		b := body(code)
		b[field] = value
		return b
	}
	for name, c := range map[string]struct {
		body   o
		status int
		field  string
	}{
		"a wrong code":      {body("AAAA-BBBB-CCCC"), 403, "code"},
		"no code":           {body(""), 403, "code"},
		"no name":           {with("name", " "), 422, "name"},
		"no address":        {with("email", "ana"), 422, "email"},
		"a common password": {with("password", "qwertyuiop"), 422, "password"},
		"a short one":       {with("password", "lamp"), 422, "password"},
		"no house":          {with("house", ""), 422, "house"},
		"a long house":      {with("house", strings.Repeat("x", 500)), 422, "house"},
	} {
		got := somebody.call("POST", "/first", c.body)
		assert.Equal(t, c.status, got.status, "%s: %s", name, got.text)
		assert.Equal(t, c.field, got.at("field"), name)
	}
	assert.Equal(t, true, somebody.call("GET", "/sign-in", nil).at("first"), "nothing is half-made")

	got := somebody.call("POST", "/first", body(strings.ToLower(strings.ReplaceAll(code, "-", " "))))
	require.Equal(t, 201, got.status, got.text)
	ana := s.with(got)
	h := ana.call("GET", "/session", nil).id("houses", 0, "id")
	assert.Equal(t, "keeper", got.at("houses", 0, "role"))
	assert.Equal(t, "Ferry & Sons", got.at("houses", 0, "name"))
	admitted := ana.call("POST", house(h, "/read"), o{"text": "Lamp #F2B632"})
	assert.Equal(t, 200, admitted.status, admitted.text)
	assert.Contains(t, ana.call("GET", house(h, "/trail"), nil).text, "founded the house")

	assert.Nil(t, somebody.call("GET", "/sign-in", nil).json.(map[string]any)["first"])
	again := somebody.call("POST", "/first", body(code))
	assert.Equal(t, 409, again.status, again.text)
	assert.Contains(t, again.text, "Somebody has an account here already")
	code, err = s.keeper.Accounts.FirstCode(t.Context())
	require.NoError(t, err)
	assert.Empty(t, code)

}

func TestTheFirstAccountIsOne(t *testing.T) {
	s := emptySite(t)
	code, err := s.keeper.Accounts.FirstCode(t.Context())
	require.NoError(t, err)
	var all sync.WaitGroup
	var mutex sync.Mutex
	made := map[int]int{}
	for i := range 6 {
		all.Go(func() {
			got := s.nobody().call("POST", "/first", o{"code": code, "name": "Ana", "email": fmt.Sprintf("ana%d@house.example", i), "password": "a lamp of nine hours", "house": fmt.Sprint("House ", i)})
			mutex.Lock()
			defer mutex.Unlock()
			made[got.status]++
		})
	}
	all.Wait()
	assert.Equal(t, map[int]int{201: 1, 409: 5}, made)
}

func TestCodesAreNotGuessed(t *testing.T) {
	s := emptySite(t)
	code, err := s.keeper.Accounts.FirstCode(t.Context())
	require.NoError(t, err)
	last := 0
	for range 31 {
		last = s.nobody().call("POST", "/first", o{"code": "AAAA-BBBB-CCCC", "name": "A", "email": "a@house.example", "password": "a lamp of nine hours", "house": "H"}).status
	}
	require.Equal(t, 429, last)
	held := s.nobody().call("POST", "/first", o{"code": code, "name": "A", "email": "a@house.example", "password": "a lamp of nine hours", "house": "H"})
	assert.Equal(t, 429, held.status)
	assert.Contains(t, held.text, "After so many wrong codes")
}
