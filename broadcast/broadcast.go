// Package broadcast sends values to receivers that may be slow.
package broadcast

// Send sends a value on a buffered channel without blocking. If the channel is full, the oldest
// value is dropped. A channel must have one sender at a time.
func Send[T any](c chan T, v T) {
	for {
		select {
		case c <- v:
			return
		default:
		}
		select {
		case <-c:
		default:
		}
	}
}
