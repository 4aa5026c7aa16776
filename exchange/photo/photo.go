// Package photo makes photos safe to keep: it decodes a file from a camera and encodes the picture alone, upright and no larger than
// needed. Metadata, such as where it was taken, and anything hidden in the file are gone.
package photo

import (
	"bytes"
	"errors"
	"fmt"
	"image"
	"image/jpeg"
	"image/png"
	"io"
	"math"
	"time"

	"github.com/bep/imagemeta"
	"golang.org/x/image/draw"
	"golang.org/x/image/webp"
)

const (
	// MaxBytes is the maximum size of a file.
	MaxBytes = 8 << 20
	// MaxPixels is the maximum number of pixels of a JPEG file. Others take more memory for each.
	MaxPixels      = 50_000_000
	maxOtherPixels = MaxPixels / 2
	maxSide        = 16_000
	// Side is the longest side of a photo, and SmallSide that of its thumbnail, pixels.
	Side      = 1600
	SmallSide = 320
	quality   = 82
)

var (
	// ErrKind is returned for a file that is not JPEG, PNG or WebP.
	ErrKind = errors.New("not a JPEG, PNG or WebP file")
	// ErrBroken is returned for a file that ends too early or is damaged.
	ErrBroken = errors.New("damaged picture")
)

// A SizeError is returned for a picture with too many pixels.
type SizeError struct{ Width, Height int }

func (e *SizeError) Error() string {
	return fmt.Sprintf("a picture of %d × %d pixels is too large", e.Width, e.Height)
}

// A Photo is an upright picture and its thumbnail, as JPEG files without metadata.
type Photo struct {
	Full, Small   []byte
	Width, Height int // of Full
}

// A format is a kind of file that is read.
type format struct {
	magic  string // at the beginning; ? is any byte
	meta   imagemeta.ImageFormat
	config func(io.Reader) (image.Config, error)
	decode func(io.Reader) (image.Image, error)
	pixels int
}

var formats = []format{
	{"\xff\xd8\xff", imagemeta.JPEG, jpeg.DecodeConfig, jpeg.Decode, MaxPixels},
	{"\x89PNG\r\n\x1a\n", imagemeta.PNG, png.DecodeConfig, png.Decode, maxOtherPixels},
	{"RIFF????WEBP", imagemeta.WebP, webp.DecodeConfig, webp.Decode, maxOtherPixels},
}

// Read decodes a file. Errors are ErrKind, ErrBroken, a *SizeError, or those of the reader.
func Read(r io.ReadSeeker) (Photo, error) {
	f, err := formatOf(r)
	if err != nil {
		return Photo{}, err
	}
	size, err := rewound(r, f.config)
	if err != nil {
		return Photo{}, ErrBroken
	}
	if size.Width < 1 || size.Height < 1 {
		return Photo{}, ErrBroken
	}
	if size.Width > maxSide || size.Height > maxSide || size.Width*size.Height > f.pixels {
		return Photo{}, &SizeError{size.Width, size.Height}
	}
	turned := orientation(r, f.meta)
	picture, err := rewound(r, f.decode)
	if err != nil {
		return Photo{}, ErrBroken
	}
	full := turn(shrink(picture, Side), turned)
	out := Photo{Width: full.Bounds().Dx(), Height: full.Bounds().Dy()}
	if out.Full, err = encode(full); err == nil {
		out.Small, err = encode(shrink(full, SmallSide))
	}
	return out, err
}

// Kept returns a JPEG file that Read made, as it is, with a new thumbnail. Errors are ErrKind and ErrBroken.
func Kept(file []byte) (Photo, error) {
	size, err := jpeg.DecodeConfig(bytes.NewReader(file))
	if err != nil || size.Width > Side || size.Height > Side {
		return Photo{}, ErrKind
	}
	picture, err := jpeg.Decode(bytes.NewReader(file))
	if err != nil {
		return Photo{}, ErrBroken
	}
	out := Photo{Full: file, Width: size.Width, Height: size.Height}
	out.Small, err = encode(shrink(picture, SmallSide))
	return out, err
}

