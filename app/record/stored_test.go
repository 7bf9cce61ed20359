package record

import (
	"encoding/json"
	"flag"
	"os"
	"path/filepath"
	"reflect"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"notchback/app/input"
	"notchback/core/adjust"
	"notchback/core/catalogue"
	"notchback/core/clip"
	"notchback/core/course"
	"notchback/core/day"
	"notchback/core/planning"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/core/transition"
)

var update = flag.Bool("update", false, "write the golden files anew")

// stored are the kinds of JSON that the database keeps, by the column they lie in.
var stored = map[string]any{
	"screening_parts.talk":        &input.Talk{},
	"screening_parts.conditions":  &input.Conditions{},
	"screening_parts.choices":     &[]screening.Choice{},
	"screening_parts.waivers":     &[]safety.Waiver{},
	"day_notes.body":              &input.DayInput{},
	"runner_wishes.body":          &planning.Wishes{},
	"schools.body":                &planning.School{},
	"blocks.plan":                 &planning.Proposal{},
	"prescriptions.start_reasons": &[]planning.Reason{},
	"prescriptions.ladder_data":   &catalogue.Ladder{},
	"session_items.given":         &catalogue.Dose{},
	"shelf.exercise":              &catalogue.Exercise{},
	"block_changes.body":          &input.BlockChange{},
	"ramps.barefoot":              &input.RampInput{},
	"ramps.cadence":               &input.CadenceRampInput{},
	"ramp_events.recount":         &transition.Recount{},
	"ramp_events.cue":             &transition.CueLook{},
	"decisions.decision":          &adjust.Decision{},
	"decisions.input":             &course.PerSide[course.Input]{},
	"decisions.course":            &kept{},
	"course_states.body":          &course.State{},
	"runner_states.body":          &BenchState{},
	"clips.marks":                 &clip.Marks{},
	"clips.proposal":              &clip.Proposal{},
}

// fill sets every field to a value that is not its zero, so that each has its place
// in the golden file.
func fill(v reflect.Value, depth int) {
	switch v.Interface().(type) {
	case day.Date:
		v.Set(reflect.ValueOf(day.Make(2026, time.November, 2)))
		return
	case time.Time:
		v.Set(reflect.ValueOf(time.Date(2026, 11, 2, 7, 30, 0, 0, time.UTC)))
		return
	case json.RawMessage:
		v.Set(reflect.ValueOf(json.RawMessage(`{}`)))
		return
	}
	switch v.Kind() {
	case reflect.Pointer:
		if depth < 8 {
			v.Set(reflect.New(v.Type().Elem()))
			fill(v.Elem(), depth+1)
		}
	case reflect.Struct:
		for i := range v.NumField() {
			if v.Type().Field(i).IsExported() {
				fill(v.Field(i), depth+1)
			}
		}
	case reflect.Slice:
		if depth < 8 {
			v.Set(reflect.MakeSlice(v.Type(), 1, 1))
			fill(v.Index(0), depth+1)
		}
	case reflect.Array:
		for i := range v.Len() {
			fill(v.Index(i), depth+1)
		}
	case reflect.Map:
		if depth < 8 {
			k, e := reflect.New(v.Type().Key()).Elem(), reflect.New(v.Type().Elem()).Elem()
			fill(k, depth+1)
			fill(e, depth+1)
			v.Set(reflect.MakeMap(v.Type()))
			v.SetMapIndex(k, e)
		}
	case reflect.String:
		v.SetString("text")
	case reflect.Bool:
		v.SetBool(true)
	case reflect.Int, reflect.Int8, reflect.Int16, reflect.Int32, reflect.Int64:
		v.SetInt(3)
	case reflect.Uint, reflect.Uint8, reflect.Uint16, reflect.Uint32, reflect.Uint64:
		v.SetUint(3)
	case reflect.Float32, reflect.Float64:
		v.SetFloat(1.5)
	}
}

// What lies in the database keeps its shape: a field that is renamed or changes its
// kind shows here, before it can lose what old rows say. The names may only be
// changed with a migration that changes the rows as well.
func TestStoredJSONKeepsItsShape(t *testing.T) {
	for name, at := range stored {
		path := filepath.Join("testdata", "stored", name+".json")
		fill(reflect.ValueOf(at).Elem(), 0)
		got, err := json.MarshalIndent(at, "", "  ")
		require.NoError(t, err, name)
		if *update {
			require.NoError(t, os.MkdirAll(filepath.Dir(path), 0o755))
			require.NoError(t, os.WriteFile(path, append(got, '\n'), 0o644))
			continue
		}
		want, err := os.ReadFile(path)
		require.NoError(t, err, "make it with: go test ./app/record -run StoredJSON -update")
		assert.JSONEq(t, string(want), string(got), "%s changed its shape; old rows have the other", name)
		// And the golden file is read to the same value: nothing it says is lost.
		again := reflect.New(reflect.TypeOf(at).Elem())
		require.NoError(t, json.Unmarshal(want, again.Interface()), name)
		back, err := json.Marshal(again.Interface())
		require.NoError(t, err)
		assert.JSONEq(t, string(want), string(back), name)
	}
	files, err := filepath.Glob(filepath.Join("testdata", "stored", "*.json"))
	require.NoError(t, err)
	assert.Len(t, files, len(stored), "one file a kind")
}
