package record

import (
	"notchback/core/body"
	"notchback/core/day"
)

func (g *Gathered) morning(on day.Date) *body.Pain { return WorstOf(g.Mornings, on, FirstStepOf) }
