package figure

import (
	"fmt"
	"html/template"
	"image/color"

	"github.com/boombuler/barcode/qr"
)

// QR returns an address as a QR code (ISO/IEC 18004) with error correction of a quarter of its area.
func QR(address string) (template.HTML, error) {
	code, err := qr.Encode(address, qr.Q, qr.Auto)
	if err != nil {
		return "", fmt.Errorf("QR code: %w", err)
	}
	const quiet = 4 // modules of white border
	side := code.Bounds().Dx()
	var c canvas
	c.add(`<rect width="%d" height="%d" fill="#fff"/><path fill="#000" d="`, side+2*quiet, side+2*quiet)
	for y := range side {
		for x := range side {
			if code.At(x, y) == color.Black {
				c.add("M%d %dh1v1h-1z", x+quiet, y+quiet)
			}
		}
	}
	c.add(`"/>`)
	return c.wrap(float64(side+2*quiet), float64(side+2*quiet), "qr", "QR code of "+address, `shape-rendering="crispEdges"`), nil
}
