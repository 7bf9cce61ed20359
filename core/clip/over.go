package clip

// Over lays a proposal over an older one of the same clip: its frames count where it has
// any, the older one's elsewhere. Where both together would be too long, or another model
// made the older one, the new one stands alone.
func (p Proposal) Over(old Proposal) Proposal {
	if len(old.Frames) == 0 || old.Model != p.Model || old.Wide != p.Wide || old.High != p.High {
		return p
	}
	from := min(p.From, old.From)
	to := max(p.From+len(p.Frames), old.From+len(old.Frames))
	if to-from > proposalMost {
		return p
	}
	out := p
	out.From, out.Frames = from, make([][]float64, to-from)
	for i := range out.Frames {
		out.Frames[i] = []float64{}
	}
	copy(out.Frames[old.From-from:], old.Frames)
	copy(out.Frames[p.From-from:], p.Frames)
	return out
}
