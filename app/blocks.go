package app

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/load"
	"notchback/core/planning"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/core/words"
	"notchback/store"
)

// NotchView is one notch in words.
type NotchView struct {
	Words   string         `json:"words" doc:"one leg 3 × 8"`
	Dose    string         `json:"dose"`
	Short   string         `json:"short"`
	Name    string         `json:"name"`
	Tempo   string         `json:"tempo,omitempty"`
	More    string         `json:"more,omitempty"`
	ID      string         `json:"exercise" doc:"The exercise, for its drawing"`
	SetUp   string         `json:"setUp"`
	Cues    []string       `json:"cues" nullable:"false"`
	Caution []string       `json:"cautions" nullable:"false"`
	Gate    catalogue.Gate `json:"gate,omitempty"`
	Locked  string         `json:"locked,omitempty" doc:"Name of the closed gate before it"`
	Source  string         `json:"source"`
}

// PegView is where one side stands.
type PegView struct {
	Side    body.Side `json:"side" enum:"left,right"`
	Notch   int       `json:"notch"`
	Stopped bool      `json:"stopped"`
}

// DecisionView is a decision with its sentences.
type DecisionView struct {
	ID             string          `json:"id"`
	Version        int             `json:"version"`
	PrescriptionID string          `json:"prescriptionId"`
	LadderName     string          `json:"ladderName"`
	Side           body.Side       `json:"side" enum:"left,right,both"`
	On             day.Date        `json:"on" format:"date"`
	State          string          `json:"state" enum:"proposed,applied,accepted,overridden,waiting"`
	Move           string          `json:"move" doc:"one leg 3 × 8 → 3 × 12"`
	Sentence       string          `json:"sentence"`
	Because        string          `json:"because" doc:"What it rests on, without the move"`
	Reasons        []ReasonView    `json:"reasons" nullable:"false"`
	ForUp          []ConditionView `json:"forUp" nullable:"false"`
	Decision       adjust.Decision `json:"decision"`
	AnswerNotch    *int            `json:"answerNotch,omitempty"`
	AnswerReason   string          `json:"answerReason,omitempty"`
}

// ReasonView is one reason in words with its source.
type ReasonView struct {
	Text   string     `json:"text"`
	Row    adjust.Row `json:"row"`
	Source string     `json:"source"`
}

// ConditionView is one thing an up needs, in words.
type ConditionView struct {
	Text string `json:"text"`
	Met  bool   `json:"met"`
}

// PrescriptionView is one ladder of a block.
type PrescriptionView struct {
	ID           string           `json:"id"`
	Ladder       string           `json:"ladder"`
	Name         string           `json:"name"`
	Effort       catalogue.Effort `json:"effort" enum:"reserve,twenty,none"`
	Purpose      string           `json:"purpose"`
	Notches      []NotchView      `json:"notches" nullable:"false"`
	Pegs         []PegView        `json:"pegs" nullable:"false" doc:"Left, then right"`
	Together     bool             `json:"together" doc:"Both pegs stand on the same two-legged notch"`
	StartNotch   int              `json:"startNotch"`
	StartReasons []ReasonView     `json:"startReasons" nullable:"false"`
	ExtraSetSide body.Side        `json:"extraSetSide,omitempty" enum:"left,right,"`
	Latest       []DecisionView   `json:"latest" nullable:"false" doc:"The newest decision of each side"`
	Plan         *ChoiceView      `json:"plan,omitempty" doc:"Why it is in the block, and where it is expected to go"`
	LeftOut      string           `json:"leftOut,omitempty" doc:"Why it was left out since"`
	ByRamp       bool             `json:"byRamp,omitempty" doc:"The barefoot ramp stands in for it"`
	Own          *catalogue.Dose  `json:"own,omitempty" doc:"The coach's own dose at the present notch"`
	Dose         catalogue.Dose   `json:"dose" doc:"Of the present notch, left side"`
}

// DoseView is what one ladder asks on one day.
type DoseView struct {
	PrescriptionID string `json:"prescriptionId"`
	Ladder         string `json:"ladder"`
	Name           string `json:"name"`
	Exercise       string `json:"exercise"`
	Left           string `json:"left"`
	Right          string `json:"right"`
	Same           bool   `json:"same"`
	Note           string `json:"note,omitempty"`
}

