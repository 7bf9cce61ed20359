package web

import (
	"context"
	"errors"
	"net/http"
	"strconv"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humagin"

	"notchback/app"
	"notchback/app/account"
	"notchback/app/bench"
	"notchback/app/block"
	"notchback/app/daily"
	"notchback/app/input"
	"notchback/app/intake"
	"notchback/app/practice"
	"notchback/app/record"
	"notchback/app/view"
	coreBody "notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/screening"
)

func op(method, path, id, summary string, status int) huma.Operation {
	return with(huma.Operation{OperationID: id, Method: method, Path: path, Summary: summary, DefaultStatus: status,
		Errors: []int{http.StatusUnauthorized, http.StatusNotFound, http.StatusConflict}})
}

func get(path, id, summary string) huma.Operation {
	return op(http.MethodGet, path, id, summary, http.StatusOK)
}

func post(path, id, summary string) huma.Operation {
	return op(http.MethodPost, path, id, summary, http.StatusOK)
}

func put(path, id, summary string) huma.Operation {
	return op(http.MethodPut, path, id, summary, http.StatusOK)
}

// TrialPath is the place of one trial.
type TrialPath struct {
	ByID
	Test screening.TestID `path:"test"`
	Side coreBody.Side    `path:"side" enum:"left,right,both"`
	Slot int              `path:"slot" minimum:"1" maximum:"9"`
}

// Me is who is signed in.
type Me struct {
	ID         string   `json:"id"`
	PracticeID string   `json:"practiceId"`
	Name       string   `json:"name"`
	Email      string   `json:"email"`
	Role       string   `json:"role" enum:"owner,coach,viewer"`
	Practice   string   `json:"practice"`
	Today      day.Date `json:"today" format:"date" doc:"The practice's local date"`
}

// SessionState is who is signed in; empty for nobody.
type SessionState struct {
	Me *Me `json:"me,omitempty"`
}

// CurrentBlock is a runner's present block; empty where there is none.
type CurrentBlock struct {
	Block *view.Block `json:"block,omitempty"`
}

// Items is a list of records.
type Items[T any] struct {
	Items []T `json:"items" nullable:"false"`
}

// StartState says whether the installation still waits for its first practice.
type StartState struct {
	Empty bool `json:"empty"`
}

// Nothing is an empty answer.
type Nothing struct{}

// ByID is the record in the path.
type ByID struct {
	ID string `path:"id" format:"uuid"`
}

// Part is the part of a screening that is saved, at the revision that was read.
type Part struct {
	ByID
	Rev    int    `query:"rev" minimum:"0" doc:"The revision that was read, 0 for none"`
	Reason string `query:"reason" maxLength:"300" doc:"Needed to correct a finished screening"`
}

// Zone is a place on the sole and leg map.
type Zone struct {
	ID   screening.Zone `json:"id"`
	Name string         `json:"name"`
}

// Keyed carries the key under which a request is answered once.
type Keyed struct {
	Key string `header:"Idempotency-Key" maxLength:"80" doc:"The same key with the same body is answered once"`
}

// Peer is where a request came from.
type Peer struct{ address string }

// Resolve notes where the request came from, for the sign-in throttle; behind
// proxies that are trusted, where they say it did.
func (p *Peer) Resolve(c huma.Context) []error {
	p.address = humagin.Unwrap(c).ClientIP()
	return nil
}

func (s *server) register(api huma.API) {
	api.UseMiddleware(s.door)
	s.registerAccount(api)
	s.registerAccess(api)
	s.registerRunners(api)
	s.registerScreenings(api)
	s.registerBlocks(api)
	s.registerPlans(api)
	s.registerOut(api)
	s.registerShelf(api)
	s.registerRuns(api)
	s.registerRamps(api)
	s.registerClips(api)
	s.registerCompute(api)
	s.registerLoadCompute(api)
}

func (s *server) me(act app.Actor) Me {
	return Me{act.User.ID, act.Practice, act.User.Name, act.User.Email, act.User.Role, act.User.Practice, s.app.Today(act)}
}

func (s *server) signIn(ctx context.Context, practice, user string) (Me, error) {
	if err := s.sess.RenewToken(ctx); err != nil {
		return Me{}, err
	}
	s.sess.Put(ctx, keyPractice, practice)
	s.sess.Put(ctx, keyUser, user)
	act, err := s.app.Actor(ctx, practice, user)
	return s.me(act), err
}

