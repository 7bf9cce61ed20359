package web

import (
	"context"
	"mime"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"notchback/app"
	"notchback/app/block"
	"notchback/app/export"
	"notchback/app/input"
	"notchback/app/shelf"
	"notchback/app/view"
	"notchback/core/planning"
)

func (s *server) registerPlans(api huma.API) {
	huma.Register(api, get("/api/runners/{id}/wishes", "getWishes", "What a runner's plans are made with: week, kit, schools"),
		signed(s, func(ctx context.Context, act app.Actor, in *ByID) (block.WishesView, error) {
			return s.app.Wishes(ctx, act, in.ID)
		}))
	huma.Register(api, put("/api/runners/{id}/wishes", "putWishes", "Save a runner's week, kit and schools"),
		signed(s, func(ctx context.Context, act app.Actor, in *struct {
			ByID
			Rev  int `query:"rev" minimum:"0" doc:"The revision that was read, 0 for none"`
			Body planning.Wishes
		}) (block.WishesView, error) {
			return s.app.PutWishes(ctx, act, in.ID, in.Rev, in.Body)
		}))
	huma.Register(api, with(post("/api/runners/{id}/plan-preview", "previewPlan", "What a plan would be; saves nothing"), reading, heavy),
		signed(s, func(ctx context.Context, act app.Actor, in *struct {
			ByID
			Body block.PreviewInput
		}) (block.PlanView, error) {
			return s.app.PreviewPlan(ctx, act, in.ID, in.Body)
		}))
	huma.Register(api, with(post("/api/runners/{id}/plan-compare", "compareSchools", "The same runner under two schools"), reading, heavy),
		signed(s, func(ctx context.Context, act app.Actor, in *struct {
			ByID
			Body block.CompareInput
		}) (block.Comparison, error) {
			return s.app.CompareSchools(ctx, act, in.ID, in.Body)
		}))
	huma.Register(api, post("/api/blocks/{id}/changes", "changeBlock", "Move or edit something in a block, or only look at what it would do"),
		signed(s, func(ctx context.Context, act app.Actor, in *struct {
			ByID
			Body block.ChangeInput
		}) (block.ChangedBlock, error) {
			return s.app.ChangeBlock(ctx, act, in.ID, in.Body)
		}))
	huma.Register(api, post("/api/blocks/{id}/copy", "copyBlock", "A block like this one for another runner, re-fitted"),
		signed(s, func(ctx context.Context, act app.Actor, in *struct {
			ByID
			Keyed
			Body block.CopyInput
		}) (block.Copied, error) {
			return s.app.CopyBlock(ctx, act, in.Key, in.ID, in.Body)
		}))
}

// FileOut is a download.
type FileOut struct {
	Type        string `header:"Content-Type"`
	Disposition string `header:"Content-Disposition"`
	Body        []byte
}

func fileOut(f app.File) *FileOut {
	return &FileOut{Type: f.Type, Disposition: mime.FormatMediaType("attachment", map[string]string{"filename": f.Name}), Body: f.Body}
}

