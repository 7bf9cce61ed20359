// Package activity says what a recorded outing was: a run, a walk, something else, or
// a question for the coach. A wrong run is a wrong dose, so what is not plainly a run is
// asked. It reads no files: it judges what a reader found in one.
package activity

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"notchback/core/source"
	"notchback/core/units"
)

// Kind is what an outing was.
type Kind string

// The kinds.
const (
	Run   Kind = "run"
	Walk  Kind = "walk"  // or a hike: kept as such, in no volume and no dose
	Other Kind = "other" // kept out, and named
	Asked Kind = "asked" // a coach says which
)

// Hints is what a file says of an outing. What it does not say is empty, zero or nil.
type Hints struct {
	Sports  []string // as the file names them: of the session, its laps, the sport, its part
	Name    string   // what the runner or the device called it
	Metres  float64
	Seconds float64 // moving
	// FastMs is the speed that the fastest twentieth of the time reaches, in m/s.
	FastMs float64
	// Cadence is a minute, as it was counted: of one foot or of both.
	Cadence float64
	Gear    bool // gear changes were recorded
	Power   bool // watts were recorded
	// Dynamics are contact times or vertical oscillation: only feet have them.
	Dynamics bool
	Treadmill,
	Swim bool
	ClimbPerKm float64 // metres up on a kilometre
}

// Verdict is what an outing was, by which name, and why.
type Verdict struct {
	Kind Kind
	Name string   // in the file's or in plain words: "running", "cycling"
	Why  []string // in words, for the preview
	// Silent is set where the file does not say and nothing speaks against a run: what a
	// coach answers holds for the next of the same source.
	Silent bool
}

// Numbers that tell a run from something else (house; common practice without a source
// where it says so).
const (
	RunFastest   = 6.7  // m/s over a whole outing: under 2:30 a kilometre
	RunFastPart  = 9.0  // m/s for a twentieth of the time
	RunSlowest   = 1.6  // m/s: slower is a walk
	runSurely    = 2.0  // m/s, with a cadence of runners
	cadenceLeast = 140  // steps of both feet: runners are above (common practice)
	cadenceMost  = 220  // and below
	shortest     = 50.0 // metres that still tell a speed
	steep        = 150.0
)

// Source tags these numbers.
var Source = source.House("a file that is not plainly a run is asked, because volume steers every dose")

// names of sports as devices and applications write them, by a part of the word.
var (
	runNames  = []string{"running", "run", "jog", "lauf", "track_and_field"}
	walkNames = []string{"walking", "walk", "hiking", "hike", "trek", "mountaineering", "snowshoe", "wander"}
	none      = []string{"", "generic", "other", "unknown", "invalid", "activity", "sport", "workout", "all", "uncategorized", "default", "fitness_equipment", "training", "exercise"}
	// whole words in a name somebody gave; only a hint
	otherWords = []string{"ride", "bike", "biking", "cycling", "cycle", "velo", "spin", "mtb", "swim", "row", "rowing", "ski", "skate", "kayak", "gym", "strength", "yoga", "e-bike", "commute"}
	runWords   = []string{"run", "jog", "tempo", "intervals", "strides", "parkrun", "marathon", "fartlek"}
	walkWords  = []string{"walk", "hike", "dog"}
)

func clean(s string) string {
	return strings.NewReplacer(" ", "_", "-", "_").Replace(strings.ToLower(strings.TrimSpace(s)))
}

// Named says what a sport's name means; Asked where it means nothing.
func Named(sport string) Kind {
	s := clean(sport)
	switch {
	case slices.Contains(none, s) || strings.Trim(s, "0123456789") == "":
		return Asked
	case slices.ContainsFunc(walkNames, func(w string) bool { return strings.Contains(s, w) }):
		return Walk
	case slices.ContainsFunc(runNames, func(w string) bool { return strings.Contains(s, w) }):
		return Run
	}
	return Other
}

func hasWord(name string, words []string) bool {
	return slices.ContainsFunc(strings.FieldsFunc(strings.ToLower(name), func(r rune) bool { return r != '-' && (r < 'a' || r > 'z') }), func(w string) bool { return slices.Contains(words, w) })
}

// SpmFrom returns the steps of both feet a minute from a counted cadence at a speed, and
// whether it was counted on one foot. A count of 120 and more is of both; under it the
// step it would mean says: both feet where it is no longer than a metre (house), else
// one. Without a speed a count under 120 is of one foot.
func SpmFrom(counted, speedMs float64) (spm float64, oneFoot bool) {
	if counted >= 120 || counted <= 0 {
		return counted, false
	}
	if speedMs > 0 && counted >= 95 && speedMs*60/counted <= 1 {
		return counted, false
	}
	return 2 * counted, true
}

// Believable reports whether a distance and a time can be of somebody on foot at all.
func Believable(metres, seconds float64) bool {
	return seconds > 0 && metres >= 0 && metres <= fastest*seconds
}

// fastest is the mean of a whole outing that nobody reaches on foot, in m/s (house).
const fastest = 8.5

