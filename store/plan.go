package store

import (
	"context"
	"encoding/json"
	"time"

	"github.com/jackc/pgx/v5"
)

// Block is a plan of some weeks.
type Block struct {
	ID               string     `db:"id"`
	RunnerID         string     `db:"runner_id"`
	ScreeningID      string     `db:"screening_id"`
	StartOn          time.Time  `db:"start_on"`
	Weeks            int        `db:"weeks"`
	CatalogueVersion int        `db:"catalogue_version"`
	EndedAt          *time.Time `db:"ended_at"`
	Plan             []byte     `db:"plan"`
	CreatedAt        time.Time  `db:"created_at"`
}

const blockColumns = `id, runner_id, screening_id, start_on, weeks::int, catalogue_version, ended_at, plan, created_at`

// AddBlock stores a block; a runner's present block must have been ended first.
func (tx *Tx) AddBlock(ctx context.Context, b Block, by string) (Block, error) {
	return one[Block](ctx, tx, `INSERT INTO blocks (practice_id, runner_id, screening_id, start_on, weeks, catalogue_version, by_user, plan)
		VALUES ($1, $2, $3, $4, $5, $6, $7, $8) RETURNING `+blockColumns,
		tx.Practice, b.RunnerID, b.ScreeningID, b.StartOn, b.Weeks, b.CatalogueVersion, by, b.Plan)
}

// EndBlocks ends the runner's present block, if there is one.
func (tx *Tx) EndBlocks(ctx context.Context, runner string, at time.Time) error {
	_, err := tx.Exec(ctx, `UPDATE blocks SET ended_at = $2 WHERE runner_id = $1 AND ended_at IS NULL`, runner, at)
	return err
}

// Block returns one block.
func (tx *Tx) Block(ctx context.Context, id string) (Block, error) {
	return one[Block](ctx, tx, `SELECT `+blockColumns+` FROM blocks WHERE id = $1`, id)
}

// LockBlock returns one block and keeps others from deciding on it until the
// transaction ends.
func (tx *Tx) LockBlock(ctx context.Context, id string) (Block, error) {
	return one[Block](ctx, tx, `SELECT `+blockColumns+` FROM blocks WHERE id = $1 FOR UPDATE`, id)
}

// CurrentBlock returns the runner's present block; ErrNotFound for none.
func (tx *Tx) CurrentBlock(ctx context.Context, runner string) (Block, error) {
	return one[Block](ctx, tx, `SELECT `+blockColumns+` FROM blocks WHERE runner_id = $1 AND ended_at IS NULL`, runner)
}

// Prescription is one ladder of a block.
type Prescription struct {
	ID           string `db:"id"`
	BlockID      string `db:"block_id"`
	RunnerID     string `db:"runner_id"`
	Position     int    `db:"position"`
	Ladder       string `db:"ladder"`
	StartNotch   int    `db:"start_notch"`
	ExtraSetSide string `db:"extra_set_side"`
	StartReasons []byte `db:"start_reasons"`
	LadderData   []byte `db:"ladder_data"`
	FromWeek     int    `db:"from_week"`
}

// AddPrescription stores a prescription with a peg for each side at its start.
func (tx *Tx) AddPrescription(ctx context.Context, p Prescription) (string, error) {
	var id string
	err := tx.QueryRow(ctx, `INSERT INTO prescriptions (practice_id, block_id, runner_id, position, ladder, start_notch, extra_set_side, start_reasons, ladder_data, from_week)
		VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10) RETURNING id`,
		tx.Practice, p.BlockID, p.RunnerID, p.Position, p.Ladder, p.StartNotch, p.ExtraSetSide, p.StartReasons, p.LadderData, p.FromWeek).Scan(&id)
	if err != nil {
		return "", translate(err)
	}
	_, err = tx.Exec(ctx, `INSERT INTO pegs (practice_id, prescription_id, side, notch) VALUES ($1, $2, 'left', $3), ($1, $2, 'right', $3)`,
		tx.Practice, id, p.StartNotch)
	return id, translate(err)
}

// Prescriptions lists a block's ladders in their order.
func (tx *Tx) Prescriptions(ctx context.Context, block string) ([]Prescription, error) {
	return all[Prescription](ctx, tx, `SELECT id, block_id, runner_id, position::int, ladder, start_notch::int, extra_set_side, start_reasons, ladder_data, from_week::int
		FROM prescriptions WHERE block_id = $1 ORDER BY position`, block)
}

