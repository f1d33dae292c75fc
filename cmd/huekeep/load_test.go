package main

import (
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/demo"
)

// seconds reads how long a test of endurance goes on; without the setting it is a short one.
func seconds(name string, usual int) time.Duration {
	if n, err := strconv.Atoi(os.Getenv(name)); err == nil {
		usual = n
	}
	return time.Duration(usual) * time.Second
}

// Thirty people who read and change, an audit a minute, a hundred fetches at a pickup and from a public page a second, a webhook every five seconds: no answer
// is an accident, reads of the ledger stay quick, and the memory is flat. make test-load does it for an hour, make test-night with a tenth of it for twelve.
func TestMixedLoad(t *testing.T) {
	last := seconds("HUEKEEP_LOAD_SECONDS", 4)
	people := int(seconds("HUEKEEP_LOAD_PEOPLE", 30).Seconds())
	fetchers := max(1, people*2/3)
	v := running(t, "HUEKEEP_PROXIES=127.0.0.1")
	status, pickup := v.send("/houses/1/recipients/3/pickup", nil)
	require.Equal(t, 201, status, pickup)
	path := pickup["path"].(string)
	status, public := v.send("/houses/1/public", map[string]int{"set": 3})
	require.Equal(t, 200, status, public)
	var hooks []struct{ ID int }
	v.get("/houses/1/hooks", &hooks)
	require.NotEmpty(t, hooks)

	var mutex sync.Mutex
	took := []time.Duration{}
	statuses := map[int]int{}
	client := &http.Client{Transport: &http.Transport{MaxIdleConnsPerHost: 200}, Timeout: 30 * time.Second}
	ask := func(who int, method, path, body string, kind string) (int, time.Duration) {
		r, err := http.NewRequest(method, "http://"+v.address+path, strings.NewReader(body))
		require.NoError(t, err)
		r.Header.Set("Cookie", v.cookie)
		r.Header.Set("X-CSRF-Token", v.csrf)
		r.Header.Set("X-Forwarded-For", fmt.Sprintf("10.1.%d.%d", who/250, who%250))
		if kind != "" {
			r.Header.Set("Content-Type", kind)
		}
		at := time.Now()
		res, err := client.Do(r)
		if err != nil {
			return 0, time.Since(at)
		}
		_, _ = io.Copy(io.Discard, res.Body)
		res.Body.Close()
		return res.StatusCode, time.Since(at)
	}
	note := func(status int) {
		mutex.Lock()
		statuses[status]++
		mutex.Unlock()
	}
	begun := time.Now()
	var all sync.WaitGroup
	for i := range people {
		all.Go(func() {
			for time.Since(begun) < last {
				status, d := ask(i, "GET", "/api/houses/1/colors", "", "")
				note(status)
				mutex.Lock()
				took = append(took, d)
				mutex.Unlock()
				status, _ = ask(i, "GET", fmt.Sprintf("/api/houses/1/colors/%d", 1+rand.N(10)), "", "")
				note(status)
				status, _ = ask(i, "GET", public["path"].(string), "", "")
				note(status)
				if i%5 == 0 {
					status, _ = ask(i, "POST", "/api/houses/1/read", `{"text":"Night Boat #102030"}`, "application/json")
					note(status)
				}
				time.Sleep(2*time.Second + rand.N(2*time.Second))
			}
		})
	}
	all.Go(func() {
		for n := 0; time.Since(begun) < last; n++ {
			v.upload("/houses/1/audits", demo.TimetableDeck().Data)
			for end := time.Now().Add(time.Minute); time.Now().Before(end) && time.Since(begun) < last; {
				time.Sleep(200 * time.Millisecond)
			}
		}
	})
	var fetched atomic.Int64
	all.Go(func() {
		for time.Since(begun) < last {
			status, answer := v.send(fmt.Sprintf("/houses/1/hooks/%d/test", hooks[0].ID), map[string]any{})
			assert.Equal(t, 202, status, answer)
			for end := time.Now().Add(5 * time.Second); time.Now().Before(end) && time.Since(begun) < last; {
				time.Sleep(200 * time.Millisecond)
			}
		}
	})
	for i := range fetchers {
		all.Go(func() {
			for tick := time.NewTicker(200 * time.Millisecond); time.Since(begun) < last; <-tick.C {
				status, _ := ask(1000+i*20+rand.N(20), "GET", path+"/safety-film.video.csv", "", "")
				note(status)
				fetched.Add(1)
			}
		})
	}
	memory := func() int {
		text, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", v.cmd.Process.Pid))
		require.NoError(t, err)
		var kb int
		for _, line := range strings.Split(string(text), "\n") {
			if strings.HasPrefix(line, "VmRSS:") {
				_, _ = fmt.Sscanf(line, "VmRSS: %d kB", &kb)
			}
		}
		return kb / 1024
	}
	var held []int // MB, a hundred times
	all.Go(func() {
		for time.Since(begun) < last {
			time.Sleep(last / 100)
			held = append(held, memory())
		}
	})
	all.Wait()
	middle := func(list []int) int { slices.Sort(list); return list[len(list)/2] }
	early, late := middle(slices.Clone(held[len(held)/3:len(held)*2/3])), middle(slices.Clone(held[len(held)*2/3:]))
	slices.Sort(took)
	p99 := took[len(took)*99/100]
	t.Logf("%s: answers %v; %d fetches a second; ledger median %s, p99 %s; memory %d MB in the second third, %d MB in the last", last, statuses,
		fetched.Load()/int64(last.Seconds()), took[len(took)/2].Round(time.Millisecond), p99.Round(time.Millisecond), early, late)
	assert.Len(t, statuses, 1, "every answer is 200")
	if last > time.Minute {
		assert.Less(t, p99, 200*time.Millisecond)
	}
	if last >= time.Hour {
		assert.LessOrEqual(t, late, early+early/20, "the memory is flat within a twentieth")
	}
	var told []struct{ State, Answer string }
	require.Eventually(t, func() bool { // what was told last is on its way
		v.get(fmt.Sprintf("/houses/1/hooks/%d/messages", hooks[0].ID), &told)
		return !slices.ContainsFunc(told, func(m struct{ State, Answer string }) bool { return m.State == "waiting" })
	}, time.Minute, 100*time.Millisecond)
	require.NotEmpty(t, told)
	for _, m := range told {
		assert.Equal(t, "taken", m.State, m.Answer)
	}
}

