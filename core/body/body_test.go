package body

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestSidesAreMirrored(t *testing.T) {
	assert.Equal(t, Right, Left.Other())
	assert.Equal(t, Left, Right.Other())
	assert.Equal(t, Both, Both.Other())
	assert.Equal(t, [2]Side{Left, Right}, Sides, "left is always shown first")
	for _, s := range Sides {
		assert.Equal(t, s, s.Other().Other())
	}
}