func (s *server) registerAccount(api huma.API) {
	huma.Register(api, with(get("/api/start", "getStart", "Whether the installation is still empty"), anyone), open(s, func(ctx context.Context, _ *struct{}) (StartState, error) {
		empty, err := s.app.Fresh(ctx)
		return StartState{empty}, err
	}))
	huma.Register(api, with(post("/api/first-run", "firstRun", "Create the practice and its owner in an empty installation"), anyone),
		open(s, func(ctx context.Context, in *struct{ Body account.FirstRun }) (Me, error) {
			c, err := s.app.Found(ctx, in.Body)
			if err != nil {
				return Me{}, err
			}
			return s.signIn(ctx, c.Practice, c.User)
		}))
	huma.Register(api, with(get("/api/session", "getSession", "Who is signed in, if anybody"), anyone), open(s, func(ctx context.Context, _ *struct{}) (SessionState, error) {
		p, u := s.sess.GetString(ctx, keyPractice), s.sess.GetString(ctx, keyUser)
		if p == "" || u == "" {
			return SessionState{}, nil
		}
		act, err := s.app.Actor(ctx, p, u)
		if errors.Is(err, app.ErrSignedOut) {
			return SessionState{}, nil
		}
		if err != nil {
			return SessionState{}, err
		}
		me := s.me(act)
		return SessionState{&me}, nil
	}))
	huma.Register(api, with(post("/api/session", "signIn", "Sign in"), anyone), open(s, func(ctx context.Context, in *struct {
		Peer
		Body struct {
			Email    string `json:"email" maxLength:"200"`
			Password string `json:"password" maxLength:"200"`
		}
	}) (Me, error) {
		c, err := s.app.SignIn(ctx, in.Body.Email, in.Body.Password, in.address)
		if err != nil {
			return Me{}, err
		}
		return s.signIn(ctx, c.Practice, c.User)
	}))
	huma.Register(api, with(op(http.MethodDelete, "/api/session", "signOut", "Sign out", http.StatusOK), anyone), open(s, func(ctx context.Context, _ *struct{}) (Nothing, error) {
		return Nothing{}, s.sess.Destroy(ctx)
	}))
}

func (s *server) registerRunners(api huma.API) {
	huma.Register(api, with(get("/api/runners", "listRunners", "The bench: runners, those who need the coach first"), listed, heavy),
		signed(s, func(ctx context.Context, act app.Actor, in *struct {
			Search string `query:"search" maxLength:"120"`
			Page   int    `query:"page" minimum:"0" maximum:"100000"`
		}) (bench.BenchPage, error) {
			return s.app.Bench(ctx, act, in.Search, in.Page)
		}))
	huma.Register(api, post("/api/runners", "addRunner", "Add a runner"), signed(s, func(ctx context.Context, act app.Actor, in *struct {
		Keyed
		Body input.RunnerInput
	}) (view.Runner, error) {
		return s.app.AddRunner(ctx, act, in.Key, in.Body)
	}))
	huma.Register(api, get("/api/runners/{id}", "getRunner", "One runner"), signed(s, func(ctx context.Context, act app.Actor, in *ByID) (view.Runner, error) {
		return s.app.Runner(ctx, act, in.ID)
	}))
	huma.Register(api, op(http.MethodPut, "/api/runners/{id}", "updateRunner", "Save a runner at the version that was read", http.StatusOK),
		signed(s, func(ctx context.Context, act app.Actor, in *struct {
			ByID
			IfMatch string `header:"If-Match" required:"true" doc:"The version that was read"`
			Body    input.RunnerInput
		}) (view.Runner, error) {
			v, err := strconv.Atoi(in.IfMatch)
			if err != nil {
				return view.Runner{}, huma.Error422UnprocessableEntity("If-Match carries the version number that was read")
			}
			return s.app.UpdateRunner(ctx, act, in.ID, v, in.Body)
		}))
	huma.Register(api, get("/api/runners/{id}/journal", "getJournal", "A runner's journal, newest first"),
		signed(s, func(ctx context.Context, act app.Actor, in *ByID) (Items[daily.JournalLine], error) {
			list, err := s.app.Journal(ctx, act, in.ID)
			return Items[daily.JournalLine]{list}, err
		}))
	huma.Register(api, put("/api/runners/{id}/mornings/{on}", "putMorning", "Note first-step pain of one morning"),
		signed(s, func(ctx context.Context, act app.Actor, in *struct {
			ByID
			On   string `path:"on" format:"date"`
			Body struct {
				FirstStep int    `json:"firstStep" doc:"0–10"`
				Reason    string `json:"reason,omitempty" maxLength:"300" doc:"Needed where it changes what was told before"`
			}
		}) (view.Block, error) {
			on, err := day.Parse(in.On)
			if err != nil {
				return view.Block{}, app.Invalid{{Field: "on", Message: err.Error()}}
			}
			return s.app.PutMorning(ctx, act, in.ID, on, in.Body.FirstStep, in.Body.Reason)
		}))
}

