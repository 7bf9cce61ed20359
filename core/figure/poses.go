package figure

import (
	"bytes"
	_ "embed" // the poses are data
	"errors"
	"fmt"
	"maps"
	"slices"
	"sync"

	"go.yaml.in/yaml/v3"
)

// Poses are the positions of all exercises and tests, as data.
//
//go:embed data/poses.yaml
var Poses []byte

// Read reads poses and checks each of them, drawn; the error names all that is wrong.
func Read(data []byte) (map[string]Pose, error) {
	all := map[string]Pose{}
	d := yaml.NewDecoder(bytes.NewReader(data))
	d.KnownFields(true)
	if err := d.Decode(&all); err != nil {
		return nil, err
	}
	var errs []error
	for _, name := range slices.Sorted(maps.Keys(all)) {
		p, err := Resolve(name, all)
		if err == nil {
			if _, err = Draw(p); err != nil {
				err = fmt.Errorf("pose %q: %w", name, err)
			}
		}
		errs = append(errs, err)
	}
	return all, errors.Join(errs...)
}

// BuiltIn are the poses, read and checked once.
var BuiltIn = sync.OnceValues(func() (map[string]Pose, error) { return Read(Poses) })
