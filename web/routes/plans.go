package routes

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"mime"
	"net/http"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"notchback/app"
	"notchback/app/block"
	"notchback/app/export"
	"notchback/app/house"
	"notchback/app/input"
	"notchback/app/shelf"
	"notchback/app/view"
	"notchback/core/planning"
	"notchback/web/api"
	"notchback/web/door"
)

func plansRoutes(r *Routes) {
	route(r, get("/api/runners/{id}/wishes", "getWishes", "What a runner's plans are made with: week, kit, schools"), func(ctx context.Context, act app.Actor, in *api.ByID) (block.WishesView, error) {
		return r.House.Wishes(ctx, act, in.ID)
	})
	route(r, put("/api/runners/{id}/wishes", "putWishes", "Save a runner's week, kit and schools"), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		Rev  int `query:"rev" minimum:"0" doc:"The revision that was read, 0 for none"`
		Body planning.Wishes
	}) (block.WishesView, error) {
		return r.House.PutWishes(ctx, act, in.ID, in.Rev, in.Body)
	})
	route(r, post("/api/runners/{id}/plan-preview", "previewPlan", "What a plan would be; saves nothing"), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		Body block.PreviewInput
	}) (block.PlanView, error) {
		return r.House.PreviewPlan(ctx, act, in.ID, in.Body)
	}, door.Reading, door.Heavy)
	route(r, post("/api/runners/{id}/plan-compare", "compareSchools", "The same runner under two schools"), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		Body block.CompareInput
	}) (block.Comparison, error) {
		return r.House.CompareSchools(ctx, act, in.ID, in.Body)
	}, door.Reading, door.Heavy)
	route(r, post("/api/blocks/{id}/changes", "changeBlock", "Move or edit something in a block, or only look at what it would do"), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		Body block.ChangeInput
	}) (block.ChangedBlock, error) {
		return r.House.ChangeBlock(ctx, act, in.ID, in.Body)
	})
	route(r, post("/api/blocks/{id}/copy", "copyBlock", "A block like this one for another runner, re-fitted"), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		api.Keyed
		Body block.CopyInput
	}) (block.Copied, error) {
		return r.House.CopyBlock(ctx, act, in.Key, in.ID, in.Body)
	})
}

func fileOut(f app.File) *api.FileOut {
	return &api.FileOut{Type: f.Type, Disposition: mime.FormatMediaType("attachment", map[string]string{"filename": f.Name}), Body: f.Body}
}

func outRoutes(r *Routes) {
	download(r, gives(get("/api/blocks/{id}/files/{kind}", "getPlanFile", "A block as iCalendar, CSV or PDF"), "text/calendar", "text/csv", "application/pdf"), func(ctx context.Context, act app.Actor, in *struct {
		api.ByID
		Kind string `path:"kind" enum:"ics,csv,pdf"`
	}) (*api.FileOut, error) {
		f, err := r.House.PlanFile(ctx, act, in.ID, in.Kind)
		return fileOut(f), err
	}, door.Heavy)
	huma.Register(r.API, door.With(gives(get("/calendar/{token}", "getCalendar", "The calendar behind an address, for calendar programs"), "text/calendar"), door.Anyone), func(ctx context.Context, in *struct {
		Token string `path:"token" maxLength:"80"`
		Have  string `header:"If-None-Match" maxLength:"400" doc:"The mark of what the program has"`
	}) (*api.CalendarOut, error) {
		f, err := r.House.FeedCalendar(ctx, strings.TrimSuffix(in.Token, ".ics"))
		if err != nil {
			return nil, r.Problem(ctx, err)
		}
		sum := sha256.Sum256(f.Body)
		out := &api.CalendarOut{Status: http.StatusOK, Type: f.Type, ETag: `"` + hex.EncodeToString(sum[:16]) + `"`, Body: f.Body}
		if strings.Contains(in.Have, out.ETag) {
			out.Status, out.Body = http.StatusNotModified, nil
		}
		return out, nil
	})
	route(r, get("/api/blocks/{id}/sheet", "getSheet", "What is printed of a block"), func(ctx context.Context, act app.Actor, in *api.ByID) (export.PrintView, error) {
		return r.House.PrintSheet(ctx, act, in.ID)
	}, door.Heavy)
	route(r, get("/api/runners/{id}/calendar", "getFeeds", "How many calendar addresses of a runner work"), func(ctx context.Context, act app.Actor, in *api.ByID) (export.FeedView, error) {
		return r.House.Feeds(ctx, act, in.ID)
	})
	route(r, post("/api/runners/{id}/calendar", "addFeed", "Make a calendar address; it is shown once"), func(ctx context.Context, act app.Actor, in *api.ByID) (export.FeedView, error) {
		return r.House.AddFeed(ctx, act, in.ID)
	})
	route(r, op(http.MethodDelete, "/api/runners/{id}/calendar", "revokeFeeds", "End all calendar addresses of a runner", http.StatusOK), func(ctx context.Context, act app.Actor, in *api.ByID) (export.FeedView, error) {
		return r.House.RevokeFeeds(ctx, act, in.ID)
	})
	route(r, get("/api/runners/{id}/bundle", "exportRunner", "Everything about a runner, to take along"), func(ctx context.Context, act app.Actor, in *api.ByID) (export.Bundle, error) {
		return r.House.ExportRunner(ctx, act, in.ID)
	}, door.Heavy)
	bring := door.With(post("/api/bundles", "importRunner", "Make a runner from a bundle: all of it or nothing"), door.Heavy, door.Long)
	door.Streamed(r.API, bring, export.Bundle{}, input.BundleMost, signed(r, func(ctx context.Context, act app.Actor, in *struct {
		door.Stream
		Again bool `query:"again" doc:"Also one that came in before, as another runner"`
	}) (view.Runner, error) {
		return r.House.ImportRunner(ctx, act, in.Bytes(), in.Again)
	}))
	huma.Register(r.API, door.With(gives(get("/api/runners/{id}/pack", "packRunner", "Everything about a runner with clips and pictures, as a zip with a manifest"), "application/zip"), door.Long, door.Slow), func(ctx context.Context, in *api.ByID) (*huma.StreamResponse, error) {
		name, write, err := r.House.Pack(ctx, door.Actor(ctx), in.ID)
		if err != nil {
			return nil, r.Problem(ctx, err)
		}
		return &huma.StreamResponse{Body: func(hc huma.Context) {
			hc.SetHeader("Content-Type", "application/zip")
			hc.SetHeader("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": name}))
			if err := write(hc.BodyWriter()); err != nil { // it breaks off, and says so by its missing manifest
				r.House.Log.Warn("pack", "err", err)
			}
		}}, nil
	})
	unpack := door.With(post("/api/packs", "unpackRunner", "Make a runner from a pack: its record all of it or nothing, then clips and pictures one by one"), door.Heavy, door.Slow)
	unpack.BodyReadTimeout = 15 * time.Minute
	door.Streamed(r.API, unpack, nil, house.PackMost, signed(r, func(ctx context.Context, act app.Actor, in *struct {
		door.Stream
		Again bool `query:"again" doc:"Also one that came in before, as another runner"`
	}) (house.Unpacked, error) {
		return r.House.Unpack(ctx, act, in.Bytes(), in.Again)
	}))
}