// SessionView is one planned sitting in words.
type SessionView struct {
	Kind    planning.SessionKind `json:"kind" enum:"micro,main,evening,drill,exposure"`
	Name    string               `json:"name"`
	When    string               `json:"when,omitempty"`
	Minutes int                  `json:"minutes"`
	Moved   *day.Date            `json:"moved,omitempty" format:"date" doc:"Where it stood before it was moved"`
	Doses   []DoseView           `json:"doses" nullable:"false"`
}

// DayView is one day of a block.
type DayView struct {
	On       day.Date         `json:"on" format:"date"`
	In       bool             `json:"in" doc:"Within the block"`
	Run      planning.RunKind `json:"run,omitempty"`
	Race     bool             `json:"race,omitempty"`
	Retest   string           `json:"retest,omitempty" doc:"What is tested again that day"`
	Sessions []SessionView    `json:"sessions" nullable:"false"`
	Ramp     []RampDay        `json:"ramp" nullable:"false" doc:"What the barefoot ramp and the change of cadence hold that day"`
	Logged   bool             `json:"logged"`
	Done     []DoseView       `json:"done" nullable:"false" doc:"What was logged"`
}

// WeekView is one week of a block.
type WeekView struct {
	Number  int               `json:"number"`
	Kind    planning.WeekKind `json:"kind" enum:"normal,deload,race,half"`
	Label   string            `json:"label,omitempty"`
	Planned int               `json:"planned" doc:"Minutes"`
	Free    int               `json:"free" doc:"Minutes the runner has"`
	Days    []DayView         `json:"days" nullable:"false"`
}

// MorningView is a first-step reading.
type MorningView struct {
	adjust.Morning
	Jumped bool `json:"jumped" doc:"So far over the usual that it takes load away"`
}

// FlagView is a standing flag in words.
type FlagView struct {
	safety.Standing
	Text    string `json:"text"`
	Cleared bool   `json:"cleared" doc:"A clearance runs"`
}

// Block is a plan with where it stands.
type Block struct {
	ID            string                 `json:"id"`
	RunnerID      string                 `json:"runnerId"`
	RunnerName    string                 `json:"runnerName"`
	ScreeningID   string                 `json:"screeningId"`
	StartOn       day.Date               `json:"startOn" format:"date"`
	EndOn         day.Date               `json:"endOn" format:"date"`
	Today         day.Date               `json:"today" format:"date"`
	Ended         bool                   `json:"ended"`
	Baseline      float64                `json:"baseline" doc:"Usual first-step pain at the start, B0"`
	Weeks         []WeekView             `json:"weeks" nullable:"false"`
	Prescriptions []PrescriptionView     `json:"prescriptions" nullable:"false"`
	Decisions     []DecisionView         `json:"decisions" nullable:"false" doc:"Newest first"`
	Gates         []safety.GateState     `json:"gates" nullable:"false"`
	Mornings      []MorningView          `json:"mornings" nullable:"false"`
	Flags         []FlagView             `json:"flags" nullable:"false"`
	Cautions      []string               `json:"cautions" nullable:"false"`
	Phases        []planning.RegionPhase `json:"phases" nullable:"false" doc:"Where each region stands today"`
	PhaseMoved    []string               `json:"phaseMoved" nullable:"false" doc:"Regions whose phase changed since the plan was made"`
	Left          []planning.Left        `json:"left" nullable:"false" doc:"Looked at and left out"`
	Minimum       []MinimumView          `json:"minimum" nullable:"false" doc:"Five minutes a day"`
	Says          []string               `json:"says" nullable:"false"`
	Main          []MainDay              `json:"main" nullable:"false"`
	Changes       []ChangeView           `json:"changes" nullable:"false" doc:"Moves and edits, newest first"`
	Wishes        planning.Wishes        `json:"wishes"`
	Revision      int                    `json:"revision" doc:"Of the moves and edits; sent back with the next"`
	Caps          []string               `json:"caps" nullable:"false" doc:"What limits every session now"`
	AutoProgress  bool                   `json:"autoProgress" doc:"Steps up go by themselves"`
	QuietHolds    bool                   `json:"quietHolds" doc:"In this flare quiet holds may go on; the block has none"`
	NewEngine     bool                   `json:"newEngine" doc:"The engine changed; somebody should look before steps up go by themselves"`
}

