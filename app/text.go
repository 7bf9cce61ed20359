package app

import (
	"cmp"
	"fmt"
	"slices"
)

func plural(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}

func sortByUrgency(items []BenchItem) {
	slices.SortStableFunc(items, func(a, b BenchItem) int {
		return cmp.Compare(urgency[a.Next.Kind], urgency[b.Next.Kind])
	})
}
