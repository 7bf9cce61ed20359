package catalogue_test

import (
	"fmt"

	"notchback/core/catalogue"
	"notchback/core/words"
)

// A dose as a coach types it, and as it is shown.
func ExampleParseDose() {
	for _, s := range []string{"3 x 12", "3 x 30 s", "5 min", "a few"} {
		d, err := catalogue.ParseDose(s)
		if err != nil {
			fmt.Println(err)
			continue
		}
		fmt.Println(words.Dose(d))
	}
	// Output:
	// 3 × 12
	// 3 × 30 s
	// 5 min
	// dose "a few": want sets x reps, like 3 x 12, or sets x seconds, like 3 x 30 s, or minutes, like 5 min
}