// frame is everything a block's decisions are made from.
type frame struct {
	block         store.Block
	runner        store.Runner
	dossier       *dossier
	start         day.Date
	now           time.Time
	today         day.Date
	gates         []safety.GateState
	prescriptions []store.Prescription
	ladders       map[string]catalogue.Ladder // by prescription
	pegs          map[string]map[body.Side]*store.Peg
	items         []store.SessionItem
	decisions     []store.Decision
	mornings      []adjust.Morning
	flags         []safety.Standing
	b0            float64
	plan          planning.Proposal
	changes       []keptChange
	rev           int
	cat           catalogue.Catalogue
	layers        layered
	phases        []planning.RegionPhase
	g             *gathered
	illness       adjust.Illness
	running       load.Class
	engine        int // the edition the practice lets work
	flareNow      []adjust.Flare
	readings      []store.Morning
	path          *path
	// derived once, when first asked for
	sessionsOf  map[sideOf][]adjust.Session
	weekViews   []WeekView
	springBegun map[day.Date]bool
}

func (a *App) loadFrame(ctx context.Context, tx *store.Tx, act Actor, b store.Block) (*frame, error) {
	d, err := a.loadDossier(ctx, tx, act, b.RunnerID)
	if err != nil {
		return nil, err
	}
	l, err := a.catalogueFor(ctx, tx)
	if err != nil {
		return nil, err
	}
	return a.loadFrameWith(ctx, tx, act, b, d, l)
}

func (a *App) loadFrameWith(ctx context.Context, tx *store.Tx, act Actor, b store.Block, d *dossier, layers layered) (*frame, error) {
	f := &frame{block: b, runner: d.runner, dossier: d, cat: layers.Catalogue, layers: layers, start: dateOf(b.StartOn), now: a.now().In(act.zone), today: a.Today(act), ladders: map[string]catalogue.Ladder{}, pegs: map[string]map[body.Side]*store.Peg{}}
	var err error
	if err := json.Unmarshal(b.Plan, &f.plan); err != nil {
		return nil, fmt.Errorf("plan of block %s: %w", b.ID, err)
	}
	if err := f.loadChanges(ctx, tx); err != nil {
		return nil, err
	}
	if f.prescriptions, err = tx.Prescriptions(ctx, b.ID); err != nil {
		return nil, err
	}
	for _, p := range f.prescriptions {
		l, err := ladderOf(p, layers)
		if err != nil {
			return nil, err
		}
		f.ladders[p.ID] = l
		f.pegs[p.ID] = map[body.Side]*store.Peg{}
	}
	pegs, err := tx.Pegs(ctx, b.ID)
	if err != nil {
		return nil, err
	}
	for i := range pegs {
		f.pegs[pegs[i].PrescriptionID][body.Side(pegs[i].Side)] = &pegs[i]
	}
	if f.items, err = tx.SessionItems(ctx, b.ID); err != nil {
		return nil, err
	}
	if f.decisions, err = tx.Decisions(ctx, b.ID); err != nil {
		return nil, err
	}
	if f.engine, err = tx.EngineOf(ctx); err != nil {
		return nil, err
	}
	if f.engine == 0 {
		f.engine = adjust.Version // nothing was decided by an older one
	}
	if f.g, err = a.gather(ctx, tx, act, b.RunnerID, d); err != nil {
		return nil, err
	}
	for _, m := range f.g.mornings {
		if dateOf(m.On) >= f.start-14 {
			f.readings = append(f.readings, m)
		}
	}
	f.mornings, f.b0 = f.series(nil, body.Both)
	f.illness, f.running = f.g.illness(), f.g.running(f.today).Class
	f.flags = f.dossier.standingFlags()
	e := f.evidence()
	e.Flare = f.lastFlare()
	e.Barefoot = f.plan.Wishes.School.Is("barefoot")
	kept, err := loadRamps(ctx, tx, b.RunnerID)
	if err != nil {
		return nil, err
	}
	f.path = &path{rampKept: kept, d: d, g: f.g, f: f, today: f.today, school: f.plan.Wishes.School, evidence: e, flares: f.pastFlares()}
	f.path.look()
	f.gates = f.path.gates
	f.settle()
	f.phases = planning.Phases(f.planEvidence())
	return f, nil
}

