package figure

import (
	"fmt"
	"strings"
)

// ink is how a kind is drawn: its face, its edge and how wide that is.
type ink struct {
	Fill, Stroke string
	Width        float64
}

// Inks are the colours of a picture on paper; screens have their own by theme.
var Inks = map[Kind]ink{
	Near:  {"#22302b", "#fdfdfa", 0.7},
	Far:   {"#a9b2ab", "#fdfdfa", 0.7},
	Work:  {"#b4507a", "none", 0},
	Press: {"#b4507a", "none", 0},
	Ghost: {"none", "#8d968f", 0.5},
	Thing: {"#e3e1d6", "#5a6660", 0.8},
	Floor: {"none", "#c9c9bc", 0.9},
	Mark:  {"#154a40", "#fdfdfa", 0.7},
	Light: {"#fdfdfa", "none", 0},
}

// SVG writes parts as one drawing on its own.
func SVG(parts []Part) string {
	var b strings.Builder
	fmt.Fprintf(&b, `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %g %g" stroke-linejoin="round" stroke-linecap="round">`, Size, Size)
	for _, p := range parts {
		k, o := Inks[p.Kind], outlines[p.Part]
		fill, edge, width, more := k.Fill, k.Stroke, k.Width, ""
		if o.open {
			fill, width = "none", o.stroke
			if edge == "none" {
				edge = k.Fill
			}
		}
		if p.Kind == Ghost {
			more = ` stroke-dasharray="1.6 1.4"`
		}
		fmt.Fprintf(&b, `<path d="%s" fill="%s" stroke="%s" stroke-width="%g"%s/>`, p.Path(), fill, edge, width, more)
	}
	b.WriteString("</svg>")
	return b.String()
}
