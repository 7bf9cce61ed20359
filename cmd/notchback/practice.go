package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"slices"
	"time"

	"notchback/internal/keep"
)

// exportPractice writes one practice into a sealed file, for another installation.
func exportPractice(ctx context.Context, args []string) error {
	if len(args) < 1 || len(args) > 2 {
		return errors.New("usage: notchback export-practice FILE [PRACTICE]")
	}
	s, err := installation()
	if err != nil {
		return err
	}
	to, err := readers()
	if err != nil {
		return err
	}
	list, err := keep.Practices(ctx, s)
	if err != nil {
		return err
	}
	if len(args) == 2 {
		list = slices.DeleteFunc(list, func(p keep.Practice) bool { return p.ID != args[1] && p.Name != args[1] })
	}
	switch {
	case len(list) == 0:
		return errors.New("there is no such practice here")
	case len(list) > 1:
		fmt.Println("These are here; name one, or its id:")
		for _, p := range list {
			fmt.Printf("  %s  %s\n", p.ID, p.Name)
		}
		return errors.New("which practice?")
	}
	start := time.Now()
	m, err := keep.Export(ctx, s, list[0].ID, args[0], to...)
	if err != nil {
		return err
	}
	i, err := os.Stat(args[0])
	if err != nil {
		return err
	}
	fmt.Printf("%s: %s, %d rows, %d files, %.1f MB, in %s\n", args[0], m.Practice.Name, m.Rows(), m.Files, float64(i.Size())/1e6, time.Since(start).Round(time.Millisecond))
	for _, f := range m.Missing {
		fmt.Printf("  not there: the file %s of a clip\n", f)
	}
	fmt.Println("It is still here too. Once it is in use elsewhere, sign nobody in here: two copies grow apart.")
	return nil
}

// importPractice takes a practice in that another installation wrote.
func importPractice(ctx context.Context, args []string) error {
	if len(args) != 1 {
		return errors.New("usage: notchback import-practice FILE")
	}
	s, err := installation()
	if err != nil {
		return err
	}
	f, k, err := sealed(args[0])
	if err != nil {
		return err
	}
	defer func() { _ = f.Close() }()
	m, err := keep.Import(ctx, s, f, k...)
	if err != nil {
		return err
	}
	fmt.Printf("%s as of %s: %d rows and %d files came in as they were; its people sign in with their own passwords\n", m.Practice.Name, m.At.Format(time.RFC3339), m.Rows(), m.Files)
	return nil
}