// ladderOf returns a prescription's ladder as it was when it was made.
func ladderOf(p store.Prescription, layers layered) (catalogue.Ladder, error) {
	if len(p.LadderData) > 0 {
		var l catalogue.Ladder
		err := json.Unmarshal(p.LadderData, &l)
		return l, err
	}
	l, ok := layers.Ladder(p.Ladder)
	if !ok {
		return l, errors.New("ladder " + p.Ladder + " is not in the catalogue")
	}
	return l, nil
}

// settle gives decisions that waited for a morning their final state once the
// morning counts as missing.
func (f *frame) settle() {
	on := map[string]day.Date{}
	for _, it := range f.items {
		on[it.LogID] = dateOf(it.On)
	}
	for i := range f.decisions {
		d := &f.decisions[i]
		if d.State != "waiting" || f.waits(on[d.LogID]) {
			continue
		}
		d.State = "applied"
		if d.Verdict == string(adjust.Up) {
			d.State = "proposed"
		}
	}
}

func standing(fl store.Flag) safety.Standing {
	s := safety.Standing{
		Flag: safety.FlagID(fl.Flag), Level: safety.Level(fl.Level), Since: dateOf(fl.Since), Side: body.Side(fl.Side),
		Everything: fl.Everything, ProgressOnly: fl.ProgressOnly,
	}
	for _, t := range fl.Tissues {
		s.Tissues = append(s.Tissues, body.Tissue(t))
	}
	return s
}

// evidence gathers what gates are decided on: the screening's raises and clean
// two-leg sets from the log.
func (f *frame) evidence() safety.Evidence {
	e := f.dossier.evidence(0, f.today)
	for _, it := range f.items {
		l := f.ladders[it.PrescriptionID]
		n := l.At(it.Notch)
		raises := l.ID == "calf-straight" && n.Exercise.ID == "raise-two" && n.Dose.Sets >= 3 && n.Dose.Reps >= 15
		if !raises && !pogoMinute(n) {
			continue
		}
		on := dateOf(it.On)
		h := adjust.History{Mornings: f.mornings, B0: f.b0}
		switch clean := safety.CleanTwoLeg(it.Pain, it.Done, f.morning(on+1), h.Baseline(on)); {
		case clean && raises:
			e.TwoLegClean = &on
		case clean:
			e.PogoClean = &on
		}
	}
	return e
}

func (f *frame) morning(on day.Date) *body.Pain {
	for _, m := range f.mornings {
		if m.On == on {
			p := m.FirstStep
			return &p
		}
	}
	return nil
}

// series are the first-step readings a ladder looks at: of each morning the
// worst of the places that share its tissue and side, and of the general
// readings; with where they began. Without tissues all places count.
func (f *frame) series(tissues []body.Tissue, side body.Side) ([]adjust.Morning, float64) {
	var out []adjust.Morning
	var first []body.Pain
	for _, m := range f.readings {
		if m.FirstStep == nil || !shares(m, tissues, side) {
			continue
		}
		on := dateOf(m.On)
		if n := len(out); n > 0 && out[n-1].On == on {
			out[n-1].FirstStep = max(out[n-1].FirstStep, *m.FirstStep)
			continue
		}
		out = append(out, adjust.Morning{On: on, FirstStep: *m.FirstStep})
	}
	for _, m := range out {
		if m.On >= f.start {
			first = append(first, m.FirstStep)
		}
	}
	return out, adjust.StartingBaseline(first, f.runner.IntakeFirstStep)
}

func shares(m store.Morning, tissues []body.Tissue, side body.Side) bool {
	if m.Side != "" && side != body.Both && m.Side != string(side) {
		return false
	}
	if m.Zone == "" || len(tissues) == 0 {
		return true
	}
	return slices.ContainsFunc(screening.Zone(m.Zone).Tissues(), func(t body.Tissue) bool { return slices.Contains(tissues, t) })
}

// rests are the readings of pain at rest a ladder looks at, with where they
// began.
func (f *frame) rests(tissues []body.Tissue, side body.Side) ([]adjust.Rest, float64) {
	var out []adjust.Rest
	var first []body.Pain
	for _, m := range f.readings {
		if m.Rest == nil || !shares(m, tissues, side) {
			continue
		}
		out = append(out, adjust.Rest{On: dateOf(m.On), Pain: *m.Rest})
		if dateOf(m.On) >= f.start {
			first = append(first, *m.Rest)
		}
	}
	return out, adjust.StartingBaseline(first, nil)
}

