package yard

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"strconv"
	"sync"
	"time"

	"yardbloom/core/coffee"
	"yardbloom/core/trace"
	"yardbloom/core/units"
	"yardbloom/exchange"
	"yardbloom/exchange/photo"
	"yardbloom/exchange/yardfile"
	"yardbloom/store"
)

// entryNames holds the name of the documents of each kind in a yard file. A kind with a time has an entry for each month.
var entryNames = map[store.Kind]string{store.Persons: "people", store.Brewers: "brewers", store.Grinders: "grinders", store.Kettles: "kettles",
	store.Waters: "waters", store.Bags: "bags", store.Brews: "brews", store.Recipes: "recipes", store.Flights: "flights", store.Trials: "trials",
	store.Scripts: "scripts", store.Rushes: "rushes", store.Tries: "tries", store.Deleted: "deletions"}

// Export writes a yard file: everything, or with from and to (days, inclusive) what happened in that range, with all bags, gear and people.
// Brews that are being poured, drafts without a name, devices, settings and tokens stay.
func Export(ctx context.Context, st *store.Store, w io.Writer, from, to, now time.Time) error {
	m := yardfile.Manifest{MadeAt: now.UTC().Truncate(time.Second)}
	if !from.IsZero() {
		m.From = from.Format(coffee.Day)
	}
	end := to
	if !to.IsZero() {
		m.To, end = to.Format(coffee.Day), to.AddDate(0, 0, 1)
	}
	file := yardfile.NewWriter(w, m)
	for _, kind := range store.RecordKinds() {
		if err := st.EachRecord(ctx, kind, from, end, func(d store.Document) error {
			name := entryNames[kind] + ".jsonl"
			if d.Month != "" {
				name = entryNames[kind] + "/" + d.Month + ".jsonl"
			}
			return file.Write(name, append([]byte(d.Text), '\n'))
		}); err != nil {
			return err
		}
	}
	month := ""
	if err := st.EachTrace(ctx, from, end, func(of, id string, readings []trace.Reading) error {
		var rows bytes.Buffer
		if of != month {
			month = of
			rows.WriteString(yardfile.ReadingsHeader)
		}
		for _, r := range readings {
			rows.WriteString(id + "," + strconv.FormatFloat(float64(r.At), 'f', -1, 64) + "," + strconv.FormatFloat(float64(r.Grams), 'f', -1, 64) + "\n")
		}
		return file.Write("readings/"+of+".csv", rows.Bytes())
	}); err != nil {
		return err
	}
	if err := st.EachPhoto(ctx, from, end, func(id string, jpeg []byte) error { return file.Write("photos/"+id+".jpg", jpeg) }); err != nil {
		return err
	}
	return file.Close()
}

// An Import is a file that was read and compared with the yard, and that changes nothing before Apply.
type Import struct {
	Counts   []store.Count
	Refused  []store.Decision // some of them
	MadeAt   time.Time        // when the file was made; zero for a single document
	From, To string           // the days of a range; empty: everything
	staging  *store.Staging
}

// ID returns the id of the import.
func (i *Import) ID() string { return i.staging.ID() }

// Number returns how many records an import treats in one way.
func (i *Import) Number(a store.Action) (n int) {
	for _, c := range i.Counts {
		if c.Action == a {
			n += c.Records
		}
	}
	return n
}

// Changes reports whether applying it would change anything.
func (i *Import) Changes() bool {
	return i.Number(store.Add)+i.Number(store.Change)+i.Number(store.Keep)+i.Number(store.Delete) > 0
}

// Decisions returns records that the import treats in one way, at most limit.
func (i *Import) Decisions(ctx context.Context, a store.Action, limit int) ([]store.Decision, error) {
	return i.staging.Decisions(ctx, a, limit)
}

// Close gives up the import and deletes what was read.
func (i *Import) Close() error { return i.staging.Close() }

// Apply changes the yard. progress is called with the number of records that are done, and of all. Errors leave the yard unchanged, or are
// made good when it is opened the next time.
func (i *Import) Apply(ctx context.Context, name, by string, now time.Time, progress func(done, all int)) error {
	return i.staging.Apply(ctx, name, by, now, progress)
}

// ReadImport reads a yard file, or a single record as JSON, and compares it with the yard. A file that is not in order is a
// *yardfile.FileError. The caller closes the import.
func ReadImport(ctx context.Context, st *store.Store, file io.ReaderAt, size int64, now time.Time) (*Import, error) {
	staging, err := st.Stage(ctx)
	if err != nil {
		return nil, err
	}
	out := &Import{staging: staging}
	if err := out.read(ctx, file, size, now); err != nil {
		return nil, errors.Join(err, staging.Close())
	}
	if out.Counts, err = staging.Plan(ctx); err == nil {
		out.Refused, err = staging.Decisions(ctx, store.Refused, 100)
	}
	if err != nil {
		return nil, errors.Join(err, staging.Close())
	}
	return out, nil
}