func shelfRoutes(r *Routes) {
	route(r, get("/api/shelf", "getShelf", "Exercises and ladders, with what the practice laid over them"), func(ctx context.Context, act app.Actor, _ *struct{}) (shelf.Shelf, error) {
		return r.House.Shelf(ctx, act)
	})
	route(r, post("/api/shelf/exercises", "putExercise", "Add an own exercise, or change one"), func(ctx context.Context, act app.Actor, in *struct{ Body shelf.OwnExercise }) (shelf.Shelf, error) {
		return r.House.PutExercise(ctx, act, in.Body)
	})
	route(r, get("/api/shelf/figures", "getFigures", "All drawings with the texts they belong to"), func(ctx context.Context, act app.Actor, _ *struct{}) (api.Items[shelf.FigureView], error) {
		list, err := r.House.Figures(ctx, act)
		return api.Items[shelf.FigureView]{Items: list}, err
	})
	route(r, post("/api/compute/figure", "drawFigure", "Draw a movement between two poses with angles of one's own"), func(_ context.Context, _ app.Actor, in *struct{ Body shelf.TurnedFigure }) (shelf.DrawnFigure, error) {
		return r.House.DrawFigure(in.Body)
	})
	route(r, post("/api/shelf/ladders", "putLadder", "Add an own ladder, or change one"), func(ctx context.Context, act app.Actor, in *struct{ Body shelf.OwnLadder }) (shelf.Shelf, error) {
		return r.House.PutLadder(ctx, act, in.Body)
	})
	route(r, post("/api/shelf/routines", "putRoutine", "Add an own routine, or change one"), func(ctx context.Context, act app.Actor, in *struct{ Body shelf.OwnRoutine }) (shelf.Shelf, error) {
		return r.House.PutRoutine(ctx, act, in.Body)
	})
	route(r, post("/api/shelf/retired", "retireShelf", "Take something out of new plans, or bring it back"), func(ctx context.Context, act app.Actor, in *struct {
		Body struct {
			Kind    string `json:"kind" enum:"exercise,ladder,routine"`
			Item    string `json:"item" maxLength:"80"`
			Rev     int    `json:"rev"`
			Retired bool   `json:"retired"`
		}
	}) (shelf.Shelf, error) {
		return r.House.Retire(ctx, act, in.Body.Kind, in.Body.Item, in.Body.Rev, in.Body.Retired)
	})
	route(r, get("/api/schools", "getSchools", "The questions on which practitioners differ, with the practice's answers"), func(ctx context.Context, act app.Actor, _ *struct{}) (shelf.Schools, error) {
		return r.House.Schools(ctx, act)
	})
	route(r, put("/api/schools", "putSchools", "Save the practice's answers"), func(ctx context.Context, act app.Actor, in *struct {
		Rev  int `query:"rev" minimum:"0"`
		Body planning.School
	}) (shelf.Schools, error) {
		return r.House.PutSchools(ctx, act, in.Rev, in.Body)
	})
}