// The program and its database are killed at random, again and again, while somebody admits colors and makes sets. Whatever was confirmed
// is there afterwards, once. make test-load does it every 20 seconds for ten minutes.
func TestProgramAndDatabaseAreKilled(t *testing.T) {
	last, every := seconds("HUEKEEP_KILL_SECONDS", 6), 4*time.Second
	if last > time.Minute {
		every = 20 * time.Second
	}
	v := running(t)
	stop := make(chan bool)
	var mutex sync.Mutex
	sets, uncertain := map[string]bool{}, 0
	var all sync.WaitGroup
	for i := range 3 {
		all.Go(func() {
			for n := 0; ; n++ {
				select {
				case <-stop:
					return
				default:
				}
				name := fmt.Sprintf("Set %d of %d", n, i)
				status, _ := v.send("/houses/1/sets", map[string]any{"name": name, "colors": []int{2, 3}})
				mutex.Lock()
				if status == 201 {
					sets[name] = true
				} else if status != 503 {
					uncertain++
				}
				mutex.Unlock()
				time.Sleep(30 * time.Millisecond)
			}
		})
	}
	kills := 0
	for begun := time.Now(); time.Since(begun) < last; kills++ {
		time.Sleep(every/2 + rand.N(every))
		text, err := os.ReadFile(filepath.Join(v.data, "mariadb", "mariadb.pid"))
		require.NoError(t, err)
		pid, err := strconv.Atoi(strings.TrimSpace(string(text)))
		require.NoError(t, err)
		if rand.N(2) == 0 {
			_ = syscall.Kill(pid, syscall.SIGKILL)
			continue
		}
		v.kill()
		if rand.N(2) == 0 {
			_ = syscall.Kill(pid, syscall.SIGKILL)
			_ = exec.Command("sleep", "0.2").Run()
		}
		v.start()
	}
	close(stop)
	all.Wait()
	require.Eventually(t, func() bool { status, _ := v.ask("GET", "/houses/1/sets", nil, ""); return status == 200 }, 60*time.Second, 100*time.Millisecond)
	var list []struct {
		Name   string
		Colors []any
	}
	v.get("/houses/1/sets", &list)
	there := map[string]int{}
	for _, s := range list {
		there[s.Name]++
		if strings.HasPrefix(s.Name, "Set ") {
			assert.Len(t, s.Colors, 2, "%s is whole", s.Name)
		}
	}
	for name := range sets {
		assert.Equal(t, 1, there[name], name)
	}
	t.Logf("%d kills; %d sets confirmed, %d answers did not come", kills, len(sets), uncertain)
	assert.NotEmpty(t, sets)
}
