package yardfile

import (
	"archive/zip"
	"bufio"
	"bytes"
	"crypto/sha256"
	"encoding/csv"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"regexp"
	"strconv"
	"strings"
)

// A FileError says what is wrong with a yard file, for the person who chose it.
type FileError struct{ Sentence string }

func (e *FileError) Error() string { return e.Sentence }

func wrong(format string, args ...any) error { return &FileError{fmt.Sprintf(format, args...)} }

// The limits of a yard file. They are far above those of a real yard.
const (
	maxEntries  = 250_000
	maxManifest = 64 << 20
	maxLine     = 4 << 20
	maxPhoto    = 8 << 20
	maxUnpacked = 16 << 30
	maxRatio    = 200 // of the unpacked size to that of the file; documents shrink about 12-fold
)

var (
	documentName = regexp.MustCompile(`^([a-z]+)\.jsonl$|^([a-z]+)/\d{4}-\d{2}\.jsonl$`)
	readingsName = regexp.MustCompile(`^readings/\d{4}-\d{2}\.csv$`)
	photoName    = regexp.MustCompile(`^photos/([A-Za-z0-9_-]{1,64})\.jpg$`)
)

func isPhoto(path string) bool { return photoName.MatchString(path) }

// A Reader reads a yard file whose manifest is in order.
type Reader struct {
	Manifest Manifest
	entries  map[string]*zip.File
}

// Open reads the manifest of a yard file and compares it with the entries. Errors are *FileError, or those of r.
func Open(r io.ReaderAt, size int64) (*Reader, error) {
	archive, err := zip.NewReader(r, size)
	if err != nil && !errors.Is(err, zip.ErrInsecurePath) { // names are checked below
		return nil, wrong("The file is not a whole yard file: it is of another kind, or part of it is missing.")
	}
	if len(archive.File) > maxEntries {
		return nil, wrong("The file has %d entries; a yard file has at most %d.", len(archive.File), maxEntries)
	}
	out := &Reader{entries: map[string]*zip.File{}}
	unpacked := uint64(0)
	for _, f := range archive.File {
		switch {
		case f.Name != manifestName && !documentName.MatchString(f.Name) && !readingsName.MatchString(f.Name) && !isPhoto(f.Name):
			return nil, wrong("The file has an entry %.60q, which no yard file has.", f.Name)
		case out.entries[f.Name] != nil:
			return nil, wrong("The file has the entry %s twice.", f.Name)
		case f.UncompressedSize64 > maxUnpacked:
			return nil, wrong("The entry %s would take %d GB.", f.Name, f.UncompressedSize64>>30)
		}
		out.entries[f.Name] = f
		unpacked += f.UncompressedSize64
	}
	if unpacked > maxUnpacked || unpacked > maxRatio*uint64(size)+maxLine {
		return nil, wrong("The file would take %d MB when unpacked: too much for its size.", unpacked>>20)
	}
	if err := out.readManifest(); err != nil {
		return nil, err
	}
	for _, f := range out.Manifest.Files {
		entry := out.entries[f.Path]
		switch {
		case f.Path == manifestName || entry == nil:
			return nil, wrong("The file has no entry %.60q, which its manifest lists.", f.Path)
		case int64(entry.UncompressedSize64) != f.Bytes:
			return nil, wrong("The entry %s is not as long as its manifest says.", f.Path)
		}
	}
	if extra := len(out.entries) - 1 - len(out.Manifest.Files); extra != 0 {
		return nil, wrong("The file has %d entries that its manifest does not list.", extra)
	}
	return out, nil
}

func (r *Reader) readManifest() error {
	entry := r.entries[manifestName]
	if entry == nil {
		return wrong("The file has no %s: it is not a yard file.", manifestName)
	}
	if entry.UncompressedSize64 > maxManifest {
		return wrong("The manifest of the file is too long.")
	}
	f, err := entry.Open()
	if err != nil {
		return wrong("The manifest of the file cannot be read.")
	}
	defer f.Close()
	if err := json.NewDecoder(io.LimitReader(f, maxManifest)).Decode(&r.Manifest); err != nil {
		return wrong("The manifest of the file cannot be read.")
	}
	switch m := r.Manifest; {
	case m.Format != Format:
		return wrong("The file is not a yard file: its format is %.40q.", m.Format)
	case m.Version > Version:
		return wrong("The file was written by a newer Yard Bloom (version %d of yard files; this program reads %d). Update this one first.", m.Version, Version)
	case m.Version < 1:
		return wrong("The manifest of the file has no version.")
	}
	seen := map[string]bool{}
	for _, f := range r.Manifest.Files {
		if seen[f.Path] {
			return wrong("The manifest lists %.60q twice.", f.Path)
		}
		seen[f.Path] = true
	}
	return nil
}

