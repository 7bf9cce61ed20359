package api

import (
	"notchback/core/measure"
)

// Received is how much of an upload is here.
type Received struct {
	Received int64 `json:"received"`
}

// Gone says that something was deleted.
type Gone struct {
	Deleted bool `json:"deleted"`
}

// GaitEventsIn is events of both feet.
type GaitEventsIn struct {
	Steps        []measure.Step `json:"steps" maxItems:"2000" nullable:"false" example:"[{\"foot\":\"left\",\"contact\":0,\"toeOff\":0.25},{\"foot\":\"right\",\"contact\":0.353,\"toeOff\":0.603}]"`
	FrameSeconds float64        `json:"frameSeconds" example:"0.0166" doc:"Between two frames, real time"`
}

// SpringMassIn is what the spring–mass model is made from.
type SpringMassIn struct {
	MassKg         float64 `json:"massKg" example:"70"`
	LegM           float64 `json:"legM" example:"0.92"`
	SpeedMs        float64 `json:"speedMs" example:"4"`
	ContactSeconds float64 `json:"contactSeconds" example:"0.23"`
	FlightSeconds  float64 `json:"flightSeconds" example:"0.12"`
}

// AngleIn is points marked on one picture.
type AngleIn struct {
	Picture measure.Picture                 `json:"picture"`
	Points  map[measure.Place]measure.Point `json:"points" example:"{\"ankle\":{\"x\":412,\"y\":618},\"knee\":{\"x\":498,\"y\":469}}"`
	LegCm   float64                         `json:"legCm,omitempty" minimum:"0" maximum:"130"`
}
