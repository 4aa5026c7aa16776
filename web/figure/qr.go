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
	c.add(`<rect width="%d" height="%d" fill="#fff"/><path stroke="#000" d="`, side+2*quiet, side+2*quiet)
	for y := range side {
		for x := 0; x < side; x++ { // a line for each run of black modules
			run := 0
			for x+run < side && code.At(x+run, y) == color.Black {
				run++
			}
			if run > 0 {
				c.add("M%d %d.5h%d", x+quiet, y+quiet, run)
			}
			x += run
		}
	}
	c.add(`"/>`)
	return c.wrap(float64(side+2*quiet), float64(side+2*quiet), "qr", "QR code of "+address, `shape-rendering="crispEdges"`), nil
}
