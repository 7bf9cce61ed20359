package pocket

import (
	"context"
	"slices"

	"notchback/app/record"
	"notchback/core/body"
	"notchback/core/catalogue"
	"notchback/core/course"
	"notchback/core/day"
	"notchback/core/safety"
	"notchback/core/screening"
)

// Closed stands among the steps a reading takes: nothing of the ladder is done.
const Closed = -1

// seat is one side of a prescription.
type seat struct {
	prescription string
	side         body.Side
}

// steps are what each reading of a morning from 0 to 10 takes of a side: how many
// notches lower, or Closed.
type steps [body.PainMax + 1]int

// foreseen is what mornings at a place would do, by seat.
type foreseen map[seat]steps

// readMorning is the hour a morning is told at, for asking ahead.
const readMorning = 8

// foresee asks the engine what every first-step reading of a place on a morning would
// do, on the record as it stands; nothing is kept.
func foresee(ctx context.Context, f *record.Frame, zone string, side body.Side, on day.Date) (foreseen, error) {
	k := f.Desk
	seq := k.Rec.State.Seq
	for _, m := range k.Rec.Mornings {
		seq = max(seq, m.Seq)
	}
	at := course.Moment{On: on, Hour: readMorning}
	out := foreseen{}
	for m := range body.PainMax + 1 {
		pain := m
		rec := k.Rec
		rec.Mornings = append(slices.Clone(rec.Mornings), course.Morning{Arrival: course.Arrival{Seq: seq + 1<<20, At: at}, On: on, Zone: screening.Zone(zone), Side: side, FirstStep: &pain})
		changes, err := course.Decide(ctx, rec, at)
		if err != nil {
			return nil, err
		}
		rec = rec.With(changes)
		book := course.Open(rec, at)
		for _, p := range f.Prescriptions {
			l := f.Ladders[p.ID]
			for _, s := range body.Sides {
				peg := rec.State.Peg(course.Seat{Prescription: p.ID, Side: s})
				stands := f.Doing(p, s).Notch
				n, _ := book.Highest(l, peg.Notch, s)
				if peg.Halt != nil {
					n = 0
				}
				x := out[seat{p.ID, s}]
				switch {
				case stands == 0:
				case n == 0:
					x[m] = Closed
				default:
					x[m] = max(0, stands-n) // a phone never goes up
				}
				out[seat{p.ID, s}] = x
			}
		}
	}
	for k, x := range out {
		out[k] = worsening(x)
	}
	return out, nil
}

// worsening makes a table never kinder for more pain.
func worsening(x steps) steps {
	for i := 1; i < len(x); i++ {
		switch {
		case x[i-1] == Closed:
			x[i] = Closed
		case x[i] != Closed:
			x[i] = max(x[i], x[i-1])
		}
	}
	return x
}

func (x steps) any() bool { return slices.ContainsFunc(x[:], func(n int) bool { return n != 0 }) }

// closers are the questions whose yes closes work of some kinds on a side.
func closers(k catalogue.Kinds, side body.Side, on day.Date, groups []safety.Group, own []safety.Own) []string {
	out := []string{}
	for _, g := range groups {
		for _, q := range g.Questions {
			where := body.Both
			if q.Side {
				where = side
			}
			for _, s := range safety.Raise(on, safety.Answers{Yes: map[string]body.Side{q.ID: where}, Own: own}, nil, nil) {
				if s.Level == safety.Emergency || s.Closes(k, side) {
					out = append(out, q.ID)
					break
				}
			}
		}
	}
	return out
}