// Judge says what an outing was.
func Judge(h Hints) Verdict {
	var named Kind
	v := Verdict{}
	for _, s := range h.Sports {
		k := Named(s)
		if k == Asked {
			continue
		}
		if named == "" {
			named, v.Name = k, strings.ReplaceAll(clean(s), "_", " ")
			continue
		}
		if named != k {
			v.Why = append(v.Why, fmt.Sprintf("the file says %s and %s", v.Name, strings.ReplaceAll(clean(s), "_", " ")))
			named = Asked
		}
	}
	mean := 0.0
	if h.Seconds > 0 && h.Metres >= shortest {
		mean = h.Metres / h.Seconds
	}
	spm, _ := SpmFrom(h.Cadence, mean)
	against := contradictions(h, mean)
	switch named {
	case Asked:
		return v.as(Asked)
	case Other:
		return v.because(Other, "the file says "+v.Name)
	case Walk:
		if mean > runSurely && spm >= cadenceLeast || mean > RunFastest {
			return v.because(Asked, "the file says "+v.Name+", but it was "+pace(mean))
		}
		return v.because(Walk, "the file says "+v.Name)
	case Run:
		if len(against) > 0 {
			v.Why = append(v.Why, "the file says "+v.Name)
			v.Why = append(v.Why, against...)
			return v.as(Asked)
		}
		return v.because(Run, "the file says "+v.Name)
	}
	// The file does not say.
	switch {
	case h.Swim:
		v.Name = "swimming"
		return v.because(Other, "strokes of a swimmer were counted")
	case h.Gear:
		v.Name = "cycling"
		return v.because(Other, "gear changes were recorded")
	case mean > RunFastest:
		v.Why = append(v.Why, "nobody runs this far at "+pace(mean))
		return v.because(Asked, "the file does not say what it was")
	case len(against) > 0:
		v.Why = append(v.Why, against...)
		return v.because(Asked, "the file does not say what it was")
	case h.Dynamics && mean >= RunSlowest:
		v.Name = "running"
		return v.because(Run, "the time of feet on the ground was measured at running speed")
	case hasWord(h.Name, runWords) && !hasWord(h.Name, otherWords) && mean >= runSurely && spm >= cadenceLeast && spm <= cadenceMost:
		v.Name = "running"
		return v.because(Run, fmt.Sprintf("it is called %q, at %s with %.0f steps a minute", h.Name, pace(mean), spm))
	}
	v.Silent = true
	v.Why = append(v.Why, "the file does not say what it was")
	if mean > 0 {
		v.Why = append(v.Why, pace(mean))
	}
	if spm > 0 {
		v.Why = append(v.Why, fmt.Sprintf("%.0f steps a minute", spm))
	}
	return v.as(Asked)
}

// contradictions are what speaks against a run.
func contradictions(h Hints, mean float64) []string {
	var out []string
	add := func(is bool, why string) {
		if is {
			out = append(out, why)
		}
	}
	add(h.Gear, "gear changes were recorded")
	add(h.Swim, "strokes of a swimmer were counted")
	add(mean > RunFastest, "it was "+pace(mean)+" all along")
	add(h.FastMs > RunFastPart, "parts of it went at "+units.Kmh(h.FastMs))
	add(mean > 0 && mean < RunSlowest && h.Metres >= 500 && h.ClimbPerKm < steep && !h.Treadmill, "it was "+pace(mean)+", as one walks")
	add(h.Power && !h.Dynamics && h.Cadence > 0 && h.Cadence < 70, "watts and turns of pedals were recorded")
	add(hasWord(h.Name, otherWords) && !hasWord(h.Name, runWords), fmt.Sprintf("it is called %q", h.Name))
	add(hasWord(h.Name, walkWords) && !hasWord(h.Name, runWords), fmt.Sprintf("it is called %q", h.Name))
	return out
}

func (v Verdict) as(k Kind) Verdict { v.Kind = k; return v }

func (v Verdict) because(k Kind, why string) Verdict {
	v.Kind, v.Why = k, append(v.Why, why)
	return v
}

// pace says a speed in minutes a kilometre.
func pace(ms float64) string {
	s := int(math.Round(1000 / ms))
	return fmt.Sprintf("%d:%02d a kilometre", s/60, s%60)
}

// Known is what is known of a runner's running, to tell what is not like it.
type Known struct {
	Runs          int
	LongestMetres float64
	// SpeedMs is the usual speed; 0 where it is not known.
	SpeedMs float64
}

// Odd says what of a run is not believable of this runner, in words; nothing is fine.
// Three times the longest run, 1.6 times the usual speed or less than half of it are asked
// (house); so is a run of the marathon's length from who has no run yet.
func Odd(metres, seconds float64, k Known) []string {
	var out []string
	if k.LongestMetres > 0 && metres > 3*k.LongestMetres && metres > 5000 {
		out = append(out, units.Km(metres, 1)+" is more than three times the longest run so far, "+units.Km(k.LongestMetres, 1))
	}
	if k.Runs == 0 && metres > 42_195*1.05 {
		out = append(out, units.Km(metres, 1)+" would be the first run that is known")
	}
	if seconds > 0 && metres >= 1000 && k.SpeedMs > 0 {
		switch v := metres / seconds; {
		case v > 1.6*k.SpeedMs && v > 4:
			out = append(out, fmt.Sprintf("%s is much faster than usual, %s", pace(v), pace(k.SpeedMs)))
		case v < 0.5*k.SpeedMs:
			out = append(out, fmt.Sprintf("%s is much slower than usual, %s", pace(v), pace(k.SpeedMs)))
		}
	}
	return out
}
