package input

// afterFrom is the first slot of a re-test within the visit; lastSlot the last.
const (
	AfterFrom = 6
	lastSlot  = 9
)
