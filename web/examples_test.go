package web_test

import (
	"bytes"
	"encoding/json"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app/demo"
	"notchback/web"
)

// document is the interface's description as somebody else's program reads it.
type document struct {
	t    *testing.T
	raw  map[string]any
	read *jsonschema.Compiler
}

func readDocument(t *testing.T) document {
	b, err := web.OpenAPI()
	require.NoError(t, err)
	whole, err := jsonschema.UnmarshalJSON(bytes.NewReader(b))
	require.NoError(t, err)
	d := document{t, whole.(map[string]any), jsonschema.NewCompiler()}
	d.read.AssertFormat()
	require.NoError(t, d.read.AddResource("mem:///api.json", whole))
	return d
}

func (d document) schemas() map[string]any {
	return d.raw["components"].(map[string]any)["schemas"].(map[string]any)
}

// fits says what is wrong with a value of a schema, by an independent reader.
func (d document) fits(pointer string, v any) error {
	s, err := d.read.Compile("mem:///api.json#" + pointer)
	require.NoError(d.t, err, pointer)
	return s.Validate(v)
}

func (d document) resolve(s map[string]any) map[string]any {
	for {
		ref, ok := s["$ref"].(string)
		if !ok {
			return s
		}
		s = d.schemas()[ref[strings.LastIndex(ref, "/")+1:]].(map[string]any)
	}
}

// sample is a value of a schema: its example, or the least that it allows.
func (d document) sample(s map[string]any) any {
	if list, ok := s["examples"].([]any); ok && len(list) > 0 {
		return list[0]
	}
	s = d.resolve(s)
	if list, ok := s["enum"].([]any); ok {
		return list[0]
	}
	kind, _ := s["type"].(string)
	if list, ok := s["type"].([]any); ok {
		kind, _ = list[0].(string)
	}
	switch kind {
	case "object":
		out := map[string]any{}
		props, _ := s["properties"].(map[string]any)
		for name, p := range props {
			prop := p.(map[string]any)
			_, example := prop["examples"]
			needed := false
			for _, r := range asList(s["required"]) {
				needed = needed || r == name
			}
			if needed || example {
				out[name] = d.sample(prop)
			}
		}
		return out
	case "array":
		return []any{}
	case "boolean":
		return true
	case "integer", "number":
		if n, ok := s["minimum"]; ok {
			return n
		}
		return json.Number("1")
	}
	if s["format"] == "date" {
		return "2026-05-05"
	}
	return "text"
}

func asList(v any) []any {
	list, _ := v.([]any)
	return list
}

// Every example in the description is a value of what it stands beside.
func TestExamplesFitTheirSchemas(t *testing.T) {
	d := readDocument(t)
	n := 0
	for name, s := range d.schemas() {
		props, _ := s.(map[string]any)["properties"].(map[string]any)
		for field, p := range props {
			for _, example := range asList(p.(map[string]any)["examples"]) {
				n++
				assert.NoError(t, d.fits("/components/schemas/"+name+"/properties/"+field, example), "%s.%s", name, field)
			}
		}
	}
	assert.Greater(t, n, 50)
}

// Whoever sends the examples of a computation gets an answer, and the answer is what
// the description says.
func TestExamplesOfComputationsAreAnswered(t *testing.T) {
	d := readDocument(t)
	c := signedIn(t, staged(t, web.Options{}).Server, demo.Email)
	n := 0
	for path, p := range d.raw["paths"].(map[string]any) {
		if !strings.HasPrefix(path, "/api/compute/") {
			continue
		}
		n++
		op := p.(map[string]any)["post"].(map[string]any)
		at := func(o any) map[string]any {
			return o.(map[string]any)["content"].(map[string]any)["application/json"].(map[string]any)["schema"].(map[string]any)
		}
		body := d.sample(at(op["requestBody"]))
		status, out := c.do("POST", path, body)
		if !assert.Equal(t, 200, status, "%s %v: %v", path, body, out) {
			continue
		}
		raw, err := json.Marshal(out)
		require.NoError(t, err)
		v, err := jsonschema.UnmarshalJSON(bytes.NewReader(raw))
		require.NoError(t, err)
		escaped := strings.ReplaceAll(path, "/", "~1")
		assert.NoError(t, d.fits("/paths/"+escaped+"/post/responses/200/content/application~1json/schema", v), path)
	}
	assert.Equal(t, 21, n)
}
