package app

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"notchback/core/adjust"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/day"
	"notchback/core/planning"
	"notchback/core/safety"
	"notchback/core/words"
	"notchback/store"
)

// blockWeeks is how long a block is until the planner can choose.
const blockWeeks = 4

// BlockInput asks for a block from a finished screening.
type BlockInput struct {
	ScreeningID string    `json:"screeningId" format:"uuid"`
	StartOn     *day.Date `json:"startOn,omitempty" format:"date" doc:"Today when missing"`
}

// NotchView is one notch in words.
type NotchView struct {
	Words   string         `json:"words" doc:"one leg 3 × 8"`
	Dose    string         `json:"dose"`
	Short   string         `json:"short"`
	Name    string         `json:"name"`
	Tempo   string         `json:"tempo,omitempty"`
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
	Notches      []NotchView      `json:"notches" nullable:"false"`
	Pegs         []PegView        `json:"pegs" nullable:"false" doc:"Left, then right"`
	Together     bool             `json:"together" doc:"Both pegs stand on the same two-legged notch"`
	StartNotch   int              `json:"startNotch"`
	StartReasons []ReasonView     `json:"startReasons" nullable:"false"`
	ExtraSetSide body.Side        `json:"extraSetSide,omitempty" enum:"left,right,"`
	Latest       []DecisionView   `json:"latest" nullable:"false" doc:"The newest decision of each side"`
}

// DoseView is what one ladder asks on one day.
type DoseView struct {
	PrescriptionID string `json:"prescriptionId"`
	Name           string `json:"name"`
	Left           string `json:"left"`
	Right          string `json:"right"`
	Same           bool   `json:"same"`
}

// DayView is one day of a block.
type DayView struct {
	On     day.Date   `json:"on" format:"date"`
	Doses  []DoseView `json:"doses" nullable:"false"`
	Logged bool       `json:"logged"`
}

// WeekView is one week of a block.
type WeekView struct {
	Number int       `json:"number"`
	Deload bool      `json:"deload"`
	Days   []DayView `json:"days" nullable:"false"`
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
	ID            string             `json:"id"`
	RunnerID      string             `json:"runnerId"`
	RunnerName    string             `json:"runnerName"`
	ScreeningID   string             `json:"screeningId"`
	StartOn       day.Date           `json:"startOn" format:"date"`
	EndOn         day.Date           `json:"endOn" format:"date"`
	Today         day.Date           `json:"today" format:"date"`
	Ended         bool               `json:"ended"`
	Baseline      float64            `json:"baseline" doc:"Usual first-step pain at the start, B0"`
	Weeks         []WeekView         `json:"weeks" nullable:"false"`
	Prescriptions []PrescriptionView `json:"prescriptions" nullable:"false"`
	Decisions     []DecisionView     `json:"decisions" nullable:"false" doc:"Newest first"`
	Gates         []safety.GateState `json:"gates" nullable:"false"`
	Mornings      []MorningView      `json:"mornings" nullable:"false"`
	Flags         []FlagView         `json:"flags" nullable:"false"`
	Cautions      []string           `json:"cautions" nullable:"false"`
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
}

