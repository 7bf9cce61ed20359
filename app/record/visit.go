package record

import (
	"notchback/app/input"
	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/core/words"
)

// FlagView is a standing flag in words.
type FlagView struct {
	safety.Standing
	Text    string `json:"text"`
	Cleared bool   `json:"cleared" doc:"A clearance runs"`
}

// Screening is one visit with everything measured so far.
type Screening struct {
	ID         string              `json:"id"`
	RunnerID   string              `json:"runnerId"`
	RunnerName string              `json:"runnerName"`
	RunnerAge  *int                `json:"runnerAge,omitempty"`
	Minor      bool                `json:"minor" doc:"Under 18, or age not known"`
	On         day.Date            `json:"on" format:"date"`
	Footwear   string              `json:"footwear"`
	Note       string              `json:"note"`
	Finished   bool                `json:"finished"`
	Imported   bool                `json:"imported,omitempty" doc:"Taken elsewhere, and brought in"`
	Trials     []SavedTrial        `json:"trials" nullable:"false"`
	Results    []JudgedResult      `json:"results" nullable:"false" doc:"One for each test, in their order"`
	Findings   []screening.Finding `json:"findings" nullable:"false"`
	Talk       input.Talk          `json:"talk"`
	Conditions input.Conditions    `json:"conditions"`
	Choices    []screening.Choice  `json:"choices" nullable:"false"`
	Waivers    []safety.Waiver     `json:"waivers" nullable:"false"`
	Revisions  map[string]int      `json:"revisions" doc:"Of each part; sent back when saving it"`
	Questions  []safety.Group      `json:"questions" nullable:"false" doc:"The safety questions for this runner's age"`
	Unasked    []string            `json:"unasked" nullable:"false" doc:"Groups of safety questions without an answer"`
	Flags      []FlagView          `json:"flags" nullable:"false" doc:"All flags of the runner; cleared says whether a clearance runs"`
	Clearances []ClearanceView     `json:"clearances" nullable:"false"`
	Gates      []safety.GateState  `json:"gates" nullable:"false"`
	Reach      []screening.Reach   `json:"reach" nullable:"false" doc:"Composite of the four-way reach, where leg lengths are known"`
	OwnNoise   []string            `json:"ownNoise" nullable:"false" doc:"Tests judged with the coach's own noise"`
	CantWaive  map[string]string   `json:"cantWaive" doc:"Gates that can't be waived, and why"`
	Cautions   []string            `json:"cautions" nullable:"false"`
	Slots      Slots               `json:"slots" doc:"Where trials have their places"`
}

// Slots are the places of a test's trials: the first look up to most, a look after a
// routine from after on.
type Slots struct {
	Most      int `json:"most"`
	After     int `json:"after"`
	AfterMost int `json:"afterMost" doc:"How many there are from after on"`
}

// ClearanceView is a clearance with whether it runs.
type ClearanceView struct {
	safety.Clearance
	Runs bool `json:"runs"`
	Soon bool `json:"soon" doc:"Ends within seven days"`
}

// SavedTrial is a trial in its place. Slots 1 to 5 are the first look, 6 to 9
// the look after a routine in the same visit.
type SavedTrial struct {
	input.TrialInput
	Test screening.TestID `json:"test"`
	Side body.Side        `json:"side" enum:"left,right,both"`
	Slot int              `json:"slot"`
}

// Say is what a test's row says in words.
type Say struct {
	Left   string `json:"left"`
	Right  string `json:"right"`
	Centre string `json:"centre"`
}

// Against is a comparison with another look at the same test.
type Against struct {
	On    day.Date         `json:"on" format:"date"`
	Left  screening.Retest `json:"left"`
	Right screening.Retest `json:"right"`
	Say   Say              `json:"say"`
	Was   screening.Result `json:"was"`
}

// JudgedResult is a result with its sentences.
type JudgedResult struct {
	screening.Result
	Say      Say               `json:"say"`
	After    *screening.Result `json:"after,omitempty" doc:"The look after a routine in the same visit"`
	AfterSay *Say              `json:"afterSay,omitempty"`
	Since    *Against          `json:"since,omitempty" doc:"Against the visit before"`
}

// Judge reduces the trials of both sides of one test and says what they show.
func Judge(t screening.Test, left, right []screening.Trial, age screening.Age) JudgedResult {
	r := screening.Reduce(t, left, right, age)
	return JudgedResult{Result: r, Say: Say{words.Verdict(t, r.Left), words.Verdict(t, r.Right), words.Asymmetry(t, r)}}
}

func against(t screening.Test, on day.Date, was, now screening.Result) *Against {
	a := Against{On: on, Was: was, Left: screening.CompareDates(t, was.Left, now.Left), Right: screening.CompareDates(t, was.Right, now.Right)}
	a.Say = Say{Left: words.Retest(t, a.Left), Right: words.Retest(t, a.Right)}
	if a.Say.Left == "" && a.Say.Right == "" {
		return nil
	}
	return &a
}

func AgeOn(p body.Person, on day.Date) screening.Age {
	years, known := p.AgeOn(on)
	return screening.Age{Years: years, Known: known}
}
