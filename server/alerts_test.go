package server_test

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"huekeep/filestore"
	"huekeep/keep"
	"huekeep/keep/jobs"
	"huekeep/keep/stations"
	"huekeep/server"
	"huekeep/standin"
	"huekeep/store"
)

// promtool is what tries rules for alerts; scripts/setup.sh puts it there.
const promtool = "/usr/local/lib/huekeep-test/prometheus/promtool"

const alerts = "../docs/alerts.yaml"

// watched is a site whose metrics are looked at, quiet at first: everything is as it should be.
type watched struct {
	*site
	metrics *httptest.Server
	examine func()
}

func newWatched(t *testing.T) *watched {
	db := demoHouses.Open(t)
	w := &watched{examine: func() {}}
	k := stations.New(db, filestore.Memory(), standin.World())
	k.Accounts.Cost = cheap
	k.Dumps.Set.To = filestore.Memory()
	now := k.Base.Now()
	require.NoError(t, db.Add(&store.Night{Name: "last", BegunAt: now.Add(-20 * time.Hour), EndedAt: now.Add(-20 * time.Hour)}))
	require.NoError(t, db.InstanceHere(store.Instance{Name: "one", Host: "a", Version: "new"}))
	mux := http.NewServeMux()
	w.site = &site{t, server.New(server.Options{Stations: k, Metrics: mux, Examine: func(context.Context) []server.Seen { w.examine(); return nil }}), k, db}
	w.metrics = httptest.NewServer(mux)
	t.Cleanup(w.metrics.Close)
	return w
}

// full is a place for files on a disk that is full, and away one that does not answer.
type full struct{ filestore.Store }

func (full) Write(context.Context, string, io.Reader, int64) error { return syscall.ENOSPC }

type away struct{ filestore.Store }

func (away) Ready(context.Context) error { return errors.New("it does not answer") }

// sample is what was seen at one moment, by series.
type sample map[string]float64

var sampleLine = regexp.MustCompile(`^((?:huekeep|process_start)[a-z_]*)(?:\{(.*)\})? (\S+)$`)

// scrape looks at the metrics as a watcher does. Moments are told from the beginning of a watch that has run for half an hour.
func (w *watched) scrape() sample {
	out := sample{`up{job="huekeep"}`: 0}
	res, err := http.Get(w.metrics.URL + "/metrics")
	if err != nil {
		return out
	}
	defer res.Body.Close()
	text, err := io.ReadAll(res.Body)
	require.NoError(w.t, err)
	out[`up{job="huekeep"}`] = 1
	for line := range strings.Lines(string(text)) {
		m := sampleLine.FindStringSubmatch(strings.TrimSpace(line))
		if m == nil {
			continue
		}
		v, err := strconv.ParseFloat(m[3], 64)
		require.NoError(w.t, err, line)
		if strings.HasSuffix(m[1], "_timestamp_seconds") || m[1] == "process_start_time_seconds" {
			v += watch.Seconds() - float64(time.Now().Unix())
		}
		out[m[1]+"{"+strings.Trim(`job="huekeep",`+m[2], ",")+"}"] = v
	}
	return out
}

// watch is how long all is quiet before something happens.
const watch = 30 * time.Minute

