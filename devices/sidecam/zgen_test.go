package sidecam

import (
	"context"
	"testing"
)

func TestGen(t *testing.T) {
	for _, d := range Demos() {
		if err := WriteClip(context.Background(), "clips/"+d.ID+".webm", d); err != nil {
			t.Fatal(err)
		}
	}
}
