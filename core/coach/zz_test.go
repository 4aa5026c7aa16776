package coach_test

import (
	"fmt"
	"os"
	"strconv"
	"testing"
	"time"
	"yardbloom/core/coach"
	"yardbloom/core/cup"
)

func TestZZ(t *testing.T) {
	seeds, _ := strconv.Atoi(os.Getenv("SEEDS"))
	if seeds == 0 {
		t.Skip()
	}
	k := 3
	if os.Getenv("ADV") != "" {
		k, _ = strconv.Atoi(os.Getenv("ADV"))
	}
	a := advisers[k]
	var all record
	s := time.Now()
	for _, l := range lives() {
		r := outcome(l, a, seeds)
		all.add(r)
		fmt.Printf("%-28s %.2f  %.0f%%  never %.0f%%\n", l.name, r.mean(), r.percent(r.within3), r.percent(r.never))
	}
	fmt.Printf("all %.2f %.0f%% %.1f%%  in %v\n", all.mean(), all.percent(all.within3), all.percent(all.never), time.Since(s))
	all.calibration(os.Stdout)
	fmt.Println("spoilt", all.spoilt(), len(all.changes))
}
func TestTrace(t *testing.T) {
	n := 0
	least, _ := strconv.Atoi(os.Getenv("LEAST"))
	if least == 0 {
		t.Skip()
	}
	wi, _ := strconv.Atoi(os.Getenv("WORLD"))
	for i, p := range palates {
		for j, bag := range coffees {
			l := newLearner(lives()[wi], p, bag, uint64(1000*i+100*j))
			q := l.question()
			var path []coach.Case
			var s string
			k := 1
			for ; k <= 8; k++ {
				b := l.brew(q)
				c, mark := b.Case, b.truth
				if b.mark >= good {
					break
				}
				path = append(path, c)
				cc := c
				cc.Path = path[:len(path)-1]
				a := coach.Advise(cc)
				say := string(a.Do) + " " + a.Instead
				ex := ""
				if a.First != nil {
					say = a.First.Say
					ex = fmt.Sprintf("dY%.1f help %.2f", a.First.Effect.Yield, a.First.Help)
				}
				y, _ := c.Yield()
				s += fmt.Sprintf("   mark %.1f said %d Y %.1f T %.2f dd %v (want %.1f %.2f) A%d B%d D%d S%d Bo%d %v | %s %.2f | %s %s | aim %.1f±%.1f %.2f±%.2f at %.1f %.2f\n", mark, c.Cup.Overall, y.Value, c.Cup.TDS, c.Cup.Drawdown, p.yield, p.strength, c.Cup.Steps[cup.Acidity], c.Cup.Steps[cup.Bitterness], c.Cup.Steps[cup.Dryness], c.Cup.Steps[cup.Sweetness], c.Cup.Steps[cup.Body], c.Cup.Bed, a.Rule, a.Chance, say, ex, a.Map.Aim.Yield, a.Map.Aim.YieldSpread, a.Map.Aim.Strength, a.Map.Aim.StrengthSpread, a.Map.Cups[len(a.Map.Cups)-1].Yield, a.Map.Cups[len(a.Map.Cups)-1].Strength)
				if a.First != nil {
					q.Recipe = c.Recipe.With(a.First.Address, a.First.To)
				} else {
					q.Recipe = c.Recipe
				}
			}
			if k > least && n < 9 {
				n++
				fmt.Println("learner", i, j, "brews", k)
				fmt.Print(s)
			}
		}
	}
}
func TestSit(t *testing.T) {
	for _, s := range situations {
		if os.Getenv("SIT") == "" || s.name != os.Getenv("SIT") {
			continue
		}
		a := coach.Advise(s.cup)
		fmt.Println(a.Do, a.Verdict, a.Chance, a.Evidence, a.Against)
		for _, l := range a.Signs {
			fmt.Println("  ", l.Say, l.Moved)
		}
		for _, p := range []*coach.Proposal{a.First, a.Second, a.Third} {
			if p != nil {
				fmt.Println(p.Say, p.LeadsTo, p.Help, p.Effect, p.Watch, "|", p.Lost)
				for _, l := range p.Lines {
					fmt.Printf("   %+.2f %s\n", l.By, l.Say)
				}
			}
		}
		fmt.Printf("%+v\n", a.Map)
	}
}
