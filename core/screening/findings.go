package screening

import (
	"cmp"
	"fmt"
	"slices"

	"notchback/core/body"
	"notchback/core/source"
)

// Factor names what limits a runner.
type Factor string

// The levers: how early a factor stands in the order of work.
const (
	leverSafety = 5
	leverCalm   = 4
	leverRange  = 3 // range and control
	leverForm   = 2 // form and strength
)

// Priority is the arithmetic that orders findings.
type Priority struct {
	Severity  int `json:"severity"`
	Relevance int `json:"relevance" doc:"3 explains the main complaint, 2 serves running, 1 otherwise"`
	Lever     int `json:"lever" doc:"By order of work: safety 5, calm 4, range and control 3, strength and form 2"`
	Total     int `json:"total"`
}

// Evidence is one reading behind a finding.
type Evidence struct {
	Test     TestID     `json:"test,omitempty"`
	Name     string     `json:"name"`
	Side     body.Side  `json:"side" enum:"left,right,both"`
	Value    *float64   `json:"value,omitempty"`
	Margin   *float64   `json:"margin,omitempty"`
	Unit     string     `json:"unit"`
	Decimals int        `json:"decimals"`
	Label    string     `json:"label,omitempty"`
	Verdict  Verdict    `json:"verdict"`
	Source   source.Tag `json:"source"`
}

// Finding is a conclusion with its evidence. It never names a disease.
type Finding struct {
	Factor     Factor     `json:"factor"`
	Name       string     `json:"name"`
	Side       body.Side  `json:"side" enum:"left,right,both"`
	Severity   int        `json:"severity" minimum:"0" maximum:"3"`
	Confidence Confidence `json:"confidence" enum:"sure,borderline,one reading"`
	Evidence   []Evidence `json:"evidence" nullable:"false"`
	Explains   string     `json:"explains"`
	Do         string     `json:"do"`
	Ladders    []string   `json:"ladders" nullable:"false" doc:"Ladders that work on it"`
	Priority   Priority   `json:"priority"`
	Uneven     []Uneven   `json:"uneven,omitempty" doc:"Where the sides of its tests differ"`
	WorkedOn   bool       `json:"workedOn"`
	Waits      string     `json:"waits,omitempty" doc:"Why it waits, when it is not worked on"`
	Remark     string     `json:"remark,omitempty" doc:"The coach's own words"`
	Moved      string     `json:"moved,omitempty" doc:"promoted or demoted by the coach, with the reason"`
}

// Uneven is a clear difference between the sides of a test behind a finding: the weaker
// side goes first and gets one set more.
type Uneven struct {
	Test  TestID    `json:"test"`
	Name  string    `json:"name"`
	First body.Side `json:"first" enum:"left,right,both"`
}

// Key names a finding across recomputations.
func (f Finding) Key() string { return fmt.Sprintf("%s/%s", f.Factor, f.Name) }

// MaxWorkedOn is how many findings are worked on at once.
const MaxWorkedOn = 3

// Choice is what the coach decided about one finding.
type Choice struct {
	Key    string `json:"key"`
	Move   string `json:"move,omitempty" enum:"promote,demote,"`
	Reason string `json:"reason,omitempty" maxLength:"300" doc:"Needed to demote"`
	Remark string `json:"remark,omitempty" maxLength:"500"`
}

// Input is all that findings are derived from.
type Input struct {
	Results    []Result    `json:"results"`
	Complaints []Complaint `json:"complaints"`
	// LoadSpike is the longest-run or weekly ratio's verdict; empty when unknown.
	LoadSpike bool `json:"loadSpike,omitempty"`
	// OuterAnkleHistory is an earlier sprain of the side.
	OuterAnkleHistory []body.Side `json:"outerAnkleHistory,omitempty"`
	Choices           []Choice    `json:"choices,omitempty"`
	// Devices are what watches measured in the weeks before. One stands where nobody
	// measured at the visit, and below it in trust.
	Devices []DeviceReading `json:"devices,omitempty"`
}

// DeviceReading is what devices measured over several runs, in the test's unit.
type DeviceReading struct {
	Test  TestID  `json:"test"`
	Value float64 `json:"value"`
	Runs  int     `json:"runs" doc:"It is the middle one of so many"`
}

