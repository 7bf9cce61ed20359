// Package course is one runner's record as plain values, and what it says: which
// readings a ladder looks at, when a flare begins and ends, what every session
// decides and what becomes of that decision. Nothing in it reads a clock or a
// store: what arrived, and when, stands in the record.
package course

import (
	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/planning"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/core/transition"
)

// Moment is a local date and hour, 0–23, in the practice's zone.
type Moment struct {
	On   day.Date `json:"on" format:"date"`
	Hour int      `json:"hour"`
}

// Arrival says when something became known: its place in the order of arrival,
// counted up over all a practice's records, and the moment.
type Arrival struct {
	Seq int64
	At  Moment
}

// Runner is what the rules need of the person.
type Runner struct {
	Person          body.Person
	IntakeFirstStep *body.Pain // 0–10
	IntakeMetres    *int       // a week
	AutoProgress    bool       // steps up go by themselves
}

// Morning is one reading of a place that hurts, or a general one without a zone.
// A later arrival for the same day and place takes its place.
type Morning struct {
	Arrival
	On        day.Date
	Zone      screening.Zone
	Side      body.Side
	FirstStep *body.Pain
	Rest      *body.Pain
	By        string // who typed it

	was *Morning // the newest severe reading it stands in place of
}

// Run is a run as it became known; a later arrival of the same id corrects it.
type Run struct {
	Arrival
	ID      string
	Removed bool
	load.Run
}

// Place is a place that began to hurt.
type Place struct {
	Zone      screening.Zone
	Side      body.Side
	FirstStep *body.Pain
	Rest      *body.Pain
	When      []string // screening.Times
}

// Day is what a day was like; a later arrival of the same date takes its place.
type Day struct {
	Arrival
	On         day.Date
	Illness    string // cold or fever
	PoorSleep  bool
	ShortSleep bool // under six hours
	Barefoot   *int // minutes
	Exposure   []transition.Done
	Soreness   *body.Pain // of the calves
	BoneTender bool
	New        []Place
	Answers    *safety.Answers
}

// Planned is a week's planned metres.
type Planned struct {
	Arrival
	Monday day.Date
	Metres int
}

// Item is what was done of one ladder on one side.
type Item struct {
	Prescription string
	Side         body.Side
	adjust.Session
}

// Log is one logged session. A later arrival of the same id stands in its place:
// put right, or taken back with no items.
type Log struct {
	Arrival
	ID      string
	On      day.Date
	Removed bool
	Items   []Item
}

// Visit is one screening as judged.
type Visit struct {
	Arrival
	ID         string
	On         day.Date
	Finished   bool
	Age        screening.Age
	Groups     []safety.Group // the questions asked at that age
	Answers    safety.Answers
	Complaints []screening.Complaint
	Results    []screening.Result
	Findings   []screening.Finding
	Waivers    []safety.Waiver
	OldAnkle   []body.Side // an earlier sprain
	Growth     Growth
}

// Growth is what is asked of a runner under 18; nil where nobody asked.
type Growth struct {
	HeightCm    *float64
	BeforeCm    *float64
	MonthsApart *float64
	SportHours  *float64 // a week
	HardHours   *float64 // on hard floor
	DayOff      *bool    // one day a week without sport
}

// Clearance is a clinician's word as it became known.
type Clearance struct {
	Arrival
	safety.Clearance
}

// Raised is a flag that readings raised.
type Raised struct {
	Arrival
	safety.Standing
	Ended *day.Date // a slip that was answered "no"; nil while it holds
}

// RampTerms are a barefoot ramp's terms, or its end.
type RampTerms struct {
	Arrival
	Terms transition.Terms
	Ended bool
}

// Prescription is one ladder of the block. Rank is its place in the order in
// which steps up are given: the finding it works on, then the catalogue.
type Prescription struct {
	ID       string
	Ladder   catalogue.Ladder
	Start    int
	FromWeek int
	Rank     int
	Since    *day.Date // it came in as the next of a path: that counts as its step up
}

// LeftOut is a ladder taken out of the block, or put back, from a date on.
type LeftOut struct {
	Ladder string
	On     day.Date
	Out    bool
}

// Block is the present plan.
type Block struct {
	Start         day.Date
	Weeks         int
	Plan          planning.Proposal
	Prescriptions []Prescription
	Left          []LeftOut
	Changed       []Changed
}

// Record is everything known of one runner. Slices are in the order of arrival;
// Decide looks at what came after State.Seq as news.
type Record struct {
	Runner     Runner
	Catalogue  catalogue.Catalogue
	School     planning.School // of the practice, where there is no block
	Visits     []Visit
	Clearances []Clearance
	Raised     []Raised
	Mornings   []Morning
	Runs       []Run
	Days       []Day
	Planned    []Planned
	Ramps      []RampTerms
	Logs       []Log
	Answers    []Answer
	Block      *Block
	State      State
	Decisions  []Decision
}

