package formats

import (
	"fmt"
	"io"
	"strings"
	"time"

	"github.com/go-pdf/fpdf"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/goregular"

	"notchback/core/figure"
)

// Sheet is a plan to print: a page for each week. With Care set it is that one page.
type Sheet struct {
	Title         string      `json:"title"`
	Runner        string      `json:"runner"`
	Made          time.Time   `json:"made"`
	Practice      string      `json:"practice"`
	Contact       string      `json:"contact,omitempty"`
	EmergencyText string      `json:"emergencyText,omitempty"`
	Care          *SheetCare  `json:"care,omitempty"`
	Weeks         []SheetWeek `json:"weeks" nullable:"false"`
	Notes         []string    `json:"notes,omitempty" doc:"What holds for all of it today"`
	Rules         []string    `json:"rules" nullable:"false" doc:"What to do about pain"`
	Alarms        []SheetList `json:"alarms" nullable:"false" doc:"Get care now, a clinician first, the coach"`
	Says          []string    `json:"says" nullable:"false" doc:"The schools' sentences"`
	Cautions      []string    `json:"cautions" nullable:"false"`
}

// SheetCare is the one page under an emergency.
type SheetCare struct {
	Title string   `json:"title"`
	Do    string   `json:"do"`
	Text  string   `json:"text,omitempty"`
	Signs []string `json:"signs" nullable:"false"`
	After string   `json:"after"`
}

// SheetList is a headed list.
type SheetList struct {
	Head   string   `json:"head"`
	Lines  []string `json:"lines" nullable:"false"`
	Strong bool     `json:"strong,omitempty"`
}

// SheetWeek is one page.
type SheetWeek struct {
	Heading string      `json:"heading"`
	Days    []SheetDay  `json:"days" nullable:"false"`
	Work    []SheetWork `json:"work" nullable:"false"`
	Notes   []string    `json:"notes" nullable:"false"`
	Diary   []string    `json:"diary" nullable:"false" doc:"Rows to fill in, a field a day"`
}

// SheetDay is a day in the week's strip.
type SheetDay struct {
	Name  string   `json:"name"`
	Lines []string `json:"lines" nullable:"false"`
}

// SheetWork is an exercise of the week with its drawing and dose.
type SheetWork struct {
	Name     string        `json:"name"`
	Exercise string        `json:"exercise"`
	Left     string        `json:"left"`
	Right    string        `json:"right"`
	Load     string        `json:"load,omitempty"`
	Tempo    string        `json:"tempo,omitempty"`
	Rest     string        `json:"rest,omitempty"`
	Sides    string        `json:"sides"`
	When     string        `json:"when,omitempty"`
	SetUp    string        `json:"setUp"`
	Cues     []string      `json:"cues" nullable:"false"`
	Mistakes []string      `json:"mistakes" nullable:"false"`
	Cautions []string      `json:"cautions" nullable:"false"`
	Notes    []string      `json:"notes" nullable:"false"`
	Days     string        `json:"days"`
	Start    []figure.Part `json:"start" nullable:"false"`
	End      []figure.Part `json:"end" nullable:"false"`
}

// Measures of the page in millimetres: A4, upright.
const (
	margin, pageWide, pageHigh = 12.0, 210.0, 297.0
	picture                    = 15.0
	font                       = "body"
)

// PlanPDF writes a plan as PDF, one page a week with drawings, doses, pain rules
// and cautions. Text that does not fit a week's page goes on to a next one.
func PlanPDF(w io.Writer, s Sheet) error {
	p := fpdf.New("P", "mm", "A4", "")
	p.SetCreationDate(s.Made)
	p.SetModificationDate(s.Made)
	p.SetCatalogSort(true)
	p.AddUTF8FontFromBytes(font, "", goregular.TTF)
	p.AddUTF8FontFromBytes(font, "B", gobold.TTF)
	p.SetTitle(s.Title, true)
	p.SetMargins(margin, margin, margin)
	p.SetAutoPageBreak(true, margin)
	p.SetFooterFunc(func() {
		p.SetY(-9)
		p.SetFont(font, "", 7)
		p.SetTextColor(86, 97, 92)
		p.CellFormat(0, 4, fmt.Sprintf("%s, made %s, page %d", s.Runner, s.Made.Format("2 January 2006"), p.PageNo()), "", 0, "R", false, 0, "")
	})
	if s.Care != nil {
		care(p, s)
	}
	for _, wk := range s.Weeks {
		week(p, s, wk)
	}
	if s.Care == nil && len(s.Alarms) > 0 {
		wrong(p, s)
	}
	return p.Output(w)
}

