package routes

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
	"notchback/web/api"
	"notchback/web/door"
)

func markProblem(err error) error {
	if bad, ok := err.(measure.ErrMark); ok { //nolint:errorlint // the core returns it bare
		return app.Invalid{{Field: bad.Field, Message: bad.Words}}
	}
	return err
}

func clipsRoutes(r *Routes) {
	route(r, get("/api/clip-templates", "getClipTemplates", "What is marked in each kind of moment"), func(context.Context, app.Actor, *struct{}) (api.Items[clip.Template], error) {
		return api.Items[clip.Template]{Items: clip.Templates}, nil
	})
	route(r, get("/api/screenings/{id}/clips", "getClips", "Clips and photos of a screening"), func(ctx context.Context, act app.Actor, in *api.ByID) (api.Items[clips.ClipView], error) {
		list, err := r.House.Clips(ctx, act, in.ID)
		return api.Items[clips.ClipView]{Items: list}, err
	})
	route(r, post("/api/screenings/{id}/clips", "addClip", "Announce a clip; its bytes follow in parts"), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		Body clips.ClipInput
	}) (clips.ClipView, error) {
		return r.House.AddClip(ctx, act, in.ID, in.Body)
	})
	route(r, get("/api/runners/{id}/clips", "getRunnerClips", "All clips of a runner, newest first"), func(ctx context.Context, act app.Actor, in *api.ByID) (api.Items[clips.ClipView], error) {
		list, err := r.House.RunnerClips(ctx, act, in.ID)
		return api.Items[clips.ClipView]{Items: list}, err
	})
	route(r, get("/api/clips/{id}/beside/{other}", "getClipsBeside", "Two clips of a runner side by side"), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		Other string `path:"other" format:"uuid"`
	}) (clips.Beside, error) {
		return r.House.ClipsBeside(ctx, act, in.ID, in.Other)
	}, door.Heavy)
	route(r, post("/api/clips/{id}/track", "readClipTrack", "Readings of a marker file over all its strides"), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		Body clip.Marks
	}) (clip.TrackResult, error) {
		return r.House.ClipTrack(ctx, act, in.ID, in.Body)
	}, door.Reading, door.Heavy)
	download(r, gives(get("/api/clips/{id}/thumb", "getClipThumb", "A small picture of a clip"), "image/jpeg"), func(ctx context.Context, act app.Actor, in *api.ByID) (*api.FileOut, error) {
		b, err := r.House.ClipThumb(ctx, act, in.ID)
		return &api.FileOut{Type: "image/jpeg", Disposition: "inline", Body: b}, err
	})
	route(r, get("/api/screenings/{id}/origins", "getTrialOrigins", "Where the trials come from, as far as it is known"), func(ctx context.Context, act app.Actor, in *api.ByID) (api.Items[clips.TrialOrigin], error) {
		list, err := r.House.TrialOrigins(ctx, act, in.ID)
		return api.Items[clips.TrialOrigin]{Items: list}, err
	})
	origin := put("/api/screenings/{id}/trials/{test}/{side}/{slot}/origin", "putTrialOrigin", "Where a trial comes from, with the picture it was read from, a PNG or nothing")
	origin.MaxBodyBytes = 7 << 20
	route(r, origin, func(ctx context.Context, act app.Actor, in *struct {
		api.TrialPath
		Made    measure.Maker `query:"made" enum:"by hand,proposed,corrected,markers" required:"true"`
		Margin  float64       `query:"margin" minimum:"0" maximum:"1000"`
		Mark    string        `query:"mark" maxLength:"120"`
		RawBody []byte        `contentType:"image/png" required:"false"`
	}) (api.Items[clips.TrialOrigin], error) {
		list, err := r.House.PutTrialOrigin(ctx, act, in.ID, clips.TrialOrigin{Test: in.Test, Side: in.Side, Slot: in.Slot, Made: in.Made, Margin: in.Margin, Mark: in.Mark}, in.RawBody)
		return api.Items[clips.TrialOrigin]{Items: list}, err
	})
	proposal := put("/api/clips/{id}/proposal", "putProposal", "Keep what a landmark library proposed")
	proposal.MaxBodyBytes = clips.ProposeMost
	route(r, proposal, func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		Body clip.Proposal
	}) (clip.ProposalRead, error) {
		return r.House.PutProposal(ctx, act, in.ID, in.Body)
	})
	route(r, post("/api/clips/{id}/proposal", "readProposal", "What was proposed, with marks saved or not"), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		From int `query:"from" minimum:"0"`
		To   int `query:"to" minimum:"0"`
		Body clip.Marks
	}) (clip.ProposalRead, error) {
		return r.House.ReadProposal(ctx, act, in.ID, in.Body, clip.Span{From: in.From, To: in.To})
	}, door.Reading, door.Heavy)
	download(r, gives(get("/api/screenings/{id}/trials/{test}/{side}/{slot}/picture", "getTrialPicture", "The picture of a trial, a PNG"), "image/png"), func(ctx context.Context, act app.Actor, in *api.TrialPath) (*api.FileOut, error) {
		b, err := r.House.TrialPicture(ctx, act, in.ID, in.Test, in.Side, in.Slot)
		return &api.FileOut{Type: "image/png", Disposition: "inline", Body: b}, err
	})
	part := door.With(put("/api/clips/{id}/parts", "putClipPart", "A part of a clip, from an offset on"), door.Long)
	door.Streamed(r.API, part, nil, media.ClipPart, signed(r, func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		door.Stream
		Offset int64 `query:"offset" minimum:"0"`
	}) (api.Received, error) {
		n, err := r.House.AppendClip(ctx, act, in.ID, in.Offset, in.Bytes())
		return api.Received{Received: n}, err
	}))
	route(r, post("/api/clips/{id}/finish", "finishClip", "Look at a whole upload and keep it"), func(ctx context.Context, act app.Actor, in *api.ByID) (clips.ClipView, error) {
		return r.House.FinishClip(ctx, act, in.ID)
	}, door.Heavy)
	route(r, get("/api/clips/{id}", "getClip", "A clip with its marks"), func(ctx context.Context, act app.Actor, in *api.ByID) (clips.ClipView, error) {
		return r.House.Clip(ctx, act, in.ID)
	})
	route(r, put("/api/clips/{id}/marks", "putClipMarks", "Save what was marked"), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		api.Rev
		Body clip.Marks
	}) (clips.ClipView, error) {
		return r.House.PutClipMarks(ctx, act, in.ID, in.Rev.Rev, in.Body)
	})
	route(r, op(http.MethodDelete, "/api/clips/{id}", "deleteClip", "Delete a clip, its marks and its file", http.StatusOK), func(ctx context.Context, act app.Actor, in *api.ByID) (api.Gone, error) {
		return api.Gone{Deleted: true}, r.House.DeleteClip(ctx, act, in.ID)
	})
	huma.Register(r.API, door.With(gives(get("/api/clips/{id}/file", "getClipFile", "The file of a clip, whole or in ranges"), "video/mp4", "video/webm", "image/jpeg", "image/png"), door.Long, door.Slow), func(ctx context.Context, in *api.ByID) (*huma.StreamResponse, error) {
		f, kind, err := r.House.ClipFile(ctx, door.Actor(ctx), in.ID)
		if err != nil {
			return nil, r.Problem(ctx, err)
		}
		return &huma.StreamResponse{Body: func(hc huma.Context) {
			defer func() { _ = f.Close() }()
			c := humagin.Unwrap(hc)
			c.Header("Content-Type", kind)
			c.Header("Content-Security-Policy", "default-src 'none'; sandbox")
			http.ServeContent(c.Writer, c.Request, "", time.Time{}, f)
		}}, nil
	})
	download(r, gives(get("/api/clips/{id}/files/{kind}", "getClipOut", "A clip's readings as CSV, its marks as a marker file"), "text/csv", "text/plain"), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		Kind string `path:"kind" enum:"csv,trc"`
	}) (*api.FileOut, error) {
		f, err := r.House.ClipOut(ctx, act, in.ID, in.Kind)
		return fileOut(f), err
	}, door.Heavy)
	compute(r, "clip-readings", "Everything a clip's marks give, with margins and verdicts", clips.ReadClip)
	compute(r, "angle", "Angles and distances from points of one picture, with margins", func(in api.AngleIn) (api.Items[measure.Reading], error) {
		list, err := in.Picture.Read(in.Points, in.LegCm)
		return api.Items[measure.Reading]{Items: list}, markProblem(err)
	})
	compute(r, "gait-events", "Cadence, contact, flight and duty from events of the feet", func(in api.GaitEventsIn) (measure.Gait, error) {
		g, err := measure.ReadGait(in.Steps, in.FrameSeconds)
		return g, markProblem(err)
	})
	compute(r, "spring-mass", "Running as a spring: force, stiffness", func(in api.SpringMassIn) (measure.SpringMass, error) {
		m, err := measure.Spring(in.MassKg, in.LegM, in.SpeedMs, in.ContactSeconds, in.FlightSeconds)
		return m, markProblem(err)
	})
}