// Block returns a block with where it stands.
func (a *App) Block(ctx context.Context, act Actor, id string) (Block, error) {
	var out Block
	err := a.store.In(ctx, act.Practice, func(tx *store.Tx) error {
		b, err := tx.Block(ctx, id)
		if err != nil {
			return err
		}
		out, err = a.blockView(ctx, tx, act, b)
		return err
	})
	return out, err
}

// CurrentBlock returns a runner's present block, nil where there is none.
func (a *App) CurrentBlock(ctx context.Context, act Actor, runner string) (*Block, error) {
	var out *Block
	err := a.store.In(ctx, act.Practice, func(tx *store.Tx) error {
		if _, err := tx.Runner(ctx, runner); err != nil {
			return err
		}
		b, err := tx.CurrentBlock(ctx, runner)
		if errors.Is(err, ErrNotFound) {
			return nil
		}
		if err != nil {
			return err
		}
		view, err := a.blockView(ctx, tx, act, b)
		out = &view
		return err
	})
	return out, err
}

func (a *App) blockView(ctx context.Context, tx *store.Tx, act Actor, b store.Block) (Block, error) {
	f, err := a.loadFrame(ctx, tx, act, b)
	if err != nil {
		return Block{}, err
	}
	return f.view()
}

func (f *frame) view() (Block, error) {
	f.flareNow = f.flares()
	out := Block{
		ID: f.block.ID, RunnerID: f.runner.ID, RunnerName: f.runner.Name, ScreeningID: f.block.ScreeningID, StartOn: f.start,
		EndOn: f.start + day.Date(7*f.block.Weeks) - 1, Today: f.today, Ended: f.block.EndedAt != nil, Baseline: f.b0,
		Gates: f.gates, Mornings: []MorningView{}, Cautions: safety.Cautions,
		Decisions: []DecisionView{}, Flags: []FlagView{}, Prescriptions: []PrescriptionView{},
		Phases: f.phases, PhaseMoved: f.phaseMoved(), Left: append([]planning.Left{}, f.plan.Left...), Minimum: []MinimumView{}, Says: append([]string{}, f.plan.Says...),
		Main: []MainDay{}, Changes: f.changeViews(), Wishes: f.plan.Wishes, Revision: f.rev, AutoProgress: f.runner.AutoProgress, QuietHolds: f.offersQuietHolds(), NewEngine: f.engine != adjust.Version,
	}
	for _, m := range f.plan.Layout.MainWhy {
		out.Main = append(out.Main, MainDay{m.Day, whys(m.Why)})
	}
	for _, m := range f.plan.Minimum {
		if l, ok := f.cat.Ladder(m.Ladder); ok && m.Notch <= l.Len() {
			out.Minimum = append(out.Minimum, MinimumView{m.Ladder, l.Name, words.Notch(l.At(m.Notch)), m.Seconds / 60})
		}
	}
	for _, m := range f.mornings {
		out.Mornings = append(out.Mornings, MorningView{m, adjust.Jumped(m.FirstStep, f.b0)})
	}
	for _, fl := range append(slices.Clone(f.flags), f.flareFlags()...) {
		out.Flags = append(out.Flags, FlagView{Standing: fl, Text: words.Flag(fl)})
	}
	out.Caps = f.caps()
	for i := len(f.decisions) - 1; i >= 0; i-- {
		v, err := f.decisionView(f.decisions[i])
		if err != nil {
			return out, err
		}
		out.Decisions = append(out.Decisions, v)
	}
	for _, p := range f.prescriptions {
		v, err := f.prescriptionView(p, out.Decisions)
		if err != nil {
			return out, err
		}
		out.Prescriptions = append(out.Prescriptions, v)
	}
	out.Weeks = f.weeks()
	return out, nil
}