// DeviceSource tags what devices measured.
var DeviceSource = source.House("a device's own reading, below a coach's in trust: alone it never reads limited")

// byDevice is a reading of devices where a test was not done.
func (d DeviceReading) byDevice() SideSummary {
	v := d.Value
	class := Noted
	if d.Test == CadenceTest {
		class, _ = CadenceInRange(v)
	} else if t, ok := Find(d.Test); ok && t.cut != nil {
		class = t.cut.Class(v)
	}
	s := SideSummary{Side: body.Both, Value: &v, N: d.Runs, Basis: NoMargin, Verdict: class, Class: class, Confidence: OneReading, Borderline: true,
		Label: fmt.Sprintf("by devices, the middle of %d runs", d.Runs), Cut: &Cut{Source: DeviceSource}, Values: []*float64{}, Counts: []bool{}}
	if class == Limited {
		s.Verdict, s.Class = Watch, Watch
	}
	if s.Class == Watch {
		s.Severity = 1
	}
	return s
}

// factor is one row of the table of findings. hit looks at one side and returns
// its severity with the evidence; 0 is no finding.
type factor struct {
	id       Factor
	name     string
	lever    int
	relevant int
	patterns []Pattern // complaints it explains
	zones    []Zone    // its region
	explains string
	do       string
	ladders  []string
	hit      func(l look) (severity int, used []TestID, unsure bool)
}

// look is one side of all results.
type look struct {
	in   Input
	by   map[TestID]Result
	side body.Side
}

func (l look) get(id TestID) SideSummary {
	r, ok := l.by[id]
	if !ok {
		return SideSummary{Verdict: NotMeasured}
	}
	if t, _ := Find(id); !t.Sided {
		return r.Left
	}
	return r.Side(l.side)
}

func (l look) severity(id TestID) int { return l.get(id).Severity }

func (l look) value(id TestID) (float64, bool) {
	s := l.get(id)
	if !s.Measured() {
		return 0, false
	}
	return *s.Value, true
}

func (l look) atMost(id TestID, v float64) bool {
	x, ok := l.value(id)
	return ok && x <= v
}

func (l look) atLeast(id TestID, v float64) bool {
	x, ok := l.value(id)
	return ok && x >= v
}

func (l look) saw(id TestID, comp string) bool { return slices.Contains(l.get(id).Seen, comp) }

// plain is a factor that follows the worst verdict of its tests.
func plain(ids ...TestID) func(look) (int, []TestID, bool) {
	return func(l look) (int, []TestID, bool) {
		worst, used := 0, []TestID{}
		for _, id := range ids {
			if s := l.severity(id); s > 0 {
				worst, used = max(worst, s), append(used, id)
			}
		}
		return worst, used, false
	}
}

// Thresholds inside factors.
const (
	controlGap     = 15.0 // ° between passive and active lift
	weakControl    = 1.0
	driftFrom      = 2.0
	archLow        = 1.0
	navicularWatch = 10.0
	bandPoor       = 1.0
	reachApart     = 4.0
	hipShort       = 10.0
	walkPoor       = 2.0
)

