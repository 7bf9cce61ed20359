// Package strict checks values that come in from outside as a whole – the rows of a
// bundle, stored JSON – against the same tags the interface is described with:
// types, ranges, lengths, choices. A field that is not known is refused.
package strict

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"reflect"
	"strings"
	"sync"
	"unicode/utf8"

	"github.com/danielgtaylor/huma/v2"
)

// Limits of any value (house).
const (
	longestText = 20_000 // bytes
	longestList = 100_000
	deepest     = 40
	largest     = 1e12
)

// Error says what is wrong and where within the value.
type Error struct{ Where, Why string }

func (e *Error) Error() string {
	if e.Where == "" {
		return e.Why
	}
	return e.Where + ": " + e.Why
}

func bad(where, format string, args ...any) error {
	return &Error{where, fmt.Sprintf(format, args...)}
}

var (
	mu       sync.Mutex
	registry = huma.NewMapRegistry("#/", func(t reflect.Type, hint string) string {
		for t.Kind() == reflect.Pointer || t.Kind() == reflect.Slice {
			t = t.Elem()
		}
		name := huma.DefaultSchemaNamer(t, hint)
		return strings.NewReplacer("/", "_", ".", "_").Replace(t.PkgPath()) + "_" + name
	})
	schemas = map[reflect.Type]*huma.Schema{}
)

// schemaOf is the description of a type.
func schemaOf(t reflect.Type) *huma.Schema {
	mu.Lock()
	defer mu.Unlock()
	if s, ok := schemas[t]; ok {
		return s
	}
	s := registry.Schema(t, true, t.Name())
	schemas[t] = s
	return s
}

// Any reads JSON of any shape within the limits of every value.
func Any(raw []byte) (any, error) {
	d := json.NewDecoder(bytes.NewReader(raw))
	var v any
	if err := d.Decode(&v); err != nil {
		return nil, bad("", "not JSON that can be read")
	}
	if _, err := d.Token(); !errors.Is(err, io.EOF) {
		return nil, bad("", "there is something after its end")
	}
	if err := limits(v, "", 0); err != nil {
		return nil, err
	}
	return v, nil
}

func limits(v any, at string, depth int) error {
	if depth > deepest {
		return bad(at, "nested too deep")
	}
	switch x := v.(type) {
	case string:
		return text(x, at)
	case float64:
		if math.Abs(x) > largest {
			return bad(at, "%g can't be", x)
		}
	case []any:
		if len(x) > longestList {
			return bad(at, "too many")
		}
		for i := range x {
			if err := limits(x[i], fmt.Sprintf("%s[%d]", at, i), depth+1); err != nil {
				return err
			}
		}
	case map[string]any:
		if len(x) > longestList {
			return bad(at, "too many")
		}
		for k := range x {
			if err := text(k, at); err != nil {
				return err
			}
			if err := limits(x[k], under(at, k), depth+1); err != nil {
				return err
			}
		}
	}
	return nil
}

func under(at, k string) string {
	if at == "" {
		return k
	}
	return at + "." + k
}

func text(s, at string) error {
	switch {
	case len(s) > longestText:
		return bad(at, "longer than %d characters", longestText)
	case strings.ContainsRune(s, 0) || !utf8.ValidString(s):
		return bad(at, "holds a character that can't be kept")
	}
	return nil
}

// Bare is a value without the fields that say nothing.
func Bare(v any) any {
	switch x := v.(type) {
	case []any:
		for i := range x {
			x[i] = Bare(x[i])
		}
	case map[string]any:
		for k, e := range x {
			if e == nil {
				delete(x, k)
				continue
			}
			x[k] = Bare(e)
		}
	}
	return v
}

// Decode reads a value of a type, checked by its tags.
func Decode[T any](v any) (T, error) {
	var out T
	v = Bare(v)
	s := schemaOf(reflect.TypeFor[T]())
	res := huma.ValidateResult{}
	path := huma.NewPathBuffer([]byte{}, 0)
	huma.Validate(registry, s, path, huma.ModeWriteToServer, v, &res)
	for _, err := range res.Errors {
		var d *huma.ErrorDetail
		if !errors.As(err, &d) {
			return out, bad("", "%s", err)
		}
		// What is missing is what the type has without it: rows of older versions lack
		// fields, and the database says which it needs.
		if !strings.HasPrefix(d.Message, "expected required property") {
			return out, bad(d.Location, "%s", d.Message)
		}
	}
	raw, err := json.Marshal(v)
	if err != nil {
		return out, bad("", "%s", err)
	}
	d := json.NewDecoder(bytes.NewReader(raw))
	d.DisallowUnknownFields()
	if err := d.Decode(&out); err != nil {
		var te *json.UnmarshalTypeError
		if errors.As(err, &te) {
			return out, bad(te.Field, "%s is not of the kind that is expected", te.Value)
		}
		return out, bad("", "%s", strings.TrimPrefix(err.Error(), "json: "))
	}
	return out, nil
}

// Read is Decode of JSON text.
func Read[T any](raw []byte) (T, error) {
	v, err := Any(raw)
	if err != nil {
		var none T
		return none, err
	}
	return Decode[T](v)
}
