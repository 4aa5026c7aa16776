package log_test

import (
	"bytes"
	"image"
	"image/jpeg"
	"net/http"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"yardbloom/exchange/photo"
	"yardbloom/web/webtest"
)

const photographed = "/brews/slate-terrace-14"

// upload posts a file as a photo of a brew.
func upload(v *webtest.Visitor, to string, file []byte) (int, string) {
	v.T.Helper()
	code, body, _ := v.Upload(to, "photo", "bed.jpg", file)
	return code, body
}

func picture(t *testing.T, w, h int) []byte {
	t.Helper()
	var b bytes.Buffer
	if err := jpeg.Encode(&b, image.NewGray(image.Rect(0, 0, w, h)), nil); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

var (
	photoRemoval = regexp.MustCompile(`action="(/photos/[^"/]+)/remove"`)
	photoUndo    = regexp.MustCompile(`action="(/photos/[^"/]+/restore)"`)
)

// A photo of a bed is kept once, shown in the record, on the path and in a comparison, removed and brought back. Mutations caught: a
// photo that is sent twice, a removal without undo, a picture that scripts could be read from, a comparison without the beds.
func TestPhotoIsKeptShownAndRemoved(t *testing.T) {
	t.Parallel()
	v := webtest.Visit(t)
	for range 2 { // the second is a double tap
		if code, page := upload(v, photographed+"/photos?once=one", picture(t, 3000, 2000)); code != http.StatusSeeOther {
			t.Fatalf("status %d: %v", code, webtest.ErrorsIn(page))
		}
	}
	for _, path := range []string{photographed, photographed + "/photos", photographed + "/cup", "/bags/slate-terrace",
		"/log/compare?id=slate-terrace-14&id=slate-terrace-3"} {
		if _, page := v.Get(path); strings.Count(page, "/small\"") != 1 {
			t.Errorf("%s shows %d photos, want 1", path, strings.Count(page, "/small\""))
		}
	}
	_, page := v.Get(photographed + "/photos")
	at := photoRemoval.FindStringSubmatch(page)[1]
	for _, c := range []struct {
		path string
		side int
	}{{at, photo.Side}, {at + "/small", photo.SmallSide}} {
		code, file, header := v.Send("GET", c.path, nil)
		size, err := jpeg.DecodeConfig(strings.NewReader(file))
		if code != http.StatusOK || err != nil || size.Width != c.side || header.Get("Content-Type") != "image/jpeg" ||
			!strings.HasPrefix(header.Get("Cache-Control"), "private") {
			t.Errorf("%s: status %d, %+v, %v, %v", c.path, code, size, err, header)
		}
	}
	_, _, header := v.Send("POST", at+"/remove", nil)
	_, page = v.Get(header.Get("Location"))
	undo := photoUndo.FindStringSubmatch(page)
	if undo == nil || photoRemoval.MatchString(page) {
		t.Fatalf("after the removal there is no undo, or the photo is there")
	}
	if code, _ := v.Get(at); code != http.StatusNotFound {
		t.Errorf("a removed photo is served with status %d", code)
	}
	if code, _ := v.Post(undo[1]); code != http.StatusSeeOther {
		t.Errorf("the undo has status %d", code)
	}
	if code, _ := v.Get(at); code != http.StatusOK {
		t.Errorf("after the undo: status %d", code)
	}
	for _, path := range []string{"/photos/none", "/photos/none/small", "/brews/none/photos"} {
		if code, _ := v.Get(path); code != http.StatusNotFound {
			t.Errorf("%s: status %d", path, code)
		}
	}
}

// A file that is no photo gets a sentence beside the field and is not kept, nor is a fifth photo. Mutations caught: a status of 500 or a
// closed connection for a large file, a temporary file that is left behind.
func TestUnusablePhotosGetASentence(t *testing.T) {
	dir := t.TempDir()
	t.Setenv("TMPDIR", dir)
	v := webtest.Visit(t)
	good := picture(t, 60, 40)
	for name, c := range map[string]struct {
		file []byte
		want string
	}{
		"a drawing":   {[]byte(`<svg xmlns="http://www.w3.org/2000/svg"/>`), "not a photo"},
		"half a file": {good[:len(good)-60], "damaged or was cut off"},
		"nothing":     {nil, "not a photo"},
		"9 MB":        {append(bytes.Clone(good), make([]byte, 9<<20)...), "at most 8 MB"},
		"80 MB":       {make([]byte, 80<<20), "at most 8 MB"},
	} {
		code, page := upload(v, photographed+"/photos", c.file)
		if errors := webtest.ErrorsIn(page); code != http.StatusUnprocessableEntity || len(errors) != 1 || !strings.Contains(errors[0], c.want) {
			t.Errorf("%s: status %d, %v", name, code, errors)
		}
	}
	if code, page, _ := v.SendBody(photographed+"/photos", "text/plain", "hello"); code != http.StatusUnprocessableEntity ||
		!strings.Contains(page, "Choose a photo first") {
		t.Errorf("no form: status %d", code)
	}
	for range 4 {
		if code, _ := upload(v, photographed+"/photos", good); code != http.StatusSeeOther {
			t.Fatalf("status %d", code)
		}
	}
	if code, page := upload(v, photographed+"/photos", good); code != http.StatusUnprocessableEntity || !strings.Contains(page, "remove one first") {
		t.Errorf("a fifth photo: status %d", code)
	}
	if left, _ := filepath.Glob(filepath.Join(dir, "*upload*")); len(left) > 0 {
		t.Errorf("left behind: %v", left)
	}
}