func (f *frame) decisionView(d store.Decision) (DecisionView, error) {
	l := f.ladders[d.PrescriptionID]
	v := DecisionView{
		ID: d.ID, Version: d.Version, PrescriptionID: d.PrescriptionID, LadderName: l.Name, Side: body.Side(d.Side), On: dateOf(d.On),
		State: d.State, Sentence: d.Sentence, AnswerNotch: d.AnswerNotch, AnswerReason: d.AnswerReason,
		Reasons: []ReasonView{}, ForUp: []ConditionView{},
	}
	if err := json.Unmarshal(d.Decision, &v.Decision); err != nil {
		return v, err
	}
	v.Move, v.Because = words.Move(l, v.Decision), words.Because(v.Decision)
	for _, r := range v.Decision.Reasons {
		v.Reasons = append(v.Reasons, ReasonView{words.Reason(r), r.Row, r.Source.String()})
	}
	for _, c := range v.Decision.ForUp {
		v.ForUp = append(v.ForUp, ConditionView{words.Condition(c), c.Met})
	}
	return v, nil
}

func (f *frame) prescriptionView(p store.Prescription, decisions []DecisionView) (PrescriptionView, error) {
	l := f.ladders[p.ID]
	v := PrescriptionView{
		ID: p.ID, Ladder: l.ID, ByRamp: f.path.ramp != nil && byRamp(l.ID), Name: l.Name, Effort: l.Effort, Purpose: l.Purpose, StartNotch: p.StartNotch, ExtraSetSide: body.Side(p.ExtraSetSide),
		StartReasons: []ReasonView{}, Latest: []DecisionView{}, Together: f.together(p.ID), LeftOut: f.leftOut(p.Ladder, f.today),
	}
	at := f.pegs[p.ID][body.Left].Notch
	v.Dose = l.At(at).Dose
	if d, ok := f.ownDose(p.ID, at, f.today); ok {
		v.Own = &d
	}
	for i, ch := range f.plan.Choices {
		if ch.Ladder == p.Ladder {
			c := choiceView(f.plan, i, ch, l, f.name)
			v.Plan = &c
		}
	}
	for _, n := range l.Notches {
		nv := NotchView{
			Words: words.Notch(n), Dose: words.Dose(n.Dose), Short: n.Exercise.Short, Name: n.Exercise.Name, Tempo: words.Tempo(n.Dose), More: n.Dose.More, ID: n.Exercise.ID, SetUp: n.Exercise.SetUp,
			Cues: n.Exercise.Cues, Caution: append([]string{}, n.Exercise.Cautions...), Gate: n.Gate, Source: n.Exercise.Source.String(),
		}
		if g, ok := safety.Find(f.gates, n.Gate); n.Gate != "" && (!ok || !g.Open) {
			nv.Locked = g.Name
			nv.Caution = append(nv.Caution, "Opens with: "+strings.Join(g.Missing, "; "))
		}
		v.Notches = append(v.Notches, nv)
	}
	for _, side := range body.Sides {
		peg := f.pegs[p.ID][side]
		v.Pegs = append(v.Pegs, PegView{side, peg.Notch, peg.HaltRow != nil})
	}
	var reasons []planning.Reason
	if err := json.Unmarshal(p.StartReasons, &reasons); err != nil {
		return v, err
	}
	for _, r := range reasons {
		v.StartReasons = append(v.StartReasons, ReasonView{Text: words.Start(l, r), Source: r.Source.String()})
	}
	seen := map[body.Side]bool{}
	for _, d := range decisions { // newest first
		if d.PrescriptionID != p.ID || seen[d.Side] || seen[body.Both] || (d.Side == body.Both && len(seen) > 0) {
			continue
		}
		seen[d.Side] = true
		v.Latest = append(v.Latest, d)
	}
	return v, nil
}

func (f *frame) together(prescription string) bool {
	l, r := f.pegs[prescription][body.Left], f.pegs[prescription][body.Right]
	return l.Notch == r.Notch && f.ladders[prescription].At(l.Notch).Together()
}

