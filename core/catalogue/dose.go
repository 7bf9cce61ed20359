package catalogue

import (
	"fmt"
	"regexp"
	"strconv"
)

// Dose is one exact dose. Exactly one of Reps, HoldSeconds without Reps,
// Minutes, Contacts, Paces and Metres says how long a set is; a hold beside
// repetitions is held in each of them.
type Dose struct {
	Sets         int        `json:"sets"`
	Reps         int        `json:"reps,omitempty"`
	HoldSeconds  int        `json:"holdSeconds,omitempty"`
	Minutes      int        `json:"minutes,omitempty"`
	Contacts     int        `json:"contacts,omitempty" doc:"Contacts of one foot"`
	Paces        int        `json:"paces,omitempty"`
	Metres       int        `json:"metres,omitempty"`
	Tempo        [4]float64 `json:"tempo" doc:"Seconds up, hold, down, hold"`
	BodyPercent  float64    `json:"bodyPercent,omitempty" doc:"Added load in per cent of body weight"`
	RM           int        `json:"rm,omitempty" doc:"The load allows just this many repetitions"`
	Band         int        `json:"band,omitempty" doc:"Grade of the band, 1 the lightest"`
	SharePercent int        `json:"sharePercent,omitempty" doc:"Per cent of the session's usual load"`
	PlusCm       float64    `json:"plusCm,omitempty" doc:"Further than the first distance"`
	WalkMinutes  int        `json:"walkMinutes,omitempty" doc:"Walked after each"`
	Ways         int        `json:"ways,omitempty" doc:"Directions each repetition is done in"`
	Total        bool       `json:"total,omitempty" doc:"The minutes may be broken into pieces"`
	Spread       bool       `json:"spread,omitempty" doc:"The sets are spread over the day"`
	More         string     `json:"more,omitempty"`
	RestSeconds  int        `json:"restSeconds,omitempty" doc:"Between sets; the usual one of its kind when 0"`
	PerSecond    float64    `json:"perSecond,omitempty" doc:"Contacts of one foot in a second"`
}

var doseShape = regexp.MustCompile(`^(?:(\d{1,2}) x )?(\d{1,3})(?: x (\d{1,3}))?( s| min| paces| m| contacts)?$`)

// ParseDose reads "3 x 12" (sets of repetitions), "3 x 30 s" (holds),
// "2 x 5 x 3 s" (repetitions with a hold in each), "5 min", "2 x 10 min",
// "1 x 20 paces", "4 x 60 m" and "3 x 15 contacts".
func ParseDose(s string) (Dose, error) {
	bad := fmt.Errorf("dose %q: want sets x reps, like 3 x 12, or sets x seconds, like 3 x 30 s, or minutes, like 5 min", s)
	m := doseShape.FindStringSubmatch(s)
	if m == nil {
		return Dose{}, bad
	}
	num := func(t string) int { v, _ := strconv.Atoi(t); return v }
	d := Dose{Sets: num(m[1]), Tempo: [4]float64{1, 0, 1, 0}}
	n, hold, unit := num(m[2]), num(m[3]), m[4]
	if m[1] == "" && unit == " min" && m[3] == "" {
		d.Sets = 1
	}
	if d.Sets == 0 || n == 0 || (m[3] != "" && (unit != " s" || hold == 0)) {
		return Dose{}, bad
	}
	switch unit {
	case " s":
		if hold > 0 {
			d.Reps, d.HoldSeconds = n, hold
			return d, nil
		}
		d.HoldSeconds = n
	case " min":
		d.Minutes = n
	case " paces":
		d.Paces = n
	case " m":
		d.Metres = n
	case " contacts":
		d.Contacts = n
	default:
		d.Reps = n
	}
	return d, nil
}

// count is the size of one set in its own unit.
func (d Dose) count() int {
	switch {
	case d.Minutes > 0:
		return 60 * d.Minutes
	case d.Contacts > 0:
		return d.Contacts
	case d.Paces > 0:
		return d.Paces
	case d.Metres > 0:
		return d.Metres
	case d.Reps > 0:
		return d.Reps * max(1, d.HoldSeconds)
	}
	return d.HoldSeconds
}

// Volume is all sets together in the dose's own unit: repetitions, seconds (of
// holds and minutes alike), contacts, paces or metres.
func (d Dose) Volume() int { return d.Sets * d.count() * max(1, d.Ways) }

// measures counts how many of the ways to say a set's length are used.
func (d Dose) measures() int {
	n := 0
	for _, v := range []int{d.Minutes, d.Contacts, d.Paces, d.Metres, d.Reps + d.HoldSeconds} {
		if v > 0 {
			n++
		}
	}
	return n
}