// Peg is where one side of a ladder stands.
type Peg struct {
	PrescriptionID string     `db:"prescription_id"`
	Side           string     `db:"side"`
	Notch          int        `db:"notch"`
	HaltRow        *int       `db:"halt_row"`
	HaltOn         *time.Time `db:"halt_on"`
	LastUp         *time.Time `db:"last_up"`
}

// Pegs returns all pegs of a block.
func (tx *Tx) Pegs(ctx context.Context, block string) ([]Peg, error) {
	return all[Peg](ctx, tx, `SELECT g.prescription_id, g.side, g.notch::int, g.halt_row::int, g.halt_on, g.last_up
		FROM pegs g JOIN prescriptions p ON p.practice_id = g.practice_id AND p.id = g.prescription_id
		WHERE p.block_id = $1 ORDER BY p.position, g.side`, block)
}

// MovePegs stores where sides stand.
func (tx *Tx) MovePegs(ctx context.Context, list []Peg) error {
	if len(list) == 0 {
		return nil
	}
	n := len(list)
	ids, sides, notches, rows, ons, ups := make([]string, n), make([]string, n), make([]int, n), make([]*int, n), make([]*time.Time, n), make([]*time.Time, n)
	for i, p := range list {
		ids[i], sides[i], notches[i], rows[i], ons[i], ups[i] = p.PrescriptionID, p.Side, p.Notch, p.HaltRow, p.HaltOn, p.LastUp
	}
	_, err := tx.Exec(ctx, `UPDATE pegs g SET notch = x.notch, halt_row = x.halt_row, halt_on = x.halt_on, last_up = x.last_up
		FROM unnest($1::uuid[], $2::text[], $3::int[], $4::int[], $5::date[], $6::date[]) AS x(prescription_id, side, notch, halt_row, halt_on, last_up)
		WHERE g.prescription_id = x.prescription_id AND g.side = x.side`, ids, sides, notches, rows, ons, ups)
	return translate(err)
}

// SessionLog is one logged session.
type SessionLog struct {
	ID       string    `db:"id"`
	BlockID  string    `db:"block_id"`
	RunnerID string    `db:"runner_id"`
	On       time.Time `db:"on_date"`
	Note     string    `db:"note"`
	Litmus   string    `db:"litmus"`
	Replaces *string   `db:"replaces"` // the log it stands for now
	Reason   string    `db:"reason"`
	Removed  bool      `db:"removed"`  // taken back: it has no items
	Routine  string    `db:"routine"`  // given whole; empty for a session of the plan
	Compared []byte    `db:"compared"` // what it measured before and after, as JSON
	Felt     string    `db:"felt"`     // where it was felt
	Seq      int64     `db:"seq"`
	At       time.Time `db:"at"`
}

// SessionItem is what was done of one ladder on one side.
type SessionItem struct {
	LogID          string    `db:"log_id"`
	On             time.Time `db:"on_date"`
	PrescriptionID string    `db:"prescription_id"`
	Side           string    `db:"side"`
	Notch          int       `db:"notch"`
	Pain           *int      `db:"pain"`
	Done           *float64  `db:"done"`
	Compensated    *float64  `db:"compensated"`
	Reserve        *int      `db:"reserve"`
	SureTwenty     *bool     `db:"sure_twenty"`
	NoTime         bool      `db:"no_time"`
	CrampAt        *int      `db:"cramp_at"`
	SoreSpot       *int      `db:"sore_spot"`
	Reacted        bool      `db:"reacted"`
	Litmus         string    `db:"litmus"`
	Mistakes       []string  `db:"mistakes"`
	SetsDone       *int      `db:"sets_done"`
	RepsDone       *int      `db:"reps_done"`
	LoadKg         *float64  `db:"load_kg"`
	Cut            string    `db:"cut"`
	Given          []byte    `db:"given"` // the dose asked that day, as JSON
	Seq            int64     `db:"seq"`   // of its log
	At             time.Time `db:"at"`
}