var factors = []factor{
	{"ankle-stiff", "Ankle bends too little", leverRange, 2, []Pattern{HeelFirstSteps, HeelOther, AchillesLoad, ShinLoad, CalfTight}, []Zone{"achilles-low", "achilles-mid", "calf", "heel"},
		"A short bend at the ankle makes the heel leave early and the foot turn or roll to get by.", "Soleus stretch with the arch locked, knee-to-wall rocks.", []string{"range-soleus"},
		plain(KneeToWall, SeatedShin)},
	{"sole-tight", "Big toe lifts too little: sole tissue, not the joint", leverRange, 2, []Pattern{HeelFirstSteps}, []Zone{"heel", "arch", "big-toe"},
		"With the ankle bent the sole is on stretch; a big toe that can't lift there has less to push off with.", "Release, toes-tucked kneeling, then end-range work.", []string{"range-toe"},
		func(l look) (int, []TestID, bool) {
			s := l.severity(BigToePassive)
			flat := l.get(BigToeFlat)
			if s == 0 && (!flat.Measured() || flat.Severity == 0) {
				return plain(TuckedKneel)(l) // toes that don't kneel tucked, with a toe that lifts
			}
			if s == 0 || (flat.Measured() && flat.Severity > 0) {
				return 0, nil, false
			}
			if !flat.Measured() {
				return s, []TestID{BigToePassive}, true
			}
			return s, []TestID{BigToePassive, BigToeFlat}, false
		}},
	{"toe-joint-stiff", "Big toe stiff both ways: the joint", leverRange, 2, []Pattern{BigToeJoint, ForefootPain}, []Zone{"big-toe", "ball"},
		"The toe lifts too little with the foot flat and with the ankle bent.", "Gentle range only; consider a clinician.", []string{},
		func(l look) (int, []TestID, bool) {
			if l.severity(BigToeFlat) > 0 && !l.get(BigToePassive).Measured() {
				return 1, []TestID{BigToeFlat}, true // half of the picture: bend the ankle too
			}
			if l.severity(BigToePassive) == 0 || l.severity(BigToeFlat) == 0 {
				return 0, nil, false
			}
			return max(l.severity(BigToePassive), l.severity(BigToeFlat)), []TestID{BigToePassive, BigToeFlat}, false
		}},
	{"toe-control-gap", "Toes do not do what they could", leverRange, 2, nil, []Zone{"big-toe", "arch"},
		"The toe moves by hand but not by itself, or not alone: control before strength.", "Toe split, press and lift on a block.", []string{},
		func(l look) (int, []TestID, bool) {
			if p, ok := l.value(BigToePassive); ok {
				if a, ok := l.value(BigToeActive); ok && p-a > controlGap {
					return 2, []TestID{BigToePassive, BigToeActive}, false
				}
			}
			s, used, _ := plain(ToeBig, ToeSmall, ToeSpread, ToeLower, ToePress, ShortFoot, FootBrace)(l)
			if l.atMost(ToeBig, weakControl) || l.atMost(ToeSmall, weakControl) {
				s = max(s, 2)
				for _, id := range []TestID{ToeBig, ToeSmall} {
					if !slices.Contains(used, id) {
						used = append(used, id)
					}
				}
			}
			return s, used, false
		}},
	{"toe-drift", "Big toe drifts in", leverRange, 1, []Pattern{BigToeJoint, ForefootPain}, []Zone{"big-toe"},
		"A big toe that leans in pushes off from its edge.", "Spread, aligned lifts; look at the room in the shoes.", []string{},
		func(l look) (int, []TestID, bool) {
			if l.atLeast(ToeDrift, driftFrom) || l.atLeast(Bunion, 1) {
				return max(1, l.severity(ToeDrift), l.severity(Bunion)), []TestID{ToeDrift, Bunion}, false
			}
			return 0, nil, false
		}},
	{"claw-tendency", "Toes claw", leverRange, 2, []Pattern{BigToeJoint, ForefootPain}, []Zone{"toes", "ball"},
		"The long toe muscles do the work of the short ones.", "Spread and long-toe press before any curling.", []string{},
		func(l look) (int, []TestID, bool) {
			n := 0
			for _, hit := range []bool{l.atLeast(Clawing, 1), l.atLeast(TendonsOut, 1), l.saw(ToePress, "toe-curls")} {
				if hit {
					n++
				}
			}
			return min(n, 2), []TestID{Clawing, TendonsOut, ToePress}, false
		}},
	{"arch-weak", "Arch gives way", leverRange, 2, []Pattern{HeelFirstSteps, HeelOther}, []Zone{"arch", "heel"},
		"The arch sinks and the short foot can't hold it.", "Short foot, big-toe drive.", []string{},
		func(l look) (int, []TestID, bool) {
			if !l.atMost(Arch, archLow) || !(l.atMost(ShortFoot, weakControl) || l.atLeast(Navicular, navicularWatch)) {
				return 0, nil, false
			}
			return max(1, l.severity(Arch), l.severity(Navicular)), []TestID{Arch, ShortFoot, Navicular}, false
		}},
	{"outer-edge-drift", "Weight drifts to the outer edge", leverRange, 1, []Pattern{AnkleUnsteady}, []Zone{"outer-ankle", "outer-foot"},
		"The foot holds on its outer edge instead of behind the big toe.", "Ball-of-foot holds, inner-edge walk, push behind the big toe.", []string{},
		func(l look) (int, []TestID, bool) {
			used := []TestID{}
			for _, id := range []TestID{BallHold, StanceOpen, StanceClosed} {
				if l.saw(id, "drifts-outward") {
					used = append(used, id)
				}
			}
			return min(len(used), 2), used, false
		}},
	{"calf-weak", "Calf tires early", leverForm, 2, []Pattern{HeelFirstSteps, HeelOther, AchillesLoad}, []Zone{"achilles-low", "achilles-mid", "calf"},
		"Every running step asks the calf for several body weights; a calf that tires early hands the load on.", "Calf raises, straight knee.", []string{"calf-straight"}, plain(SingleRaise, BallHold, BallHoldTwo)},
	{"soleus-weak", "Calf tires early with the knee bent", leverForm, 2, []Pattern{AchillesLoad, CalfTight}, []Zone{"achilles-low", "achilles-mid", "calf"},
		"With the knee bent the deep calf works alone, as it does in slow running.", "Calf raises, bent knee.", []string{}, plain(BentRaise, WallSit)},
	{"shin-weak", "Front of the shin tires early", leverForm, 2, []Pattern{ShinLoad}, []Zone{"outer-shin", "inner-shin"},
		"The front of the shin sets the foot down; when it tires the foot slaps.", "Shin raises, heel walk.", []string{},
		func(l look) (int, []TestID, bool) {
			s, used, _ := plain(ShinRaise)(l)
			if l.saw(HeelWalk, "fore-foot-drops") {
				s, used = max(s, 1), append(used, HeelWalk)
			}
			return s, used, false
		}},
	{"walk-sore", "Walking on heels or balls hurts", leverRange, 2, []Pattern{HeelFirstSteps, HeelOther, AchillesLoad, ForefootPain}, []Zone{"heel", "ball", "big-toe", "achilles-low"},
		"What carries the step is sore: it calms first, before anything is made stronger.", "Calm and release; the walk again every two weeks.", []string{},
		func(l look) (int, []TestID, bool) {
			s, used := 0, []TestID{}
			for _, id := range []TestID{HeelWalk, ToeWalk} {
				if l.atLeast(id, walkPoor+1) {
					s, used = max(s, l.severity(id), 1), append(used, id)
				}
			}
			for _, id := range []TestID{BriskWalk, SoreSpot} {
				if n := l.severity(id); n > 0 {
					s, used = max(s, n), append(used, id)
				}
			}
			return s, used, false
		}},
	{"ankle-side-weak", "Ankle weak to the side", leverForm, 2, []Pattern{AnkleUnsteady}, []Zone{"outer-ankle"},
		"The muscles that steer the ankle in and out work in jerks.", "Band in and out, edge walks.", []string{},
		func(l look) (int, []TestID, bool) {
			if l.atMost(BandIn, bandPoor) || l.atMost(BandOut, bandPoor) {
				return 2, []TestID{BandIn, BandOut}, false
			}
			if slices.Contains(l.in.OuterAnkleHistory, l.side) {
				return 1, []TestID{BandIn, BandOut}, !l.get(BandOut).Measured()
			}
			return plain(BandIn, BandOut)(l)
		}},
	{"balance-poor", "Balance short", leverForm, 2, []Pattern{AnkleUnsteady}, []Zone{"outer-ankle"},
		"One leg has to carry the body for a third of every stride.", "Little and often: stand on one leg through the day.", []string{},
		func(l look) (int, []TestID, bool) {
			s, used, _ := plain(StanceOpen)(l)
			if r, ok := l.by[ReachForward]; ok && r.Asymmetry.Known && r.Asymmetry.Class == Watch && r.Asymmetry.Weaker == l.side {
				s, used = max(s, 1), append(used, ReachForward)
			}
			return s, used, false
		}},
	{"hip-share", "Hips do too little", leverForm, 2, []Pattern{Kneecap}, []Zone{"kneecap"},
		"A hip that does not extend or hold leaves the work to knee, calf and foot.", "Glute bridge, split squat, squat on a braced foot.", []string{},
		plain(HipExtension, SplitHold, KneeIn, HipDrop, StrideOpens)},
	{"squat-collapse", "Squat gives way", leverForm, 2, []Pattern{Kneecap}, []Zone{"kneecap", "arch"},
		"Arch or knee gives way before the squat is deep: what the foot can't hold the knee pays for.", "Squat on a braced foot, to the depth before it gives.", []string{}, plain(Squat)},
	{"raise-short", "Raise is short or wobbles", leverForm, 1, []Pattern{AchillesLoad}, []Zone{"achilles-mid", "calf"},
		"A raise that wobbles is not yet steady enough for a step: the floor first.", "Raises on the floor, behind the big toe.", []string{}, plain(RaiseWobble)},
	{"spring-short", "Spring is short", leverForm, 2, nil, nil,
		"The brace or the heel goes before the bounce does: strength and brace first.", "Raises, split holds, then small bounces.", []string{}, plain(SupportedBounce, PogoLook)},
	{"low-cadence", "Steps are slow", leverForm, 2, []Pattern{ShinLoad, Kneecap}, nil,
		"Slow steps come with a long reach, more bounce or a loud landing here. By itself no number is low.", "A few more steps a minute, in small steps.", []string{},
		func(l look) (int, []TestID, bool) {
			c, ok := l.value(CadenceTest)
			if v, _ := CadenceInRange(c); !ok || c >= cadenceLow || v == OK {
				return 0, nil, false
			}
			if max(l.severity(Overstride), l.severity(Bounce), l.severity(BounceEye), l.severity(Loudness)) == 0 {
				return 0, nil, false
			}
			return 1, []TestID{CadenceTest}, false
		}},
	{"overstride", "Foot lands ahead of the body", leverForm, 2, []Pattern{ShinLoad, Kneecap}, []Zone{"outer-shin", "inner-shin", "kneecap"},
		"A shin that leans back at contact brakes each step.", "Posture first, then quicker steps.", []string{}, plain(Overstride)},
	{"bounce", "Much up and down", leverForm, 2, nil, nil, "What goes up is paid for by the calf on the way down.", "Lean from the ankles, quicker steps.", []string{}, plain(Bounce, BounceEye)},
	{"sway", "Much side to side", leverForm, 1, nil, nil, "A trunk that sways does the work of the hips.", "Brim on the horizon, feet either side of a line.", []string{}, plain(Sway)},
	{"crossing", "Feet cross the line", leverForm, 2, nil, nil, "Steps on one line load the outer ankle and the hip.", "Feet either side of a line.", []string{}, plain(Crossing)},
	{"loud", "Landing is loud", leverForm, 2, nil, nil, "A loud landing is a hard one.", "Land so as not to be heard.", []string{}, plain(Loudness)},
	{"posture", "Line of the body", leverForm, 2, nil, nil, "The line from ear to ankle decides where the foot can land.", "Tall, lean from the ankles, hips lead.", []string{}, plain(Posture)},
	{"arms", "Arms do too little", leverForm, 1, nil, nil, "Legs and arms work crosswise: a stiff arm is a cause of a slow leg.", "Elbows back with a beat.", []string{}, plain(Arms)},
	{"strike-extreme", "Foot strike at the extreme", leverForm, 1, nil, nil,
		"Never bad by itself. Look upstream: posture, hip extension, arm swing, cadence. At most a gradual shift toward the middle, never from one class to another.", "Work on what stands upstream.", []string{}, plain(StrikeEasy)},
}