func (s *server) registerScreenings(api huma.API) {
	huma.Register(api, get("/api/screening-tests", "listTests", "The tests of a screening"), signed(s, func(context.Context, app.Actor, *struct{}) (Items[screening.Test], error) {
		return Items[screening.Test]{screening.Tests()}, nil
	}))
	huma.Register(api, get("/api/runners/{id}/screenings", "listScreenings", "A runner's screenings, newest first"),
		signed(s, func(ctx context.Context, act app.Actor, in *ByID) (Items[record.Screening], error) {
			list, err := s.app.Screenings(ctx, act, in.ID)
			return Items[record.Screening]{list}, err
		}))
	huma.Register(api, post("/api/runners/{id}/screenings", "startScreening", "Open a screening"), signed(s, func(ctx context.Context, act app.Actor, in *struct {
		ByID
		Keyed
		Body intake.ScreeningInput
	}) (record.Screening, error) {
		return s.app.StartScreening(ctx, act, in.Key, in.ID, in.Body)
	}))
	huma.Register(api, get("/api/screenings/{id}", "getScreening", "One screening with results and findings"),
		signed(s, func(ctx context.Context, act app.Actor, in *ByID) (record.Screening, error) {
			return s.app.Screening(ctx, act, in.ID)
		}))
	type Place struct {
		TrialPath
		Reason string `query:"reason" maxLength:"300" doc:"Needed to correct a finished screening"`
	}
	huma.Register(api, put("/api/screenings/{id}/trials/{test}/{side}/{slot}", "putTrial", "Save a trial in its Place"),
		signed(s, func(ctx context.Context, act app.Actor, in *struct {
			Place
			Body input.TrialInput
		}) (record.Screening, error) {
			return s.app.PutTrial(ctx, act, in.ID, in.Test, in.Side, in.Slot, &in.Body, in.Reason)
		}))
	huma.Register(api, op(http.MethodDelete, "/api/screenings/{id}/trials/{test}/{side}/{slot}", "removeTrial", "Take a trial out; the record keeps it", http.StatusOK),
		signed(s, func(ctx context.Context, act app.Actor, in *Place) (record.Screening, error) {
			return s.app.PutTrial(ctx, act, in.ID, in.Test, in.Side, in.Slot, nil, in.Reason)
		}))
	huma.Register(api, put("/api/screenings/{id}/talk", "putTalk", "Save complaints, safety answers, training and shoes"),
		signed(s, func(ctx context.Context, act app.Actor, in *struct {
			Part
			Body input.Talk
		}) (record.Screening, error) {
			return s.app.PutTalk(ctx, act, in.ID, in.Rev, in.Body, in.Reason)
		}))
	huma.Register(api, put("/api/screenings/{id}/conditions", "putConditions", "Save speed, incline, surface, shoes, leg lengths"),
		signed(s, func(ctx context.Context, act app.Actor, in *struct {
			Part
			Body input.Conditions
		}) (record.Screening, error) {
			return s.app.PutConditions(ctx, act, in.ID, in.Rev, in.Body, in.Reason)
		}))
	huma.Register(api, put("/api/screenings/{id}/choices", "putChoice", "Promote, demote or remark a finding"),
		signed(s, func(ctx context.Context, act app.Actor, in *struct {
			Part
			Body screening.Choice
		}) (record.Screening, error) {
			return s.app.PutChoice(ctx, act, in.ID, in.Rev, in.Body)
		}))
	huma.Register(api, put("/api/screenings/{id}/waivers", "waiveGate", "Waive a gate with a reason; an empty reason takes it back"),
		signed(s, func(ctx context.Context, act app.Actor, in *struct {
			Part
			Body struct {
				Gate   catalogue.Gate `json:"gate"`
				Reason string         `json:"reason" maxLength:"300"`
			}
		}) (record.Screening, error) {
			return s.app.WaiveGate(ctx, act, in.ID, in.Rev, in.Body.Gate, in.Body.Reason)
		}))
	huma.Register(api, post("/api/runners/{id}/clearances", "addClearance", "Note a clinician's clearance for a flag"),
		signed(s, func(ctx context.Context, act app.Actor, in *struct {
			ByID
			Body intake.ClearanceInput
		}) (Nothing, error) {
			return Nothing{}, s.app.AddClearance(ctx, act, in.ID, in.Body)
		}))
	huma.Register(api, post("/api/runners/{id}/eye-pairs", "addEyePair", "Note a measurement taken twice by the same coach"),
		signed(s, func(ctx context.Context, act app.Actor, in *struct {
			ByID
			Body intake.EyePairInput
		}) (Items[intake.EyeState], error) {
			list, err := s.app.AddEyePair(ctx, act, in.ID, in.Body)
			return Items[intake.EyeState]{list}, err
		}))
	huma.Register(api, get("/api/eye", "getEye", "How far your own calibration is"), signed(s, func(ctx context.Context, act app.Actor, _ *struct{}) (Items[intake.EyeState], error) {
		list, err := s.app.Eye(ctx, act)
		return Items[intake.EyeState]{list}, err
	}))
	huma.Register(api, get("/api/zones", "listZones", "The zones of the sole and leg map"), signed(s, func(context.Context, app.Actor, *struct{}) (Items[Zone], error) {
		out := Items[Zone]{}
		for _, z := range screening.Zones {
			out.Items = append(out.Items, Zone{z.ID, z.Name})
		}
		return out, nil
	}))
	huma.Register(api, post("/api/screenings/{id}/finish", "finishScreening", "Finish a screening"),
		signed(s, func(ctx context.Context, act app.Actor, in *ByID) (record.Screening, error) {
			return s.app.FinishScreening(ctx, act, in.ID)
		}))
}

