package source

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestTagsSayWhereAValueComesFrom(t *testing.T) {
	assert.Equal(t, "published: Konor et al. 2012, Int J Sports Phys Ther 7:279 (from memory)", Konor2012.String())
	assert.Equal(t, "common practice, no source", Common().String())
	assert.Equal(t, "house: a reason", House("a reason").String())
	assert.True(t, Konor2012.Valid() && Common().Valid() && House("x").Valid())
	assert.False(t, House("").Valid(), "a house value needs its reason")
	assert.False(t, Tag{Kind: KindPublished}.Valid(), "a published value needs its citation")
	assert.False(t, Tag{}.Valid())
}
