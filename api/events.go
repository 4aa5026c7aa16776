package api

import (
	"encoding/json"
	"fmt"
	"net/http"
	"reflect"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humachi"

	"yardbloom/store"
	"yardbloom/yard"
)

const (
	eventsPath = "/events"
	// maxStreams bounds the number of open streams.
	maxStreams = 100
	// streamPatience is the time in which a client must take an event.
	streamPatience = 20 * time.Second
	// atOnce is the number of events that are read at once.
	atOnce = 100
)

// Step is the data of an event: a step of a brew.
type Step struct {
	Brew Ref       `json:"brew" doc:"The brew with the name of its coffee."`
	At   time.Time `json:"at"`
	Pour int       `json:"pour,omitempty" doc:"Of pour-finished: counted from 1."`
	Of   int       `json:"of,omitempty" doc:"Pours of the plan."`
	SumG float64   `json:"sum_g,omitempty" doc:"Of pour-finished: the total on the scale."`
}

type eventsInput struct {
	LastID int64 `header:"Last-Event-ID" minimum:"0" doc:"The id of the last event that was received; missing: from now on."`
}

func (s *Server) eventOperations() {
	schema := s.api.OpenAPI().Components.Schemas.Schema(reflect.TypeFor[Step](), true, "Step")
	huma.Register(s.api, huma.Operation{OperationID: "events", Method: http.MethodGet, Path: eventsPath,
		Summary:     "Steps of brews as server-sent events: brew-started, pour-finished, brew-ended and cup-saved",
		Description: "The data of each event is a Step. A stream that breaks is resumed with the id of its last event.",
		Responses: map[string]*huma.Response{"200": {Description: "A stream of events",
			Content: map[string]*huma.MediaType{"text/event-stream": {Schema: schema}}}},
		Errors: []int{http.StatusUnauthorized, http.StatusServiceUnavailable}}, s.events)
}

// events streams steps until the client, its token or the server has gone.
func (s *Server) events(c ctx, in *eventsInput) (*huma.StreamResponse, error) {
	last := in.LastID
	if last == 0 {
		var err error
		if last, err = s.yard.Store.LastHappening(c); err != nil {
			return nil, s.problem(err)
		}
	}
	select {
	case s.streams <- struct{}{}:
	default:
		return nil, huma.Error503ServiceUnavailable("Too many programs listen at once.")
	}
	return &huma.StreamResponse{Body: func(hc huma.Context) {
		defer func() { <-s.streams }()
		r, w := humachi.Unwrap(hc)
		s.opened(r)
		w.Header().Set("Content-Type", "text/event-stream")
		w.Header().Set("Cache-Control", "no-store")
		if err := s.stream(r, w, last); err != nil && r.Context().Err() == nil {
			s.yard.Log.Warn("an event stream ended", "err", err)
		}
	}}, nil
}

func (s *Server) stream(r *http.Request, w http.ResponseWriter, last int64) error {
	changed, cancel := s.yard.Hub.Subscribe(yard.HappeningsTopic)
	defer cancel()
	conn, beat := http.NewResponseController(w), time.NewTicker(s.beat)
	defer beat.Stop()
	send := func(text string) error {
		_ = conn.SetWriteDeadline(time.Now().Add(streamPatience)) // a recorder in a test has none
		if _, err := fmt.Fprint(w, text); err != nil {
			return err
		}
		return conn.Flush()
	}
	if err := send(": here\n\n"); err != nil {
		return err
	}
	for {
		steps, err := s.yard.Store.Happenings(r.Context(), last, atOnce)
		if err != nil {
			return err
		}
		for _, h := range steps {
			text, err := eventText(h)
			if err == nil {
				err = send(text)
			}
			if err != nil {
				return err
			}
			last = h.N
		}
		if len(steps) == atOnce {
			continue
		}
		select {
		case <-r.Context().Done():
			return nil
		case <-s.yard.Hub.Closed():
			return nil
		case <-changed:
		case <-beat.C:
			if _, err := s.yard.Store.TokenOf(r.Context(), Bearer(r)); err != nil { // revoked
				return err
			}
			if err := send(": here\n\n"); err != nil {
				return err
			}
		}
	}
}

func eventText(h store.Happening) (string, error) {
	data, err := json.Marshal(Step{Ref{h.ID, h.Name}, h.At.Time, h.Pour, h.Of, tenth(float64(h.Sum))})
	return fmt.Sprintf("id: %d\nevent: %s\ndata: %s\n\n", h.N, h.Kind, data), err
}