// AddSessionLog stores a session with its items, and sets on them what the log
// became: its id, its place in the order of arrival and the moment.
func (tx *Tx) AddSessionLog(ctx context.Context, l *SessionLog, items []SessionItem, by string) error {
	err := tx.QueryRow(ctx, `INSERT INTO session_logs (practice_id, block_id, runner_id, on_date, note, litmus, by_user, replaces, reason, removed, routine, compared, felt)
		VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13) RETURNING id, seq, at`,
		tx.Practice, l.BlockID, l.RunnerID, l.On, l.Note, l.Litmus, by, l.Replaces, l.Reason, l.Removed, l.Routine, l.Compared, l.Felt).Scan(&l.ID, &l.Seq, &l.At)
	if err != nil || len(items) == 0 {
		return translate(err)
	}
	set := make([]map[string]any, len(items))
	for i := range items {
		x := &items[i]
		x.LogID, x.On, x.Litmus, x.Seq, x.At = l.ID, l.On, l.Litmus, l.Seq, l.At
		set[i] = map[string]any{"prescription_id": x.PrescriptionID, "side": x.Side, "notch": x.Notch, "pain": x.Pain, "done": x.Done, "compensated": x.Compensated, "reserve": x.Reserve,
			"sure_twenty": x.SureTwenty, "no_time": x.NoTime, "cramp_at": x.CrampAt, "sore_spot": x.SoreSpot, "reacted": x.Reacted, "cut": x.Cut, "given": json.RawMessage(x.Given),
			"mistakes": append([]string{}, x.Mistakes...), "sets_done": x.SetsDone, "reps_done": x.RepsDone, "load_kg": x.LoadKg}
		if len(x.Given) == 0 {
			delete(set[i], "given")
		}
	}
	raw, err := json.Marshal(set)
	if err != nil {
		return err
	}
	_, err = tx.Exec(ctx, `INSERT INTO session_items (practice_id, log_id, prescription_id, side, notch, pain, done, compensated, reserve, sure_twenty, no_time, cramp_at, sore_spot, reacted, cut, given, mistakes, sets_done, reps_done, load_kg)
		SELECT $1, $2, x.prescription_id, x.side, x.notch, x.pain, x.done, x.compensated, x.reserve, x.sure_twenty, x.no_time, x.cramp_at, x.sore_spot, x.reacted, x.cut, x.given, x.mistakes, x.sets_done, x.reps_done, x.load_kg
		FROM jsonb_to_recordset($3::jsonb) AS x(prescription_id uuid, side text, notch smallint, pain smallint, done double precision, compensated double precision, reserve smallint,
		sure_twenty boolean, no_time boolean, cramp_at smallint, sore_spot smallint, reacted boolean, cut text, given jsonb, mistakes text[], sets_done smallint, reps_done smallint, load_kg double precision)`, tx.Practice, l.ID, raw)
	return translate(err)
}

// SessionItems returns all items of a block, oldest session first: those in use.
// What was put right or taken back is not among them.
func (tx *Tx) SessionItems(ctx context.Context, block string) ([]SessionItem, error) {
	return all[SessionItem](ctx, tx, `SELECT i.log_id, l.on_date, i.prescription_id, i.side, i.notch::int, i.pain::int, i.done, i.compensated,
		i.reserve::int, i.sure_twenty, i.no_time, i.cramp_at::int, i.sore_spot::int, i.reacted, l.litmus, i.mistakes, i.sets_done::int, i.reps_done::int, i.load_kg, i.cut, i.given, l.seq, l.at
		FROM session_items i JOIN session_logs l ON l.practice_id = i.practice_id AND l.id = i.log_id
		WHERE l.block_id = $1 ORDER BY l.on_date, l.at, i.side`, block)
}

// SessionLogs lists a block's sessions, newest first, with those put right or taken
// back.
func (tx *Tx) SessionLogs(ctx context.Context, block string) ([]SessionLog, error) {
	return all[SessionLog](ctx, tx, `SELECT id, block_id, runner_id, on_date, note, litmus, replaces, reason, removed, routine, compared, felt, seq, at FROM session_logs WHERE block_id = $1 ORDER BY on_date DESC, seq DESC`, block)
}

