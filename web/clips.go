package web

import (
	"context"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"

	"notchback/app"
	"notchback/app/clips"
	"notchback/app/media"
	"notchback/core/clip"
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

func markProblem(err error) error {
	if bad, ok := err.(measure.ErrMark); ok { //nolint:errorlint // the core returns it bare
		return app.Invalid{{Field: bad.Field, Message: bad.Words}}
	}
	return err
}

func (s *server) registerClips(api huma.API) {
	huma.Register(api, get("/api/clip-templates", "getClipTemplates", "What is marked in each kind of moment"), signed(s, func(context.Context, app.Actor, *struct{}) (Items[clip.Template], error) {
		return Items[clip.Template]{clip.Templates}, nil
	}))
	huma.Register(api, get("/api/screenings/{id}/clips", "getClips", "Clips and photos of a screening"), signed(s, func(ctx context.Context, act app.Actor, in *ByID) (Items[clips.ClipView], error) {
		list, err := s.app.Clips(ctx, act, in.ID)
		return Items[clips.ClipView]{list}, err
	}))
	huma.Register(api, post("/api/screenings/{id}/clips", "addClip", "Announce a clip; its bytes follow in parts"), signed(s, func(ctx context.Context, act app.Actor, in *struct {
		ByID
		Body clips.ClipInput
	}) (clips.ClipView, error) {
		return s.app.AddClip(ctx, act, in.ID, in.Body)
	}))
	huma.Register(api, get("/api/runners/{id}/clips", "getRunnerClips", "All clips of a runner, newest first"), signed(s, func(ctx context.Context, act app.Actor, in *ByID) (Items[clips.ClipView], error) {
		list, err := s.app.RunnerClips(ctx, act, in.ID)
		return Items[clips.ClipView]{list}, err
	}))
	huma.Register(api, with(get("/api/clips/{id}/beside/{other}", "getClipsBeside", "Two clips of a runner side by side"), heavy), signed(s, func(ctx context.Context, act app.Actor, in *struct {
		ByID
		Other string `path:"other" format:"uuid"`
	}) (clips.Beside, error) {
		return s.app.ClipsBeside(ctx, act, in.ID, in.Other)
	}))
	huma.Register(api, with(post("/api/clips/{id}/track", "readClipTrack", "Readings of a marker file over all its strides"), reading, heavy), signed(s, func(ctx context.Context, act app.Actor, in *struct {
		ByID
		Body clip.Marks
	}) (clip.TrackResult, error) {
		return s.app.ClipTrack(ctx, act, in.ID, in.Body)
	}))
	huma.Register(api, get("/api/clips/{id}/thumb", "getClipThumb", "A small picture of a clip"), file(s, func(ctx context.Context, act app.Actor, in *ByID) (*FileOut, error) {
		b, err := s.app.ClipThumb(ctx, act, in.ID)
		return &FileOut{Type: "image/jpeg", Disposition: "inline", Body: b}, err
	}))
	huma.Register(api, get("/api/screenings/{id}/origins", "getTrialOrigins", "Where the trials come from, as far as it is known"), signed(s, func(ctx context.Context, act app.Actor, in *ByID) (Items[clips.TrialOrigin], error) {
		list, err := s.app.TrialOrigins(ctx, act, in.ID)
		return Items[clips.TrialOrigin]{list}, err
	}))
	origin := put("/api/screenings/{id}/trials/{test}/{side}/{slot}/origin", "putTrialOrigin", "Where a trial comes from, with the picture it was read from, a PNG or nothing")
	origin.MaxBodyBytes = 7 << 20
	huma.Register(api, origin, signed(s, func(ctx context.Context, act app.Actor, in *struct {
		TrialPath
		Made    measure.Maker `query:"made" enum:"by hand,proposed,corrected,markers" required:"true"`
		Margin  float64       `query:"margin" minimum:"0" maximum:"1000"`
		RawBody []byte        `contentType:"image/png" required:"false"`
	}) (Items[clips.TrialOrigin], error) {
		list, err := s.app.PutTrialOrigin(ctx, act, in.ID, clips.TrialOrigin{Test: in.Test, Side: in.Side, Slot: in.Slot, Made: in.Made, Margin: in.Margin}, in.RawBody)
		return Items[clips.TrialOrigin]{list}, err
	}))
	proposal := put("/api/clips/{id}/proposal", "putProposal", "Keep what a landmark library proposed")
	proposal.MaxBodyBytes = clips.ProposeMost
	huma.Register(api, proposal, signed(s, func(ctx context.Context, act app.Actor, in *struct {
		ByID
		Body clip.Proposal
	}) (clip.ProposalRead, error) {
		return s.app.PutProposal(ctx, act, in.ID, in.Body)
	}))
	huma.Register(api, with(post("/api/clips/{id}/proposal", "readProposal", "What was proposed, with marks saved or not"), reading, heavy), signed(s, func(ctx context.Context, act app.Actor, in *struct {
		ByID
		From int `query:"from" minimum:"0"`
		To   int `query:"to" minimum:"0"`
		Body clip.Marks
	}) (clip.ProposalRead, error) {
		return s.app.ReadProposal(ctx, act, in.ID, in.Body, clip.Span{From: in.From, To: in.To})
	}))
	huma.Register(api, get("/api/screenings/{id}/trials/{test}/{side}/{slot}/picture", "getTrialPicture", "The picture of a trial, a PNG"), file(s, func(ctx context.Context, act app.Actor, in *TrialPath) (*FileOut, error) {
		b, err := s.app.TrialPicture(ctx, act, in.ID, in.Test, in.Side, in.Slot)
		return &FileOut{Type: "image/png", Disposition: "inline", Body: b}, err
	}))
	part := with(put("/api/clips/{id}/parts", "putClipPart", "A part of a clip, from an offset on"), long)
	streamed(api, part, nil, media.ClipPart, signed(s, func(ctx context.Context, act app.Actor, in *struct {
		ByID
		Stream
		Offset int64 `query:"offset" minimum:"0"`
	}) (Received, error) {
		n, err := s.app.AppendClip(ctx, act, in.ID, in.Offset, in.body)
		return Received{n}, err
	}))
	huma.Register(api, with(post("/api/clips/{id}/finish", "finishClip", "Look at a whole upload and keep it"), heavy), signed(s, func(ctx context.Context, act app.Actor, in *ByID) (clips.ClipView, error) {
		return s.app.FinishClip(ctx, act, in.ID)
	}))
	huma.Register(api, get("/api/clips/{id}", "getClip", "A clip with its marks"), signed(s, func(ctx context.Context, act app.Actor, in *ByID) (clips.ClipView, error) {
		return s.app.Clip(ctx, act, in.ID)
	}))
	huma.Register(api, put("/api/clips/{id}/marks", "putClipMarks", "Save what was marked"), signed(s, func(ctx context.Context, act app.Actor, in *struct {
		ByID
		Rev
		Body clip.Marks
	}) (clips.ClipView, error) {
		return s.app.PutClipMarks(ctx, act, in.ID, in.Rev.Rev, in.Body)
	}))
	huma.Register(api, op(http.MethodDelete, "/api/clips/{id}", "deleteClip", "Delete a clip, its marks and its file", http.StatusOK), signed(s, func(ctx context.Context, act app.Actor, in *ByID) (Gone, error) {
		return Gone{true}, s.app.DeleteClip(ctx, act, in.ID)
	}))
	huma.Register(api, with(get("/api/clips/{id}/file", "getClipFile", "The file of a clip, whole or in ranges"), long, slow), func(ctx context.Context, in *ByID) (*huma.StreamResponse, error) {
		f, kind, err := s.app.ClipFile(ctx, actor(ctx), in.ID)
		if err != nil {
			return nil, s.problem(ctx, err)
		}
		return &huma.StreamResponse{Body: func(hc huma.Context) {
			defer func() { _ = f.Close() }()
			c := humagin.Unwrap(hc)
			c.Header("Content-Type", kind)
			c.Header("Content-Security-Policy", "default-src 'none'; sandbox")
			http.ServeContent(c.Writer, c.Request, "", time.Time{}, f)
		}}, nil
	})
	huma.Register(api, with(get("/api/clips/{id}/files/{kind}", "getClipOut", "A clip's readings as CSV, its marks as a marker file"), heavy), file(s, func(ctx context.Context, act app.Actor, in *struct {
		ByID
		Kind string `path:"kind" enum:"csv,trc"`
	}) (*FileOut, error) {
		f, err := s.app.ClipOut(ctx, act, in.ID, in.Kind)
		return fileOut(f), err
	}))
	compute(s, api, "clip-readings", "Everything a clip's marks give, with margins and verdicts", clips.ReadClip)
	compute(s, api, "angle", "Angles and distances from points of one picture, with margins", func(in AngleIn) (Items[measure.Reading], error) {
		list, err := in.Picture.Read(in.Points, in.LegCm)
		return Items[measure.Reading]{list}, markProblem(err)
	})
	compute(s, api, "gait-events", "Cadence, contact, flight and duty from events of the feet", func(in GaitEventsIn) (measure.Gait, error) {
		g, err := measure.ReadGait(in.Steps, in.FrameSeconds)
		return g, markProblem(err)
	})
	compute(s, api, "spring-mass", "Running as a spring: force, stiffness", func(in SpringMassIn) (measure.SpringMass, error) {
		m, err := measure.Spring(in.MassKg, in.LegM, in.SpeedMs, in.ContactSeconds, in.FlightSeconds)
		return m, markProblem(err)
	})
}
