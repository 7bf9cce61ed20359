package screening

import (
	"cmp"
	"slices"

	"notchback/core/body"
	"notchback/core/source"
)

// Factor names what limits a runner.
type Factor string

// The factors found so far.
const (
	AnkleStiff Factor = "ankle-stiff"
	SoleTight  Factor = "sole-tight"
	CalfWeak   Factor = "calf-weak"
	Uneven     Factor = "asymmetry"
)

// Lever is how early a factor stands in the order of work.
type Lever int

// The levers of the rulebook, by order of work.
const (
	LeverForm     Lever = 2
	LeverStrength Lever = 2
	LeverRange    Lever = 3
)

// Priority is the arithmetic that orders findings.
type Priority struct {
	Severity  int `json:"severity"`
	Relevance int `json:"relevance" doc:"3 explains the main complaint or gates the goal, 2 serves running, 1 otherwise"`
	Lever     int `json:"lever" doc:"By order of work: range and control 3, strength 2"`
	Total     int `json:"total"`
}

// Evidence is one reading behind a finding.
type Evidence struct {
	Test    TestID     `json:"test"`
	Side    body.Side  `json:"side" enum:"left,right"`
	Value   *float64   `json:"value,omitempty"`
	Margin  *float64   `json:"margin,omitempty"`
	Unit    string     `json:"unit"`
	Verdict Verdict    `json:"verdict"`
	Source  source.Tag `json:"source"`
}

// Finding is a conclusion with its evidence. It never names a disease.
type Finding struct {
	Factor     Factor     `json:"factor"`
	Name       string     `json:"name"`
	Side       body.Side  `json:"side" enum:"left,right,both"`
	Severity   int        `json:"severity" minimum:"0" maximum:"3"`
	Confidence Confidence `json:"confidence"`
	Evidence   []Evidence `json:"evidence" nullable:"false"`
	Explains   string     `json:"explains"`
	Do         string     `json:"do"`
	Ladders    []string   `json:"ladders" nullable:"false" doc:"Ladders that work on it"`
	Priority   Priority   `json:"priority"`
	WorkedOn   bool       `json:"workedOn"`
	Waits      string     `json:"waits,omitempty" doc:"Why it waits, when it is not worked on"`
}

// MaxWorkedOn is how many findings are worked on at once.
const MaxWorkedOn = 3

type factorRule struct {
	factor   Factor
	test     TestID
	name     string
	lever    Lever
	explains string
	do       string
	ladders  []string
}

var factorRules = []factorRule{
	{AnkleStiff, KneeToWall, "Ankle bends too little", LeverRange,
		"A short bend at the ankle makes the heel leave early and the foot turn or roll to get by.",
		"Soleus stretch with the arch locked.", []string{"range-soleus"}},
	{SoleTight, BigToePassive, "Big toe lifts too little", LeverRange,
		"With the ankle bent the sole is on stretch; a big toe that can't lift there has less to push off with. Foot flat tells the sole from the joint: measure it too.",
		"Big-toe and sole range, gently.", []string{"range-toe"}},
	{CalfWeak, SingleRaise, "Calf tires early", LeverStrength,
		"Every running step asks the calf for several body weights; a calf that tires early hands the load on.",
		"Calf raises, straight knee.", []string{"calf-straight"}},
}

// Findings derives what limits the runner from the results. The list is sorted
// by priority; at most MaxWorkedOn are worked on, the others say why they wait.
func Findings(results []Result) []Finding {
	out := []Finding{}
	byTest := map[TestID]Result{}
	for _, r := range results {
		byTest[r.Test] = r
	}
	for _, rule := range factorRules {
		if r, ok := byTest[rule.test]; ok {
			if f, found := rule.apply(r); found {
				out = append(out, f)
			}
		}
	}
	for _, t := range tests {
		if r, ok := byTest[t.ID]; ok {
			if f, found := uneven(t, r); found {
				out = append(out, f)
			}
		}
	}
	rank(out)
	return out
}

func evidence(t Test, s SideSummary) Evidence {
	e := Evidence{Test: t.ID, Side: s.Side, Value: s.Value, Margin: s.Margin, Unit: t.Unit, Verdict: s.Verdict, Source: s.Cut.Source}
	return e
}

func (rule factorRule) apply(r Result) (Finding, bool) {
	t, _ := Find(rule.test)
	f := Finding{
		Factor: rule.factor, Name: rule.name, Explains: rule.explains, Do: rule.do,
		Ladders: rule.ladders, Confidence: Sure,
	}
	hit := []SideSummary{}
	limited := 0
	for _, side := range body.Sides {
		s := r.Side(side)
		if s.Severity == 0 {
			continue
		}
		hit = append(hit, s)
		f.Severity = max(f.Severity, s.Severity)
		if s.Severity == 2 {
			limited++
		}
		f.Evidence = append(f.Evidence, evidence(t, s))
	}
	if len(hit) == 0 {
		return Finding{}, false
	}
	f.Side = hit[0].Side
	f.Confidence = hit[0].Confidence
	if len(hit) == 2 {
		f.Side = body.Both
		if hit[1].Severity > hit[0].Severity {
			f.Confidence = hit[1].Confidence
		}
	}
	if limited == 2 {
		f.Severity = 3 // both sides limited
	}
	if rule.factor == SoleTight {
		f.Confidence = OneReading // the foot-flat reading that would tell sole from joint is missing
	}
	f.Priority = prioritise(f.Severity, rule.lever)
	return f, true
}

func prioritise(severity int, lever Lever) Priority {
	const relevance = 2 // serves running in general; complaints raise it
	return Priority{Severity: severity, Relevance: relevance, Lever: int(lever), Total: severity * relevance * int(lever)}
}

func uneven(t Test, r Result) (Finding, bool) {
	a := r.Asymmetry
	if !a.Known || !a.Clear {
		return Finding{}, false
	}
	f := Finding{
		Factor: Uneven, Name: "Sides differ: " + t.Name, Side: a.Weaker, Severity: 1, Confidence: Sure,
		Evidence: []Evidence{evidence(t, r.Left), evidence(t, r.Right)},
		Explains: "The difference is larger than the noise of the test.",
		Do:       "The weaker side goes first.",
		Ladders:  []string{},
	}
	if a.Class == Limited || (a.LSI != nil && *a.LSI < OnlyOKShare*100) {
		f.Severity = 2
	}
	f.Priority = prioritise(f.Severity, LeverStrength)
	return f, true
}

// rank sorts by priority, then lever, then the factor's name, and marks what is worked on.
func rank(fs []Finding) {
	slices.SortStableFunc(fs, func(a, b Finding) int {
		return cmp.Or(cmp.Compare(b.Priority.Total, a.Priority.Total), cmp.Compare(b.Priority.Lever, a.Priority.Lever))
	})
	for i := range fs {
		fs[i].WorkedOn = i < MaxWorkedOn
		if !fs[i].WorkedOn {
			fs[i].Waits = "Three findings are worked on at once; this one comes next."
		}
	}
}
