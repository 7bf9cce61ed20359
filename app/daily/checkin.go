package daily

import (
	"context"
	"slices"
	"strings"

	"notchback/app"
	"notchback/app/input"
	"notchback/app/record"
	"notchback/core/body"
	"notchback/core/course"
	"notchback/core/day"
	"notchback/core/safety"
	"notchback/core/words"
	"notchback/store"
)

// DayState is a day as it stands.
type DayState struct {
	On       day.Date          `json:"on" format:"date"`
	Day      input.DayInput    `json:"day"`
	Places   []PlaceView       `json:"places" nullable:"false" doc:"Places to ask about: the complaints, and the general reading first"`
	Ask      []safety.Group    `json:"ask" nullable:"false" doc:"Safety questions to ask now, because a place is new"`
	Open     []record.AskView  `json:"open" nullable:"false" doc:"Places whose safety questions are open"`
	Care     *words.Care       `json:"care,omitempty" doc:"The one page under an emergency"`
	Raised   []record.FlagView `json:"raised" nullable:"false" doc:"Flags that stand"`
	Slips    []SlipView        `json:"slips" nullable:"false" doc:"Severe readings that you changed in the last days: their flag asks again"`
	Warnings []string          `json:"warnings" nullable:"false"`
}

// PlaceView is a place with its name and the day's readings.
type PlaceView struct {
	input.PlaceReading
	Name string `json:"name"`
}

// PutDay stores what a day was like and looks again at what it decides: the fields
// that differ from the revision the sender read, and no other. A place that began
// to hurt asks its safety questions; answers raise flags at once.
func (a *Daily) PutDay(ctx context.Context, act app.Actor, runner string, on day.Date, in input.DayInput) (DayState, error) {
	if err := in.Check(on, a.Today(act)); err != nil {
		return DayState{}, err
	}
	err := a.Write(ctx, act, func(tx *store.Tx) error {
		if err := tx.LockRunner(ctx, runner); err != nil {
			return err
		}
		k, err := a.Open(ctx, tx, act, runner, nil)
		if err != nil {
			return err
		}
		if in, err = k.Merged(on, in); err != nil {
			return err
		}
		return a.KeepDay(ctx, tx, k, on, in)
	})
	if err != nil {
		return DayState{}, err
	}
	return a.Day(ctx, act, runner, on)
}

// Day returns a day as it stands.
func (a *Daily) Day(ctx context.Context, act app.Actor, runner string, on day.Date) (DayState, error) {
	out := DayState{On: on, Places: []PlaceView{}, Ask: []safety.Group{}, Open: []record.AskView{}, Raised: []record.FlagView{}, Slips: []SlipView{}, Warnings: []string{}}
	err := a.Store.In(ctx, act.Practice, func(tx *store.Tx) error {
		k, err := a.Open(ctx, tx, act, runner, nil)
		if err != nil {
			return err
		}
		d, g := k.D, k.G
		out.Day = g.Notes[on]
		out.Day.Rev = k.Rows.NoteRev(on)
		read := func(zone string, side body.Side) input.PlaceReading {
			p := input.PlaceReading{Zone: zone, Side: side}
			for _, m := range g.Mornings {
				if app.DateOf(m.On) == on && m.Zone == zone && m.Side == string(side) {
					p.FirstStep, p.Rest = m.FirstStep, m.Rest
				}
			}
			return p
		}
		out.Places = append(out.Places, PlaceView{read("", ""), "first steps, in general"})
		seen := map[string]bool{}
		add := func(zone string, side body.Side) {
			k := zone + "/" + string(side)
			if seen[k] || zone == "" {
				return
			}
			seen[k] = true
			name := input.ZoneName(zone)
			if side != "" {
				name += ", " + string(side)
			}
			out.Places = append(out.Places, PlaceView{read(zone, side), name})
		}
		for _, c := range k.Book.Complaints() {
			add(string(c.Zone), c.Side)
		}
		for _, p := range out.Day.New {
			add(p.Zone, p.Side)
		}
		out.Open, out.Care = k.Asks(), k.Care()
		if len(out.Open) > 0 {
			out.Ask = safety.Questions(record.AgeOn(record.PersonOf(d.Runner), on), k.Rows.Own...)
		}
		if out.Day.BoneTender && out.Day.Answers == nil {
			out.Ask = safety.Questions(record.AgeOn(record.PersonOf(d.Runner), on), k.Rows.Own...)
		}
		for _, f := range k.Book.Flags() {
			out.Raised = append(out.Raised, record.FlagView{Standing: f, Text: words.Flag(f)})
		}
		for _, x := range slips(k, act) {
			out.Slips = append(out.Slips, SlipView{x.Key, words.SlipQuestion(x)})
		}
		for _, p := range out.Places {
			if p.FirstStep != nil && *p.FirstStep >= safety.SevereAt || p.Rest != nil && *p.Rest >= safety.SevereRest {
				out.Warnings = append(out.Warnings, "Pain this high is looked at by a clinician before any load.")
			}
		}
		return nil
	})
	return out, err
}