// Findings derives what limits the runner. The list is sorted by priority; at
// most MaxWorkedOn are worked on, the others say why they wait. The coach's
// choices come last and say so.
func Findings(in Input) []Finding {
	out := []Finding{}
	by := map[TestID]Result{}
	for _, r := range in.Results {
		by[r.Test] = r
	}
	for _, d := range in.Devices {
		if !by[d.Test].Left.Measured() {
			by[d.Test] = Result{Test: d.Test, Left: d.byDevice()}
		}
	}
	out = append(out, symptoms(in)...)
	if in.LoadSpike {
		out = append(out, Finding{
			Factor: "load-spike", Name: "Running jumped", Side: body.Both, Severity: 2, Confidence: Sure, Evidence: []Evidence{}, Ladders: []string{},
			Explains: "The last runs or weeks rose faster than tissue adapts.", Do: "Hold everything until the weeks are steady.",
			Priority: prioritise(2, relevance(in, 2, []Pattern{AchillesLoad, ShinLoad}), leverSafety),
		})
	}
	for _, f := range factors {
		if found, ok := f.find(in, by); ok {
			out = append(out, found)
		}
	}
	for _, t := range tests {
		f, ok := uneven(in, t, by[t.ID])
		if !ok {
			continue
		}
		// A difference belongs to the finding of its own test and takes no place.
		i := slices.IndexFunc(out, func(x Finding) bool {
			return x.Factor != unevenFactor && slices.ContainsFunc(x.Evidence, func(e Evidence) bool { return e.Test == t.ID })
		})
		if i < 0 {
			out = append(out, f)
			continue
		}
		out[i].Uneven = append(out[i].Uneven, Uneven{t.ID, t.Name, f.Side})
	}
	out = append(out, unexplained(in, out)...)
	rank(out, in.Choices)
	return out
}

