package web

import (
	"context"
	"crypto/rand"
	"fmt"
	"net/http"
	"sync"
	"time"

	"yardbloom/core/brew"
	"yardbloom/core/gear"
	"yardbloom/core/units"
	"yardbloom/device"
	"yardbloom/live"
	"yardbloom/web/form"
)

// under says which brew stands on which scale. It is safe for concurrent use.
type under struct {
	mu    sync.Mutex
	brews map[string]string // by the scale's id
}

func (u *under) brew(scale string) string {
	u.mu.Lock()
	defer u.mu.Unlock()
	return u.brews[scale]
}

// scale is the scale under a brew; empty for none.
func (u *under) scale(brewID string) string {
	u.mu.Lock()
	defer u.mu.Unlock()
	for scale, id := range u.brews {
		if id == brewID {
			return scale
		}
	}
	return ""
}

// hand gives what a scale shows to the brew that stands on it, if any. Meanwhile nothing is
// put on another scale, so that no reading comes to a brew that was taken off.
func (u *under) hand(scale string, read func(brewID string)) {
	u.mu.Lock()
	defer u.mu.Unlock()
	if id := u.brews[scale]; id != "" {
		read(id)
	}
}

// put sets a brew on a scale, and takes it off any other; an empty scale is none.
func (u *under) put(scale, brewID string) {
	u.mu.Lock()
	defer u.mu.Unlock()
	for s, id := range u.brews {
		if id == brewID {
			delete(u.brews, s)
		}
	}
	if scale != "" {
		u.brews[scale] = brewID
	}
}

// newOwners returns the owners of the brews that run here.
func (s *Server) newOwners() *live.Owners {
	return live.NewOwners(live.Yard{Keeper: s.Store, Hub: s.live, Log: s.Log,
		Now: func(b *brew.Brew) time.Time { return s.watch.now(b, s.Now()) },
		Attend: func(ctx context.Context, sheet *brew.Sheet) {
			set, err := s.Store.Settings(ctx)
			if err != nil {
				s.Log.Error("settings", "err", err)
			}
			sheet.Beliefs, sheet.Habits, sheet.Prefs = s.teacher.Believe(*sheet), set.Habits(), set.Prefs()
		},
		Kettle: s.kettleNow,
		Heat:   s.heatOn,
		Start:  s.beginByScale,
	})
}

// beginByScale begins a recipe whose first water its scale saw so long ago, and returns how
// to take that back: it may turn out to have been the rinse.
func (s *Server) beginByScale(ctx context.Context, id string, ago time.Duration) (takeBack func(context.Context) error, err error) {
	d, _, err := s.Store.Draft(ctx, id)
	if err != nil {
		return nil, err
	}
	if _, err := s.begin(ctx, id, rand.Text(), ago); err != nil {
		return nil, err
	}
	return func(ctx context.Context) error {
		if err := s.Store.TakeBack(ctx, d, s.Now()); err != nil {
			return err
		}
		s.watch.forget(id)
		return nil
	}, nil
}

// kettleNow is how warm the water is in the kettle that says so; 0 for none.
func (s *Server) kettleNow() units.Celsius {
	_, st := s.kettle()
	return st.Celsius
}

// kettle is the first kettle on the bench that says how warm it is, and what it says; nil for none.
func (s *Server) kettle() (*device.Link, device.State) {
	for _, l := range s.bench.Of(gear.KettleDevice) {
		if st := l.State(); st.Connected && !st.Silent {
			return l, st
		}
	}
	return nil, device.State{}
}

// heatOn sets the kettle to what the next pour wants, where it still stands at what the last
// one wanted. One that somebody has set to something else stays as it is.
func (s *Server) heatOn(was, next units.Celsius) {
	const close = 1 // °C
	for _, l := range s.bench.Of(gear.KettleDevice) {
		if set := l.State().Set; set > 0 && set > was-close && set < was+close {
			l.Heat(next)
		}
	}
}

// connect connects to the yard's devices as they are kept, and puts brews that run back on their scales.
func (s *Server) connect(ctx context.Context) error {
	devices, err := s.Store.Devices(ctx)
	if err != nil {
		return err
	}
	for _, l := range s.bench.Sync(devices) {
		if l.Device.Kind == gear.Scale {
			s.weighs(l)
		}
	}
	return nil
}

// resumeScales puts the brews that run back on the scales that saw them before a restart.
func (s *Server) resumeScales(ctx context.Context) error {
	running, err := s.Store.Running(ctx)
	if err != nil {
		return err
	}
	for _, id := range running {
		b, err := s.Store.Brew(ctx, id)
		if err != nil {
			return err
		}
		for _, e := range b.Events {
			if e.Kind == brew.Watched {
				s.under.put(e.Note, id)
			}
		}
	}
	return nil
}