// Every alarm of the documents is made to happen, and nothing else goes off with it; when all is well, none does.
func TestTheAlertsGoOff(t *testing.T) {
	t.Parallel()
	if _, err := os.Stat(promtool); err != nil && os.Getenv("CI") == "" {
		t.Skip("promtool is not there; scripts/setup.sh test brings it")
	}
	mail := func(w *watched, state string, age time.Duration) {
		at := w.keeper.Base.Now().Add(-age)
		list, err := w.db.Deliveries(1)
		require.NoError(t, err)
		d := list[0]
		require.NoError(t, w.db.Add(&store.Mail{HouseID: 1, RecipientID: d.RecipientID, SetID: d.SetID, DeliveryID: d.ID, Number: 1, Address: "a@b.example", Subject: "x", MessageID: keep.Random(), State: state, ByName: "x", CreatedAt: at}))
	}
	cases := []struct {
		alert  string
		within time.Duration // after which it is to have gone off
		happen func(t *testing.T, w *watched)
		also   func(series string, before, after float64, minutes int) float64 // how a series goes on; nil for staying as it is
	}{
		{"", time.Hour, func(t *testing.T, w *watched) {
			assert.Equal(t, 200, w.as("keeper").call("GET", "/session", nil).status)
			mail(w, store.MailSent, time.Minute)
			mail(w, store.MailWaiting, time.Minute)
		}, nil},
		{"HueKeepDown", 5 * time.Minute, func(_ *testing.T, w *watched) { w.metrics.Close() }, nil},
		{"HueKeepDatabaseAway", 3 * time.Minute, func(_ *testing.T, w *watched) { w.db.Close() }, nil},
		{"HueKeepFilesAway", 5 * time.Minute, func(_ *testing.T, w *watched) { w.keeper.Base.Files = away{filestore.Memory()} }, nil},
		{"HueKeepNoRoom", 2 * time.Minute, func(t *testing.T, w *watched) {
			w.keeper.Base.Files = full{filestore.Memory()}
			k := w.as("keeper")
			require.Equal(t, 507, k.uploadBy("POST", house(k.ferries(), "/audits"), "x.css", []byte("a{color:red}")).status)
		}, nil},
		{"HueKeepFails", 2 * time.Minute, func(t *testing.T, w *watched) {
			w.examine = func() { panic("made to happen") }
			require.Equal(t, 500, w.as("keeper").call("GET", "/server/doctor", nil).status)
		}, nil},
		{"HueKeepSlow", 25 * time.Minute, func(t *testing.T, w *watched) {
			w.examine = func() { time.Sleep(2100 * time.Millisecond) }
			require.Equal(t, 200, w.as("keeper").call("GET", "/server/doctor", nil).status)
		}, func(series string, before, after float64, minutes int) float64 {
			if strings.HasPrefix(series, "huekeep_request_seconds") && strings.Contains(series, "doctor") {
				return before + (after-before)*float64(minutes+1) // and so it goes on
			}
			return after
		}},
		{"HueKeepJobsWait", 8 * time.Minute, func(t *testing.T, w *watched) {
			at := w.keeper.Base.Now().Add(-20 * time.Minute)
			require.NoError(t, w.db.Add(&store.Job{Kind: "nobody's", State: store.JobWaiting, CreatedAt: at, RunAt: at, Payload: "{}"}))
		}, nil},
		{"HueKeepJobsStall", 2 * time.Minute, func(t *testing.T, w *watched) {
			w.keeper.Jobs.Kind("still", func(ctx context.Context, _ jobs.Work) error { <-ctx.Done(); return ctx.Err() })
			w.keeper.Jobs.Impatient(10*time.Millisecond, 10*time.Millisecond)
			w.keeper.Jobs.Hurry(time.Second)
			_, err := w.keeper.Jobs.Add(t.Context(), keep.Actor{Name: "x"}, "still", struct{}{}, "")
			require.NoError(t, err)
			ctx, stop := context.WithCancel(t.Context())
			done := make(chan bool)
			go func() { w.keeper.Jobs.Serve(ctx, 1); close(done) }()
			require.Eventually(t, func() bool { return w.keeper.Jobs.Stalled() == 1 }, time.Minute, 10*time.Millisecond)
			stop()
			<-done
		}, nil},
		{"HueKeepMailWaits", 15 * time.Minute, func(_ *testing.T, w *watched) { mail(w, store.MailWaiting, 2*time.Hour) }, nil},
		{"HueKeepMailFails", 2 * time.Minute, func(_ *testing.T, w *watched) { mail(w, store.MailFailed, time.Minute) }, nil},
		{"HueKeepNoDumps", 65 * time.Minute, func(_ *testing.T, w *watched) { w.keeper.Dumps.Set.To = nil }, nil},
		{"HueKeepDumpFailed", 8 * time.Minute, func(t *testing.T, w *watched) {
			now := w.keeper.Base.Now()
			require.NoError(t, w.db.Add(&store.Night{Name: "failed", BegunAt: now, EndedAt: now, Problem: "No room."}))
		}, nil},
		{"HueKeepDumpOld", 8 * time.Minute, func(t *testing.T, w *watched) {
			night, err := w.db.LastNight()
			require.NoError(t, err)
			night.BegunAt = night.BegunAt.Add(-24 * time.Hour)
			require.NoError(t, w.db.Save(&night))
		}, nil},
		{"HueKeepVersionsDiffer", 35 * time.Minute, func(t *testing.T, w *watched) {
			require.NoError(t, w.db.InstanceHere(store.Instance{Name: "two", Host: "b", Version: "old"}))
		}, nil},
		{"HueKeepRestarts", 10 * time.Minute, func(*testing.T, *watched) {}, func(series string, _, after float64, minutes int) float64 {
			if strings.HasPrefix(series, "process_start_time_seconds") {
				return after + float64(min(minutes/2, 3))*120 // it is started again after two minutes, three times
			}
			return after
		}},
	}
	rules, err := filepath.Abs(alerts)
	require.NoError(t, err)
	var book strings.Builder
	fmt.Fprintf(&book, "rule_files: [%q]\nevaluation_interval: 1m\ntests:\n", rules)
	tried := map[string]bool{}
	for _, c := range cases {
		tried[c.alert] = true
		w := newWatched(t)
		before := w.scrape()
		c.happen(t, w)
		after := w.scrape()
		fmt.Fprintf(&book, "  - interval: 1m\n    name: %q\n    input_series:\n", c.alert)
		all := map[string]bool{}
		for s := range before {
			all[s] = true
		}
		for s := range after {
			all[s] = true
		}
		for s := range all {
			var values []string
			quiet := int(watch.Minutes())
			for i := range quiet + 120 {
				v, there := before[s]
				if i >= quiet {
					if v, there = after[s]; there && c.also != nil {
						v = c.also(s, before[s], v, i-quiet)
					}
				}
				if !there {
					values = append(values, "_")
				} else {
					values = append(values, strconv.FormatFloat(v, 'f', -1, 64))
				}
			}
			fmt.Fprintf(&book, "      - series: '%s'\n        values: '%s'\n", s, strings.Join(values, " "))
		}
		fmt.Fprintf(&book, "    promql_expr_test:\n      - expr: count by (alertname) (ALERTS{alertstate=\"firing\"})\n        eval_time: %s\n        exp_samples: [", watch+c.within)
		if c.alert != "" {
			fmt.Fprintf(&book, `{labels: '{alertname="%s"}', value: 1}`, c.alert)
		}
		fmt.Fprint(&book, "]\n")
	}
	path := filepath.Join(t.TempDir(), "tried.yaml")
	require.NoError(t, os.WriteFile(path, []byte(book.String()), 0o600))
	out, err := exec.Command(promtool, "test", "rules", path).CombinedOutput()
	require.NoError(t, err, string(out))

	text, err := os.ReadFile(alerts)
	require.NoError(t, err)
	listed := regexp.MustCompile(`(?m)alert: (\w+)$`).FindAllStringSubmatch(string(text), -1)
	require.Len(t, listed, len(cases)-1)
	operations, err := os.ReadFile("../docs/operations.md")
	require.NoError(t, err)
	for _, m := range listed {
		assert.True(t, tried[m[1]], "%s was not made to happen", m[1])
		assert.True(t, strings.Contains(string(operations), "| `"+m[1]+"`"), "the documents do not say what to do about %s", m[1])
	}
}

