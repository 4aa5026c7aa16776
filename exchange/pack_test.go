package exchange

import (
	"bytes"
	"compress/zlib"
	"errors"
	"os"
	"reflect"
	"strings"
	"testing"

	"yardbloom/core/gear"
	"yardbloom/core/recipe"
)

// A recipe comes out of its code as it went in, also if the code was sent as a message, and is short enough for a printed QR code. Mutations
// caught: a code with letters that a QR code holds badly, a changed dictionary, a code that is cut off and read as half a recipe.
func TestPackedRecipeComesOutAsItWentIn(t *testing.T) {
	for _, form := range gear.BrewerForms() {
		doc := FromSheet(sheet(form.Kind), now)
		code, err := Pack(doc)
		if err != nil {
			t.Fatal(err)
		}
		if strings.Trim(code, "ABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789:") != "" || len(code) > 400 {
			t.Errorf("%s: %d characters, %.60s", form.Name, len(code), code)
		}
		sent := " " + strings.ToLower(code[:20]) + "\r\n" + code[20:] + "\n"
		out, err := ReadAny(strings.NewReader(sent))
		if err != nil || len(out) != 1 || !same(out[0], doc) {
			t.Fatalf("%s came out as %+v, %v; went in as %+v", form.Name, out, err, doc)
		}
		for at := range len(code) {
			broken := code[:at] + string("A2"[at%2]) + code[at+1:]
			if got, err := ReadAny(strings.NewReader(broken)); err == nil && broken != code && !same(got[0], doc) {
				t.Errorf("%s: with a wrong character %d it is read as another recipe", form.Name, at)
			}
			if _, err := ReadAny(strings.NewReader(code[:at])); err == nil {
				t.Errorf("%s: cut off at %d it is read", form.Name, at)
			}
		}
	}
}

// same compares two documents without the fields of newer versions.
func same(a, b Recipe) bool {
	a.unknown, b.unknown = nil, nil
	return reflect.DeepEqual(a, b)
}

// These codes were made by each version of the packing, the styled one with the former name of a style. Mutations caught: a changed
// dictionary, which makes printed cards unreadable, a style of a former name that stays unknown.
func TestFirstCodesStayReadable(t *testing.T) {
	for name, style := range map[string]recipe.StyleID{"packed.v1.txt": recipe.ThreeRounds, "packed-styled.v1.txt": recipe.TwoCentredPours,
		"packed.v2.txt": recipe.TwoCentredPours} {
		text, err := os.ReadFile("testdata/" + name)
		if err != nil {
			t.Fatal(err)
		}
		out, err := ReadAny(bytes.NewReader(text))
		if err != nil || out[0].DoseG == 0 || len(out[0].Pours) < 3 || recipe.StyleID(out[0].Style) != style {
			t.Errorf("%s: %v, %+v", name, err, out)
		}
	}
}

// Files of every kind have the former IDs of styles. Mutations caught: a kind of file that is not converted, a text of a person that is.
func TestFormerStylesAreRenamed(t *testing.T) {
	const file = `{"style" : "loose-slurry", "habits":{"style":"long-soak"}, "notes": "my \"style\":\"long-soak\" in loose-slurry"}`
	const want = `{"style":"bloom-by-eye", "habits":{"style":"long-bloom"}, "notes": "my \"style\":\"long-soak\" in loose-slurry"}`
	if got := string(Current([]byte(file))); got != want {
		t.Errorf("%s", got)
	}
}

// A code that unpacks to more than a recipe, or is none, is refused. Mutation caught: a reader without a limit.
func TestHarmfulCodesAreRefused(t *testing.T) {
	var bomb bytes.Buffer
	w, err := zlib.NewWriterLevelDict(&bomb, zlib.BestCompression, []byte(packDictionary))
	if err != nil {
		t.Fatal(err)
	}
	w.Write(bytes.Repeat([]byte(" "), 50<<20))
	w.Close()
	for name, code := range map[string]string{"a bomb": PackPrefix + packing.EncodeToString(bomb.Bytes()), "a newer version": "YARD3:ABCDEFGH",
		"nothing": PackPrefix, "no base32": PackPrefix + "!!!", "another text": "bloom 50 g"} {
		if _, err := Unpack(code); !errors.Is(err, ErrPacked) {
			t.Errorf("%s: %v", name, err)
		}
	}
}
