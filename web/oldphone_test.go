package web_test

import (
	"encoding/json"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/web"
)

// field is what a phone knew of a place in what goes over the wire: its type, whether it is
// always there, and the words it may have.
type field struct {
	kind   string
	always bool
	words  []string
}

func (f *field) UnmarshalJSON(raw []byte) error {
	var parts []json.RawMessage
	if err := json.Unmarshal(raw, &parts); err != nil {
		return err
	}
	for i, into := range []any{&f.kind, &f.always, &f.words} {
		if i < len(parts) {
			if err := json.Unmarshal(parts[i], into); err != nil {
				return err
			}
		}
	}
	return nil
}

// wire is an OpenAPI schema as far as it is looked at here.
type wire struct {
	Ref        string          `json:"$ref"`
	Type       any             `json:"type"`
	Properties map[string]wire `json:"properties"`
	Required   []string        `json:"required"`
	Items      *wire           `json:"items"`
	More       json.RawMessage `json:"additionalProperties"`
	Enum       []any           `json:"enum"`
}

// lay lists the places of a schema.
func lay(all map[string]wire, s wire, at string, out map[string]field, seen []string) {
	if s.Ref != "" {
		name := s.Ref[strings.LastIndex(s.Ref, "/")+1:]
		if !slices.Contains(seen, name) {
			lay(all, all[name], at, out, append(slices.Clone(seen), name))
		}
		return
	}
	kind, _ := s.Type.(string)
	if many, ok := s.Type.([]any); ok {
		for _, k := range many {
			if k != "null" {
				kind, _ = k.(string)
			}
		}
	}
	put := func(k string) {
		if at != "" {
			f := out[at]
			f.kind = k
			for _, e := range s.Enum {
				w, _ := e.(string)
				f.words = append(f.words, w)
			}
			out[at] = f
		}
	}
	switch {
	case kind == "object" || s.Properties != nil:
		for name, p := range s.Properties {
			if name == "$schema" {
				continue
			}
			to := strings.TrimPrefix(at+"."+name, ".")
			lay(all, p, to, out, seen)
			f := out[to]
			f.always = slices.Contains(s.Required, name)
			out[to] = f
		}
		var more wire
		if json.Unmarshal(s.More, &more) == nil && len(s.More) > 5 {
			lay(all, more, at+".*", out, seen)
		}
		put("object")
	case kind == "array":
		put("array")
		lay(all, *s.Items, at+"[]", out, seen)
	default:
		put(kind)
	}
}

// A phone that has not seen the server for long speaks as the first edition did (schema 21, the first whose drawings stand as they are).
// What it reads is still answered, always where it counted on that and of the same type; of
// what it sends nothing became unknown, and nothing it does not know is asked of it.
func TestAnOldPhoneIsUnderstood(t *testing.T) {
	raw, err := os.ReadFile("testdata/pocket-21.json")
	require.NoError(t, err)
	var old map[string]struct{ Sends, Reads map[string]field }
	require.NoError(t, json.Unmarshal(raw, &old))
	raw, err = web.OpenAPI()
	require.NoError(t, err)
	type content struct {
		Content map[string]struct{ Schema wire } `json:"content"`
	}
	var now struct {
		Paths map[string]map[string]struct {
			Body      *content           `json:"requestBody"`
			Responses map[string]content `json:"responses"`
		} `json:"paths"`
		Components struct{ Schemas map[string]wire } `json:"components"`
	}
	require.NoError(t, json.Unmarshal(raw, &now))
	looked := 0
	for op, was := range old {
		method, path, _ := strings.Cut(op, " ")
		o, ok := now.Paths[path][strings.ToLower(method)]
		if !assert.True(t, ok, "%s is gone", op) {
			continue
		}
		reads, sends := map[string]field{}, map[string]field{}
		for status, r := range o.Responses {
			if status[0] == '2' {
				lay(now.Components.Schemas, r.Content["application/json"].Schema, "", reads, nil)
			}
		}
		if o.Body != nil {
			lay(now.Components.Schemas, o.Body.Content["application/json"].Schema, "", sends, nil)
		}
		for at, f := range was.Reads {
			looked++
			n, there := reads[at]
			assert.True(t, there, "%s no longer answers %s", op, at)
			assert.Equal(t, f.kind, n.kind, "%s: %s", op, at)
			assert.True(t, !f.always || n.always, "%s: %s may be missing now", op, at)
		}
		for at, f := range was.Sends {
			looked++
			n, there := sends[at]
			assert.True(t, there, "%s takes no %s any more", op, at)
			assert.Equal(t, f.kind, n.kind, "%s: %s", op, at)
			for _, w := range f.words {
				assert.Contains(t, n.words, w, "%s: %s", op, at)
			}
		}
		for at, n := range sends {
			parent := at[:max(strings.LastIndex(at, "."), 0)]
			_, knew := was.Sends[at]
			_, knewParent := was.Sends[parent]
			assert.False(t, n.always && !knew && (parent == "" || knewParent), "%s asks for %s, which an old phone does not know", op, at)
		}
	}
	assert.Greater(t, looked, 300)
}