// care is the one page under an emergency.
func care(p *fpdf.Fpdf, s Sheet) {
	p.AddPage()
	p.SetTextColor(23, 33, 30)
	p.SetFont(font, "", 11)
	p.CellFormat(0, 6, s.Runner, "", 1, "L", false, 0, "")
	p.Ln(4)
	p.SetTextColor(163, 38, 28)
	p.SetFont(font, "B", 26)
	p.CellFormat(0, 12, s.Care.Title, "", 1, "L", false, 0, "")
	p.Ln(2)
	p.SetTextColor(23, 33, 30)
	p.SetFont(font, "B", 14)
	p.MultiCell(0, 7, s.Care.Do, "", "L", false)
	if s.Care.Text != "" {
		p.Ln(1)
		p.SetFont(font, "", 12)
		p.MultiCell(0, 6, s.Care.Text, "", "L", false)
	}
	p.Ln(4)
	p.SetFont(font, "B", 10)
	p.CellFormat(0, 6, "Because", "", 1, "L", false, 0, "")
	p.SetFont(font, "", 10)
	for _, l := range s.Care.Signs {
		p.MultiCell(0, 5, "–  "+l, "", "L", false)
	}
	p.Ln(3)
	p.MultiCell(0, 5, s.Care.After, "", "L", false)
	p.Ln(3)
	p.SetFont(font, "", 9)
	for _, l := range s.Cautions[:min(1, len(s.Cautions))] {
		p.MultiCell(0, 4.4, l, "", "L", false)
	}
}

func week(p *fpdf.Fpdf, s Sheet, wk SheetWeek) {
	p.AddPage()
	p.SetTextColor(23, 33, 30)
	p.SetFont(font, "B", 16)
	p.CellFormat(0, 7, s.Runner, "", 1, "L", false, 0, "")
	p.SetFont(font, "", 10)
	p.CellFormat(0, 5, wk.Heading, "", 1, "L", false, 0, "")
	p.SetFont(font, "", 8.5)
	who := s.Practice
	if s.Contact != "" {
		who += "  ·  " + s.Contact
	}
	p.MultiCell(0, 4, who, "", "L", false)
	p.Ln(1)
	p.SetFont(font, "B", 8.5)
	for _, n := range s.Notes {
		p.MultiCell(0, 4, n, "", "L", false)
	}
	p.Ln(1)
	strip(p, wk.Days)
	for _, n := range wk.Notes {
		p.SetFont(font, "B", 8.5)
		p.MultiCell(0, 4, n, "", "L", false)
	}
	diary(p, wk)
	p.Ln(1)
	for _, x := range wk.Work {
		work(p, x)
	}
	p.Ln(0.5)
	p.SetFont(font, "", 7.2)
	p.MultiCell(0, 3.2, strings.Join(s.Rules, "  "), "", "L", false)
	if len(s.Alarms) > 0 {
		p.SetTextColor(163, 38, 28)
		p.SetFont(font, "B", 7.5)
		p.MultiCell(0, 3.6, s.Alarms[0].Head+". The signs stand on the page “When something is wrong”.", "", "L", false)
		p.SetTextColor(23, 33, 30)
	}
	p.SetFont(font, "", 7)
	if len(s.Cautions) > 0 {
		p.MultiCell(0, 3.6, s.Cautions[0], "", "L", false)
	}
}

// wrong is the page of signs: get care now, a clinician first, the coach.
func wrong(p *fpdf.Fpdf, s Sheet) {
	p.AddPage()
	p.SetTextColor(23, 33, 30)
	p.SetFont(font, "B", 16)
	p.CellFormat(0, 8, "When something is wrong", "", 1, "L", false, 0, "")
	for _, a := range s.Alarms {
		lines := a.Lines
		if a.Strong && s.EmergencyText != "" {
			lines = append([]string{s.EmergencyText}, lines...)
		}
		list(p, a.Head, lines, a.Strong)
	}
	list(p, "How we work", s.Says, false)
	list(p, "Cautions", s.Cautions, false)
}

