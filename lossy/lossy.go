// Package lossy passes values on to whoever may be too slow for them.
package lossy

// Put puts a value into a buffered channel without waiting. Where it is full, since nobody
// keeps up, the oldest value goes. One sender at a time.
func Put[T any](c chan T, v T) {
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
