package main

import (
	"encoding/json"
	"fmt"
	"net"
	"net/http/httptest"
	"os"
	"strconv"
	"sync"
	"testing"
	"time"

	"github.com/johannesboyne/gofakes3"
	"github.com/johannesboyne/gofakes3/backend/s3mem"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/demo"
	"huekeep/store/storetest"
)

// clusterTime is how long the cluster is worked on; HUEKEEP_CLUSTER_SECONDS asks for more (make test-cluster).
func clusterTime() time.Duration {
	if n, err := strconv.Atoi(os.Getenv("HUEKEEP_CLUSTER_SECONDS")); err == nil {
		return time.Duration(n) * time.Second
	}
	return 8 * time.Second
}

// Two instances on a cluster of two database nodes, with files in an object store. People sign in on one and work on the other; a node
// is killed and later cut off from the other one, and an instance is killed meanwhile. Nothing that was confirmed is lost, and nothing is there twice.
func TestBeyondOneMachine(t *testing.T) {
	cluster := storetest.StartCluster(t)
	backend := s3mem.New()
	require.NoError(t, backend.CreateBucket("colors"))
	s3 := httptest.NewServer(gofakes3.New(backend).Server())
	defer s3.Close()
	instance := func(node *storetest.Node) *victim {
		listener, err := net.Listen("tcp", "127.0.0.1:0")
		require.NoError(t, err)
		address := listener.Addr().String()
		require.NoError(t, listener.Close())
		return &victim{t: t, data: t.TempDir(), address: address, settings: []string{"HUEKEEP_DATABASE=" + node.DSN(),
			"HUEKEEP_FILES=s3://colors?region=eu-west-1&use_path_style=true&endpoint=" + s3.URL, "AWS_ACCESS_KEY_ID=a", "AWS_SECRET_ACCESS_KEY=b"}}
	}
	one, two := instance(cluster.Nodes[0]), instance(cluster.Nodes[1])
	one.start()
	defer func() { one.kill() }()
	two.start()
	defer func() { two.kill() }()
	status, answer := one.send("/session", map[string]string{"email": "keeper@odelwick.example", "password": demo.Password})
	require.Equal(t, 200, status, answer)
	one.csrf = answer["csrf"].(string)
	two.cookie, two.csrf = one.cookie, one.csrf
	var session map[string]any
	two.get("/session", &session)
	require.Equal(t, "Keeper", session["name"], "signed in on one, at work on the other")

	var mutex sync.Mutex
	colors, sets, jobs := map[string]bool{}, map[string]bool{}, 0
	seen := map[int]int{}
	note := func(status int, f func()) {
		mutex.Lock()
		defer mutex.Unlock()
		seen[status]++
		if status == 201 || status == 202 {
			f()
		}
	}
	begun := time.Now()
	var all sync.WaitGroup
	at := func(share float64, f func()) {
		all.Go(func() {
			time.Sleep(time.Until(begun.Add(time.Duration(share * float64(clusterTime())))))
			f()
		})
	}
	work := func(v *victim, step func(v *victim, n int)) {
		all.Go(func() {
			for n := 0; time.Since(begun) < clusterTime(); n++ {
				step(v, n)
				time.Sleep(20 * time.Millisecond)
			}
		})
	}
	for i, v := range []*victim{one, two} {
		work(v, func(v *victim, n int) {
			name := fmt.Sprintf("Wave %s of %s", letters(n), letters(i))
			status, _ := v.send("/houses/1/tray", map[string]any{"text": fmt.Sprintf("%s #%02X%04X", name, 16*i+1, n)})
			if status != 201 {
				note(status, nil)
				return
			}
			var tray []struct {
				ID   int
				Name string
			}
			if status, data := v.ask("GET", "/houses/1/tray", nil, ""); status == 200 {
				require.NoError(t, json.Unmarshal(data, &tray))
			}
			for _, c := range tray {
				if c.Name == name {
					status, _ := v.send("/houses/1/tray/admit", map[string]any{"items": []int{c.ID}})
					note(status, func() { colors[name] = true })
				}
			}
		})
		work(v, func(v *victim, n int) {
			name := fmt.Sprintf("Set %d of %d", n, i)
			status, _ := v.send("/houses/1/sets", map[string]any{"name": name, "colors": []int{}})
			note(status, func() { sets[name] = true })
			time.Sleep(200 * time.Millisecond)
		})
		work(v, func(v *victim, _ int) {
			note(v.upload("/houses/1/audits", demo.TimetableDeck().Data), func() { jobs++ })
			time.Sleep(time.Second)
		})
	}
	at(0.3, func() {
		away := func() { // it is away for those who work on it, and says so
			for range 500 {
				if status, _ := two.ask("GET", "/houses/1/sets", nil, ""); status == 503 {
					return
				}
				time.Sleep(20 * time.Millisecond)
			}
			assert.Fail(t, "nobody was told that the node is away")
		}
		cluster.Nodes[1].Kill()
		away()
		cluster.Nodes[1].Back()
		cluster.Nodes[1].Part()
		away()
		cluster.Nodes[1].Join()
	})
	at(0.8, func() { one.kill() })
	all.Wait()
	t.Logf("answers by status: %v; confirmed: %d colors, %d sets, %d audits", seen, len(colors), len(sets), jobs)
	assert.Positive(t, seen[503], "somebody met the node that was away")
	assert.NotEmpty(t, colors)
	assert.Zero(t, seen[500], "no answer was an accident")

	one.start()
	for _, v := range []*victim{one, two} {
		var ledger struct{ Colors []struct{ Name string } }
		v.get("/houses/1/colors", &ledger)
		there := map[string]int{}
		for _, c := range ledger.Colors {
			there[c.Name]++
		}
		for name := range colors {
			assert.Equal(t, 1, there[name], name)
		}
		var list []struct{ Name string }
		v.get("/houses/1/sets", &list)
		there = map[string]int{}
		for _, s := range list {
			there[s.Name]++
		}
		for name := range sets {
			assert.Equal(t, 1, there[name], name)
		}
	}
	// Audits that were taken on come to their end, also those that the killed instance held.
	assert.Eventually(t, func() bool {
		var open []struct{ State string }
		two.get("/houses/1/jobs", &open)
		for _, j := range open {
			if j.State == "waiting" || j.State == "running" {
				return false
			}
		}
		return true
	}, 90*time.Second, 500*time.Millisecond)
	var audits struct{ Audits []struct{ ID int } }
	two.get("/houses/1/audits", &audits)
	assert.GreaterOrEqual(t, len(audits.Audits), min(jobs, 200))
}

// letters writes a number in letters, so that it is no value.
func letters(n int) string {
	out := ""
	for {
		out = string(rune('a'+n%26)) + out
		if n /= 26; n == 0 {
			return out
		}
	}
}