// list writes a headed list; the head stays with its first lines.
func list(p *fpdf.Fpdf, head string, lines []string, strong bool) {
	if len(lines) == 0 {
		return
	}
	if p.GetY() > pageHigh-margin-14-3.8*float64(min(6, len(lines))) {
		p.AddPage()
	}
	if strong {
		p.SetTextColor(163, 38, 28)
	}
	p.SetFont(font, "B", 9)
	p.MultiCell(0, 5, head, "", "L", false)
	p.SetTextColor(23, 33, 30)
	p.SetFont(font, "", 8)
	for _, l := range lines {
		p.MultiCell(0, 3.8, "–  "+l, "", "L", false)
	}
	p.Ln(1)
}

// diary draws the rows to fill in by hand.
func diary(p *fpdf.Fpdf, wk SheetWeek) {
	if len(wk.Days) == 0 {
		return
	}
	const label, high = 46.0, 5.0
	wide := (pageWide - 2*margin - label) / float64(len(wk.Days))
	p.SetFont(font, "", 7.5)
	p.SetDrawColor(216, 215, 204)
	p.SetTextColor(86, 97, 92)
	p.SetX(margin + label)
	for _, d := range wk.Days {
		p.CellFormat(wide, 3.6, d.Name[:min(3, len(d.Name))], "", 0, "C", false, 0, "")
	}
	p.Ln(3.6)
	for _, row := range wk.Diary {
		p.SetTextColor(23, 33, 30)
		p.CellFormat(label, high, row, "", 0, "L", false, 0, "")
		for range wk.Days {
			p.CellFormat(wide, high, "", "1", 0, "C", false, 0, "")
		}
		p.Ln(high)
	}
}

// strip draws the seven days side by side; long lines go on below.
func strip(p *fpdf.Fpdf, days []SheetDay) {
	if len(days) == 0 {
		return
	}
	const line = 3.4
	wide := (pageWide - 2*margin) / float64(len(days))
	top := p.GetY()
	p.SetFont(font, "", 7)
	texts := make([][]string, len(days))
	most := 2
	for i, d := range days {
		for _, l := range d.Lines {
			texts[i] = append(texts[i], p.SplitText(l, wide-2.4)...)
		}
		most = max(most, len(texts[i]))
	}
	high := 6 + line*float64(most) + 1
	p.SetDrawColor(216, 215, 204)
	for i, d := range days {
		x := margin + wide*float64(i)
		p.Rect(x, top, wide, high, "D")
		p.SetXY(x+1, top+1)
		p.SetFont(font, "B", 8)
		p.CellFormat(wide-2, 4, d.Name, "", 2, "L", false, 0, "")
		p.SetFont(font, "", 7)
		for _, l := range texts[i] {
			p.CellFormat(wide-2, line, l, "", 2, "L", false, 0, "")
		}
	}
	p.SetXY(margin, top+high+2)
}