// unexplained names every test that reads limited and that no finding speaks of, so
// that nobody reads "nothing limits" beside it.
func unexplained(in Input, list []Finding) []Finding {
	var out []Finding
	for _, r := range in.Results {
		t, ok := Find(r.Test)
		if !ok || slices.ContainsFunc(list, func(f Finding) bool {
			return slices.ContainsFunc(f.Evidence, func(e Evidence) bool { return e.Test == r.Test })
		}) {
			continue
		}
		for _, s := range []SideSummary{r.Left, r.Right} {
			if !s.Measured() || s.Verdict != Limited {
				continue
			}
			f := Finding{
				Factor: Factor("limited-" + string(t.ID)), Name: t.Name + " is limited", Side: s.Side, Severity: 2, Confidence: Sure, Evidence: []Evidence{evidence(t, s)}, Ladders: []string{},
				Explains: "The test reads limited; no pattern of ours explains it.", Do: "Look at what stands behind it; test again.",
				Priority: prioritise(2, relevance(in, 2, nil), leverForm),
			}
			if n := len(out); n > 0 && out[n-1].Factor == f.Factor {
				out[n-1].Side = body.Both
				continue
			}
			out = append(out, f)
		}
	}
	return out
}

func symptoms(in Input) []Finding {
	seen := map[string]int{}
	out := []Finding{}
	for _, c := range in.Complaints {
		p := c.Pattern()
		worst, known := c.Height()
		if p == NoPattern {
			continue
		}
		severity := 1
		if !known || worst >= 4 {
			severity = 2
		}
		e := Evidence{Name: zoneName(c.Zone), Side: c.Side, Unit: "/10", Verdict: Noted, Source: source.Common()}
		if known {
			v := float64(worst)
			e.Value = &v
		}
		if i, ok := seen[string(p)]; ok {
			f := &out[i]
			f.Severity = max(f.Severity, severity)
			f.Evidence = append(f.Evidence, e)
			if f.Side != c.Side {
				f.Side = body.Both
			}
			f.Priority = prioritise(f.Severity, 3, leverCalm)
			continue
		}
		seen[string(p)] = len(out)
		out = append(out, Finding{
			Factor: Factor("symptom-" + p), Name: patternNames[p], Side: c.Side, Severity: severity, Confidence: Sure, Evidence: []Evidence{e},
			Explains: "What the runner feels, in plain words; not a diagnosis.", Do: "Calm it, then load it.", Ladders: []string{}, Priority: prioritise(severity, 3, leverCalm),
		})
	}
	return out
}

