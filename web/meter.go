package web

import (
	"net/http"
	"strconv"
	"time"

	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"notchback/store"
)

// Meter counts what a server does, for Prometheus. It names operations and jobs, never
// people, practices or addresses of records.
type Meter struct {
	registry *prometheus.Registry
	requests *prometheus.CounterVec
	took     *prometheus.HistogramVec
	jobs     *prometheus.CounterVec
	jobTook  *prometheus.GaugeVec
	amounts  *prometheus.CounterVec
}

// NewMeter returns a meter that also watches a store's connections.
func NewMeter(s *store.Store) *Meter {
	m := &Meter{
		registry: prometheus.NewRegistry(),
		requests: prometheus.NewCounterVec(prometheus.CounterOpts{Name: "notchback_requests_total", Help: "Requests by operation and status."}, []string{"operation", "status"}),
		took: prometheus.NewHistogramVec(prometheus.HistogramOpts{Name: "notchback_request_seconds", Help: "How long requests took, by operation.",
			Buckets: []float64{0.005, 0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1, 2.5, 10, 60}}, []string{"operation"}),
		jobs:    prometheus.NewCounterVec(prometheus.CounterOpts{Name: "notchback_jobs_total", Help: "The server's own jobs by name and outcome."}, []string{"job", "outcome"}),
		jobTook: prometheus.NewGaugeVec(prometheus.GaugeOpts{Name: "notchback_job_seconds", Help: "How long a job took the last time."}, []string{"job"}),
		amounts: prometheus.NewCounterVec(prometheus.CounterOpts{Name: "notchback_done_total", Help: "What jobs got done: runners reviewed, reports settled, clips swept, records deleted."}, []string{"what"}),
	}
	m.registry.MustRegister(m.requests, m.took, m.jobs, m.jobTook, m.amounts, collectors.NewGoCollector(), collectors.NewProcessCollector(collectors.ProcessCollectorOpts{}))
	for name, of := range map[string]func() float64{
		"notchback_database_connections":      func() float64 { return float64(s.Pool().Stat().TotalConns()) },
		"notchback_database_connections_busy": func() float64 { return float64(s.Pool().Stat().AcquiredConns()) },
		"notchback_database_waits_total":      func() float64 { return float64(s.Pool().Stat().EmptyAcquireCount()) },
	} {
		m.registry.MustRegister(prometheus.NewGaugeFunc(prometheus.GaugeOpts{Name: name, Help: "Of the pool of connections to the database."}, of))
	}
	return m
}

// Handler answers Prometheus. It is for an address of its own: nobody signs in to it.
func (m *Meter) Handler() http.Handler {
	mux := http.NewServeMux()
	mux.Handle("GET /metrics", promhttp.HandlerFor(m.registry, promhttp.HandlerOpts{}))
	return mux
}

// Job notes that a job of the server ended.
func (m *Meter) Job(name string, took time.Duration, err error) {
	if m == nil {
		return
	}
	outcome := "done"
	if err != nil {
		outcome = "failed"
	}
	m.jobs.WithLabelValues(name, outcome).Inc()
	m.jobTook.WithLabelValues(name).Set(took.Seconds())
}

// Done notes how much of something a job got done.
func (m *Meter) Done(what string, n int) {
	if m != nil && n > 0 {
		m.amounts.WithLabelValues(what).Add(float64(n))
	}
}

func (m *Meter) request(operation string, status int, took time.Duration) {
	if m == nil {
		return
	}
	m.requests.WithLabelValues(operation, strconv.Itoa(status)).Inc()
	m.took.WithLabelValues(operation).Observe(took.Seconds())
}
