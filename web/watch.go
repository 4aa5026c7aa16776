package web

import (
	"crypto/rand"
	"net/http"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/recipe"
	"yardbloom/core/trace"
	"yardbloom/core/units"
	"yardbloom/device"
	"yardbloom/store"
	"yardbloom/web/form"
)

// standInScale is the id of the scale on which a stand-in hand pours.
const standInScale = "stand-in"

// speeds are how many times faster than by hand a stand-in may pour.
var speeds = units.Range{Lo: 1, Hi: 60}

// watchPoured lets a stand-in hand pour a recipe in the making over a stand-in scale, for
// somebody to watch: in the demo only, where everything is made up anyway.
func (s *Server) watchPoured(w http.ResponseWriter, r *http.Request) error {
	sc := sceneOf(r)
	if !s.Demo {
		return store.ErrNotFound
	}
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	speed := f.Quantity("speed", "The speed", units.Unit{Scale: 1}, speeds, false)
	if !f.OK() {
		return problem{http.StatusUnprocessableEntity, "That is no speed", f.Errors["speed"]}
	}
	manner, ok := device.Manners[f.Values["manner"]]
	if !ok {
		manner = device.Usual
	}
	if sc.draft == nil {
		return brew.ErrStatus
	}
	s.under.put(none+sc.ID, sc.ID) // not on a scale of the bench
	s.owners.Free(sc.ID)
	speed = max(1, speed)
	s.watch.hurry(sc.ID, speed, s.Now())
	// It counts as begun so long ago that it ends about now.
	lasts := float64(sc.draft.Recipe.Plan().Finish) * float64(time.Second)
	b, err := s.begin(r.Context(), sc.ID, rand.Text(), time.Duration(lasts*(1-1/speed)))
	if err != nil {
		return err
	}
	s.attend(r, &b.Sheet)
	go s.pourBy(device.NewHand(device.SeedOf(sc.ID), manner, b.Question(b.Started)), b, speed)
	return seeOther(w, r, "/brews/%s/brew", sc.ID)
}

// pourBy lets a hand pour a brew to its end, by the plan as it stands from moment to moment.
func (s *Server) pourBy(hand *device.Hand, b brew.Brew, speed float64) {
	scale, tared := hand.TaredScale(device.SeedOf(b.ID)), hand.Stands()
	const lookEvery = 10 // steps between two looks at the plan
	plan := b.Plan
	tick := time.NewTicker(time.Duration(device.Every / speed * float64(time.Second)))
	defer tick.Stop()
	begun := s.Now()
	for i := 0; !hand.Gone(); {
		select {
		case <-s.live.Closed():
			return
		case <-tick.C:
		}
		// As many steps as time has passed for: a tick that came late is made good.
		for due := int(s.Now().Sub(begun).Seconds() * speed / device.Every); i < due && !hand.Gone(); i++ {
			if i%lookEvery == 0 {
				now, ok := s.planNow(b.ID)
				if !ok {
					return
				}
				plan = now
			}
			x := trace.Reading{At: units.Seconds(float64(i+1) * device.Every), Grams: scale.Step(hand.Step(plan))}
			if s.owners.ReadAt(b.ID, standInScale, tared.Grams, x) != nil {
				return
			}
		}
	}
}

// planNow is the plan of a brew as it stands; false once the brew has been stopped.
func (s *Server) planNow(id string) (recipe.Plan, bool) {
	b, err := s.Store.Brew(s.live.Context(), id)
	if err != nil || b.Status == brew.Abandoned {
		return recipe.Plan{}, false
	}
	return b.At(s.watch.now(&b, s.Now())).Plan(), true
}