func zoneName(z Zone) string {
	for _, k := range Zones {
		if k.ID == z {
			return k.Name
		}
	}
	return string(z)
}

func evidence(t Test, s SideSummary) Evidence {
	e := Evidence{Test: t.ID, Name: t.Name, Side: s.Side, Value: s.Value, Margin: s.Margin, Unit: t.Unit, Decimals: t.Decimals, Label: s.Label, Verdict: s.Verdict, Source: t.Source}
	if s.Cut != nil {
		e.Source = s.Cut.Source
	}
	return e
}

func relevance(in Input, base int, explains []Pattern) int {
	for _, c := range in.Complaints {
		if slices.Contains(explains, c.Pattern()) {
			return 3
		}
	}
	return base
}

func prioritise(severity, relevance, lever int) Priority {
	return Priority{Severity: severity, Relevance: relevance, Lever: lever, Total: severity * relevance * lever}
}

func (f factor) find(in Input, by map[TestID]Result) (Finding, bool) {
	out := Finding{Factor: f.id, Name: f.name, Explains: f.explains, Do: f.do, Ladders: f.ladders, Confidence: Sure, Evidence: []Evidence{}}
	limited := 0
	unsided := true
	for _, side := range body.Sides {
		l := look{in, by, side}
		s, used, unsure := f.hit(l)
		if s == 0 {
			continue
		}
		if s >= 2 && complaintIn(in, f.zones, side) {
			s = 3
		}
		if s >= 2 {
			limited++
		}
		out.Severity = max(out.Severity, s)
		if unsure {
			out.Confidence = OneReading
		}
		for _, id := range used {
			t, _ := Find(id)
			sum := l.get(id)
			if !sum.Measured() && len(sum.Seen) == 0 {
				continue
			}
			unsided = unsided && !t.Sided
			if slices.ContainsFunc(out.Evidence, func(e Evidence) bool { return e.Test == id && e.Side == sum.Side }) {
				continue
			}
			if sum.Borderline && out.Confidence == Sure {
				out.Confidence = Uncertain
			}
			out.Evidence = append(out.Evidence, evidence(t, sum))
		}
		if out.Side == "" {
			out.Side = side
		} else {
			out.Side = body.Both
		}
	}
	if out.Severity == 0 {
		return out, false
	}
	if limited == 2 && !unsided {
		out.Severity = 3 // both sides limited
	}
	out.Priority = prioritise(out.Severity, relevance(in, f.relevant, f.patterns), f.lever)
	return out, true
}

