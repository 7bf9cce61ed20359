package day_test

import (
	"fmt"
	"time"

	"notchback/core/day"
)

// In the Azores half past midnight of 29 March 2026 does not exist: the clocks go
// from midnight to one. It is the moment they do, and stays on its date.
func ExampleDate_At() {
	azores, err := time.LoadLocation("Atlantic/Azores")
	if err != nil {
		fmt.Println(err)
		return
	}
	d := day.Make(2026, time.March, 29)
	at := d.At(0, 30, 0, azores)
	fmt.Println(at.Format("15:04"), day.Of(at, azores))
	// Output: 01:00 2026-03-29
}