// Morning is one morning's reading of a place that hurts; a general one where
// zone is empty.
type Morning struct {
	On        time.Time `db:"on_date"`
	Zone      string    `db:"zone"`
	Side      string    `db:"side"`
	FirstStep *int      `db:"first_step"`
	Rest      *int      `db:"rest"`
	By        string    `db:"by_user"`
	Seq       int64     `db:"seq"`
	At        time.Time `db:"at"`
}

// PutMorning appends a reading; a later one of the same date and place replaces
// it in use. Its place in the order of arrival is set on it.
func (tx *Tx) PutMorning(ctx context.Context, runner string, m *Morning, by string) error {
	err := tx.QueryRow(ctx, `INSERT INTO mornings (practice_id, runner_id, on_date, zone, side, rev, first_step, rest, by_user)
		SELECT $1, $2::uuid, $3::date, $4::text, $5::text, 1 + coalesce(max(rev), 0), $6, $7, $8 FROM mornings
		WHERE runner_id = $2::uuid AND on_date = $3::date AND zone = $4::text AND side = $5::text RETURNING seq, at`,
		tx.Practice, runner, m.On, m.Zone, m.Side, m.FirstStep, m.Rest, by).Scan(&m.Seq, &m.At)
	return translate(err)
}

// Mornings returns all revisions of a runner's readings from a date on, by date
// and place, oldest revision first.
func (tx *Tx) Mornings(ctx context.Context, runner string, from time.Time) ([]Morning, error) {
	return all[Morning](ctx, tx, `SELECT on_date, zone, side, first_step::int, rest::int, by_user, seq, at FROM mornings
		WHERE runner_id = $1 AND on_date >= $2 ORDER BY on_date, zone, side, rev`, runner, from)
}

// Flag is a flag that stands for a runner.
type Flag struct {
	ID           string     `db:"id"`
	Flag         string     `db:"flag"`
	Level        string     `db:"level"`
	Side         string     `db:"side"`
	Zone         string     `db:"zone"`
	Tissues      []string   `db:"tissues"`
	Everything   bool       `db:"everything"`
	ProgressOnly bool       `db:"progress_only"`
	Since        time.Time  `db:"since"`
	Running      bool       `db:"running"`
	Why          string     `db:"why"`
	EndedOn      *time.Time `db:"ended_on"`
	At           time.Time  `db:"at"`
}

// AddFlag stores a flag that readings raised.
func (tx *Tx) AddFlag(ctx context.Context, runner string, f Flag) error {
	_, err := tx.Exec(ctx, `INSERT INTO flags (practice_id, runner_id, flag, level, side, zone, tissues, everything, progress_only, since, running, why)
		VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12)`,
		tx.Practice, runner, f.Flag, f.Level, f.Side, f.Zone, f.Tissues, f.Everything, f.ProgressOnly, f.Since, f.Running, f.Why)
	return translate(err)
}

// Flags lists a runner's standing flags, oldest first.
func (tx *Tx) Flags(ctx context.Context, runner string) ([]Flag, error) {
	return all[Flag](ctx, tx, `SELECT id, flag, level, side, zone, tissues, everything, progress_only, since, running, why, ended_on, at FROM flags WHERE runner_id = $1 ORDER BY at`, runner)
}

// Decision is a stored decision.
type Decision struct {
	ID             string     `db:"id"`
	PrescriptionID string     `db:"prescription_id"`
	RunnerID       string     `db:"runner_id"`
	LogID          string     `db:"log_id"` // empty where it is about no session
	Side           string     `db:"side"`
	On             time.Time  `db:"on_date"`
	Verdict        string     `db:"verdict"`
	Row            int        `db:"row"`
	From           int        `db:"from_notch"`
	To             int        `db:"to_notch"`
	Decision       []byte     `db:"decision"`
	Sentence       string     `db:"sentence"`
	State          string     `db:"state"`
	AnswerNotch    *int       `db:"answer_notch"`
	AnswerReason   string     `db:"answer_reason"`
	AnsweredAt     *time.Time `db:"answered_at"`
	AnsweredBy     *string    `db:"answered_by"`
	Version        int        `db:"version"`
	Key            string     `db:"key"`
	Kind           string     `db:"kind"`
	Course         []byte     `db:"course"` // its life and what it was made with
	Input          []byte     `db:"-"`      // written with it, read by DecisionInputs
	Engine         int        `db:"engine"`
}

