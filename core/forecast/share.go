package forecast

import (
	"sync"
	"sync/atomic"
)

// workers is how many runs of the model go on at a time: a small server has no more processors.
const workers = 4

// Numbers are pieces of work, to be ranged over.
type Numbers func(yield func(int) bool)

// Share lets several workers do n pieces of work between them, and waits until all is
// done. Each works through its own of the numbers from 0 up to n; what a worker keeps
// between two of them is its own.
func Share(n int, work func(mine Numbers)) {
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