// Seat is one side of a prescription.
type Seat struct {
	Prescription string
	Side         body.Side
}

// Halt is a stop that stands: what fired, on which notch, with which usual
// reading; By is the decision that made it. Also are other stops under it: all
// of them have to be over before a way back is offered.
type Halt struct {
	Row   adjust.Row    `json:"row"`
	On    day.Date      `json:"on"`
	Since day.Date      `json:"since"` // the newest reading that fired; quiet mornings count after it
	Also  []Halt        `json:"also,omitempty"`
	Notch int           `json:"notch"`
	B     float64       `json:"b"`
	Flag  safety.FlagID `json:"flag,omitempty"`
	By    string        `json:"by"`
	// Flares are those that keep it stopped; all of them end for it alike.
	Flares []int `json:"flares,omitempty"`
	// Week is the Sunday of a high week that was looked at while it stood: the
	// quiet mornings count after it too, as they would for the week's own stop.
	Week day.Date `json:"week,omitempty"`
}

// Peg is where a side stands.
type Peg struct {
	Notch    int       `json:"notch"`
	Halt     *Halt     `json:"halt,omitempty"`
	LastUp   *day.Date `json:"lastUp,omitempty"`
	LastBack *day.Date `json:"lastBack,omitempty"`
	Fresh    *day.Date `json:"fresh,omitempty"` // the day a way back was accepted
	By       string    `json:"by,omitempty"`    // the decision that moved it last
}

// Week is what the newest weekly look said of a side.
type Week struct {
	Monday  day.Date           `json:"monday"`
	Verdict adjust.WeekVerdict `json:"verdict"`
	Reason  *adjust.Reason     `json:"reason,omitempty"`
}

// SeatState is what the engine keeps of one side of a prescription.
type SeatState struct {
	Prescription string    `json:"prescription"`
	Side         body.Side `json:"side"`
	Peg          Peg       `json:"peg"`
	Week         *Week     `json:"week,omitempty"`
}

// State is where the engine stands: how far it has looked, the pegs, the flares.
type State struct {
	Seq    int64       `json:"seq"`    // newest arrival looked at
	Noon   day.Date    `json:"noon"`   // newest date whose noon was looked at
	Engine int         `json:"engine"` // edition of the table it was made with
	Seats  []SeatState `json:"seats"`
	Flares []Flare     `json:"flares"`
}

// Peg returns where a side stands.
func (s State) Peg(at Seat) Peg {
	for _, x := range s.Seats {
		if x.Prescription == at.Prescription && x.Side == at.Side {
			return x.Peg
		}
	}
	return Peg{}
}

// ChangeKind names what happened.
type ChangeKind string

// What can happen.
const (
	Made       ChangeKind = "made"        // a decision was made
	Turned     ChangeKind = "turned"      // a decision's state changed
	FlagRaised ChangeKind = "flag-raised" // a reading raised a flag
	FlagEnded  ChangeKind = "flag-ended"  // it was raised by a slip
	FlareBegan ChangeKind = "flare-began"
	FlareEnded ChangeKind = "flare-ended"
	Looked     ChangeKind = "looked" // how far the engine has looked, always last
)

// Change is one thing that happened, in order. Decision is the whole decision
// after it; State is set on the last one.
type Change struct {
	Kind     ChangeKind
	At       Moment
	Decision Decision
	Flag     safety.Standing
	Slip     *Slip           // of a flag that ended
	Why      adjust.StuckWhy // of F-STUCK
	Flare    Flare
	State    State
}

// With returns the record after changes, as it would be loaded again.
func (r Record) With(changes []Change) Record {
	at := make(map[string]int, len(r.Decisions))
	list := append([]Decision{}, r.Decisions...)
	for i, d := range list {
		at[d.Key] = i
	}
	raised := append([]Raised{}, r.Raised...)
	for _, c := range changes {
		switch c.Kind {
		case Made, Turned:
			if i, ok := at[c.Decision.Key]; ok {
				list[i] = c.Decision
				continue
			}
			at[c.Decision.Key] = len(list)
			list = append(list, c.Decision)
		case FlagRaised:
			raised = append(raised, Raised{Standing: c.Flag})
		case FlagEnded:
			for i, x := range raised {
				if x.Ended == nil && x.Is(c.Flag) {
					on := c.At.On
					raised[i].Ended = &on
				}
			}
		case Looked:
			r.State = c.State
		}
	}
	r.Decisions, r.Raised = list, raised
	return r
}
