package body

// First steps of a morning against the usual ones, B. Every rule that reads mornings
// stands on these (house: each errs on the side of less load).
const (
	QuietOver   = 1.0 // up to so much over the usual reading a morning is quiet
	JumpOver    = 2.0 // from so much on it is a jump
	FewMornings = 3   // running: so many bad ones make a flare, so many quiet ones end it
)

// OneLegAge is the age in years from which one-legged hops, end-range holds and heavy
// loads are open (house).
const OneLegAge = 16
