package store

import (
	"context"
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

// MovePeg stores where a side stands.
func (tx *Tx) MovePeg(ctx context.Context, p Peg) error {
	_, err := tx.Exec(ctx, `UPDATE pegs SET notch = $3, halt_row = $4, halt_on = $5, last_up = $6 WHERE prescription_id = $1 AND side = $2`,
		p.PrescriptionID, p.Side, p.Notch, p.HaltRow, p.HaltOn, p.LastUp)
	return err
}

// SessionLog is one logged session.
type SessionLog struct {
	ID       string    `db:"id"`
	BlockID  string    `db:"block_id"`
	RunnerID string    `db:"runner_id"`
	On       time.Time `db:"on_date"`
	Note     string    `db:"note"`
	Litmus   string    `db:"litmus"`
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
}

// AddSessionLog stores a session with its items.
func (tx *Tx) AddSessionLog(ctx context.Context, l SessionLog, items []SessionItem, by string) (string, error) {
	var id string
	err := tx.QueryRow(ctx, `INSERT INTO session_logs (practice_id, block_id, runner_id, on_date, note, litmus, by_user) VALUES ($1, $2, $3, $4, $5, $6, $7) RETURNING id`,
		tx.Practice, l.BlockID, l.RunnerID, l.On, l.Note, l.Litmus, by).Scan(&id)
	if err != nil {
		return "", translate(err)
	}
	for _, i := range items {
		if _, err := tx.Exec(ctx, `INSERT INTO session_items (practice_id, log_id, prescription_id, side, notch, pain, done, compensated, reserve, sure_twenty, no_time, cramp_at, sore_spot, reacted)
			VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14)`,
			tx.Practice, id, i.PrescriptionID, i.Side, i.Notch, i.Pain, i.Done, i.Compensated, i.Reserve, i.SureTwenty, i.NoTime, i.CrampAt, i.SoreSpot, i.Reacted); err != nil {
			return "", translate(err)
		}
	}
	return id, nil
}

// SessionItems returns all items of a block, oldest session first.
func (tx *Tx) SessionItems(ctx context.Context, block string) ([]SessionItem, error) {
	return all[SessionItem](ctx, tx, `SELECT i.log_id, l.on_date, i.prescription_id, i.side, i.notch::int, i.pain::int, i.done, i.compensated,
		i.reserve::int, i.sure_twenty, i.no_time, i.cramp_at::int, i.sore_spot::int, i.reacted, l.litmus
		FROM session_items i JOIN session_logs l ON l.practice_id = i.practice_id AND l.id = i.log_id
		WHERE l.block_id = $1 ORDER BY l.on_date, l.at, i.side`, block)
}

// SessionLogs lists a block's sessions, newest first.
func (tx *Tx) SessionLogs(ctx context.Context, block string) ([]SessionLog, error) {
	return all[SessionLog](ctx, tx, `SELECT id, block_id, runner_id, on_date, note, litmus FROM session_logs WHERE block_id = $1 ORDER BY on_date DESC`, block)
}

// Morning is one morning's reading of a place that hurts; a general one where
// zone is empty.
type Morning struct {
	On        time.Time `db:"on_date"`
	Zone      string    `db:"zone"`
	Side      string    `db:"side"`
	FirstStep *int      `db:"first_step"`
	Rest      *int      `db:"rest"`
}

// PutMorning appends a reading; a later one of the same date and place replaces
// it in use.
func (tx *Tx) PutMorning(ctx context.Context, runner string, m Morning, by string) error {
	_, err := tx.Exec(ctx, `INSERT INTO mornings (practice_id, runner_id, on_date, zone, side, rev, first_step, rest, by_user)
		SELECT $1, $2::uuid, $3::date, $4::text, $5::text, 1 + coalesce(max(rev), 0), $6, $7, $8 FROM mornings
		WHERE runner_id = $2::uuid AND on_date = $3::date AND zone = $4::text AND side = $5::text`,
		tx.Practice, runner, m.On, m.Zone, m.Side, m.FirstStep, m.Rest, by)
	return translate(err)
}

// Mornings returns a runner's readings in use from a date on, oldest first.
func (tx *Tx) Mornings(ctx context.Context, runner string, from time.Time) ([]Morning, error) {
	return all[Morning](ctx, tx, `SELECT DISTINCT ON (on_date, zone, side) on_date, zone, side, first_step::int, rest::int FROM mornings
		WHERE runner_id = $1 AND on_date >= $2 ORDER BY on_date, zone, side, rev DESC`, runner, from)
}

// Flag is a flag that stands for a runner.
type Flag struct {
	ID           string    `db:"id"`
	Flag         string    `db:"flag"`
	Level        string    `db:"level"`
	Side         string    `db:"side"`
	Tissues      []string  `db:"tissues"`
	Everything   bool      `db:"everything"`
	ProgressOnly bool      `db:"progress_only"`
	Since        time.Time `db:"since"`
}

// AddFlag stores a flag raised by a session.
func (tx *Tx) AddFlag(ctx context.Context, runner string, f Flag, log string) error {
	_, err := tx.Exec(ctx, `INSERT INTO flags (practice_id, runner_id, flag, level, side, tissues, everything, progress_only, since, log_id)
		VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10)`,
		tx.Practice, runner, f.Flag, f.Level, f.Side, f.Tissues, f.Everything, f.ProgressOnly, f.Since, log)
	return translate(err)
}

// Flags lists a runner's standing flags, oldest first.
func (tx *Tx) Flags(ctx context.Context, runner string) ([]Flag, error) {
	return all[Flag](ctx, tx, `SELECT id, flag, level, side, tissues, everything, progress_only, since FROM flags WHERE runner_id = $1 ORDER BY at`, runner)
}

// Decision is a stored decision.
type Decision struct {
	ID             string     `db:"id"`
	PrescriptionID string     `db:"prescription_id"`
	RunnerID       string     `db:"runner_id"`
	LogID          string     `db:"log_id"`
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
	Version        int        `db:"version"`
	Input          []byte     `db:"-"` // written with it, read by DecisionInputs
	Engine         int        `db:"engine"`
}

const decisionColumns = `d.id, d.prescription_id, d.runner_id, d.log_id, d.side, d.on_date, d.verdict, d.row::int, d.from_notch::int, d.to_notch::int,
	d.decision, d.sentence, d.state, d.answer_notch::int, d.answer_reason, d.answered_at, d.version, d.engine`

// AddDecision stores a decision and returns its id.
func (tx *Tx) AddDecision(ctx context.Context, d Decision) (string, error) {
	var id string
	err := tx.QueryRow(ctx, `INSERT INTO decisions (practice_id, prescription_id, runner_id, log_id, side, on_date, verdict, row, from_notch, to_notch, decision, sentence, state, input, engine)
		VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $15) RETURNING id`,
		tx.Practice, d.PrescriptionID, d.RunnerID, d.LogID, d.Side, d.On, d.Verdict, d.Row, d.From, d.To, d.Decision, d.Sentence, d.State, d.Input, d.Engine).Scan(&id)
	return id, translate(err)
}

// Decision returns one decision.
func (tx *Tx) Decision(ctx context.Context, id string) (Decision, error) {
	return one[Decision](ctx, tx, `SELECT `+decisionColumns+` FROM decisions d WHERE d.id = $1`, id)
}

// Decisions returns a block's decisions that were not superseded, oldest first.
func (tx *Tx) Decisions(ctx context.Context, block string) ([]Decision, error) {
	return all[Decision](ctx, tx, `SELECT `+decisionColumns+` FROM decisions d
		JOIN prescriptions p ON p.practice_id = d.practice_id AND p.id = d.prescription_id
		WHERE p.block_id = $1 AND d.state <> 'superseded' ORDER BY d.on_date, d.at, d.id`, block)
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

// AnswerDecision stores what became of a decision. ErrConflict when it was
// answered by someone else meanwhile.
func (tx *Tx) AnswerDecision(ctx context.Context, d Decision, by *string, at time.Time) error {
	tag, err := tx.Exec(ctx, `UPDATE decisions SET state = @state, answer_notch = @notch, answer_reason = @reason, answered_by = @by, answered_at = @at,
		version = version + 1 WHERE id = @id AND version = @version`,
		pgx.NamedArgs{"state": d.State, "notch": d.AnswerNotch, "reason": d.AnswerReason, "by": by, "at": at, "id": d.ID, "version": d.Version})
	if err == nil && tag.RowsAffected() == 0 {
		return ErrConflict
	}
	return err
}
