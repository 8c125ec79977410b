package server

import "time"

// Hurry shortens how long a request may take to arrive.
func Hurry(d time.Duration) (back func()) {
	was := bodyArrives
	bodyArrives = d
	return func() { bodyArrives = was }
}