func (i *Import) read(ctx context.Context, file io.ReaderAt, size int64, now time.Time) error {
	in := &reader{staging: i.staging, now: now}
	if isDocument(file) {
		const most = 4 << 20
		text, err := io.ReadAll(io.NewSectionReader(file, 0, min(size, most+1)))
		if err != nil {
			return err
		}
		if len(text) > most {
			return &yardfile.FileError{Sentence: fmt.Sprintf("A document has at most %d MB.", most>>20)}
		}
		head, err := exchange.CheckRecord(text, now)
		if err != nil {
			return &yardfile.FileError{Sentence: "The file cannot be imported: " + err.Error() + "."}
		}
		in.pending = append(in.pending, store.Document{Kind: store.Kind(head.Kind), ID: head.ID, Revision: head.Revision, Text: string(text)})
		return in.flush(ctx)
	}
	r, err := yardfile.Open(file, size)
	if err != nil {
		return err
	}
	i.MadeAt, i.From, i.To = r.Manifest.MadeAt, r.Manifest.From, r.Manifest.To
	err = r.Read(yardfile.Handlers{
		Document: func(line []byte) error { return in.document(ctx, line) },
		Reading:  func(id string, at, grams float64) error { return in.reading(ctx, id, at, grams) },
		Photo:    func(id string, jpeg []byte) error { return in.photo(ctx, id, jpeg) },
	})
	if err != nil {
		return err
	}
	return errors.Join(in.flush(ctx), in.endTrace(ctx))
}

// isDocument reports whether a file begins as a JSON object.
func isDocument(file io.ReaderAt) bool {
	head := make([]byte, 16)
	n, _ := file.ReadAt(head, 0)
	head = bytes.TrimLeft(bytes.TrimPrefix(head[:n], []byte("\uFEFF")), " \t\r\n")
	return len(head) > 0 && head[0] == '{'
}

// A reader puts the contents of a yard file into a staging.
type reader struct {
	staging *store.Staging
	now     time.Time
	pending []store.Document

	of       string // brew of the readings
	readings []trace.Reading
}

// together is the number of documents that are stored in one transaction.
const together = 200

func (r *reader) document(ctx context.Context, line []byte) error {
	head, err := exchange.CheckRecord(line, r.now)
	d := store.Document{Kind: store.Kind(head.Kind), ID: head.ID, Revision: head.Revision, Text: string(line)}
	if err != nil {
		return r.staging.Refuse(ctx, d, err.Error())
	}
	if r.pending = append(r.pending, d); len(r.pending) < together {
		return nil
	}
	return r.flush(ctx)
}

func (r *reader) flush(ctx context.Context) error {
	err := r.staging.Put(ctx, r.pending)
	r.pending = r.pending[:0]
	return err
}

func (r *reader) reading(ctx context.Context, id string, at, grams float64) error {
	if len(r.pending) > 0 {
		if err := r.flush(ctx); err != nil {
			return err
		}
	}
	if id != r.of {
		if err := r.endTrace(ctx); err != nil {
			return err
		}
		r.of = id
	}
	const most = 100_000 // readings of one brew: hours
	if r.readings = append(r.readings, trace.Reading{At: units.Seconds(at), Grams: units.Grams(grams)}); len(r.readings) > most {
		return &yardfile.FileError{Sentence: fmt.Sprintf("The brew %.64q has more than %d readings.", id, most)}
	}
	return nil
}

func (r *reader) endTrace(ctx context.Context) error {
	if len(r.readings) == 0 {
		return nil
	}
	err := r.staging.PutReadings(ctx, r.of, r.readings)
	r.readings = r.readings[:0]
	return err
}

func (r *reader) photo(ctx context.Context, id string, jpeg []byte) error {
	if err := errors.Join(r.flush(ctx), r.endTrace(ctx)); err != nil {
		return err
	}
	p, err := photo.Kept(jpeg)
	if err != nil {
		return &yardfile.FileError{Sentence: fmt.Sprintf("The photo %s cannot be read.", id)}
	}
	return r.staging.PutPhoto(ctx, id, p.Width, p.Height, p.Small, jpeg)
}

// An ImportState says how far an import in the background is.
type ImportState struct {
	Name      string
	Done, All int
	Err       error
	Ended     bool
}

// imports holds the import that waits for a decision, and the one that is applied in the background.
type imports struct {
	mu      sync.Mutex
	waiting *Import
	name    string
	state   *ImportState
	resumed bool // imports that the last process did not end are ended
}

// ErrImporting is returned while another import is applied.
var ErrImporting = errors.New("another import is in progress")

// resumeImports ends the imports that the last process did not end.
func (y *Yard) resumeImports() {
	takenBack, continued, err := y.Store.ResumeImports(y.closing, y.Now())
	if err != nil && !errors.Is(err, context.Canceled) {
		y.Log.Error("interrupted imports", "err", err)
	}
	if takenBack+continued > 0 {
		y.Log.Info("interrupted imports", "taken back", takenBack, "continued", continued)
		y.Learn()
	}
	y.imports.mu.Lock()
	y.imports.resumed = true
	y.imports.mu.Unlock()
}

