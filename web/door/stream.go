package door

import (
	"context"
	"io"
	"reflect"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"

	"notchback/app"
)

// Stream is a body that its use case reads as it comes, up to what the operation
// takes.
type Stream struct{ body io.Reader }

// Bytes is the body, bounded.
func (s *Stream) Bytes() io.Reader { return s.body }

// Resolve leaves the body unread and bounds it in size and time.
func (s *Stream) Resolve(hc huma.Context) []error {
	o := hc.Operation()
	if err := hc.SetReadDeadline(time.Now().Add(o.BodyReadTimeout)); err != nil {
		return []error{err}
	}
	s.body = &bounded{humagin.Unwrap(hc).Request.Body, o.MaxBodyBytes, o.MaxBodyBytes}
	return nil
}

// bounded fails when more comes than it takes.
type bounded struct {
	r          io.Reader
	left, most int64
}

func (b *bounded) Read(p []byte) (int, error) {
	if b.left < 0 {
		return 0, &app.TooLarge{Most: b.most}
	}
	if int64(len(p)) > b.left+1 {
		p = p[:b.left+1]
	}
	n, err := b.r.Read(p)
	if b.left -= int64(n); b.left < 0 {
		return n, &app.TooLarge{Most: b.most}
	}
	return n, err
}

// Streamed registers an operation whose body is read as it comes: JSON of a type, or
// bytes where there is none. The library would read a body that is described, so it
// is described when the operation is known.
func Streamed[I, O any](api huma.API, o huma.Operation, of any, most int64, fn func(context.Context, *I) (*O, error)) {
	o.MaxBodyBytes = most
	if o.BodyReadTimeout <= landsLong {
		o.BodyReadTimeout = landsLong
	}
	ruleOf(&o).comes = true
	huma.Register(api, o, fn)
	kind, schema := "application/octet-stream", &huma.Schema{Type: huma.TypeString, Format: "binary"}
	if of != nil {
		kind, schema = "application/json", api.OpenAPI().Components.Schemas.Schema(reflect.TypeOf(of), true, "")
	}
	p := api.OpenAPI().Paths[o.Path]
	for _, x := range []*huma.Operation{p.Post, p.Put} {
		if x != nil && x.OperationID == o.OperationID {
			x.RequestBody = &huma.RequestBody{Required: true, Content: map[string]*huma.MediaType{kind: {Schema: schema}}}
		}
	}
}
