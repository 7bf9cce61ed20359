// Package source tags every threshold, norm and dose with where it comes from,
// so that the screen can show it beside the number.
package source

import (
	"fmt"
	"strings"
)

// Kind says how well a value is supported.
type Kind string

// The three kinds a value can have.
const (
	KindPublished Kind = "published"       // from a publication, named in Cite
	KindCommon    Kind = "common-practice" // a rule of thumb without a source
	KindHouse     Kind = "house"           // our own choice, reason in Why
)

// Tag is the provenance of one value.
type Tag struct {
	Kind       Kind   `json:"kind" yaml:"kind" enum:"published,common-practice,house"`
	Cite       string `json:"cite,omitempty" yaml:"cite,omitempty" doc:"The publication, where kind is published"`
	Why        string `json:"why,omitempty" yaml:"why,omitempty" doc:"The reason for a house value, or how it was derived"`
	FromMemory bool   `json:"fromMemory,omitempty" yaml:"fromMemory,omitempty" doc:"The value was written down from memory, not read off the publication"`
}

// Published tags a value quoted from memory from a publication.
func Published(cite string) Tag { return Tag{Kind: KindPublished, Cite: cite, FromMemory: true} }

// Common tags a trade rule of thumb.
func Common() Tag { return Tag{Kind: KindCommon} }

// House tags our own choice with its reason.
func House(why string) Tag { return Tag{Kind: KindHouse, Why: why} }

// String returns the tag as shown to the user.
func (t Tag) String() string {
	var s string
	switch t.Kind {
	case KindPublished:
		s = "published: " + t.Cite
	case KindHouse:
		s = "house"
	default:
		s = "common practice, no source"
	}
	if t.Kind != KindPublished && t.Cite != "" {
		s += " (" + t.Cite + ")"
	}
	if t.Why != "" {
		s += ": " + t.Why
	}
	if t.FromMemory {
		s += " (from memory)"
	}
	return s
}

// Valid reports whether the tag carries what its kind asks for.
func (t Tag) Valid() bool {
	switch t.Kind {
	case KindPublished:
		return t.Cite != ""
	case KindHouse:
		return t.Why != ""
	}
	return t.Kind == KindCommon
}

// The publications the core quotes. All values from them were written down
// from memory.
var (
	Altman2012       = Published("Altman & Davis 2012, Gait & Posture 35:298")
	Alfredson1998    = Published("Alfredson et al. 1998, Am J Sports Med 26:360")
	Baxter2021       = Published("Baxter et al. 2021, Med Sci Sports Exerc 53:124")
	Bennell1998      = Published("Bennell et al. 1998, Aust J Physiother 44:175")
	Beyer2015        = Published("Beyer et al. 2015, Am J Sports Med 43:1704")
	Brody1982        = Published("Brody 1982, Orthop Clin North Am 13:541")
	HebertLosier2017 = Published("Hébert-Losier et al. 2017, Physiotherapy 103:446; Lunsford & Perry 1995, Phys Ther 75:694")
	Konor2012        = Published("Konor et al. 2012, Int J Sports Phys Ther 7:279")
	Plisky2006       = Published("Plisky et al. 2006, JOSPT 36:911")
	Rathleff2015     = Published("Rathleff et al. 2015, Scand J Med Sci Sports 25:e292")
	Redmond2006      = Published("Redmond et al. 2006, Clin Biomech 21:89")
	Silbernagel2007  = Published("Silbernagel et al. 2007, Am J Sports Med 35:897")
	Springer2007     = Published("Springer et al. 2007, J Geriatr Phys Ther 30:8")
	Stiell1992       = Published("Stiell et al. 1992, Ann Emerg Med 21:384; 1993, JAMA 269:1127")
	Weir2005         = Published("Weir 2005, J Strength Cond Res 19:231")
	ShroutFleiss1979 = Published("Shrout & Fleiss 1979, Psychol Bull 86:420")
	BlandAltman1986  = Published("Bland & Altman 1986, Lancet i:307")
	Heiderscheit2011 = Published("Heiderscheit et al. 2011, Med Sci Sports Exerc 43:296")
	PostnatalRun2019 = Published("Goom, Donnelly & Brockwell 2019, returning to running after birth")
)

// published are the short names data files use.
var published = map[string]Tag{
	"altman": Altman2012, "alfredson": Alfredson1998, "baxter": Baxter2021, "bennell": Bennell1998, "beyer": Beyer2015,
	"brody": Brody1982, "hebert": HebertLosier2017, "konor": Konor2012, "plisky": Plisky2006, "rathleff": Rathleff2015,
	"redmond": Redmond2006, "springer": Springer2007,
}

// Read turns the short form of data files into a tag: "common", "house: why",
// or the short name of a publication.
func Read(s string) (Tag, error) {
	if s == "common" {
		return Common(), nil
	}
	if why, ok := strings.CutPrefix(s, "house: "); ok && why != "" {
		return House(why), nil
	}
	if t, ok := published[s]; ok {
		return t, nil
	}
	return Tag{}, fmt.Errorf("source %q is not known: want common, house: why, or a publication's short name", s)
}
