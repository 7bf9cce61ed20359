package safety

import "strings"

// names are what a flag is called in a sentence; codes never stand on a screen. House.
var names = map[string]string{
	"F-POP": "the pop or kick", "F-STEPS": "the fresh injury", "F-CLOT": "the swollen calf", "F-HEART": "the heart and breath signs", "F-SPINE": "the back signs",
	"F-LIMB": "the cold or pale foot", "F-COMP": "the tight, painful shin or calf", "F-INFECT": "the infection signs", "F-BONE": "the bone pain", "F-BONE-HIGH": "the bone pain at a high-risk place",
	"F-SEVERE": "the strong pain", "F-FLARE": "the flare", "F-OPEN": "the open safety questions", "F-NERVE": "the numbness or tingling", "F-WEAK": "the sudden weakness",
	"F-TEAR": "the torn muscle or sole", "F-BLOOD": "the clotting or blood thinning", "F-PREG": "the pregnancy or birth", "F-MED": "the medicine", "F-ACH-OP": "the operated Achilles",
	"F-TOE-HOT": "the hot toe joint", "F-STUCK": "the locked joint", "F-SHIN-LONG": "the long shin pain", "F-METAL": "the metal in the bone", "F-INFLAM": "the morning stiffness of many joints",
	"F-ILL": "the illness", "F-HOTFOOT": "the hot, swollen foot", "F-GROW": "the growing heel or knee", "F-ENERGY": "the low energy signs", "F-DIZZY": "the dizziness", "F-CRPS": "the changed skin and pain",
	"F-COLD": "the cold fingers or toes", "F-CHILD": "the age", "F-CANCER": "the former cancer",
}

// Name is what a flag is called in a sentence: "the strong pain". Where only the id of a
// practice's own is at hand it can't say more; [Standing.Name] can.
func (f FlagID) Name() string {
	for id := string(f); id != ""; {
		if n, ok := names[id]; ok {
			return n
		}
		i := strings.LastIndex(id, "-")
		if i < 2 {
			break
		}
		id = id[:i]
	}
	if q, ok := entry(f); ok {
		return "“" + q.Text + "”"
	}
	return "a flag of this practice"
}
