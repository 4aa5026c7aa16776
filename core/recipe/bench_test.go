package recipe

import "testing"

func BenchmarkPlan(b *testing.B) {
	r := Recipe{Style: ThreeRounds, Dose: 18, Water: 297, Temperature: 94, Bloom: 3, BloomTime: 45, Hand: Swirl}
	for b.Loop() {
		_ = r.Plan()
	}
}

func BenchmarkSolve(b *testing.B) {
	held := [2]Field{Ratio, Cup}
	for b.Loop() {
		_, _ = Solve(Amounts{Ratio: 16.5, Cup: 260}, held, 2)
	}
}