func (s *server) registerOut(api huma.API) {
	huma.Register(api, with(get("/api/blocks/{id}/files/{kind}", "getPlanFile", "A block as iCalendar, CSV or PDF"), heavy), file(s, func(ctx context.Context, act app.Actor, in *struct {
		ByID
		Kind string `path:"kind" enum:"ics,csv,pdf"`
	}) (*FileOut, error) {
		f, err := s.app.PlanFile(ctx, act, in.ID, in.Kind)
		return fileOut(f), err
	}))
	huma.Register(api, with(get("/calendar/{token}", "getCalendar", "The calendar behind an address, for calendar programs"), anyone), file(s, func(ctx context.Context, _ app.Actor, in *struct {
		Token string `path:"token" maxLength:"80"`
	}) (*FileOut, error) {
		f, err := s.app.FeedCalendar(ctx, strings.TrimSuffix(in.Token, ".ics"))
		return fileOut(f), err
	}))
	huma.Register(api, with(get("/api/blocks/{id}/sheet", "getSheet", "What is printed of a block"), heavy),
		signed(s, func(ctx context.Context, act app.Actor, in *ByID) (export.PrintView, error) {
			return s.app.PrintSheet(ctx, act, in.ID)
		}))
	huma.Register(api, get("/api/runners/{id}/calendar", "getFeeds", "How many calendar addresses of a runner work"),
		signed(s, func(ctx context.Context, act app.Actor, in *ByID) (export.FeedView, error) {
			return s.app.Feeds(ctx, act, in.ID)
		}))
	huma.Register(api, post("/api/runners/{id}/calendar", "addFeed", "Make a calendar address; it is shown once"),
		signed(s, func(ctx context.Context, act app.Actor, in *ByID) (export.FeedView, error) {
			return s.app.AddFeed(ctx, act, in.ID)
		}))
	huma.Register(api, op(http.MethodDelete, "/api/runners/{id}/calendar", "revokeFeeds", "End all calendar addresses of a runner", http.StatusOK),
		signed(s, func(ctx context.Context, act app.Actor, in *ByID) (export.FeedView, error) {
			return s.app.RevokeFeeds(ctx, act, in.ID)
		}))
	huma.Register(api, with(get("/api/runners/{id}/bundle", "exportRunner", "Everything about a runner, to take along"), heavy),
		signed(s, func(ctx context.Context, act app.Actor, in *ByID) (export.Bundle, error) {
			return s.app.ExportRunner(ctx, act, in.ID)
		}))
	bring := with(post("/api/bundles", "importRunner", "Make a runner from a bundle: all of it or nothing"), heavy, long)
	streamed(api, bring, export.Bundle{}, input.BundleMost, signed(s, func(ctx context.Context, act app.Actor, in *struct{ Stream }) (view.Runner, error) {
		return s.app.ImportRunner(ctx, act, in.body)
	}))
}

func (s *server) registerShelf(api huma.API) {
	huma.Register(api, get("/api/shelf", "getShelf", "Exercises and ladders, with what the practice laid over them"),
		signed(s, func(ctx context.Context, act app.Actor, _ *struct{}) (shelf.Shelf, error) {
			return s.app.Shelf(ctx, act)
		}))
	huma.Register(api, post("/api/shelf/exercises", "putExercise", "Add an own exercise, or change one"),
		signed(s, func(ctx context.Context, act app.Actor, in *struct{ Body shelf.OwnExercise }) (shelf.Shelf, error) {
			return s.app.PutExercise(ctx, act, in.Body)
		}))
	huma.Register(api, post("/api/shelf/ladders", "putLadder", "Add an own ladder, or change one"),
		signed(s, func(ctx context.Context, act app.Actor, in *struct{ Body shelf.OwnLadder }) (shelf.Shelf, error) {
			return s.app.PutLadder(ctx, act, in.Body)
		}))
	huma.Register(api, post("/api/shelf/retired", "retireShelf", "Take something out of new plans, or bring it back"),
		signed(s, func(ctx context.Context, act app.Actor, in *struct {
			Body struct {
				Kind    string `json:"kind" enum:"exercise,ladder"`
				Item    string `json:"item" maxLength:"80"`
				Rev     int    `json:"rev"`
				Retired bool   `json:"retired"`
			}
		}) (shelf.Shelf, error) {
			return s.app.Retire(ctx, act, in.Body.Kind, in.Body.Item, in.Body.Rev, in.Body.Retired)
		}))
	huma.Register(api, get("/api/schools", "getSchools", "The questions on which practitioners differ, with the practice's answers"),
		signed(s, func(ctx context.Context, act app.Actor, _ *struct{}) (shelf.Schools, error) {
			return s.app.Schools(ctx, act)
		}))
	huma.Register(api, put("/api/schools", "putSchools", "Save the practice's answers"),
		signed(s, func(ctx context.Context, act app.Actor, in *struct {
			Rev  int `query:"rev" minimum:"0"`
			Body planning.School
		}) (shelf.Schools, error) {
			return s.app.PutSchools(ctx, act, in.Rev, in.Body)
		}))
}