func complaintIn(in Input, zones []Zone, side body.Side) bool {
	return slices.ContainsFunc(in.Complaints, func(c Complaint) bool { return c.Side == side && slices.Contains(zones, c.Zone) })
}

// unevenFactor is a difference between the sides of a test that no finding speaks of.
const unevenFactor Factor = "asymmetry"

func uneven(in Input, t Test, r Result) (Finding, bool) {
	a := r.Asymmetry
	strike := t.ID == StrikeEasy && a.Known && a.Difference != 0
	if !strike && (!a.Known || !a.Clear) {
		return Finding{}, false
	}
	f := Finding{
		Factor: unevenFactor, Name: "Sides differ: " + t.Name, Side: a.Weaker, Severity: 1, Confidence: Sure,
		Evidence: []Evidence{evidence(t, r.Left), evidence(t, r.Right)},
		Explains: "The difference is larger than the noise of the test.", Do: "The weaker side goes first, one set more.", Ladders: []string{},
	}
	if f.Side == "" {
		f.Side = body.Both
	}
	if a.Class == Limited || (a.LSI != nil && *a.LSI < OnlyOKShare*100) {
		f.Severity = 2
	}
	f.Priority = prioritise(f.Severity, relevance(in, 2, nil), leverForm)
	return f, true
}

// rank sorts by priority, then one-sided before both, then lever, and marks
// what is worked on; a promoted finding comes first, a demoted one waits.
func rank(fs []Finding, choices []Choice) {
	place := map[string]Choice{}
	for _, c := range choices {
		place[c.Key] = c
	}
	bias := func(f Finding) int {
		switch place[f.Key()].Move {
		case "promote":
			return -1
		case "demote":
			return 1
		}
		return 0
	}
	slices.SortStableFunc(fs, func(a, b Finding) int {
		return cmp.Or(cmp.Compare(bias(a), bias(b)), cmp.Compare(b.Priority.Total, a.Priority.Total),
			cmp.Compare(b.Severity, a.Severity), cmp.Compare(b.Priority.Lever, a.Priority.Lever))
	})
	worked := 0
	for i := range fs {
		c := place[fs[i].Key()]
		fs[i].Remark = c.Remark
		switch {
		case c.Move == "demote":
			fs[i].Moved, fs[i].Waits = "demoted: "+c.Reason, "You let it wait: "+c.Reason
			continue
		case c.Move == "promote":
			fs[i].Moved = "promoted"
			if c.Reason != "" {
				fs[i].Moved += ": " + c.Reason
			}
		}
		if fs[i].Factor == unevenFactor {
			fs[i].Waits = "It takes no place: the weaker side goes first and gets one set more."
			continue
		}
		fs[i].WorkedOn = worked < MaxWorkedOn
		worked++
		if !fs[i].WorkedOn {
			fs[i].Waits = "Three findings are worked on at once; this one comes next."
		}
	}
}
