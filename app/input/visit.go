package input

// afterFrom is the first slot of a re-test within the visit; LastSlot the last.
const (
	AfterFrom = 6
	LastSlot  = 9
)
