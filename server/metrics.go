package server

import (
	"context"
	"net/http"
	"strconv"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"huekeep/keep"
	"huekeep/keep/jobs"
)

// metrics count what is answered; they belong to one server, so that tests have their own.
type metrics struct {
	requests *prometheus.CounterVec
	took     *prometheus.HistogramVec
}

func newMetrics() metrics {
	m := metrics{
		prometheus.NewCounterVec(prometheus.CounterOpts{Name: "huekeep_requests_total",
			Help: "Requests that were answered, by method and status."}, []string{"method", "status"}),
		prometheus.NewHistogramVec(prometheus.HistogramOpts{Name: "huekeep_request_seconds", Help: "How long answers took, by route.",
			Buckets: []float64{.005, .01, .025, .05, .1, .2, .5, 1, 2, 5, 10}}, []string{"route"}),
	}
	// What is there from the beginning has an increase when it happens for the first time, which an alarm waits for.
	for _, method := range []string{http.MethodGet, http.MethodPost, http.MethodPut, http.MethodPatch, http.MethodDelete} {
		for _, status := range []int{fiber.StatusInternalServerError, fiber.StatusInsufficientStorage} {
			m.requests.WithLabelValues(method, strconv.Itoa(status))
		}
	}
	return m
}

func (m metrics) request(c fiber.Ctx, status int, took time.Duration) {
	m.requests.WithLabelValues(c.Method(), strconv.Itoa(status)).Inc()
	m.took.WithLabelValues(c.Route().Path).Observe(took.Seconds())
}

// metricsPage answers with the metrics, in the text form of Prometheus: requests, jobs, sessions, the database's connections, and what the
// program itself takes.
func (s *server) metricsPage() http.Handler {
	r := prometheus.NewRegistry()
	r.MustRegister(s.metrics.requests, s.metrics.took, collectors.NewGoCollector(),
		collectors.NewProcessCollector(collectors.ProcessCollectorOpts{}), asking{s},
		prometheus.NewGaugeFunc(prometheus.GaugeOpts{Name: "huekeep_requests_now", Help: "Requests that are being answered."},
			func() float64 { return float64(s.now.Load()) }))
	return promhttp.HandlerFor(r, promhttp.HandlerOpts{})
}

// asking is what the database is asked for when somebody looks.
type asking struct{ *server }

var (
	upMetric       = prometheus.NewDesc("huekeep_database_up", "1 if the database answers.", nil, nil)
	openMetric     = prometheus.NewDesc("huekeep_database_connections", "Connections to the database.", []string{"state"}, nil)
	waitedMetric   = prometheus.NewDesc("huekeep_database_waited_seconds_total", "How long requests waited for a connection.", nil, nil)
	sessionsMetric = prometheus.NewDesc("huekeep_sessions", "Sessions that are open.", nil, nil)
	jobsMetric     = prometheus.NewDesc("huekeep_jobs", "Jobs by state.", []string{"state"}, nil)
	jobWaitMetric  = prometheus.NewDesc("huekeep_jobs_oldest_wait_seconds", "How long the job has waited that is due and was not begun.",
		nil, nil)
	stalledMetric = prometheus.NewDesc("huekeep_jobs_stalled_total",
		"Jobs that stayed at one place, or did not stop when they were asked to.", nil, nil)
	readingMetric = prometheus.NewDesc("huekeep_reading",
		"Foreign files that are read, or wait for that, in processes of their own (apart) or in the server (here).", []string{"where",
			"state"}, nil)
	readWaitMetric = prometheus.NewDesc("huekeep_reading_oldest_wait_seconds", "How long the foreign file has waited that waits longest.",
		[]string{"where"}, nil)
	readersMetric = prometheus.NewDesc("huekeep_reading_processes_total",
		"Processes that read foreign files: begun, and those that ended by themselves.", []string{"state"}, nil)
	filesUpMetric = prometheus.NewDesc("huekeep_files_up", "1 if the place for files can be reached.", nil, nil)
	housesMetric  = prometheus.NewDesc("huekeep_houses", "Houses.", nil, nil)
	storedMetric  = prometheus.NewDesc("huekeep_stored_bytes", "Bytes of all stored files.", nil, nil)
	mailsMetric   = prometheus.NewDesc("huekeep_mails",
		"Mails of editions by state: those that wait, and those of the last week that were sent or failed.", []string{"state"}, nil)
	mailWaitMetric = prometheus.NewDesc("huekeep_mails_oldest_wait_seconds", "How long the mail has waited that waits longest.", nil, nil)
	versionsMetric = prometheus.NewDesc("huekeep_instances", "Instances that are there, by version.", []string{"version"}, nil)
	dumpsOnMetric  = prometheus.NewDesc("huekeep_dumps_on", "1 if nightly dumps are made.", nil, nil)
	dumpMetric     = prometheus.NewDesc("huekeep_dump_last_timestamp_seconds",
		"Of which moment the last nightly dump is that was opened and counted.", nil, nil)
	dumpSizeMetric = prometheus.NewDesc("huekeep_dump_last_bytes", "How long it is.", nil, nil)
	dumpFailMetric = prometheus.NewDesc("huekeep_dump_failed", "1 if the last try to make a nightly dump failed.", nil, nil)
	lateMetric     = prometheus.NewDesc("huekeep_reading_late_total", "Foreign files that took longer than they may.", nil, nil)
)

