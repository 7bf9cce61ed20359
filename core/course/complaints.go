package course

import (
	"slices"

	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/safety"
	"notchback/core/screening"
)

// Complaint is a place that hurts as a record: when it began, what was read of it
// since, and when it ended. It begins at a screening or by a report, is kept up by
// the readings between visits, and ends after 14 days at 0.
type Complaint struct {
	Zone     screening.Zone    `json:"zone"`
	Side     body.Side         `json:"side,omitempty"`
	Began    day.Date          `json:"began" format:"date"`
	Known    day.Date          `json:"known" format:"date" doc:"When it was first told"`
	Told     ComplaintSource   `json:"told" enum:"screening,report,reading"`
	Pattern  screening.Pattern `json:"pattern"`
	Readings []ComplaintRead   `json:"readings" nullable:"false"`
	Open     []string          `json:"open" nullable:"false" doc:"Groups of safety questions that are not answered yet"`

	said screening.Complaint // as told last in a screening
	on   day.Date            // of that screening
}

// ComplaintSource is how a complaint became known.
type ComplaintSource string

// The sources.
const (
	FromScreening ComplaintSource = "screening"
	FromReport    ComplaintSource = "report"
	FromReading   ComplaintSource = "reading"
)

// ComplaintRead is one day's reading of a complaint.
type ComplaintRead struct {
	On        day.Date   `json:"on" format:"date"`
	FirstStep *body.Pain `json:"firstStep,omitempty"`
	Rest      *body.Pain `json:"rest,omitempty"`
}

// Numbers of a complaint.
const (
	complaintEnds            = 14 // days at 0 end it
	complaintKnown           = 7  // of which so many have to be known (house)
	complaintWorst           = 14 // days for which the worst told at a visit counts
	runComplaint   body.Pain = 4  // pain on a run that begins one, where the place is told (house)
)

// Complaints are those that stand today.
func (b *Book) Complaints() []Complaint {
	if b.now.complaints == nil {
		b.now.complaints = b.gatherComplaints()
	}
	return b.now.complaints
}

func (b *Book) gatherComplaints() []Complaint {
	out := []Complaint{}
	find := func(z screening.Zone, side body.Side) *Complaint {
		for i := range out {
			if out[i].Zone == z && (out[i].Side == side || out[i].Side == "" || side == "") {
				return &out[i]
			}
		}
		return nil
	}
	begin := func(z screening.Zone, side body.Side, on day.Date, told ComplaintSource) *Complaint {
		if c := find(z, side); c != nil {
			return c
		}
		out = append(out, Complaint{Zone: z, Side: side, Began: on, Known: on, Told: told, Readings: []ComplaintRead{}, Open: []string{}})
		return &out[len(out)-1]
	}
	// The newest finished visit says which places hurt; one that is under way and
	// reports since then add to it. Of older visits only the beginning counts.
	since := day.Date(-1 << 30)
	for _, v := range b.Visits { // newest first
		if v.On > b.Today {
			continue
		}
		for _, c := range v.Complaints {
			if find(c.Zone, c.Side) != nil {
				continue // told later, in the visit under way
			}
			x := begin(c.Zone, c.Side, v.On, FromScreening)
			x.said, x.on = c, v.On
			if c.SinceWeeks != nil {
				x.Began = v.On - day.Date(7**c.SinceWeeks)
			}
		}
		if v.Finished {
			since = v.On
			break
		}
	}
	for i := range out {
		for _, v := range b.Visits {
			for _, c := range v.Complaints {
				if c.Zone == out[i].Zone && c.Side == out[i].Side {
					out[i].Known = min(out[i].Known, v.On)
					if out[i].said.SinceWeeks == nil && c.SinceWeeks != nil {
						out[i].Began = min(out[i].Began, v.On-day.Date(7**c.SinceWeeks))
					}
					out[i].Began = min(out[i].Began, out[i].Known)
				}
			}
		}
	}
	for _, n := range b.datedDays() {
		if n.On < since || n.On > b.Today {
			continue
		}
		for _, p := range n.New {
			if p.Zone == "" {
				continue
			}
			if find(p.Zone, p.Side) == nil {
				c := begin(p.Zone, p.Side, n.On, FromReport)
				c.said = screening.Complaint{Zone: p.Zone, Side: p.Side, FirstSteps: p.FirstStep, Rest: p.Rest, When: p.When}
				c.on = n.On
				c.Open = b.unanswered(p.Zone, n.On)
				if bones := safety.GroupOf(bone); c.said.AsksBone() && !b.answeredSince(bones, n.On) {
					c.Open = joined(c.Open, []string{bones}) // pain at night or rest asks about bone
				}
			}
		}
	}
	for _, m := range b.Mornings {
		if m.Zone == "" || m.On < since || m.On > b.Today || painOf(m.FirstStep) == 0 && painOf(m.Rest) == 0 {
			continue
		}
		begin(m.Zone, m.Side, m.On, FromReading)
	}
	for _, r := range b.Runs {
		if r.On < since || r.On > b.Today || r.Zone == "" && !r.Limping {
			continue
		}
		z := r.Zone
		if z == "" {
			z = "other"
		}
		if !r.Limping && (r.Pain == nil || *r.Pain < runComplaint) || find(z, r.Side) != nil && !r.Limping {
			continue
		}
		c := begin(z, r.Side, r.On, FromReport)
		if c.Told == FromReport {
			c.Open = joined(c.Open, b.unanswered(z, r.On))
		} else if r.Limping {
			c.Open = joined(c.Open, b.unanswered(z, r.On))
		}
		if r.Pain != nil {
			c.said.Worst = harder(c.said.Worst, r.Pain)
			c.on = max(c.on, r.On)
		}
	}
	standing := out[:0]
	for _, c := range out {
		b.read(&c)
		c.Pattern = c.Today(b.Today).Pattern()
		if !c.over(b.Today) {
			standing = append(standing, c)
		}
	}
	return standing
}

