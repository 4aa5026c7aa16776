package forecast

import (
	"sync"
	"sync/atomic"
)

// workers is the number of concurrent runs of the model: the number of processors of a small server.
const workers = 4

// Indices iterates over the indices of work items.
type Indices func(yield func(int) bool)

// Parallel divides n work items among several workers and waits until all are done. Each worker iterates over
// its own indices from 0 to n−1, and may keep private state between them.
func Parallel(n int, work func(mine Indices)) {
	var next atomic.Int64
	var all sync.WaitGroup
	mine := func(yield func(int) bool) {
		for i := int(next.Add(1)) - 1; i < n && yield(i); i = int(next.Add(1)) - 1 {
		}
	}
	for range workers {
		all.Go(func() { work(mine) })
	}
	all.Wait()
}
