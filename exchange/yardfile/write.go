// Package yardfile reads and writes yard files: a whole yard, or the brews of a range of dates, as one zip file.
//
// A yard file holds records as JSON documents, one on each line (people.jsonl, bags.jsonl, brews/2026-11.jsonl, …), scale readings as CSV
// (readings/2026-11.csv), photos as JPEG (photos/ID.jpg), and manifest.json with the size and the SHA-256 checksum of every other entry.
package yardfile

import (
	"archive/zip"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"hash"
	"io"
	"time"
)

// The format and version of yard files that this package writes.
const (
	Format  = "yardbloom-yard"
	Version = 1
)

// manifestName is the name of the entry that lists the others.
const manifestName = "manifest.json"

// A Manifest lists the entries of a yard file.
type Manifest struct {
	Format  string    `json:"format"`
	Version int       `json:"version"`
	MadeAt  time.Time `json:"made_at"`
	From    string    `json:"from,omitempty"` // the first day of a range, as 2026-11-29
	To      string    `json:"to,omitempty"`   // the last day
	Files   []File    `json:"files"`
}

// A File is an entry of a yard file.
type File struct {
	Path    string `json:"path"`
	Records int    `json:"records"` // lines of documents or readings; 1 for a photo
	Bytes   int64  `json:"bytes"`
	SHA256  string `json:"sha256"`
}

// A Writer writes a yard file. Entries are written one after the other.
type Writer struct {
	zip      *zip.Writer
	manifest Manifest
	entry    io.Writer
	sum      hash.Hash
}

// NewWriter returns a Writer. The manifest has its dates.
func NewWriter(w io.Writer, m Manifest) *Writer {
	m.Format, m.Version, m.Files = Format, Version, nil
	return &Writer{zip: zip.NewWriter(w), manifest: m}
}

// Write appends one record to an entry: a line of a document or of readings, or a photo. An entry that ended cannot be continued: the
// records of one have to follow each other.
func (w *Writer) Write(path string, record []byte) error {
	if n := len(w.manifest.Files); n == 0 || w.manifest.Files[n-1].Path != path {
		w.end()
		method := zip.Deflate
		if isPhoto(path) {
			method = zip.Store
		}
		entry, err := w.zip.CreateHeader(&zip.FileHeader{Name: path, Method: method, Modified: w.manifest.MadeAt})
		if err != nil {
			return err
		}
		w.manifest.Files = append(w.manifest.Files, File{Path: path})
		w.sum = sha256.New()
		w.entry = io.MultiWriter(entry, w.sum)
	}
	file := &w.manifest.Files[len(w.manifest.Files)-1]
	file.Records++
	file.Bytes += int64(len(record))
	_, err := w.entry.Write(record)
	return err
}

// end completes the entry that is being written.
func (w *Writer) end() {
	if n := len(w.manifest.Files); n > 0 {
		w.manifest.Files[n-1].SHA256 = hex.EncodeToString(w.sum.Sum(nil))
	}
}

// Close writes the manifest and ends the file.
func (w *Writer) Close() error {
	w.end()
	entry, err := w.zip.CreateHeader(&zip.FileHeader{Name: manifestName, Method: zip.Deflate, Modified: w.manifest.MadeAt})
	if err != nil {
		return err
	}
	encoder := json.NewEncoder(entry)
	encoder.SetIndent("", "  ")
	if err := encoder.Encode(w.manifest); err != nil {
		return err
	}
	return w.zip.Close()
}
