package e2e

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"notchback/app/demo"
)

// unfit lists what sticks out of the window, is cut, or lies on other text.
const unfit = `() => {
	const out = [], seen = e => { const s = getComputedStyle(e); return s.visibility !== 'hidden' && s.display !== 'none' && Number(s.opacity) > 0 }
	const name = e => (e.tagName + ' ' + (e.getAttribute('aria-label') || e.innerText || '')).replace(/\s+/g, ' ').slice(0, 60)
	const wide = document.documentElement.clientWidth
	if (document.documentElement.scrollWidth > wide + 1) out.push('the page is ' + document.documentElement.scrollWidth + ' wide in a window of ' + wide)
	const scrolls = e => { for (let p = e; p && p !== document.body; p = p.parentElement) { const o = getComputedStyle(p); if (/auto|scroll/.test(o.overflowX) && p.scrollWidth > p.clientWidth) return true } return false }
	const texts = []
	const walk = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT)
	while (walk.nextNode()) {
		const n = walk.currentNode, e = n.parentElement
		if (!n.data.trim() || !e || e.closest('svg,script,style,option,select,[aria-hidden=true],.sr-only,details:not([open]) > :not(summary)') || !seen(e)) continue
		const range = document.createRange(); range.selectNodeContents(n)
		for (const r of range.getClientRects()) {
			if (r.width < 1 || r.height < 1) continue
			texts.push({ e, l: r.left, r: r.right, t: r.top, b: r.bottom })
			if ((r.left < -1 || r.right > wide + 1) && !scrolls(e)) out.push('sticks out: ' + name(e))
		}
		for (let p = e; p && p !== document.body; p = p.parentElement) {
			const s = getComputedStyle(p)
			if (s.overflowX === 'hidden' && p.scrollWidth > p.clientWidth + 1 && !p.closest('.sr-only')) { out.push('cut: ' + name(p)); break }
		}
	}
	texts.sort((a, b) => a.t - b.t)
	for (let i = 0; i < texts.length; i++) for (let k = i + 1; k < texts.length && texts[k].t < texts[i].b; k++) {
		const a = texts[i], b = texts[k]
		if (a.e === b.e) continue
		const w = Math.min(a.r, b.r) - Math.max(a.l, b.l), h = Math.min(a.b, b.b) - Math.max(a.t, b.t)
		if (w > 3 && h > 5) out.push('lie on each other: ' + name(a.e) + ' | ' + name(b.e))
	}
	return [...new Set(out)].slice(0, 8)
}`

// fitViews are the views looked at; the runner has a block, clips and a flare.
func fitViews() map[string]func(*tab) string {
	of := func(path string) func(*tab) string { return func(*tab) string { return path } }
	return map[string]func(*tab) string{
		"bench": of("/"), "now": runnerPath("Tomas", ""), "screenings": runnerPath("Bera", "/screenings"), "plan": runnerPath("Isolde", "/plan"), "block": runnerPath("Isolde", "/block"),
		"running": runnerPath("Isolde", "/runs"), "ramps": runnerPath("Pilar", "/ramp"), "clips": runnerPath("Bera", "/clips"), "journal": runnerPath("Isolde", "/journal"), "profile": runnerPath("Isolde", "/edit"),
		"log": runnerPath("Isolde", "/log"), "print": runnerPath("Isolde", "/print"), "review": func(p *tab) string { return strings.Replace(runnerPath("Tomas", "")(p), "/runners/", "/review/", 1) },
		"screening": screeningPath("Dario"), "shelf": of("/shelf"), "exercises": of("/shelf/exercises"), "routines": of("/shelf/routines"), "practice": of("/practice"), "new": of("/runners/new"),
	}
}

// Nothing sticks out, is cut or lies on other text: on a laptop, a tablet, a phone, and
// with text at 200 %. The dark theme passes axe at every level.
func TestEveryViewFits(t *testing.T) {
	s := serve(t, true)
	for _, size := range []struct {
		name          string
		width, height int
		scale         float64
		dark          bool
	}{{"laptop", 1280, 800, 1, false}, {"tablet, dark", 820, 1180, 1, true}, {"phone", 390, 844, 1, false}, {"large text", 640, 400, 2, false}} {
		t.Run(size.name, func(t *testing.T) {
			t.Parallel()
			p := s.open(t, size.width, size.height)
			p.MustSetViewport(size.width, size.height, size.scale, false)
			p.signIn(demo.Email)
			if size.dark {
				p.MustEval(`() => localStorage.setItem('theme', 'dark')`)
			}
			for name, path := range fitViews() {
				p.goTo(path(p))
				p.MustElement("h1")
				p.MustWait(`() => inflight === 0 && !/^Loading/m.test(document.querySelector('main').innerText)`)
				p.rest()
				var found []string
				for _, x := range p.MustEval(unfit).Arr() {
					found = append(found, x.Str())
				}
				assert.Empty(t, found, fmt.Sprintf("%s on a %s", name, size.name))
				if size.dark { // the light theme is checked where each view has its own test
					p.axeAt("minor", "moderate", "serious", "critical")
				}
			}
		})
	}
}
