package sidecam

import "embed"

//go:embed clips/*.webm
var clips embed.FS

// Shipped returns a demo clip as it ships with the program, a WebM file.
func Shipped(id string) ([]byte, error) { return clips.ReadFile("clips/" + id + ".webm") }
