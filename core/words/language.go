package words

import (
	_ "embed"
	"fmt"
	"time"

	"go.yaml.in/yaml/v3"

	"notchback/core/day"
)

// Language is one a runner reads in.
type Language string

// The languages there are. English stands in the code; each other one has a catalogue
// beside this file, from the English text to its own.
const (
	English Language = "en"
	German  Language = "de"
)

// Languages lists them.
var Languages = []Language{English, German}

//go:embed de.yaml
var germanTexts []byte

var german = func() map[string]string {
	out := map[string]string{}
	if err := yaml.Unmarshal(germanTexts, &out); err != nil {
		panic("de.yaml: " + err.Error())
	}
	return out
}()

// Known reports whether l is a language there is.
func (l Language) Known() bool { return l == English || l == German }

// Name is what English calls it.
func (l Language) Name() string {
	if l == German {
		return "German"
	}
	return "English"
}

// Text is an English text in l; where l has none, the English one.
func (l Language) Text(english string) string {
	if l == German {
		if s, ok := german[english]; ok {
			return s
		}
	}
	return english
}

// Original is the English text of what is said in any language; other words stay.
func Original(said string) string {
	if english, ok := originals[said]; ok {
		return english
	}
	return said
}

var originals = func() map[string]string {
	out := map[string]string{}
	for english, said := range german {
		out[said] = english
	}
	return out
}()

// Texts are several.
func (l Language) Texts(english []string) []string {
	out := make([]string, len(english))
	for i, s := range english {
		out[i] = l.Text(s)
	}
	return out
}

// Say is a text with what belongs into it.
func (l Language) Say(format string, args ...any) string { return fmt.Sprintf(l.Text(format), args...) }

var germanMonths = [...]string{"Januar", "Februar", "März", "April", "Mai", "Juni", "Juli", "August", "September", "Oktober", "November", "Dezember"}

// Day is a date in words.
func (l Language) Day(d day.Date) string {
	if l == German {
		t := d.Time()
		return fmt.Sprintf("%d. %s", t.Day(), germanMonths[t.Month()-time.January])
	}
	return d.Words()
}