// notchOn returns what a side is asked on a date: the present notch with the
// coach's own dose, one set more on the weaker side of one-legged work, lighter
// in weeks that are, never more bounces than allowed.
func (f *frame) notchOn(p store.Prescription, side body.Side, on day.Date) (catalogue.Notch, string) {
	at := f.pegs[p.ID][side].Notch
	n := f.ladders[p.ID].At(at)
	note := ""
	if d, ok := f.ownDose(p.ID, at, on); ok {
		n.Dose, note = d, "the coach's own dose"
	}
	if string(side) == f.extraSet(p, on) && !n.Together() {
		n.Dose.Sets++
	}
	n.Dose = planning.DoseIn(n.Dose, planning.KindOf(f.start, f.plan.Wishes.Race, on))
	if reps := adjust.RepCap(f.sessions(p.ID, side), f.ladders[p.ID], at, on); reps > 0 && n.Dose.Reps > reps {
		n.Dose.Reps, note = reps, "fewer repetitions after the cramp"
	}
	if on.Monday() == f.today.Monday() && on >= f.today && adjust.CutsSets(f.ladders[p.ID], at, f.running) {
		n.Dose, note = planning.Deload(n.Dose), "fewer sets while running jumps"
	}
	if until := (adjust.Context{Illness: f.illness, Today: f.today}).HalfUntil(); until != nil && on >= f.today && on <= *until {
		n.Dose, note = planning.Half(n.Dose), "half, after the illness"
	}
	if d, cut := planning.CapSpring(n, f.springWeeks(on)); cut {
		n.Dose, note = d, "cut to the contacts allowed a session"
	}
	return n, note
}

func (f *frame) doseOn(p store.Prescription, side body.Side, on day.Date) string {
	if f.pegs[p.ID][side].HaltRow != nil {
		return "stopped"
	}
	n, _ := f.notchOn(p, side, on)
	for _, fl := range f.flags {
		if fl.Closes(p.Ladder, side, n.Tissues) {
			return "stopped"
		}
	}
	for _, x := range f.flareNow {
		if x.Closes(p.Ladder, f.pegs[p.ID][side].Notch, side, n.Tissues) {
			return "stopped"
		}
	}
	if f.illOn(on) {
		return "no session while ill"
	}
	return words.Notch(n)
}

// springWeeks counts the weeks of spring work behind a date.
func (f *frame) springWeeks(on day.Date) int {
	if f.springBegun == nil {
		f.springBegun = map[day.Date]bool{}
		for _, it := range f.items {
			if f.ladders[it.PrescriptionID].Purpose == "spring" {
				f.springBegun[dateOf(it.On).Monday()] = true
			}
		}
	}
	n := 0
	for monday := range f.springBegun {
		if monday < on.Monday() {
			n++
		}
	}
	return n
}

func (f *frame) weeks() []WeekView {
	if f.weekViews == nil {
		f.weekViews = f.layWeeks()
	}
	return f.weekViews
}

func (f *frame) layWeeks() []WeekView {
	logged := map[day.Date]bool{}
	for _, it := range f.items {
		logged[dateOf(it.On)] = true
	}
	end := f.end()
	out := []WeekView{}
	for monday, n := f.start.Monday(), 1; monday <= end; monday, n = monday+7, n+1 {
		kind := planning.KindOf(f.start, f.plan.Wishes.Race, max(monday, f.start))
		w := WeekView{Number: n, Kind: kind, Label: words.WeekKind(kind)}
		for i := range 7 {
			on := monday + day.Date(i)
			d := DayView{On: on, In: on >= f.start && on <= end, Logged: logged[on], Run: f.plan.Wishes.Runs[i], Sessions: []SessionView{}, Ramp: []RampDay{}, Done: []DoseView{}, Retest: f.retestOn(on)}
			if r := f.plan.Wishes.Race; r != nil && r.On == on {
				d.Race = true
			}
			if d.In {
				d.Sessions = f.sessionViews(on)
				d.Ramp = f.path.all(on)
				for _, p := range f.prescriptions {
					if x, ok := f.doneOn(p, on); ok {
						d.Done = append(d.Done, x)
					}
				}
			}
			for _, s := range d.Sessions {
				w.Planned += s.Minutes
			}
			w.Free += f.plan.Wishes.Minutes[i]
			w.Days = append(w.Days, d)
		}
		out = append(out, w)
	}
	return out
}

func (f *frame) end() day.Date { return f.start + day.Date(7*f.block.Weeks) - 1 }

// retestOn names what is tested again on a date.
func (f *frame) retestOn(on day.Date) string {
	for _, w := range f.plan.Weeks {
		if w.On != on || on < f.start {
			continue
		}
		if w.All {
			return "all tests"
		}
		names := []string{}
		for _, id := range w.Retest {
			if t, ok := screening.Find(screening.TestID(id)); ok {
				names = append(names, t.Name)
			}
		}
		return strings.Join(names, ", ")
	}
	return ""
}

