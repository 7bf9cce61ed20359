package formats

import (
	"fmt"
	"io"
	"time"

	"github.com/go-pdf/fpdf"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/goregular"

	"notchback/core/figure"
)

// Sheet is a plan to print: a page for each week.
type Sheet struct {
	Title    string      `json:"title"`
	Runner   string      `json:"runner"`
	Made     time.Time   `json:"made"`
	Weeks    []SheetWeek `json:"weeks" nullable:"false"`
	Rules    []string    `json:"rules" nullable:"false" doc:"What to do about pain"`
	Cautions []string    `json:"cautions" nullable:"false"`
}

// SheetWeek is one page.
type SheetWeek struct {
	Heading string      `json:"heading"`
	Days    []SheetDay  `json:"days" nullable:"false"`
	Work    []SheetWork `json:"work" nullable:"false"`
	Notes   []string    `json:"notes" nullable:"false"`
}

// SheetDay is a day in the week's strip.
type SheetDay struct {
	Name  string   `json:"name"`
	Lines []string `json:"lines" nullable:"false"`
}

// SheetWork is an exercise of the week with its drawing and dose.
type SheetWork struct {
	Name  string          `json:"name"`
	Left  string          `json:"left"`
	Right string          `json:"right"`
	Tempo string          `json:"tempo,omitempty"`
	SetUp string          `json:"setUp"`
	Cues  []string        `json:"cues" nullable:"false"`
	Days  string          `json:"days"`
	Start []figure.Stroke `json:"start" nullable:"false"`
	End   []figure.Stroke `json:"end" nullable:"false"`
}

// Measures of the page in millimetres: A4, upright.
const (
	margin, pageWide, pageHigh = 12.0, 210.0, 297.0
	picture                    = 19.0
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
	for _, wk := range s.Weeks {
		week(p, s, wk)
	}
	return p.Output(w)
}

func week(p *fpdf.Fpdf, s Sheet, wk SheetWeek) {
	p.AddPage()
	p.SetTextColor(23, 33, 30)
	p.SetFont(font, "B", 16)
	p.CellFormat(0, 7, s.Runner, "", 1, "L", false, 0, "")
	p.SetFont(font, "", 10)
	p.CellFormat(0, 5, wk.Heading, "", 1, "L", false, 0, "")
	p.Ln(2)
	strip(p, wk.Days)
	for _, n := range wk.Notes {
		p.SetFont(font, "B", 8.5)
		p.MultiCell(0, 4, n, "", "L", false)
	}
	p.Ln(1)
	for _, x := range wk.Work {
		work(p, x)
	}
	p.Ln(2)
	if p.GetY() > pageHigh-60 {
		p.AddPage()
	}
	list := func(head string, lines []string) {
		if len(lines) == 0 {
			return
		}
		p.SetFont(font, "B", 9)
		p.CellFormat(0, 5, head, "", 1, "L", false, 0, "")
		p.SetFont(font, "", 8)
		for _, l := range lines {
			p.MultiCell(0, 3.8, "–  "+l, "", "L", false)
		}
		p.Ln(1)
	}
	list("Pain", s.Rules)
	list("Cautions", s.Cautions)
}

// strip draws the seven days side by side.
func strip(p *fpdf.Fpdf, days []SheetDay) {
	if len(days) == 0 {
		return
	}
	wide := (pageWide - 2*margin) / float64(len(days))
	top := p.GetY()
	most := 0
	for _, d := range days {
		most = max(most, len(d.Lines))
	}
	high := 6 + 3.6*float64(max(2, most))
	p.SetDrawColor(216, 215, 204)
	for i, d := range days {
		x := margin + wide*float64(i)
		p.Rect(x, top, wide, high, "D")
		p.SetXY(x+1, top+1)
		p.SetFont(font, "B", 8)
		p.CellFormat(wide-2, 4, d.Name, "", 2, "L", false, 0, "")
		p.SetFont(font, "", 7)
		for _, l := range d.Lines {
			p.CellFormat(wide-2, 3.6, fit(p, l, wide-2), "", 2, "L", false, 0, "")
		}
	}
	p.SetXY(margin, top+high+2)
}