func (a *App) loadFrame(ctx context.Context, tx *store.Tx, act Actor, b store.Block) (*frame, error) {
	f := &frame{block: b, start: dateOf(b.StartOn), now: a.now().In(act.zone), today: a.Today(act), ladders: map[string]catalogue.Ladder{}, pegs: map[string]map[body.Side]*store.Peg{}}
	var err error
	if f.runner, err = tx.Runner(ctx, b.RunnerID); err != nil {
		return nil, err
	}
	if f.dossier, err = a.loadDossier(ctx, tx, act, b.RunnerID); err != nil {
		return nil, err
	}
	if f.prescriptions, err = tx.Prescriptions(ctx, b.ID); err != nil {
		return nil, err
	}
	for _, p := range f.prescriptions {
		l, ok := a.catalogue.Ladder(p.Ladder)
		if !ok {
			return nil, errors.New("ladder " + p.Ladder + " is not in the catalogue")
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
	ms, err := tx.Mornings(ctx, b.RunnerID, (f.start - 14).Time())
	if err != nil {
		return nil, err
	}
	var first []body.Pain
	for _, m := range ms {
		on := dateOf(m.On)
		f.mornings = append(f.mornings, adjust.Morning{On: on, FirstStep: m.FirstStep})
		if on >= f.start {
			first = append(first, m.FirstStep)
		}
	}
	f.b0 = adjust.StartingBaseline(first, f.runner.IntakeFirstStep)
	f.flags = f.dossier.standingFlags()
	f.gates = safety.Gates(f.evidence())
	f.settle()
	return f, nil
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
		if l.ID != "calf-straight" || n.Exercise.ID != "raise-two" || n.Dose.Sets < 3 || n.Dose.Reps < 15 {
			continue
		}
		on := dateOf(it.On)
		h := adjust.History{Mornings: f.mornings, B0: f.b0}
		if safety.CleanTwoLeg(it.Pain, it.Done, f.morning(on+1), h.Baseline(on)) {
			e.TwoLegClean = &on
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

// PlanBlock makes a block of four weeks from a finished screening. The runner's
// present block ends.
func (a *App) PlanBlock(ctx context.Context, act Actor, key, runner string, in BlockInput) (Block, error) {
	today := a.Today(act)
	start := today
	if in.StartOn != nil {
		start = *in.StartOn
	}
	if start < today || start > today+28 {
		return Block{}, Invalid{{"startOn", "expected a day from today to four weeks ahead"}}
	}
	var out Block
	err := a.write(ctx, act, func(tx *store.Tx) (err error) {
		out, err = once(ctx, tx, key, in, func() (Block, error) {
			b, err := a.makeBlock(ctx, tx, act, runner, in.ScreeningID, start)
			if err != nil {
				return Block{}, err
			}
			return a.blockView(ctx, tx, act, b)
		})
		return err
	})
	return out, err
}

func (a *App) makeBlock(ctx context.Context, tx *store.Tx, act Actor, runner, screeningID string, start day.Date) (store.Block, error) {
	sc, err := a.loadScreening(ctx, tx, act, screeningID)
	if err != nil {
		return store.Block{}, err
	}
	if sc.RunnerID != runner {
		return store.Block{}, ErrNotFound
	}
	if !sc.Finished {
		return store.Block{}, Refused("finish the screening first")
	}
	d, err := a.loadDossier(ctx, tx, act, runner)
	if err != nil {
		return store.Block{}, err
	}
	for _, f := range d.standingFlags() {
		if f.Everything {
			return store.Block{}, Refused(fmt.Sprintf("flag %s closes everything: %s", f.Flag, words.Flag(f)))
		}
	}
	if age := ageOn(personOf(d.runner), start); age.Known && age.Years < safety.Adult && !sc.Talk.GuardianConsent {
		return store.Block{}, Refused("under 18: note the guardian's consent in the talk first")
	}
	if err := tx.EndBlocks(ctx, runner, a.now()); err != nil {
		return store.Block{}, err
	}
	b, err := tx.AddBlock(ctx, store.Block{RunnerID: runner, ScreeningID: screeningID, StartOn: start.Time(), Weeks: blockWeeks, CatalogueVersion: catalogue.Version}, act.User.ID)
	if err != nil {
		return b, err
	}
	e := planning.StartEvidence{On: sc.On, Person: personOf(d.runner), Gates: safety.Gates(d.evidence(0, start))}
	for _, r := range sc.Results {
		e.Results = append(e.Results, r.Result)
	}
	for i, l := range a.catalogue.Ladders {
		s := planning.StartingNotch(l, e)
		reasons, err := json.Marshal(s.Reasons)
		if err != nil {
			return b, err
		}
		if _, err := tx.AddPrescription(ctx, store.Prescription{
			BlockID: b.ID, RunnerID: runner, Position: i, Ladder: l.ID, StartNotch: s.Notch, ExtraSetSide: string(s.ExtraSetSide), StartReasons: reasons,
		}); err != nil {
			return b, err
		}
	}
	return b, tx.Note(ctx, runner, a.now(), &act.User.ID, "block", "Block of "+plural(blockWeeks, "week", "weeks")+" from "+start.Words(), nil)
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
	out := Block{
		ID: f.block.ID, RunnerID: f.runner.ID, RunnerName: f.runner.Name, ScreeningID: f.block.ScreeningID, StartOn: f.start,
		EndOn: f.start + day.Date(7*f.block.Weeks) - 1, Today: f.today, Ended: f.block.EndedAt != nil, Baseline: f.b0,
		Gates: f.gates, Mornings: []MorningView{}, Cautions: safety.Cautions,
		Decisions: []DecisionView{}, Flags: []FlagView{}, Prescriptions: []PrescriptionView{},
	}
	for _, m := range f.mornings {
		out.Mornings = append(out.Mornings, MorningView{m, adjust.Jumped(m.FirstStep, f.b0)})
	}
	for _, fl := range f.flags {
		out.Flags = append(out.Flags, FlagView{Standing: fl, Text: words.Flag(fl)})
	}
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
		ID: p.ID, Ladder: l.ID, Name: l.Name, Effort: l.Effort, StartNotch: p.StartNotch, ExtraSetSide: body.Side(p.ExtraSetSide),
		StartReasons: []ReasonView{}, Latest: []DecisionView{}, Together: f.together(p.ID),
	}
	for _, n := range l.Notches {
		nv := NotchView{
			Words: words.Notch(n), Dose: words.Dose(n.Dose), Short: n.Exercise.Short, Name: n.Exercise.Name, Tempo: words.Tempo(n.Dose), SetUp: n.Exercise.SetUp,
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

// doseOn returns what a side is asked on a date: the present notch, lighter in
// a deload week, one set more on the weaker side of one-legged work.
func (f *frame) doseOn(p store.Prescription, side body.Side, on day.Date) string {
	peg := f.pegs[p.ID][side]
	if peg.HaltRow != nil {
		return "stopped"
	}
	n := f.ladders[p.ID].At(peg.Notch)
	if string(side) == p.ExtraSetSide && !n.Together() {
		n.Dose.Sets++
	}
	if planning.IsDeload(f.start, on) {
		n.Dose = planning.Deload(n.Dose)
	}
	return words.Notch(n)
}

func (f *frame) weeks() []WeekView {
	logged := map[day.Date]bool{}
	for _, it := range f.items {
		logged[dateOf(it.On)] = true
	}
	first := f.start.Monday()
	end := f.start + day.Date(7*f.block.Weeks) - 1
	out := []WeekView{}
	for monday, n := first, 1; monday <= end; monday, n = monday+7, n+1 {
		w := WeekView{Number: n, Deload: planning.IsDeload(f.start, max(monday, f.start))}
		for i := range 7 {
			d := DayView{On: monday + day.Date(i), Doses: []DoseView{}, Logged: logged[monday+day.Date(i)]}
			if d.On >= f.start && d.On <= end {
				d.Doses = f.dosesOn(d.On, i)
			}
			w.Days = append(w.Days, d)
		}
		out = append(out, w)
	}
	return out
}

func (f *frame) dosesOn(on day.Date, weekday int) []DoseView {
	out := []DoseView{}
	for _, p := range f.prescriptions {
		l := f.ladders[p.ID]
		if on < f.today {
			if d, ok := f.doneOn(p, on); ok {
				out = append(out, d)
			}
			continue
		}
		peg := f.pegs[p.ID][body.Left]
		if !slices.Contains(planning.Weekdays(l, l.At(peg.Notch)), weekday) {
			continue
		}
		d := DoseView{PrescriptionID: p.ID, Name: l.Name, Left: f.doseOn(p, body.Left, on), Right: f.doseOn(p, body.Right, on)}
		d.Same = d.Left == d.Right
		out = append(out, d)
	}
	return out
}

// doneOn returns what was logged of a ladder on a date.
func (f *frame) doneOn(p store.Prescription, on day.Date) (DoseView, bool) {
	d := DoseView{PrescriptionID: p.ID, Name: f.ladders[p.ID].Name, Left: "not done", Right: "not done"}
	found := false
	for _, it := range f.items {
		if it.PrescriptionID != p.ID || dateOf(it.On) != on {
			continue
		}
		found = true
		if w := words.Notch(f.ladders[p.ID].At(it.Notch)); it.Side == string(body.Left) {
			d.Left = w
		} else {
			d.Right = w
		}
	}
	d.Same = d.Left == d.Right
	return d, found
}
