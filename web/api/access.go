package api

import (
	"notchback/app/account"
)

// AccessEntry is a line of the access log in plain words.
type AccessEntry struct {
	account.AccessLine
	What string `json:"what" doc:"The operation in words"`
}