// fit cuts a line to a width, with an ellipsis.
func fit(p *fpdf.Fpdf, s string, wide float64) string {
	r := []rune(s)
	for len(r) > 1 && p.GetStringWidth(string(r)) > wide-0.5 {
		r = append(r[:len(r)-2], '…')
	}
	return string(r)
}

func work(p *fpdf.Fpdf, x SheetWork) {
	const high = picture + 2
	if p.GetY()+high > pageHigh-margin-4 {
		p.AddPage()
	}
	top := p.GetY()
	draw(p, x.Start, margin, top)
	draw(p, x.End, margin+picture+1, top)
	left := margin + 2*picture + 5
	wide := pageWide - margin - left
	p.SetXY(left, top)
	p.SetTextColor(23, 33, 30)
	p.SetFont(font, "B", 10)
	p.CellFormat(wide*0.6, 4.6, fit(p, x.Name, wide*0.6), "", 0, "L", false, 0, "")
	p.SetFont(font, "", 8)
	p.SetTextColor(86, 97, 92)
	p.CellFormat(wide*0.4, 4.6, fit(p, x.Days, wide*0.4), "", 1, "R", false, 0, "")
	p.SetTextColor(23, 33, 30)
	p.SetX(left)
	p.SetFont(font, "B", 9.5)
	dose := x.Left
	if x.Left != x.Right {
		dose = "left " + x.Left + "   |   right " + x.Right
	}
	p.CellFormat(wide, 4.6, fit(p, dose, wide), "", 1, "L", false, 0, "")
	p.SetFont(font, "", 8)
	text := x.SetUp
	if x.Tempo != "" {
		text = x.Tempo + ". " + text
	}
	p.SetX(left)
	p.MultiCell(wide, 3.5, text, "", "L", false)
	if len(x.Cues) > 0 {
		p.SetX(left)
		p.SetTextColor(21, 74, 64)
		cues := ""
		for i, c := range x.Cues {
			if i > 0 {
				cues += "  ·  "
			}
			cues += c
		}
		p.CellFormat(wide, 3.8, fit(p, cues, wide), "", 1, "L", false, 0, "")
		p.SetTextColor(23, 33, 30)
	}
	p.SetXY(margin, max(p.GetY(), top+high)+1)
}

// draw puts the strokes of a picture into a square of the page.
func draw(p *fpdf.Fpdf, strokes []figure.Stroke, x, y float64) {
	k := picture / figure.Size
	p.SetLineCapStyle("round")
	p.SetLineJoinStyle("round")
	for _, s := range strokes {
		switch s.Kind {
		case figure.Near:
			p.SetDrawColor(23, 33, 30)
			p.SetLineWidth(0.55)
		case figure.Far:
			p.SetDrawColor(140, 148, 143)
			p.SetLineWidth(0.4)
		case figure.Thing:
			p.SetDrawColor(147, 96, 12)
			p.SetLineWidth(0.4)
		case figure.Mark:
			p.SetDrawColor(21, 74, 64)
			p.SetLineWidth(0.4)
		default:
			p.SetDrawColor(190, 190, 180)
			p.SetLineWidth(0.25)
		}
		if s.Radius > 0 {
			p.Circle(x+s.Points[0][0]*k, y+s.Points[0][1]*k, s.Radius*k, "D")
			continue
		}
		for i, q := range s.Points {
			if i == 0 {
				p.MoveTo(x+q[0]*k, y+q[1]*k)
			} else {
				p.LineTo(x+q[0]*k, y+q[1]*k)
			}
		}
		if s.Closed {
			p.ClosePath()
		}
		p.DrawPath("D")
	}
	p.SetLineWidth(0.2)
	p.SetDrawColor(216, 215, 204)
}