// weighs passes what a scale shows to the brew that stands on it.
func (s *Server) weighs(l *device.Link) {
	said, leave := l.Follow()
	go func() {
		defer leave()
		for {
			select {
			case <-s.live.Closed():
				return
			case <-l.Closed():
				return
			case m := <-said:
				if m.Grams == nil {
					continue
				}
				s.under.hand(l.Device.ID, func(id string) {
					_ = s.owners.Read(id, l.Device.ID, units.Grams(*m.Grams)) // of another scale: that one has the brew
				})
			}
		}
	}()
}

// standsOn is the scale under a brew, as the Brew station shows it.
type standsOn struct {
	ID, Name string
	Says     string // what is wrong, or how it is
	Well     bool   // it is connected and says something
	Others   []scaleChoice
}

type scaleChoice struct{ ID, Name string }

// scaleOf is the scale under a brew and those that it could stand on. A brew that has not
// begun is put on the first that is free.
func (s *Server) scaleOf(sc *scene) standsOn {
	var v standsOn
	links := s.bench.Of(gear.Scale)
	v.ID = s.under.scale(sc.ID)
	if v.ID == "" && sc.brew == nil && !s.noScale(sc.ID) {
		for _, l := range links {
			if on := s.under.brew(l.Device.ID); on == "" || !s.runs(on) {
				v.ID = l.Device.ID
				s.under.put(v.ID, sc.ID)
				break
			}
		}
	}
	for _, l := range links {
		if l.Device.ID != v.ID {
			v.Others = append(v.Others, scaleChoice{l.Device.ID, l.Title()})
			continue
		}
		v.Name = l.Title()
		st := l.State()
		switch {
		case !st.Connected:
			v.Says = st.Trouble
		case st.Silent:
			v.Says = "it says nothing"
		case st.Trouble != "":
			v.Says = st.Trouble
		case st.HasPower && st.Battery < lowBattery:
			v.Says, v.Well = fmt.Sprintf("%.0f %% battery left", st.Battery), true
		default:
			v.Well = true
		}
	}
	if v.Name == "" {
		v.ID = ""
	}
	return v
}

// lowBattery is what is left of a battery when it is worth saying, %.
const lowBattery = 15

// none is in place of a scale's id where a brew shall have none.
const none = "none"

func (s *Server) noScale(brewID string) bool { return s.under.brew(none+brewID) == brewID }

// runs says whether an id is that of a brew that runs.
func (s *Server) runs(id string) bool {
	b, err := s.Store.Brew(context.Background(), id)
	return err == nil && b.Status == brew.Running
}

// kettleView is the kettle that says how warm it is.
type kettleView struct{ Name, Now, Set, Wanted string }

// kettleOf is the kettle on the bench, for a recipe; nil where none says anything.
func (s *Server) kettleOf(sc *scene) *kettleView {
	l, st := s.kettle()
	if l == nil {
		return nil
	}
	t := sc.prefs.Unit(units.Temperature)
	v := &kettleView{Name: l.Title(), Now: t.Format(float64(st.Celsius)), Wanted: t.Format(float64(sc.Recipe.Temperature()))}
	if st.Set > 0 {
		v.Set = t.Format(float64(st.Set))
	}
	return v
}

// heat sets the kettle on the bench to the recipe's first temperature.
func (s *Server) heat(w http.ResponseWriter, r *http.Request) error {
	sc := sceneOf(r)
	for _, l := range s.bench.Of(gear.KettleDevice) {
		l.Heat(min(sc.Recipe.Temperature(), gear.Hottest(sc.Gear.Boiling)))
	}
	return seeOther(w, r, "/brews/%s/setup", sc.ID)
}

// weigh puts a brew on a scale, takes it off, or tares the scale under it.
func (s *Server) weigh(w http.ResponseWriter, r *http.Request) error {
	f, err := form.Read(r)
	if err != nil {
		return err
	}
	sc := sceneOf(r)
	switch id := f.Values["scale"]; {
	case f.Values["do"] == device.DoTare:
		if l := s.bench.Link(s.under.scale(sc.ID)); l != nil {
			l.Tare()
		}
	case id == none:
		s.under.put(none+sc.ID, sc.ID)
		s.owners.Free(sc.ID)
	case s.bench.Link(id) != nil:
		s.under.put(id, sc.ID)
		s.owners.Free(sc.ID)
	default:
		return problem{http.StatusUnprocessableEntity, "There is no such scale", "Choose one of those on the page, or add it under Gear."}
	}
	if isPartial(r) {
		w.WriteHeader(http.StatusNoContent)
		return nil
	}
	return seeOther(w, r, "/brews/%s/brew", sc.ID)
}