const decisionColumns = `d.id, d.prescription_id, d.runner_id, coalesce(d.log_id::text, '') AS log_id, d.side, d.on_date, d.verdict, d.row::int, d.from_notch::int, d.to_notch::int,
	d.decision, d.sentence, d.state, d.answer_notch::int, d.answer_reason, d.answered_at, d.answered_by, d.version, d.engine, d.key, d.kind, d.course`

// decisionFields are a decision's columns as a set of records is written.
const decisionFields = `id uuid, prescription_id uuid, runner_id uuid, log_id text, side text, on_date date, verdict text, "row" smallint, from_notch smallint, to_notch smallint,
	decision jsonb, sentence text, state text, answer_notch smallint, answer_reason text, answered_by uuid, answered_at timestamptz, input jsonb, engine integer, key text, kind text, course jsonb`

// decisionRecord is a decision as one of a set.
func decisionRecord(d Decision) map[string]any {
	m := map[string]any{"prescription_id": d.PrescriptionID, "runner_id": d.RunnerID, "log_id": d.LogID, "side": d.Side, "on_date": d.On.Format(time.DateOnly), "verdict": d.Verdict, "row": d.Row,
		"from_notch": d.From, "to_notch": d.To, "decision": json.RawMessage(d.Decision), "sentence": d.Sentence, "state": d.State, "answer_notch": d.AnswerNotch, "answer_reason": d.AnswerReason,
		"answered_by": d.AnsweredBy, "answered_at": d.AnsweredAt, "engine": d.Engine, "key": d.Key, "kind": d.Kind, "course": json.RawMessage(d.Course)}
	if d.ID != "" {
		m["id"] = d.ID
	}
	if len(d.Input) > 0 {
		m["input"] = json.RawMessage(d.Input)
	}
	return m
}

func decisionSet(list []Decision) ([]byte, error) {
	out := make([]map[string]any, len(list))
	for i, d := range list {
		out[i] = decisionRecord(d)
	}
	return json.Marshal(out)
}

// AddDecisions stores decisions in their order and sets their ids.
func (tx *Tx) AddDecisions(ctx context.Context, list []Decision) error {
	if len(list) == 0 {
		return nil
	}
	raw, err := decisionSet(list)
	if err != nil {
		return err
	}
	rows, err := tx.Query(ctx, `INSERT INTO decisions (practice_id, prescription_id, runner_id, log_id, side, on_date, verdict, "row", from_notch, to_notch, decision, sentence, state,
		answer_notch, answer_reason, answered_by, answered_at, input, engine, key, kind, course)
		SELECT $1, x.prescription_id, x.runner_id, nullif(x.log_id, '')::uuid, x.side, x.on_date, x.verdict, x."row", x.from_notch, x.to_notch, x.decision, x.sentence, x.state,
		x.answer_notch, coalesce(x.answer_reason, ''), x.answered_by, x.answered_at, x.input, x.engine, x.key, x.kind, x.course
		FROM ROWS FROM (jsonb_to_recordset($2::jsonb) AS (`+decisionFields+`)) WITH ORDINALITY AS x(id, prescription_id, runner_id, log_id, side, on_date, verdict, "row", from_notch, to_notch,
		decision, sentence, state, answer_notch, answer_reason, answered_by, answered_at, input, engine, key, kind, course, n) ORDER BY n RETURNING id, key`, tx.Practice, raw)
	if err != nil {
		return translate(err)
	}
	ids := map[string]string{}
	var id, key string
	if _, err := pgx.ForEachRow(rows, []any{&id, &key}, func() error { ids[key] = id; return nil }); err != nil {
		return translate(err)
	}
	for i := range list {
		list[i].ID, list[i].Version = ids[list[i].Key], 1
	}
	return nil
}

// TurnDecisions stores what became of decisions.
func (tx *Tx) TurnDecisions(ctx context.Context, list []Decision) error {
	if len(list) == 0 {
		return nil
	}
	raw, err := decisionSet(list)
	if err != nil {
		return err
	}
	_, err = tx.Exec(ctx, `UPDATE decisions d SET state = x.state, verdict = x.verdict, "row" = x."row", from_notch = x.from_notch, to_notch = x.to_notch, decision = x.decision, sentence = x.sentence,
		course = x.course, input = coalesce(x.input, d.input), key = x.key, kind = x.kind, answer_notch = x.answer_notch, answer_reason = coalesce(x.answer_reason, ''), answered_by = x.answered_by,
		answered_at = x.answered_at, version = d.version + 1 FROM jsonb_to_recordset($1::jsonb) AS x(`+decisionFields+`) WHERE d.id = x.id`, raw)
	for i := range list {
		list[i].Version++
	}
	return translate(err)
}

