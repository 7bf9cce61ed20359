package course

import (
	"slices"

	"notchback/core/body"
	"notchback/core/day"
	"notchback/core/safety"
	"notchback/core/screening"
	"notchback/core/transition"
)

// Visits are a runner's screenings, newest first.
type Visits []Visit

// Answers returns what was said to the safety questions from a visit back: the
// newest answer to a group counts, what was left open keeps the older yes.
func (v Visits) Answers(from int) safety.Answers {
	out := safety.Answers{Yes: map[string]body.Side{}, None: []string{}}
	taken := map[string]bool{}
	for _, x := range v[from:] {
		for _, g := range x.Groups {
			if taken[g.Name] || g.Name == safety.OwnGroup {
				continue
			}
			none := slices.Contains(x.Answers.None, g.Name)
			asked := none
			for id, side := range x.Answers.Yes { // of questions that are not asked any more too
				if safety.GroupOf(id) == g.Name {
					out.Yes[id] = side
					asked = true
				}
			}
			taken[g.Name] = asked
			if none {
				out.None = append(out.None, g.Name)
			}
		}
	}
	v.ownAnswers(from, &out)
	return out
}

// ownAnswers adds what was said to a practice's own questions: to each the newest visit
// that asked it counts. Before one asked it, it is not open.
func (v Visits) ownAnswers(from int, out *safety.Answers) {
	said := map[string]bool{}
	none, open := false, false
	for _, x := range v[from:] {
		answered := x.Answered(safety.Group{Name: safety.OwnGroup})
		for _, o := range x.Answers.Own {
			known := slices.ContainsFunc(out.Own, func(k safety.Own) bool { return k.ID == o.ID })
			if !known {
				out.Own = append(out.Own, o)
			}
			if !answered || said[o.ID] {
				continue
			}
			said[o.ID] = true
			if side, yes := x.Answers.Yes[o.ID]; yes {
				out.Yes[o.ID] = side
			} else {
				none = true
			}
		}
	}
	for _, o := range out.Own {
		open = open || !said[o.ID]
	}
	if none && !open && !safety.AnsweredYes(*out, safety.OwnGroup) {
		out.None = append(out.None, safety.OwnGroup)
	}
}

// Flags returns the flags that the answers and readings up to a visit raise.
func (v Visits) Flags(i int) []safety.Standing {
	return safety.Raise(v[i].On, v.Answers(i), v[i].Complaints, v[i].Results)
}

// Evidence gathers what gates are decided on as of a date, from a visit back;
// flags are those that stand.
func (v Visits) Evidence(i int, on day.Date, age screening.Age, flags []safety.Standing) safety.Evidence {
	e := safety.Evidence{On: on, Age: age, Flags: flags}
	if i >= len(v) {
		e.Unasked = true
		return e
	}
	for _, x := range v[i:] {
		e.Visits = append(e.Visits, safety.Dated{On: x.On, Results: x.Results})
	}
	e.Complaints, e.Waivers = v[i].Complaints, v[i].Waivers
	e.Unasked = len(v.Answers(i).Unasked(age)) > 0
	for _, f := range v[i].Findings {
		e.Findings = append(e.Findings, f.Factor)
	}
	return e
}

// Answered reports whether a visit asked a group of questions.
func (v Visit) Answered(g safety.Group) bool {
	return slices.Contains(v.Answers.None, g.Name) || safety.AnsweredYes(v.Answers, g.Name)
}

// bone is the question that a bone tender twice answers.
const bone = "F-BONE"

// Told returns the flags that answers between visits raised, unless a later
// visit asked their group anew, and the one that a bone tender twice in a ramp
// raises.
func Told(days []Day, visits Visits, ageOn func(day.Date) screening.Age) []safety.Standing {
	var out []safety.Standing
	var tender []day.Date
	for _, n := range days {
		if n.BoneTender {
			tender = append(tender, n.On)
		}
		if n.Answers == nil {
			continue
		}
		yes := map[string]body.Side{}
		for _, g := range safety.Questions(ageOn(n.On)) {
			asked := slices.ContainsFunc(visits, func(v Visit) bool { return v.On > n.On && v.Answered(g) })
			for id, side := range n.Answers.Yes {
				if !asked && safety.GroupOf(id) == g.Name && safety.AsksAt(id, ageOn(n.On)) {
					yes[id] = side
				}
			}
		}
		for _, o := range n.Answers.Own {
			again := slices.ContainsFunc(visits, func(v Visit) bool {
				return v.On > n.On && v.Answered(safety.Group{Name: safety.OwnGroup}) && slices.ContainsFunc(v.Answers.Own, func(x safety.Own) bool { return x.ID == o.ID })
			})
			if side, said := n.Answers.Yes[o.ID]; said && !again {
				yes[o.ID] = side
			}
		}
		out = append(out, safety.Raise(n.On, safety.Answers{Yes: yes, Own: n.Answers.Own}, nil, nil)...)
	}
	if list := transition.Strikes(tender); transition.Refers(len(list)) {
		out = append(out, safety.Raise(list[len(list)-1], safety.Answers{Yes: map[string]body.Side{bone: body.Both}}, nil, nil)...)
	}
	return out
}