// Handlers receive the contents of a yard file. Bytes are valid until the handler returns.
type Handlers struct {
	Document func(line []byte) error
	Reading  func(brewID string, atS, grams float64) error
	Photo    func(id string, jpeg []byte) error
}

// Read calls the handlers with everything in the file: documents first, then readings, then photos. An entry whose checksum is wrong is a
// *FileError, after its contents were handled: use nothing before Read has returned nil.
func (r *Reader) Read(h Handlers) error {
	for _, part := range []struct {
		is   func(path string) bool
		read func(f File, content io.Reader) error
	}{
		{documentName.MatchString, func(_ File, content io.Reader) error { return eachLine(content, h.Document) }},
		{readingsName.MatchString, func(f File, content io.Reader) error { return readReadings(f, content, h.Reading) }},
		{isPhoto, func(f File, content io.Reader) error { return readPhoto(f, content, h.Photo) }},
	} {
		for _, f := range r.Manifest.Files {
			if !part.is(f.Path) {
				continue
			}
			if err := r.entry(f, part.read); err != nil {
				return err
			}
		}
	}
	return nil
}

// entry reads one entry and compares its checksum.
func (r *Reader) entry(f File, read func(File, io.Reader) error) error {
	content, err := r.entries[f.Path].Open()
	if err != nil {
		return wrong("The entry %s cannot be read.", f.Path)
	}
	defer content.Close()
	sum := sha256.New()
	limited := &io.LimitedReader{R: content, N: f.Bytes + 1}
	err = read(f, io.TeeReader(limited, sum))
	var damaged *FileError
	if err != nil && (errors.As(err, &damaged) || !errors.Is(err, errContent)) {
		return err
	}
	if _, restErr := io.Copy(sum, limited); err != nil || restErr != nil {
		return wrong("The entry %s is damaged.", f.Path)
	}
	if hex.EncodeToString(sum.Sum(nil)) != strings.ToLower(f.SHA256) {
		return wrong("The entry %s is damaged: its checksum is not the one in the manifest.", f.Path)
	}
	return nil
}

// errContent marks an error of reading an entry, in contrast to those of handlers.
var errContent = errors.New("the entry cannot be read")

// eachLine calls each with the lines of a text. A line that is too long is a *FileError.
func eachLine(r io.Reader, each func([]byte) error) error {
	lines := bufio.NewScanner(r)
	lines.Buffer(make([]byte, 64<<10), maxLine)
	for lines.Scan() {
		line := bytes.TrimSpace(lines.Bytes())
		if len(line) == 0 {
			continue
		}
		if err := each(line); err != nil {
			return err
		}
	}
	if err := lines.Err(); errors.Is(err, bufio.ErrTooLong) {
		return wrong("The file has a document of more than %d MB.", maxLine>>20)
	} else if err != nil {
		return errors.Join(errContent, err)
	}
	return nil
}

// ReadingsHeader is the first line of readings.
const ReadingsHeader = "brew,at_s,grams\n"

func readReadings(f File, r io.Reader, each func(string, float64, float64) error) error {
	rows := csv.NewReader(r)
	rows.FieldsPerRecord, rows.ReuseRecord = 3, true
	for n := 1; ; n++ {
		row, err := rows.Read()
		if errors.Is(err, io.EOF) {
			return nil
		}
		var syntax *csv.ParseError
		if errors.As(err, &syntax) {
			return wrong("The entry %s has a row %d that is not a reading.", f.Path, n)
		}
		if err != nil {
			return errors.Join(errContent, err)
		}
		if n == 1 {
			continue // the header
		}
		at, atErr := strconv.ParseFloat(row[1], 64)
		grams, gramsErr := strconv.ParseFloat(row[2], 64)
		if atErr != nil || gramsErr != nil || !(at > -1e6 && at < 1e6 && grams > -1e5 && grams < 1e5) {
			return wrong("The entry %s has a row %d that is not a reading.", f.Path, n)
		}
		if err := each(row[0], at, grams); err != nil {
			return err
		}
	}
}

func readPhoto(f File, r io.Reader, each func(string, []byte) error) error {
	if f.Bytes > maxPhoto {
		return wrong("The photo %s has more than %d MB.", f.Path, maxPhoto>>20)
	}
	jpeg, err := io.ReadAll(io.LimitReader(r, maxPhoto))
	if err != nil {
		return errors.Join(errContent, err)
	}
	return each(photoName.FindStringSubmatch(f.Path)[1], jpeg)
}