func work(p *fpdf.Fpdf, x SheetWork) {
	left := margin + 2*picture + 4
	wide := pageWide - margin - left
	dose := x.Left
	if x.Left != x.Right {
		dose = "left " + x.Left + "   |   right " + x.Right
	}
	text := strings.TrimSuffix(x.SetUp, ".") + "."
	if len(x.Cues) > 0 {
		text += "  " + joinDots(x.Cues...) + "."
	}
	if len(x.Mistakes) > 0 {
		text += "  Watch: " + joinDots(x.Mistakes...) + "."
	}
	if x.Exercise != "" && x.Exercise != x.Name {
		text = x.Exercise + ". " + text
	}
	const line = 3.05
	type para struct {
		text, style string
		size        float64
		grey        bool
	}
	list := []para{{dose, "B", 8.5, false}, {joinDots(x.Load, x.Tempo, x.Rest, x.Sides, x.When), "", 7.2, true}, {text, "", 7.2, false}}
	if more := append(append([]string{}, x.Cautions...), x.Notes...); len(more) > 0 {
		list = append(list, para{joinDots(more...), "B", 7, false})
	}
	high := 4.2
	for _, t := range list {
		p.SetFont(font, t.style, t.size)
		high += line * float64(max(1, len(p.SplitText(t.text, wide-2))))
	}
	if p.GetY()+max(high, picture) > pageHigh-margin-2 {
		p.AddPage()
	}
	top := p.GetY()
	draw(p, x.Start, margin, top)
	draw(p, x.End, margin+picture+1, top)
	p.SetXY(left, top)
	p.SetTextColor(23, 33, 30)
	p.SetFont(font, "", 7.5)
	daysWide := p.GetStringWidth(x.Days) + 3
	for size := 9.5; size >= 6; size -= 0.5 {
		p.SetFont(font, "B", size)
		if p.GetStringWidth(x.Name) <= wide-daysWide-1 {
			break
		}
	}
	p.CellFormat(wide-daysWide, 4.2, x.Name, "", 0, "L", false, 0, "")
	p.SetFont(font, "", 7.5)
	p.SetTextColor(86, 97, 92)
	p.CellFormat(daysWide, 4.2, x.Days, "", 1, "R", false, 0, "")
	for _, t := range list {
		if t.text == "" {
			continue
		}
		p.SetTextColor(23, 33, 30)
		if t.grey {
			p.SetTextColor(86, 97, 92)
		}
		p.SetFont(font, t.style, t.size)
		p.SetX(left)
		p.MultiCell(wide, line, t.text, "", "L", false)
	}
	p.SetTextColor(23, 33, 30)
	p.SetXY(margin, max(p.GetY(), top+picture)+0.8)
}

func joinDots(list ...string) string {
	out := ""
	for _, s := range list {
		if s == "" {
			continue
		}
		if out != "" {
			out += "  ·  "
		}
		out += s
	}
	return out
}

// inked are the colours of kinds on paper: face and edge; what works is told from the
// limb it is on in one ink too, by being lighter.
var inked = map[figure.Kind]struct{ face, edge [3]int }{
	figure.Near: {[3]int{34, 48, 43}, [3]int{255, 255, 255}}, figure.Far: {[3]int{169, 178, 171}, [3]int{255, 255, 255}},
	figure.Work: {[3]int{180, 80, 122}, [3]int{180, 80, 122}}, figure.Press: {[3]int{180, 80, 122}, [3]int{180, 80, 122}},
	figure.Thing: {[3]int{227, 225, 214}, [3]int{90, 102, 96}}, figure.Mark: {[3]int{21, 74, 64}, [3]int{255, 255, 255}},
	figure.Light: {[3]int{255, 255, 255}, [3]int{255, 255, 255}}, figure.Ghost: {[3]int{255, 255, 255}, [3]int{141, 150, 143}},
	figure.Floor: {[3]int{201, 201, 188}, [3]int{201, 201, 188}},
}

// draw puts the parts of a picture into a square of the page.
func draw(p *fpdf.Fpdf, parts []figure.Part, x, y float64) {
	k := picture / figure.Size
	p.SetLineCapStyle("butt")
	p.SetLineJoinStyle("round")
	for _, s := range parts {
		ink := inked[s.Kind]
		p.SetFillColor(ink.face[0], ink.face[1], ink.face[2])
		p.SetDrawColor(ink.edge[0], ink.edge[1], ink.edge[2])
		pts, round, open := s.Curve()
		at := func(q figure.Point) (float64, float64) { return x + q[0]*k, y + q[1]*k }
		p.MoveTo(at(pts[0]))
		for i := 1; i < len(pts); i++ {
			if !round {
				p.LineTo(at(pts[i]))
				continue
			}
			ax, ay := at(pts[i])
			bx, by := at(pts[i+1])
			ex, ey := at(pts[i+2])
			p.CurveBezierCubicTo(ax, ay, bx, by, ex, ey)
			i += 2
		}
		switch {
		case open:
			p.SetLineWidth(s.LineWidth() * k)
			p.DrawPath("D")
		case s.Kind == figure.Ghost:
			p.ClosePath()
			p.SetLineWidth(0.12)
			p.SetDashPattern([]float64{0.5, 0.4}, 0)
			p.DrawPath("D")
			p.SetDashPattern(nil, 0)
		default:
			p.ClosePath()
			p.SetLineWidth(0.18)
			p.DrawPath("FD")
		}
	}
	p.SetLineWidth(0.2)
	p.SetDrawColor(216, 215, 204)
	p.SetFillColor(255, 255, 255)
	p.SetLineCapStyle("round")
}