// StageImport reads a file as ReadImport does and keeps it until it is applied, given up, or replaced by another.
func (y *Yard) StageImport(ctx context.Context, name string, file io.ReaderAt, size int64) (*Import, error) {
	return y.keepImport(name, func() (*Import, error) { return ReadImport(ctx, y.Store, file, size, y.Now()) })
}

// keepImport keeps an import until it is applied, given up, or replaced by another.
func (y *Yard) keepImport(name string, read func() (*Import, error)) (*Import, error) {
	y.imports.mu.Lock()
	defer y.imports.mu.Unlock()
	if s := y.imports.state; s != nil && !s.Ended || !y.imports.resumed {
		return nil, ErrImporting
	}
	in, err := read()
	if err != nil {
		return nil, err
	}
	if y.imports.waiting != nil {
		err = y.imports.waiting.Close()
	}
	y.imports.waiting, y.imports.name = in, name
	return in, err
}

// WaitingImport returns the import that waits for a decision, with the name of its file; nil if there is none.
func (y *Yard) WaitingImport() (*Import, string) {
	y.imports.mu.Lock()
	defer y.imports.mu.Unlock()
	return y.imports.waiting, y.imports.name
}

// ImportProgress returns the state of the last import since the program started; nil if there was none.
func (y *Yard) ImportProgress() *ImportState {
	y.imports.mu.Lock()
	defer y.imports.mu.Unlock()
	if y.imports.state == nil {
		return nil
	}
	s := *y.imports.state
	return &s
}

// DropImport gives up the import that waits, if it has an id.
func (y *Yard) DropImport(id string) error {
	y.imports.mu.Lock()
	defer y.imports.mu.Unlock()
	in := y.imports.waiting
	if in == nil || in.ID() != id {
		return store.ErrNotFound
	}
	y.imports.waiting = nil
	return in.Close()
}

// dropWaiting gives up the import that waits when the yard is closed.
func (y *Yard) dropWaiting() {
	y.imports.mu.Lock()
	defer y.imports.mu.Unlock()
	if y.imports.waiting != nil {
		if err := y.imports.waiting.Close(); err != nil {
			y.Log.Error("the files of an import", "err", err)
		}
		y.imports.waiting = nil
	}
}

// ApplyImport applies the import that waits in the background, if it has an id, and then learns from its brews.
func (y *Yard) ApplyImport(id, by string) error {
	y.imports.mu.Lock()
	defer y.imports.mu.Unlock()
	in := y.imports.waiting
	if in == nil || in.ID() != id {
		return store.ErrNotFound
	}
	y.imports.waiting = nil
	state := &ImportState{Name: y.imports.name}
	y.imports.state = state
	y.running.Go(func() {
		err := in.Apply(y.closing, state.Name, by, y.Now(), func(done, all int) {
			y.imports.mu.Lock()
			state.Done, state.All = done, all
			y.imports.mu.Unlock()
		})
		if err == nil { // else the next start needs what was read
			err = in.Close()
		}
		if err != nil && !errors.Is(err, context.Canceled) {
			y.Log.Error("an import failed", "err", err)
		}
		y.imports.mu.Lock()
		state.Err, state.Ended = err, true
		y.imports.mu.Unlock()
		y.Learn()
	})
	return nil
}

// ImportNow reads a file and, if agreed returns no error, applies it at once. The import that it returns is closed. It returns ErrImporting
// while another import is applied. A file that would change nothing is not applied.
func (y *Yard) ImportNow(ctx context.Context, name string, file io.ReaderAt, size int64, agreed func(*Import) error) (in *Import, err error) {
	y.imports.mu.Lock()
	if s := y.imports.state; s != nil && !s.Ended || !y.imports.resumed {
		y.imports.mu.Unlock()
		return nil, ErrImporting
	}
	before := y.imports.state
	state := &ImportState{Name: name}
	y.imports.state = state
	y.imports.mu.Unlock()
	applied := false
	defer func() {
		y.imports.mu.Lock()
		if state.Err, state.Ended = err, true; !applied {
			y.imports.state = before
		}
		y.imports.mu.Unlock()
	}()
	if in, err = ReadImport(ctx, y.Store, file, size, y.Now()); err != nil {
		return nil, err
	}
	if err := agreed(in); err != nil || !in.Changes() {
		return in, errors.Join(err, in.Close())
	}
	applied = true
	err = in.Apply(y.closing, name, "", y.Now(), func(done, all int) { // also if the caller goes away
		y.imports.mu.Lock()
		state.Done, state.All = done, all
		y.imports.mu.Unlock()
	})
	if err != nil {
		return in, err // the next start needs what was read
	}
	y.Learn()
	return in, in.Close()
}

// RecordFile returns a record as an indented JSON document.
func RecordFile(ctx context.Context, st *store.Store, kind store.Kind, id string) ([]byte, error) {
	d, err := st.DocumentOf(ctx, kind, id)
	if err != nil {
		return nil, err
	}
	var out bytes.Buffer
	if err := json.Indent(&out, []byte(d.Text), "", "  "); err != nil {
		return nil, err
	}
	out.WriteByte('\n')
	return out.Bytes(), nil
}
