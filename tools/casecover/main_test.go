package main

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const source = `package p

func grade(n int) string {
	switch {
	case n > 10:
		return "high"
	case n > 5:
		return "middle"
	}
	return "low"
}

func never(n int) bool {
	switch n {
	case 1, 2:
		return true
	}
	return false
}
`

func TestConditionsOfCasesAreCountedWithTheirSwitch(t *testing.T) {
	profile := "mode: set\n" +
		"m/p.go:3.28,4.9 1 1\nm/p.go:5.14,6.16 1 0\nm/p.go:7.13,8.18 1 1\nm/p.go:10.2,10.14 1 1\n" +
		"m/p.go:13.25,14.11 1 0\nm/p.go:15.12,16.14 1 0\nm/p.go:18.2,18.14 1 0\n"
	out, err := withCases(profile, func(name string) ([]byte, error) {
		assert.Equal(t, "m/p.go", name)
		return []byte(source), nil
	})
	require.NoError(t, err)
	assert.Equal(t, profile+
		"m/p.go:5.7,5.13 0 1\nm/p.go:7.7,7.12 0 1\nm/p.go:15.7,15.11 0 0\n", out)
}

func TestAProfileOfAFileThatIsNoneIsRefused(t *testing.T) {
	_, err := withCases("mode: set\nm/p.go:3.28,4.9 1 1\n", func(string) ([]byte, error) { return []byte("not go"), nil })
	assert.ErrorContains(t, err, "m/p.go")
}
