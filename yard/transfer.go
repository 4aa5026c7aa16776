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

// entryNames maps kinds to entry names in a yard file. Kinds with a time have one entry per month.
var entryNames = map[store.Kind]string{store.Persons: "people", store.Brewers: "brewers", store.Grinders: "grinders", store.Kettles: "kettles",
	store.Waters: "waters", store.Bags: "bags", store.Brews: "brews", store.Recipes: "recipes", store.Flights: "flights", store.Trials: "trials",
	store.Scripts: "scripts", store.Rushes: "rushes", store.Tries: "tries", store.Deleted: "deletions"}

// Export writes a yard file with all records, or with the records of a range of days (from and to, both inclusive) plus all bags, gear and
// people. Running brews, unnamed drafts, devices, settings and tokens are not exported.
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

// An Import is a staged file with its plan. It changes nothing before Apply.
type Import struct {
	Counts   []store.Count
	Refused  []store.Decision // at most 100
	MadeAt   time.Time        // creation time of the file; zero for a single document
	From, To string           // range of days; empty: unlimited
	staging  *store.Staging
}

// ID returns the id of the import.
func (i *Import) ID() string { return i.staging.ID() }

// Number returns the number of records with an action.
func (i *Import) Number(a store.Action) (n int) {
	for _, c := range i.Counts {
		if c.Action == a {
			n += c.Records
		}
	}
	return n
}

// Pending returns the number of records that Apply would process.
func (i *Import) Pending() int {
	return i.Number(store.Add) + i.Number(store.Change) + i.Number(store.Keep) + i.Number(store.Delete)
}

// Changes reports whether Apply would change the yard.
func (i *Import) Changes() bool { return i.Pending() > 0 }

// Decisions returns up to limit records with an action that has a reason.
func (i *Import) Decisions(ctx context.Context, a store.Action, limit int) ([]store.Decision, error) {
	return i.staging.Decisions(ctx, a, limit)
}

// Close discards the import and deletes its staging.
func (i *Import) Close() error { return i.staging.Close() }

// Apply imports the records. progress receives the number of processed records and the total. An interrupted import is rolled back or
// completed by the next ResumeImports.
func (i *Import) Apply(ctx context.Context, name, by string, now time.Time, progress func(done, all int)) error {
	return i.staging.Apply(ctx, name, by, now, progress)
}

// ReadImport stages a yard file, or a single record as JSON, and plans its import. Errors of the file are *yardfile.FileError. The caller
// closes the import.
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
		text = exchange.Current(text)
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

// reader stages the contents of a yard file.
type reader struct {
	staging *store.Staging
	now     time.Time
	pending []store.Document

	of       string // brew of the readings
	readings []trace.Reading
}

// batchSize is the number of documents per transaction.
const batchSize = 200

func (r *reader) document(ctx context.Context, line []byte) error {
	line = exchange.Current(line)
	head, err := exchange.CheckRecord(line, r.now)
	d := store.Document{Kind: store.Kind(head.Kind), ID: head.ID, Revision: head.Revision, Text: string(line)}
	if err != nil {
		return r.staging.Refuse(ctx, d, err.Error())
	}
	if r.pending = append(r.pending, d); len(r.pending) < batchSize {
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

// An ImportState is the progress of a background import.
type ImportState struct {
	Name      string
	Done, All int
	Err       error
	Ended     bool
}

// imports holds the pending import and the progress of the running one.
type imports struct {
	mu      sync.Mutex
	waiting *Import
	name    string
	state   *ImportState
	resumed bool // ResumeImports has finished
	busy    bool // a file is being staged
}

// begin reserves the imports for one caller. It returns ErrImporting if they are in use.
func (i *imports) begin() error {
	i.mu.Lock()
	defer i.mu.Unlock()
	if i.state != nil && !i.state.Ended || i.busy || !i.resumed {
		return ErrImporting
	}
	i.busy = true
	return nil
}

// ErrImporting is returned while another import is running.
var ErrImporting = errors.New("another import is running")

// resumeImports finishes the imports that a previous process left unfinished.
func (y *Yard) resumeImports() {
	undone, completed, err := y.Store.ResumeImports(y.closing, y.Now())
	if err != nil && !errors.Is(err, context.Canceled) {
		y.Log.Error("interrupted imports", "err", err)
	}
	if undone+completed > 0 {
		y.Log.Info("interrupted imports", "undone", undone, "completed", completed)
		y.Learn()
	}
	y.imports.mu.Lock()
	y.imports.resumed = true
	y.imports.mu.Unlock()
}

// StageImport stages a file like ReadImport. The import stays pending until it is applied, discarded or replaced.
func (y *Yard) StageImport(ctx context.Context, name string, file io.ReaderAt, size int64) (*Import, error) {
	return y.keepImport(name, func() (*Import, error) { return ReadImport(ctx, y.Store, file, size, y.Now()) })
}

// keepImport makes an import the pending one.
func (y *Yard) keepImport(name string, read func() (*Import, error)) (*Import, error) {
	if err := y.imports.begin(); err != nil {
		return nil, err
	}
	in, err := read() // without the lock: a large file takes minutes
	y.imports.mu.Lock()
	defer y.imports.mu.Unlock()
	y.imports.busy = false
	if err != nil {
		return nil, err
	}
	if y.imports.waiting != nil {
		err = y.imports.waiting.Close()
	}
	y.imports.waiting, y.imports.name = in, name
	return in, err
}

// WaitingImport returns the pending import and its file name, or nil.
func (y *Yard) WaitingImport() (*Import, string) {
	y.imports.mu.Lock()
	defer y.imports.mu.Unlock()
	return y.imports.waiting, y.imports.name
}

// ImportProgress returns the state of the latest import of this process, or nil.
func (y *Yard) ImportProgress() *ImportState {
	y.imports.mu.Lock()
	defer y.imports.mu.Unlock()
	if y.imports.state == nil {
		return nil
	}
	s := *y.imports.state
	return &s
}

// DropImport discards the pending import with an id.
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

// dropWaiting discards the pending import when the yard is closed.
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

// ApplyImport starts the pending import with an id in the background. The yard learns from its brews afterwards.
func (y *Yard) ApplyImport(id, by string) error {
	y.imports.mu.Lock()
	defer y.imports.mu.Unlock()
	in := y.imports.waiting
	if in == nil || in.ID() != id {
		return store.ErrNotFound
	}
	if y.imports.busy {
		return ErrImporting
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
		if err == nil { // else ResumeImports needs the staging
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

// ImportNow stages a file and applies it if agreed returns nil and it has changes. The returned import is closed. ImportNow returns
// ErrImporting while another import is running.
func (y *Yard) ImportNow(ctx context.Context, name string, file io.ReaderAt, size int64, agreed func(*Import) error) (in *Import, err error) {
	if err := y.imports.begin(); err != nil {
		return nil, err
	}
	y.imports.mu.Lock()
	before := y.imports.state
	state := &ImportState{Name: name}
	y.imports.state = state
	y.imports.mu.Unlock()
	applied := false
	defer func() {
		y.imports.mu.Lock()
		if state.Err, state.Ended, y.imports.busy = err, true, false; !applied {
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
	err = in.Apply(y.closing, name, "", y.Now(), func(done, all int) { // continues without the caller
		y.imports.mu.Lock()
		state.Done, state.All = done, all
		y.imports.mu.Unlock()
	})
	if err != nil {
		return in, err // ResumeImports needs the staging
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
