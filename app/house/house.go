// Package house puts the use cases together on one database: a room for each kind
// of thing a coach or a runner does. The rooms know the record and not each other.
package house

import (
	"notchback/app"
	"notchback/app/account"
	"notchback/app/bench"
	"notchback/app/block"
	"notchback/app/clips"
	"notchback/app/daily"
	"notchback/app/export"
	"notchback/app/intake"
	"notchback/app/pocket"
	"notchback/app/practice"
	"notchback/app/ramp"
	"notchback/app/record"
	"notchback/app/review"
	"notchback/app/running"
	"notchback/app/shelf"
	"notchback/store"
)

// House is the whole application.
type House struct {
	*app.App
	*account.Accounts
	*bench.Overview
	*block.Blocks
	*clips.Footage
	*daily.Daily
	*export.Exports
	*intake.Intake
	*pocket.Pockets
	*practice.Practices
	*ramp.Ramps
	*review.Reviews
	*running.Running
	*shelf.Shelves
}

// New returns the application on the store with the built-in catalogue.
func New(s *store.Store, opts ...app.Option) (*House, error) {
	a, err := app.New(s, opts...)
	if err != nil {
		return nil, err
	}
	b := &record.Book{App: a}
	return &House{
		App: a, Accounts: account.New(b), Overview: &bench.Overview{Book: b}, Blocks: &block.Blocks{Book: b}, Footage: clips.New(b), Daily: &daily.Daily{Book: b},
		Exports: &export.Exports{Book: b}, Intake: &intake.Intake{Book: b}, Pockets: &pocket.Pockets{Book: b}, Practices: &practice.Practices{Book: b}, Ramps: &ramp.Ramps{Book: b},
		Reviews: &review.Reviews{Book: b}, Running: &running.Running{Book: b}, Shelves: &shelf.Shelves{Book: b},
	}, nil
}
