package api

// FileOut is a download.
type FileOut struct {
	Type        string `header:"Content-Type"`
	Disposition string `header:"Content-Disposition"`
	Body        []byte
}

// CalendarOut is a calendar with the mark of what it says: who has that already is
// answered 304 and nothing else.
type CalendarOut struct {
	Status int
	Type   string `header:"Content-Type"`
	ETag   string `header:"ETag"`
	Body   []byte
}
