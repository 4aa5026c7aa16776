package photo

import (
	"bytes"
	"encoding/binary"
	"errors"
	"hash/crc32"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"io"
	"strings"
	"testing"
)

// halves returns a picture whose upper half is red and whose lower half is blue.
func halves(w, h int) *image.RGBA {
	p := image.NewRGBA(image.Rect(0, 0, w, h))
	for y := range h {
		for x := range w {
			p.Set(x, y, map[bool]color.Color{true: color.RGBA{R: 220, A: 255}, false: color.RGBA{B: 220, A: 255}}[y < h/2])
		}
	}
	return p
}

func jpegOf(t *testing.T, p image.Image) []byte {
	t.Helper()
	var b bytes.Buffer
	if err := jpeg.Encode(&b, p, nil); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

// withOrientation inserts an EXIF segment with an orientation and a place into a JPEG file.
func withOrientation(file []byte, orientation uint16) []byte {
	tiff := []byte("MM\x00*\x00\x00\x00\x08\x00\x02")
	tiff = append(tiff, 0x01, 0x12, 0, 3, 0, 0, 0, 1, byte(orientation>>8), byte(orientation), 0, 0)
	tiff = append(tiff, 0x01, 0x0e, 0, 2, 0, 0, 0, 4, 'm', 'e', '!', 0, 0, 0, 0, 0)
	segment := append([]byte("Exif\x00\x00"), tiff...)
	head := binary.BigEndian.AppendUint16([]byte{0xff, 0xd8, 0xff, 0xe1}, uint16(len(segment)+2))
	return append(append(head, segment...), file[2:]...)
}

// A large photo is shrunk, turned upright and without its metadata. Mutations caught: an orientation that is ignored or applied the wrong
// way, a file that is stored as it came.
func TestPhotoIsUprightSmallAndBare(t *testing.T) {
	file := jpegOf(t, halves(2400, 1200))
	red := func(p image.Image, x, y int) bool { r, _, b, _ := p.At(x, y).RGBA(); return r > b }
	for orientation, c := range map[uint16]struct {
		w, h   int
		x, y   int // where the upper half of the file is
		ox, oy int // and its lower half
	}{
		1: {w: 1600, h: 800, x: 800, y: 100, ox: 800, oy: 700},
		3: {w: 1600, h: 800, x: 800, y: 700, ox: 800, oy: 100},
		6: {w: 800, h: 1600, x: 700, y: 800, ox: 100, oy: 800},
		8: {w: 800, h: 1600, x: 100, y: 800, ox: 700, oy: 800},
	} {
		p, err := Read(bytes.NewReader(withOrientation(file, orientation)))
		if err != nil {
			t.Fatal(err)
		}
		full, err := jpeg.Decode(bytes.NewReader(p.Full))
		if err != nil || p.Width != c.w || p.Height != c.h || full.Bounds().Dx() != c.w || full.Bounds().Dy() != c.h {
			t.Errorf("orientation %d: %d × %d, %v", orientation, p.Width, p.Height, err)
			continue
		}
		if !red(full, c.x, c.y) || red(full, c.ox, c.oy) {
			t.Errorf("orientation %d: turned the wrong way", orientation)
		}
		if bytes.Contains(p.Full, []byte("me!")) || bytes.Contains(p.Full, []byte("Exif")) {
			t.Errorf("orientation %d: metadata are kept", orientation)
		}
		small, err := jpeg.DecodeConfig(bytes.NewReader(p.Small))
		if err != nil || max(small.Width, small.Height) != SmallSide || len(p.Small) > len(p.Full) {
			t.Errorf("thumbnail of %+v, %d bytes, %v", small, len(p.Small), err)
		}
	}
	var b bytes.Buffer
	if err := png.Encode(&b, halves(40, 30)); err != nil {
		t.Fatal(err)
	}
	if p, err := Read(bytes.NewReader(b.Bytes())); err != nil || p.Width != 40 || p.Height != 30 {
		t.Errorf("a small PNG: %d × %d, %v", p.Width, p.Height, err)
	}
}

// pngOf returns a PNG file that states a size and has the given compressed pixels.
func pngOf(w, h uint32, data []byte) []byte {
	chunk := func(out []byte, kind string, body []byte) []byte {
		out = binary.BigEndian.AppendUint32(out, uint32(len(body)))
		sum := crc32.NewIEEE()
		sum.Write([]byte(kind))
		sum.Write(body)
		out = append(append(out, kind...), body...)
		return binary.BigEndian.AppendUint32(out, sum.Sum32())
	}
	head := binary.BigEndian.AppendUint32(binary.BigEndian.AppendUint32(nil, w), h)
	out := chunk([]byte("\x89PNG\r\n\x1a\n"), "IHDR", append(head, 8, 6, 0, 0, 0))
	return chunk(chunk(out, "IDAT", data), "IEND", nil)
}

// Files that are not photos, or harmful ones, are refused before they take memory. Mutations caught: a size that is checked after
// decoding, a file that is judged by its name, half a picture that is kept grey.
func TestHarmfulFilesAreRefused(t *testing.T) {
	file := jpegOf(t, halves(1200, 800))
	for name, c := range map[string]struct {
		file []byte
		want error
	}{
		"an empty file":       {nil, ErrKind},
		"a drawing":           {[]byte(`<svg xmlns="http://www.w3.org/2000/svg"><script>alert(1)</script></svg>`), ErrKind},
		"a zip file":          {[]byte("PK\x03\x04" + strings.Repeat("\x00", 2000)), ErrKind},
		"a GIF":               {[]byte("GIF89a" + strings.Repeat("\x00", 200)), ErrKind},
		"half a file":         {file[:len(file)/2], ErrBroken},
		"a JPEG of nothing":   {[]byte("\xff\xd8\xff\xe0\x00\x10JFIF"), ErrBroken},
		"a WebP of nothing":   {[]byte("RIFF\x10\x00\x00\x00WEBPVP8 \x04\x00\x00\x00\x00\x00\x00\x00"), ErrBroken},
		"a PNG without data":  {pngOf(100, 100, nil), ErrBroken},
		"a PNG of no size":    {pngOf(0, 100, nil), ErrBroken},
		"garbage after magic": {[]byte("\x89PNG\r\n\x1a\n" + strings.Repeat("x", 500)), ErrBroken},
	} {
		if _, err := Read(bytes.NewReader(c.file)); !errors.Is(err, c.want) {
			t.Errorf("%s: %v, want %v", name, err, c.want)
		}
	}
	for _, size := range [][2]uint32{{30_000, 30_000}, {30_000, 10}, {7000, 7000}} {
		var large *SizeError
		if _, err := Read(bytes.NewReader(pngOf(size[0], size[1], nil))); !errors.As(err, &large) || large.Width != int(size[0]) {
			t.Errorf("%d × %d: %v", size[0], size[1], err)
		}
	}
	if _, err := Read(failing{}); err == nil || errors.Is(err, ErrKind) || errors.Is(err, ErrBroken) {
		t.Errorf("a disk that fails: %v", err)
	}
}

// FuzzRead checks that no file makes the decoders panic or keep a picture that is too large.
func FuzzRead(f *testing.F) {
	var b bytes.Buffer
	if err := jpeg.Encode(&b, halves(20, 10), nil); err != nil {
		f.Fatal(err)
	}
	f.Add(withOrientation(b.Bytes(), 6))
	f.Add(pngOf(10, 10, []byte{0x78, 0x9c, 1, 2}))
	f.Add([]byte("RIFF\x10\x00\x00\x00WEBPVP8 \x04\x00\x00\x00\x00\x00\x00\x00"))
	f.Fuzz(func(t *testing.T, file []byte) {
		if p, err := Read(bytes.NewReader(file)); err == nil && (max(p.Width, p.Height) > Side || len(p.Full) == 0) {
			t.Errorf("%d × %d, %d bytes", p.Width, p.Height, len(p.Full))
		}
	})
}

type failing struct{}

func (failing) Read([]byte) (int, error)       { return 0, errors.New("input/output error") }
func (failing) Seek(int64, int) (int64, error) { return 0, nil }

var _ io.ReadSeeker = failing{}