func joined(a, b []string) []string {
	for _, x := range b {
		if !slices.Contains(a, x) {
			a = append(a, x)
		}
	}
	return a
}

func harder(a, b *body.Pain) *body.Pain {
	if a == nil || b != nil && *b > *a {
		return b
	}
	return a
}

// datedDays are the day notes by date.
func (b *Book) datedDays() []Day {
	out := make([]Day, 0, len(b.Days))
	for _, d := range b.Days {
		out = append(out, d)
	}
	slices.SortFunc(out, func(x, y Day) int { return int(x.On - y.On) })
	return out
}

// read gathers the mornings of a place, and the general ones.
func (b *Book) read(c *Complaint) {
	from := max(c.Known, b.Today-2*complaintEnds)
	for _, m := range b.Mornings {
		if m.On < from || m.On > b.Today || m.Zone != "" && m.Zone != c.Zone || m.Side != "" && c.Side != "" && m.Side != c.Side {
			continue
		}
		if n := len(c.Readings); n > 0 && c.Readings[n-1].On == m.On {
			r := &c.Readings[n-1]
			r.FirstStep, r.Rest = harder(r.FirstStep, m.FirstStep), harder(r.Rest, m.Rest)
			continue
		}
		c.Readings = append(c.Readings, ComplaintRead{On: m.On, FirstStep: m.FirstStep, Rest: m.Rest})
	}
}

// over reports 14 days at 0, at least seven of them known.
func (c Complaint) over(today day.Date) bool {
	known := 0
	for _, r := range c.Readings {
		if today-r.On >= complaintEnds {
			continue
		}
		if painOf(r.FirstStep) > 0 || painOf(r.Rest) > 0 {
			return false
		}
		if r.FirstStep != nil {
			known++
		}
	}
	return known >= complaintKnown && int(today-max(c.Known, c.on)) >= complaintEnds
}

// Today is the complaint as it stands on a date: the newest readings in place of
// what was told, how long it has lasted by then.
func (c Complaint) Today(on day.Date) screening.Complaint {
	out := c.said
	out.Zone, out.Side = c.Zone, c.Side
	weeks := int(on-c.Began) / 7
	if c.said.SinceWeeks != nil || c.Told != FromScreening {
		out.SinceWeeks = &weeks
	}
	newer := false
	var worst *body.Pain
	for _, r := range c.Readings { // oldest first
		if r.On > on {
			break
		}
		if r.On >= c.on {
			if r.FirstStep != nil {
				out.FirstSteps, newer = r.FirstStep, true
			}
			if r.Rest != nil {
				out.Rest = r.Rest
			}
		}
		if int(on-r.On) < complaintWorst {
			worst = harder(harder(worst, r.FirstStep), r.Rest)
		}
	}
	if newer && on > c.on {
		out.Now = nil
	}
	if int(on-c.on) >= complaintWorst && worst != nil {
		out.Worst = worst
	} else {
		out.Worst = harder(out.Worst, worst)
	}
	return out
}

// today are the complaints as screenings tell them.
func (b *Book) today() []screening.Complaint {
	out := []screening.Complaint{}
	for _, c := range b.Complaints() {
		out = append(out, c.Today(b.Today))
	}
	return out
}

// unanswered are the groups of safety questions that a place asks and that nobody
// has answered since it was told.
func (b *Book) unanswered(z screening.Zone, on day.Date) []string {
	out := []string{}
	for _, name := range safety.GroupsFor(z) {
		if !b.answeredSince(name, on) {
			out = append(out, name)
		}
	}
	return out
}

// answeredSince reports whether a group of questions was answered on a day or
// later.
func (b *Book) answeredSince(group string, on day.Date) bool {
	for _, n := range b.Days {
		if n.On < on || n.On > b.Today || n.Answers == nil {
			continue
		}
		if slices.Contains(n.Answers.None, group) || safety.AnsweredYes(*n.Answers, group) {
			return true
		}
	}
	for _, v := range b.Visits {
		if v.On < on || v.On > b.Today {
			continue
		}
		if slices.Contains(v.Answers.None, group) || safety.AnsweredYes(v.Answers, group) {
			return true
		}
	}
	return false
}

// Asks are the places whose safety questions are open.
func (b *Book) Asks() []Complaint {
	var out []Complaint
	for _, c := range b.Complaints() {
		if len(c.Open) > 0 {
			out = append(out, c)
		}
	}
	return out
}

// openFlags are what unanswered places close.
func (b *Book) openFlags() []safety.Standing {
	var out []safety.Standing
	for _, c := range b.Asks() {
		out = append(out, safety.RaiseOpen(c.Known, c.Side, c.Zone))
	}
	return out
}

// shinLong is raised by shin pain of more than six weeks that the days between
// visits made so long.
func (b *Book) shinLong() []safety.Standing {
	var out []safety.Standing
	for _, c := range b.Complaints() {
		x := c.Today(b.Today)
		out = append(out, safety.RaisedByLasting(c.lastedFrom(), x)...)
	}
	return out
}

// lastedFrom is the first day on which it had lasted more than six weeks.
func (c Complaint) lastedFrom() day.Date { return max(c.Known, c.Began+7*(safety.LongShin+1)) }
