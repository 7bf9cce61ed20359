package keep

import (
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"
)

// How many backups stay (house): the newest of each of so many days, weeks and months.
const (
	keepDays   = 7
	keepWeeks  = 5
	keepMonths = 12
)

const (
	nameStart = "notchback-"
	nameEnd   = ".age"
	nameTime  = "20060102-150405"
)

// Name is what a backup of a moment is called.
func Name(at time.Time) string { return nameStart + at.UTC().Format(nameTime) + nameEnd }

// timeOf reads the moment in a backup's name.
func timeOf(name string) (time.Time, bool) {
	rest, ok := strings.CutPrefix(name, nameStart)
	rest, ok2 := strings.CutSuffix(rest, nameEnd)
	at, err := time.Parse(nameTime, rest)
	return at, ok && ok2 && err == nil
}

// Newest is when the newest backup of a folder was made; zero for none.
func Newest(dir string) (at time.Time, err error) {
	list, err := os.ReadDir(dir)
	for _, e := range list {
		if t, ok := timeOf(e.Name()); ok && t.After(at) {
			at = t
		}
	}
	return at, err
}

// Rotate deletes the backups that are not the newest of a day, week or month that is kept,
// and returns their names. Files of other names are not touched.
func Rotate(dir string) ([]string, error) {
	list, err := os.ReadDir(dir)
	if err != nil {
		return nil, err
	}
	var names []string
	for _, e := range list {
		if _, ok := timeOf(e.Name()); ok && e.Type().IsRegular() {
			names = append(names, e.Name())
		}
	}
	slices.Sort(names)
	slices.Reverse(names) // the newest first
	stays := map[string]bool{}
	for _, by := range []struct {
		of   string
		most int
	}{{"2006-01-02", keepDays}, {"week", keepWeeks}, {"2006-01", keepMonths}} {
		seen := map[string]bool{}
		for _, n := range names {
			at, _ := timeOf(n)
			key := at.Format(by.of)
			if by.of == "week" {
				key = at.AddDate(0, 0, -(int(at.Weekday())+6)%7).Format("2006-01-02")
			}
			if !seen[key] && len(seen) < by.most {
				seen[key], stays[n] = true, true
			}
		}
	}
	var went []string
	for _, n := range names {
		if stays[n] {
			continue
		}
		if err := os.Remove(filepath.Join(dir, n)); err != nil {
			return went, err
		}
		went = append(went, n)
	}
	return went, nil
}