// SlipView is a severe reading that was changed, with what its flag asks.
type SlipView struct {
	Key  string `json:"key"`
	Text string `json:"text"`
}

// SlipInput answers it: the pain was not that strong, and why it was typed so.
type SlipInput struct {
	Key    string `json:"key" maxLength:"100"`
	Reason string `json:"reason" maxLength:"500"`
}

func slips(k *record.Desk, act app.Actor) []course.Slip {
	if k.Book == nil {
		return nil
	}
	return k.Book.Slips(act.User.ID)
}

// PutRight ends a flag that a slip raised. Both readings stay in the journal, and
// nothing rises by it.
func (a *Daily) PutRight(ctx context.Context, act app.Actor, runner string, on day.Date, in SlipInput) (DayState, error) {
	in.Reason = strings.TrimSpace(in.Reason)
	if in.Reason == "" {
		return DayState{}, app.Wrong("reason", "say how it came about")
	}
	err := a.Write(ctx, act, func(tx *store.Tx) error {
		if _, err := tx.Runner(ctx, runner); err != nil {
			return err
		}
		current, err := tx.CurrentBlock(ctx, runner)
		if err != nil {
			return err
		}
		if err := tx.LockRunner(ctx, runner); err != nil {
			return err
		}
		k, err := a.DecideBlock(ctx, tx, act, current.ID)
		if err != nil {
			return err
		}
		i := slices.IndexFunc(slips(k, act), func(s course.Slip) bool { return s.Key == in.Key })
		if i < 0 {
			return app.Refused("this can't be put right here: only who typed it, within seven days, and while nothing else asks for the flag")
		}
		s := slips(k, act)[i]
		if err := tx.AddAnswer(ctx, runner, current.ID, store.Answer{Key: s.Key, Kind: string(course.Typo), Reason: in.Reason}, act.User.ID); err != nil {
			return err
		}
		if err := tx.Note(ctx, runner, a.Now(), &act.User.ID, "flag", words.Slip(s)+" Asked again, answered no: "+in.Reason, s); err != nil {
			return err
		}
		return a.AfterReading(ctx, tx, act, runner)
	})
	if err != nil {
		return DayState{}, err
	}
	return a.Day(ctx, act, runner, on)
}

// SetAutoProgress says whether a runner's steps up go by themselves.
func (a *Daily) SetAutoProgress(ctx context.Context, act app.Actor, runner string, on bool) error {
	return a.Write(ctx, act, func(tx *store.Tx) error {
		r, err := tx.Runner(ctx, runner)
		if err != nil {
			return err
		}
		if on {
			if age := record.AgeOn(record.PersonOf(r), a.Today(act)); !age.Known || age.Years < safety.Adult {
				return app.Refused("steps up of a young runner, or of one whose age is not known, wait for a coach")
			}
		}
		if err := tx.SetAutoProgress(ctx, runner, on); err != nil {
			return err
		}
		text := "Steps up wait for a coach"
		if on {
			text = "Steps up go by themselves"
		}
		return tx.Note(ctx, runner, a.Now(), &act.User.ID, "plan", text, nil)
	})
}

// Daily is the room of what runners report: days and sessions.
type Daily struct{ *record.Book }
