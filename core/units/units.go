// Package units writes distances, speeds and weights so that they can be read in miles and
// pounds by whoever wants that. Everything is reckoned and kept in kilometres and
// kilograms; what is measured on a body stays in the units of its test, in which its marks
// are.
package units

import (
	"regexp"
	"strconv"
	"strings"
)

// Space stands between a number and its unit where the program wrote them. Nobody types
// it in a plain field, so that what people wrote themselves is not changed.
const Space = "\u00a0"

// The international mile and pound of 1959, exact (Federal Register 24:5348, from memory).
const (
	KmOfMile = 1.609344
	KgOfLb   = 0.45359237
)

func number(v float64, decimals int) string {
	s := strconv.FormatFloat(v, 'f', decimals, 64)
	if decimals > 0 {
		s = strings.TrimRight(strings.TrimRight(s, "0"), ".")
	}
	return s
}

// Km writes a distance given in metres: "8.5 km".
func Km(metres float64, decimals int) string { return number(metres/1000, decimals) + Space + "km" }

// Kmh writes a speed given in m/s.
func Kmh(ms float64) string { return number(ms*3.6, 0) + Space + "km/h" }

// Kg writes a weight: "12.5 kg".
func Kg(kg float64) string { return number(kg, 2) + Space + "kg" }

// System is what a person reads distances and weights in.
type System string

// The systems.
const (
	Metric   System = "metric"
	Imperial System = "imperial"
)

// Known reports whether s is a system there is.
func (s System) Known() bool { return s == Metric || s == Imperial }

var written = regexp.MustCompile(`(\d+(?:\.\d+)?)` + Space + `(km/h|km|kg)\b`)

// In is a text of the program's with its distances and weights in a system.
func (s System) In(text string) string {
	if s != Imperial || !strings.Contains(text, Space) {
		return text
	}
	return written.ReplaceAllStringFunc(text, func(m string) string {
		n, unit, _ := strings.Cut(m, Space)
		v, err := strconv.ParseFloat(n, 64)
		if err != nil {
			return m
		}
		switch unit {
		case "km":
			return number(v/KmOfMile, 1) + Space + "mi"
		case "km/h":
			return number(v/KmOfMile, 1) + Space + "mph"
		default:
			return number(v/KgOfLb, 1) + Space + "lb"
		}
	})
}