// Speeds that turn counts into time.
const (
	paceSeconds    = 0.6 // house: a slow, careful step
	contactSeconds = 1 / 2.2
	strideMetres   = 4.0 // house: metres a second of a relaxed stride
	walkBackMetres = 1.4 // house: metres a second of the walk back
)

// setSeconds is how long one set of one side takes.
func (d Dose) setSeconds() float64 {
	switch {
	case d.Minutes > 0:
		return float64(60 * (d.Minutes + d.WalkMinutes))
	case d.Contacts > 0:
		return float64(d.Contacts) * contactSeconds
	case d.Paces > 0:
		return float64(d.Paces) * paceSeconds
	case d.Metres > 0:
		return float64(d.Metres)/strideMetres + float64(d.Metres)/walkBackMetres
	case d.Reps > 0:
		rep := d.Tempo[0] + d.Tempo[1] + d.Tempo[2] + d.Tempo[3]
		if d.HoldSeconds > 0 {
			rep = float64(d.HoldSeconds)
		}
		return float64(d.Reps*max(1, d.Ways)) * rep
	}
	return float64(d.HoldSeconds)
}

// ChangeOver is the time to get to the next exercise, in seconds.
const ChangeOver = 20

// Rests between sets, in seconds.
const (
	restStrength = 60
	restHeavy    = 90
	restElse     = 20
)

// Seconds is how long a notch takes: left set, right set, then the rest; with
// 20 s to change over. Walks and drills that are part of a run still count here;
// who lays out a week leaves them out.
func (n Notch) Seconds() float64 {
	sides := 1.0
	if !n.Together() {
		sides = 2
	}
	rest := n.Rest()
	if n.Dose.Spread {
		rest = 0
	}
	return float64(n.Dose.Sets)*n.Dose.setSeconds()*sides + float64((n.Dose.Sets-1)*rest) + ChangeOver
}

// routineChange is the time to get to the next part of a routine, in seconds: it is
// practised as one, so that nobody looks anything up.
const routineChange = 10

// InRoutine is how long a notch takes as a part of a routine: the other side is the
// rest, and the change-over is short.
func (n Notch) InRoutine() float64 {
	sides, rest := 2.0, 0
	if n.Together() {
		sides, rest = 1, n.Rest()
	}
	return float64(n.Dose.Sets)*n.Dose.setSeconds()*sides + float64((n.Dose.Sets-1)*rest) + routineChange
}

// Rest is the pause between two sets, in seconds.
func (n Notch) Rest() int {
	switch {
	case n.Dose.RestSeconds > 0:
		return n.Dose.RestSeconds
	case n.Heavy || n.Exercise.Purpose == ForSpring:
		return restHeavy
	case n.Exercise.Purpose == ForStrength || n.Exercise.Purpose == ForWholeLeg:
		return restStrength
	}
	return restElse
}

// perLoad is how many seconds of a hold count as one repetition.
const perLoad = 10.0

// Count is how often a notch loads one side: repetitions, contacts, or holds in
// pieces of 10 s. Minutes and metres of running are counted from its steps and
// are 0 here.
func (n Notch) Count() float64 {
	d := n.Dose
	switch {
	case d.PerSecond > 0:
		return float64(d.Sets*d.HoldSeconds) * d.PerSecond
	case d.Contacts > 0:
		return float64(d.Sets * d.Contacts)
	case d.Paces > 0:
		return float64(d.Sets*d.Paces) / 2
	case d.Reps > 0 && d.HoldSeconds > 0:
		return float64(d.Sets*d.Reps*d.HoldSeconds) / perLoad
	case d.Reps > 0:
		return float64(d.Sets * d.Reps)
	case d.HoldSeconds > 0:
		return float64(d.Sets*d.HoldSeconds) / perLoad
	}
	return 0
}

// Typed writes a dose as ParseDose reads it, without tempo and load.
func (d Dose) Typed() string {
	unit, n := "", d.Reps
	switch {
	case d.Minutes > 0:
		unit, n = " min", d.Minutes
	case d.Contacts > 0:
		unit, n = " contacts", d.Contacts
	case d.Paces > 0:
		unit, n = " paces", d.Paces
	case d.Metres > 0:
		unit, n = " m", d.Metres
	case d.Reps > 0 && d.HoldSeconds > 0:
		return fmt.Sprintf("%d x %d x %d s", d.Sets, d.Reps, d.HoldSeconds)
	case d.HoldSeconds > 0:
		unit, n = " s", d.HoldSeconds
	}
	return fmt.Sprintf("%d x %d%s", d.Sets, n, unit)
}