// formatOf finds the format by the first bytes; names and media types are not trusted.
func formatOf(r io.ReadSeeker) (format, error) {
	head := make([]byte, 12)
	n, err := rewound(r, func(r io.Reader) (int, error) { return io.ReadFull(r, head) })
	if err != nil && !errors.Is(err, io.ErrUnexpectedEOF) && !errors.Is(err, io.EOF) {
		return format{}, err
	}
	for _, f := range formats {
		same := n >= len(f.magic)
		for i := 0; same && i < len(f.magic); i++ {
			same = f.magic[i] == '?' || f.magic[i] == head[i]
		}
		if same {
			return f, nil
		}
	}
	return format{}, ErrKind
}

// rewound calls read at the beginning of a file.
func rewound[T any](r io.ReadSeeker, read func(io.Reader) (T, error)) (T, error) {
	if _, err := r.Seek(0, io.SeekStart); err != nil {
		var none T
		return none, err
	}
	return read(r)
}

// orientation returns the EXIF orientation, 1 to 8. A file without a readable one is upright, 1.
func orientation(r io.ReadSeeker, f imagemeta.ImageFormat) int {
	const name, patience = "Orientation", 2 * time.Second
	out := 1
	_, err := rewound(r, func(io.Reader) (imagemeta.DecodeResult, error) {
		return imagemeta.Decode(imagemeta.Options{R: r, ImageFormat: f, Sources: imagemeta.EXIF, Timeout: patience,
			ShouldHandleTag: func(t imagemeta.TagInfo) bool { return t.Namespace == "IFD0" && t.Tag == name },
			HandleTag: func(t imagemeta.TagInfo) error {
				if v, ok := t.Value.(uint16); ok && v >= 1 && v <= 8 {
					out = int(v)
				}
				return imagemeta.ErrStopWalking
			}})
	})
	if err != nil && !errors.Is(err, imagemeta.ErrStopWalking) {
		return 1
	}
	return out
}

// shrink returns a picture whose longest side is at most a number of pixels, on white where it is transparent.
func shrink(picture image.Image, side int) *image.RGBA {
	b := picture.Bounds()
	by := min(1, float64(side)/float64(max(b.Dx(), b.Dy())))
	length := func(n int) int { return max(1, int(math.Round(float64(n)*by))) }
	out := image.NewRGBA(image.Rect(0, 0, length(b.Dx()), length(b.Dy())))
	draw.Draw(out, out.Bounds(), image.White, image.Point{}, draw.Src)
	draw.BiLinear.Scale(out, out.Bounds(), picture, b, draw.Over, nil)
	return out
}

// turn turns a picture upright from an EXIF orientation.
func turn(p *image.RGBA, orientation int) *image.RGBA {
	w, h := p.Bounds().Dx(), p.Bounds().Dy()
	size := image.Rect(0, 0, w, h)
	if orientation >= 5 {
		size = image.Rect(0, 0, h, w)
	}
	if orientation == 1 {
		return p
	}
	out := image.NewRGBA(size)
	for y := range h {
		for x := range w {
			to := [...]image.Point{2: {w - 1 - x, y}, 3: {w - 1 - x, h - 1 - y}, 4: {x, h - 1 - y}, 5: {y, x}, 6: {h - 1 - y, x},
				7: {h - 1 - y, w - 1 - x}, 8: {y, w - 1 - x}}[orientation]
			out.SetRGBA(to.X, to.Y, p.RGBAAt(x, y))
		}
	}
	return out
}

func encode(p image.Image) ([]byte, error) {
	var out bytes.Buffer
	err := jpeg.Encode(&out, p, &jpeg.Options{Quality: quality})
	return out.Bytes(), err
}
