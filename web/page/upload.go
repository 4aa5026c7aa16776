package page

import (
	"errors"
	"io"
	"mime/multipart"
	"net/http"
	"os"
)

// An Upload is a form with a file, which is in a temporary file.
type Upload struct {
	*os.File        // nil: no file was chosen
	Name     string // of the file, as the browser says
	Size     int64
}

// Close removes the temporary file.
func (u *Upload) Close() error {
	if u.File == nil {
		return nil
	}
	return errors.Join(u.File.Close(), os.Remove(u.File.Name()))
}

// ReadUpload reads a multipart form whose file has the name field. The other fields are in r.Form. The file is copied into a folder: the
// standard library would copy it to the folder of the machine, where a killed program leaves it. The caller closes the upload. Errors are
// those of the body, such as an *http.MaxBytesError, and of the disk.
func ReadUpload(r *http.Request, folder, field string) (*Upload, error) {
	parts, err := r.MultipartReader()
	if err != nil {
		return nil, err
	}
	u := &Upload{}
	r.Form = r.URL.Query()
	for err == nil {
		var part *multipart.Part
		if part, err = parts.NextPart(); err != nil {
			break
		}
		if part.FormName() == field && part.FileName() != "" && u.File == nil {
			err = u.take(part, folder)
			continue
		}
		const most = 10 << 20 // a pasted table
		var value []byte
		if value, err = io.ReadAll(io.LimitReader(part, most)); err == nil {
			r.Form.Set(part.FormName(), string(value))
		}
	}
	if errors.Is(err, io.EOF) {
		return u, nil
	}
	return nil, errors.Join(err, u.Close())
}

// take copies the file of a part.
func (u *Upload) take(part *multipart.Part, folder string) (err error) {
	if u.File, err = os.CreateTemp(folder, "form-*"); err != nil {
		return err
	}
	u.Name = part.FileName()
	if u.Size, err = io.Copy(u.File, part); err == nil {
		_, err = u.File.Seek(0, io.SeekStart)
	}
	return err
}