func (s *server) registerBlocks(api huma.API) {
	huma.Register(api, post("/api/runners/{id}/blocks", "planBlock", "Make a block from a finished screening"), signed(s, func(ctx context.Context, act app.Actor, in *struct {
		ByID
		Keyed
		Body block.BlockInput
	}) (view.Block, error) {
		return s.app.PlanBlock(ctx, act, in.Key, in.ID, in.Body)
	}))
	huma.Register(api, get("/api/runners/{id}/block", "getCurrentBlock", "A runner's present block, if there is one"), signed(s, func(ctx context.Context, act app.Actor, in *ByID) (CurrentBlock, error) {
		b, err := s.app.CurrentBlock(ctx, act, in.ID)
		return CurrentBlock{b}, err
	}))
	huma.Register(api, get("/api/blocks/{id}", "getBlock", "One block with where it stands"), signed(s, func(ctx context.Context, act app.Actor, in *ByID) (view.Block, error) {
		return s.app.Block(ctx, act, in.ID)
	}))
	huma.Register(api, post("/api/blocks/{id}/session-logs", "logSession", "Log a session; each ladder of it is decided"), signed(s, func(ctx context.Context, act app.Actor, in *struct {
		ByID
		Keyed
		Body daily.SessionInput
	}) (view.Block, error) {
		return s.app.LogSession(ctx, act, in.Key, in.ID, in.Body)
	}))
	huma.Register(api, get("/api/blocks/{id}/session-logs", "listSessions", "The sessions logged in the last four weeks"), signed(s, func(ctx context.Context, act app.Actor, in *ByID) (Items[daily.LoggedSession], error) {
		list, err := s.app.LoggedSessions(ctx, act, in.ID)
		return Items[daily.LoggedSession]{list}, err
	}))
	huma.Register(api, post("/api/blocks/{id}/session-logs/{log}/correct", "correctSession", "Put a logged session right, or take it back, with a reason"), signed(s, func(ctx context.Context, act app.Actor, in *struct {
		ByID
		Log  string `path:"log" format:"uuid"`
		Body daily.Correction
	}) (view.Block, error) {
		return s.app.CorrectSession(ctx, act, in.ID, in.Log, in.Body)
	}))
	huma.Register(api, get("/api/practice", "getPractice", "What the sheets say of the practice"), signed(s, func(ctx context.Context, act app.Actor, _ *struct{}) (practice.Practice, error) {
		return s.app.Practice(ctx, act)
	}))
	huma.Register(api, put("/api/practice", "putPractice", "Save what the sheets say of the practice"), signed(s, func(ctx context.Context, act app.Actor, in *struct{ Body practice.Practice }) (practice.Practice, error) {
		return s.app.PutPractice(ctx, act, in.Body)
	}))
	huma.Register(api, post("/api/decisions/{id}/accept", "acceptDecision", "Move the peg as proposed"), signed(s, func(ctx context.Context, act app.Actor, in *struct {
		ByID
		Body struct {
			Version int `json:"version"`
		}
	}) (view.Block, error) {
		return s.app.AcceptDecision(ctx, act, in.ID, in.Body.Version)
	}))
	huma.Register(api, post("/api/decisions/{id}/override", "overrideDecision", "Put the peg elsewhere, with a reason"), signed(s, func(ctx context.Context, act app.Actor, in *struct {
		ByID
		Body struct {
			daily.OverrideInput
			Version int `json:"version"`
		}
	}) (view.Block, error) {
		return s.app.OverrideDecision(ctx, act, in.ID, in.Body.Version, in.Body.OverrideInput)
	}))
	huma.Register(api, post("/api/decisions/{id}/take-back", "takeBackAnswer", "Undo one's own answer of today, before a session followed"), signed(s, func(ctx context.Context, act app.Actor, in *struct {
		ByID
		Body struct {
			Version int `json:"version"`
		}
	}) (view.Block, error) {
		return s.app.TakeBackAnswer(ctx, act, in.ID, in.Body.Version)
	}))
}