func (f *frame) sessionViews(on day.Date) []SessionView {
	out := []SessionView{}
	for _, s := range f.sessionsOn(on) {
		v := SessionView{Kind: s.Kind, Name: words.SessionName(s.Kind), When: s.When, Doses: []DoseView{}}
		if s.origin != on {
			o := s.origin
			v.Moved = &o
		}
		seconds := 0.0
		for _, id := range s.Ladders {
			p, ok := f.prescription(id)
			if !ok {
				continue
			}
			d := DoseView{PrescriptionID: p.ID, Ladder: id, Name: f.ladders[p.ID].Name, Left: f.doseOn(p, body.Left, on), Right: f.doseOn(p, body.Right, on)}
			d.Same = d.Left == d.Right
			n, note := f.notchOn(p, body.Left, on)
			d.Exercise, d.Note = n.Exercise.ID, note
			v.Doses = append(v.Doses, d)
			if s.Kind != planning.Drill && s.Kind != planning.Exposure && !n.Dose.Spread {
				seconds += n.Seconds()
			}
		}
		v.Minutes = int(math.Ceil(seconds / 60))
		out = append(out, v)
	}
	return out
}

func (f *frame) prescription(ladder string) (store.Prescription, bool) {
	i := slices.IndexFunc(f.prescriptions, func(p store.Prescription) bool { return p.Ladder == ladder })
	if i < 0 {
		return store.Prescription{}, false
	}
	return f.prescriptions[i], true
}

func (f *frame) name(id string) string {
	if p, ok := f.prescription(id); ok {
		return f.ladders[p.ID].Name
	}
	if l, ok := f.cat.Ladder(id); ok {
		return l.Name
	}
	return id
}

// planEvidence is what the planner knows of a running block today.
func (f *frame) planEvidence() planning.Evidence {
	e := planning.Evidence{On: f.today, Person: personOf(f.runner), Gates: f.gates, Flags: f.flags, Since: f.start, Standing: map[string]int{},
		School: f.plan.Wishes.School, Owned: f.plan.Wishes.Owned, Evenings: f.plan.Wishes.Evenings, Wish: f.plan.Wishes.Wish, Ramp: f.path.ramp != nil, Added: f.plan.Wishes.Added}
	for _, v := range f.dossier.visits {
		if v.Finished {
			e.Findings, e.Complaints = v.Findings, v.Talk.Complaints
			for _, r := range v.Results {
				e.Results = append(e.Results, r.Result)
			}
			break
		}
	}
	f.known(&e, f.today)
	return e
}

// ceiling returns the highest notch of a prescription that nothing closes; 0 for
// a block made before plans kept their reasons.
func (f *frame) ceiling(p store.Prescription) int {
	if len(f.plan.Choices) == 0 {
		return 0
	}
	e := f.planEvidence()
	e.Stopped = nil
	top, _ := planning.Ceiling(f.cat, f.ladders[p.ID], e, f.phases)
	return max(1, top)
}

// phaseMoved names the regions whose phase changed since the plan was made.
func (f *frame) phaseMoved() []string {
	out := []string{}
	for i, p := range f.phases {
		if i < len(f.plan.Phases) && f.plan.Phases[i].Phase != p.Phase {
			out = append(out, fmt.Sprintf("%s: %s → %s (%s)", p.Name, f.plan.Phases[i].Phase, p.Phase, p.Why))
		}
	}
	return out
}

// doneOn returns what was logged of a ladder on a date.
func (f *frame) doneOn(p store.Prescription, on day.Date) (DoseView, bool) {
	d := DoseView{PrescriptionID: p.ID, Ladder: p.Ladder, Name: f.ladders[p.ID].Name, Left: "not done", Right: "not done"}
	found := false
	for _, it := range f.items {
		if it.PrescriptionID != p.ID || dateOf(it.On) != on {
			continue
		}
		found = true
		n := f.ladders[p.ID].At(it.Notch)
		d.Exercise = n.Exercise.ID
		if w := words.Notch(n); it.Side == string(body.Left) {
			d.Left = w
		} else {
			d.Right = w
		}
	}
	d.Same = d.Left == d.Right
	return d, found
}