// Describe implements prometheus.Collector.
func (a asking) Describe(to chan<- *prometheus.Desc) {
	for _, d := range []*prometheus.Desc{upMetric, openMetric, waitedMetric, sessionsMetric, jobsMetric, jobWaitMetric, stalledMetric,
		readingMetric, readWaitMetric, readersMetric, lateMetric,
		filesUpMetric, housesMetric, storedMetric, mailsMetric, mailWaitMetric, versionsMetric, dumpsOnMetric, dumpMetric, dumpSizeMetric,
		dumpFailMetric} {
		to <- d
	}
}

// number is 1 for what is so.
func number(so bool) float64 {
	if so {
		return 1
	}
	return 0
}

// Collect implements prometheus.Collector.
func (a asking) Collect(to chan<- prometheus.Metric) {
	ctx, stop := context.WithTimeout(context.Background(), healthTime)
	defer stop()
	gauge := func(d *prometheus.Desc, v float64, labels ...string) {
		to <- prometheus.MustNewConstMetric(d, prometheus.GaugeValue, v, labels...)
	}
	counter := func(d *prometheus.Desc, v int64, labels ...string) {
		to <- prometheus.MustNewConstMetric(d, prometheus.CounterValue, float64(v), labels...)
	}
	for where, now := range map[string]func() (int, int, time.Duration){"apart": a.Base.Apart.Waiting, "here": keep.ReadingNow} {
		taken, waiting, longest := now()
		gauge(readingMetric, float64(taken), where, "read")
		gauge(readingMetric, float64(waiting), where, "waiting")
		gauge(readWaitMetric, longest.Seconds(), where)
	}
	n := a.Base.Apart.Counted()
	counter(readersMetric, n.Begun, "begun")
	counter(readersMetric, n.Died, "died")
	counter(lateMetric, n.Late)
	counter(stalledMetric, a.Jobs.Stalled())
	files, done := context.WithTimeout(ctx, healthTime/3) // so that a place that does not answer hides nothing else
	gauge(filesUpMetric, number(a.Base.Files.Ready(files) == nil))
	done()
	gauge(dumpsOnMetric, number(a.Dumps.On()))
	db := a.Base.DB.With(ctx)
	if stats, err := db.Connections(); err == nil {
		gauge(openMetric, float64(stats.InUse), "in use")
		gauge(openMetric, float64(stats.Idle), "idle")
		to <- prometheus.MustNewConstMetric(waitedMetric, prometheus.CounterValue, stats.WaitDuration.Seconds())
	}
	if db.Ping(ctx) != nil {
		gauge(upMetric, 0)
		return
	}
	gauge(upMetric, 1)
	if c, err := a.Running.Counts(ctx); err == nil {
		gauge(housesMetric, float64(c.Houses))
		gauge(storedMetric, float64(c.Bytes))
		for _, state := range []string{"waiting", "sent", "failed"} {
			gauge(mailsMetric, float64(c.Mails[state]), state)
		}
		gauge(mailWaitMetric, c.MailWait.Seconds())
		for version, n := range c.Versions {
			gauge(versionsMetric, float64(n), version)
		}
		gauge(dumpFailMetric, number(c.NightFail))
		if c.Night != nil {
			gauge(dumpMetric, float64(c.Night.BegunAt.Unix()))
			gauge(dumpSizeMetric, float64(c.Night.Size))
		}
	}
	if n, err := db.OpenSessions(a.Base.Now()); err == nil {
		gauge(sessionsMetric, float64(n))
	}
	if wait, err := a.Jobs.OldestWait(ctx); err == nil {
		gauge(jobWaitMetric, wait.Seconds())
	}
	if states, err := db.JobStates(); err == nil {
		for _, state := range []jobs.State{jobs.Waiting, jobs.Running, jobs.Done, jobs.Failed, jobs.GivenUp} {
			gauge(jobsMetric, float64(states[string(state)]), string(state))
		}
	}
}
