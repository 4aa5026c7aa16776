package table

import (
	"bytes"
	"encoding/csv"
	"errors"
	"io"
	"strings"
	"unicode/utf8"

	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"
)

// A Sheet is a parsed table: a row of headers, and rows of at least the same length.
type Sheet struct {
	Headers []string
	Rows    [][]string
	Lines   []int // in the file, from 1, of each row
}

// The limits of a sheet.
const (
	MaxSheetBytes = 16 << 20
	MaxRows       = 20_000
	maxColumns    = 100
	maxCell       = 4000 // characters
)

// The errors of Parse.
var (
	ErrEmpty   = errors.New("the table has no rows below its headers")
	ErrNoTable = errors.New("this is not a table of text with at least two columns")
	ErrLarge   = errors.New("the table is too large")
)

// Parse parses separated values with commas, semicolons, tabs or bars, any line ends, an optional byte order mark, in UTF-8, UTF-16 or
// Windows-1252. Errors are ErrEmpty, ErrNoTable and ErrLarge.
func Parse(file []byte) (Sheet, error) {
	if len(file) > MaxSheetBytes {
		return Sheet{}, ErrLarge
	}
	text, ok := decode(file)
	if !ok || strings.ContainsRune(text, 0) {
		return Sheet{}, ErrNoTable
	}
	text = strings.NewReplacer("\r\n", "\n", "\r", "\n").Replace(text)
	s, err := split(text, delimiter(text))
	switch {
	case err != nil:
		return s, err
	case len(s.Headers) < 2:
		return s, ErrNoTable
	case len(s.Headers) > maxColumns:
		return s, ErrLarge
	case len(s.Rows) == 0:
		return s, ErrEmpty
	}
	return s, nil
}

// decode returns the text of a file.
func decode(file []byte) (text string, ok bool) {
	if bytes.HasPrefix(file, []byte("\xff\xfe")) || bytes.HasPrefix(file, []byte("\xfe\xff")) {
		out, err := unicode.UTF16(unicode.LittleEndian, unicode.UseBOM).NewDecoder().Bytes(file)
		return string(out), err == nil
	}
	file = bytes.TrimPrefix(file, []byte(BOM))
	if utf8.Valid(file) {
		return string(file), true
	}
	out, err := charmap.Windows1252.NewDecoder().Bytes(file)
	return string(out), err == nil
}

// delimiter returns the separator that splits the first lines into the most columns without ragged rows.
func delimiter(text string) rune {
	const lines = 10
	best, most := ',', 0
	for _, sign := range []rune{';', '\t', ',', '|'} {
		s, err := split(strings.Join(firstLines(text, lines), "\n"), sign)
		if err != nil {
			continue
		}
		columns := len(s.Headers)
		for _, row := range s.Rows {
			if filled(row) > columns || len(row) > len(s.Headers) {
				columns = 1 // ragged, for example because of decimal commas
			}
		}
		if columns > most {
			best, most = sign, columns
		}
	}
	return best
}

func firstLines(text string, n int) []string {
	lines := strings.SplitN(text, "\n", n+1)
	return lines[:min(n, len(lines))]
}

func filled(row []string) (n int) {
	for _, cell := range row {
		if cell != "" {
			n++
		}
	}
	return n
}

// split parses a text with a separator. Empty rows are skipped, and short rows are padded.
func split(text string, sign rune) (Sheet, error) {
	r := csv.NewReader(strings.NewReader(text))
	r.Comma, r.LazyQuotes, r.FieldsPerRecord, r.TrimLeadingSpace = sign, true, -1, sign != '\t'
	var s Sheet
	for {
		row, err := r.Read()
		if errors.Is(err, io.EOF) {
			return s, nil
		}
		if err != nil {
			return s, ErrNoTable
		}
		line, _ := r.FieldPos(0)
		for i, cell := range row {
			cell = strings.TrimSpace(cell)
			if runes := []rune(cell); len(runes) > maxCell {
				cell = string(runes[:maxCell])
			}
			row[i] = cell
		}
		switch {
		case filled(row) == 0:
		case s.Headers == nil:
			s.Headers = row
		case len(s.Rows) == MaxRows:
			return s, ErrLarge
		default:
			for len(row) < len(s.Headers) {
				row = append(row, "")
			}
			s.Rows, s.Lines = append(s.Rows, row), append(s.Lines, line)
		}
	}
}
