package web

import (
	"context"
	"fmt"
	"log/slog"
	"net/url"
	"time"

	"github.com/exaring/otelpgx"
	"github.com/jackc/pgx/v5"
	"go.opentelemetry.io/otel"
	"go.opentelemetry.io/otel/attribute"
	"go.opentelemetry.io/otel/codes"
	"go.opentelemetry.io/otel/exporters/otlp/otlptrace/otlptracehttp"
	"go.opentelemetry.io/otel/sdk/resource"
	sdk "go.opentelemetry.io/otel/sdk/trace"
	"go.opentelemetry.io/otel/sdk/trace/tracetest"
	"go.opentelemetry.io/otel/trace"
)

// traceTime is how long the collector is waited for when the server stops (house).
const traceTime = 5 * time.Second

// Tracer tells a collector of OpenTelemetry how long requests, jobs and their statements
// took. It names operations, jobs and statements, never whom they are about: addresses,
// parameters and what an error says stay here. A nil one tells nothing.
type Tracer struct {
	provider *sdk.TracerProvider
	tracer   trace.Tracer
}

// NewTracer returns a tracer that tells a collector at an address (OTLP over HTTP). A
// collector that is away holds nothing up: what it was not told is dropped.
func NewTracer(ctx context.Context, to string, log *slog.Logger) (*Tracer, error) {
	u, err := url.Parse(to)
	if err != nil || u.Scheme != "http" && u.Scheme != "https" || u.Host == "" {
		return nil, fmt.Errorf("%q: expected an address like http://127.0.0.1:4318", to)
	}
	if u.Path == "" || u.Path == "/" {
		u.Path = "/v1/traces"
	}
	out, err := otlptracehttp.New(ctx, otlptracehttp.WithEndpointURL(u.String()))
	if err != nil {
		return nil, err
	}
	otel.SetErrorHandler(otel.ErrorHandlerFunc(func(err error) { log.Warn("traces", "err", err) }))
	p := sdk.NewTracerProvider(sdk.WithBatcher(quiet{out}), sdk.WithResource(resource.NewSchemaless(attribute.String("service.name", "notchback"))))
	return &Tracer{p, p.Tracer("notchback")}, nil
}

// Close tells the collector what it was not told yet.
func (x *Tracer) Close() {
	if x == nil {
		return
	}
	ctx, cancel := context.WithTimeout(context.Background(), traceTime)
	defer cancel()
	_ = x.provider.Shutdown(ctx)
}

// Database is what a store's connections tell of their statements; nil for none.
func (x *Tracer) Database() pgx.QueryTracer {
	if x == nil {
		return nil
	}
	return otelpgx.NewTracer(otelpgx.WithTracerProvider(x.provider), otelpgx.WithDisableConnectionDetailsInAttributes())
}

// Job is a job's time; end it with what came of it.
func (x *Tracer) Job(ctx context.Context, name string) (context.Context, func(error)) {
	if x == nil {
		return ctx, func(error) {}
	}
	ctx, span := x.tracer.Start(ctx, name)
	return ctx, func(err error) {
		if err != nil {
			span.SetStatus(codes.Error, "")
		}
		span.End()
	}
}

// request is a request's time; end it with its operation, its number and the status.
func (x *Tracer) request(ctx context.Context, method string) (context.Context, func(operation, number string, status int)) {
	if x == nil {
		return ctx, func(string, string, int) {}
	}
	ctx, span := x.tracer.Start(ctx, "request", trace.WithSpanKind(trace.SpanKindServer))
	return ctx, func(operation, number string, status int) {
		span.SetName(operation)
		span.SetAttributes(attribute.String("http.request.method", method), attribute.Int("http.response.status_code", status), attribute.String("notchback.request", number))
		if status >= 500 {
			span.SetStatus(codes.Error, "")
		}
		span.End()
	}
}

// quiet leaves out what errors say: a database repeats what somebody typed.
type quiet struct{ sdk.SpanExporter }

// ExportSpans passes spans on without their events and what is said of their status.
func (q quiet) ExportSpans(ctx context.Context, list []sdk.ReadOnlySpan) error {
	stubs := tracetest.SpanStubsFromReadOnlySpans(list)
	for i := range stubs {
		stubs[i].Events = nil
		stubs[i].Status.Description = ""
	}
	return q.SpanExporter.ExportSpans(ctx, stubs.Snapshots())
}
