package words

import (
	"errors"
	"fmt"

	"yardbloom/exchange/photo"
)

// RefusedPhoto returns the sentence for a file that is refused as a photo; empty for other errors.
func RefusedPhoto(err error) string {
	var size *photo.SizeError
	switch {
	case errors.As(err, &size):
		return fmt.Sprintf("The photo has %d × %d pixels, which is too large. Take it with a smaller size.", size.Width, size.Height)
	case errors.Is(err, photo.ErrKind):
		return "That is not a photo: use a JPEG, PNG or WebP file."
	case errors.Is(err, photo.ErrBroken):
		return "The photo is damaged or was cut off. Take or send it again."
	}
	return ""
}