// Decision returns one decision.
func (tx *Tx) Decision(ctx context.Context, id string) (Decision, error) {
	return one[Decision](ctx, tx, `SELECT `+decisionColumns+` FROM decisions d WHERE d.id = $1`, id)
}

// Decisions returns all of a block's decisions, superseded ones too, oldest first.
func (tx *Tx) Decisions(ctx context.Context, block string) ([]Decision, error) {
	return all[Decision](ctx, tx, `SELECT `+decisionColumns+` FROM decisions d
		JOIN prescriptions p ON p.practice_id = d.practice_id AND p.id = d.prescription_id
		WHERE p.block_id = $1 ORDER BY d.ordinal`, block)
}

// DecisionInputs returns what each of a block's standing decisions was made from,
// by its id.
func (tx *Tx) DecisionInputs(ctx context.Context, block string) (map[string][]byte, error) {
	type row struct {
		ID    string `db:"id"`
		Input []byte `db:"input"`
	}
	rows, err := all[row](ctx, tx, `SELECT d.id, d.input FROM decisions d JOIN prescriptions p ON p.practice_id = d.practice_id AND p.id = d.prescription_id
		WHERE p.block_id = $1 AND d.state <> 'superseded' AND d.input IS NOT NULL`, block)
	out := make(map[string][]byte, len(rows))
	for _, r := range rows {
		out[r.ID] = r.Input
	}
	return out, err
}

// Answer is a coach's word on a decision.
type Answer struct {
	Key    string    `db:"decision_key"`
	Kind   string    `db:"kind"`
	Notch  int       `db:"notch"`
	Reason string    `db:"reason"`
	By     string    `db:"by_user"`
	Seq    int64     `db:"seq"`
	At     time.Time `db:"at"`
}

// AddAnswer appends a coach's word.
func (tx *Tx) AddAnswer(ctx context.Context, runner, block string, a Answer, by string) error {
	_, err := tx.Exec(ctx, `INSERT INTO answers (practice_id, runner_id, block_id, decision_key, kind, notch, reason, by_user) VALUES ($1, $2, $3, $4, $5, $6, $7, $8)`,
		tx.Practice, runner, block, a.Key, a.Kind, a.Notch, a.Reason, by)
	return translate(err)
}

// Answers returns what was said to a block's decisions, in order.
func (tx *Tx) Answers(ctx context.Context, block string) ([]Answer, error) {
	return all[Answer](ctx, tx, `SELECT decision_key, kind, notch::int, reason, by_user, seq, at FROM answers WHERE block_id = $1 ORDER BY seq`, block)
}

// CourseState is where the engine stands with a block.
type CourseState struct {
	Body []byte `db:"body"`
	Seq  *int64 `db:"seq"`
}

// CourseState returns where the engine stands; ErrNotFound before it looked.
func (tx *Tx) CourseState(ctx context.Context, block string) (CourseState, error) {
	return one[CourseState](ctx, tx, `SELECT body, seq FROM course_states WHERE block_id = $1`, block)
}

// PutCourseState stores where the engine stands.
func (tx *Tx) PutCourseState(ctx context.Context, block string, s CourseState) error {
	_, err := tx.Exec(ctx, `INSERT INTO course_states (practice_id, block_id, body, seq) VALUES ($1, $2, $3, $4)
		ON CONFLICT (practice_id, block_id) DO UPDATE SET body = excluded.body, seq = excluded.seq`, tx.Practice, block, s.Body, s.Seq)
	return translate(err)
}

// EndFlag ends a flag that a slip had raised.
func (tx *Tx) EndFlag(ctx context.Context, id string, on time.Time) error {
	_, err := tx.Exec(ctx, `UPDATE flags SET ended_on = $2 WHERE id = $1`, id, on)
	return translate(err)
}