// What the dashboard asks for is there, and understood.
func TestTheDashboardAsksForWhatThereIs(t *testing.T) {
	t.Parallel()
	text, err := os.ReadFile("../docs/dashboard.json")
	require.NoError(t, err)
	var board struct {
		Panels []struct {
			Title   string
			Targets []struct{ Expr string }
		}
	}
	require.NoError(t, json.Unmarshal(text, &board))
	w := newWatched(t)
	w.as("keeper") // requests are counted from the first on
	res, err := http.Get(w.metrics.URL + "/metrics")
	require.NoError(t, err)
	defer res.Body.Close()
	metrics, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	var rules strings.Builder
	rules.WriteString("groups:\n  - name: dashboard\n    rules:\n")
	asked := 0
	for _, p := range board.Panels {
		for _, target := range p.Targets {
			asked++
			fmt.Fprintf(&rules, "      - record: panel:%d\n        expr: %q\n", asked, target.Expr)
			for _, name := range regexp.MustCompile(`(?:huekeep|process)_[a-z_]+`).FindAllString(target.Expr, -1) {
				assert.True(t, strings.Contains(string(metrics), "\n# TYPE "+strings.TrimSuffix(name, "_bucket")+" "), "%s: there is no %s", p.Title, name)
			}
		}
	}
	assert.Greater(t, asked, 20)
	if _, err := os.Stat(promtool); err != nil && os.Getenv("CI") == "" {
		t.Skip("promtool is not there; scripts/setup.sh test brings it")
	}
	path := filepath.Join(t.TempDir(), "rules.yaml")
	require.NoError(t, os.WriteFile(path, []byte(rules.String()), 0o600))
	out, err := exec.Command(promtool, "check", "rules", path).CombinedOutput()
	require.NoError(t, err, string(out))
}
