package exchange

import (
	"bytes"
	"compress/zlib"
	"encoding/base32"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"regexp"
	"strings"

	"yardbloom/core/recipe"
)

// A packed recipe is its document as a short text, which fits a QR code: PackPrefix, then the compact JSON document compressed by zlib
// (RFC 1950) with a dictionary, in base32 (RFC 4648) without padding. Only capital letters and digits occur, which QR codes hold densely.

// PackPrefix begins a packed recipe. The number is the version of the packing.
const PackPrefix = "YARD2:"

// packDictionary holds what recipe documents have in common. It is part of version 2: a change makes its codes unreadable.
const packDictionary = `"second_kettle":{"level":"kettle":2"when":"drained""when":"drips""first":"water""crust_s":"release_s":"discard_g":"cut_at_g":` +
	`"glass_ice_g":"screen":true"reheat":true"carafe":{"material":"glass","warm_c":"ice":{"mass_g":"temperature_c":-18"wet":"dilution":{"water_g":` +
	`"mesh""cloth""thick paper""fast textured paper""corrugated paper""steel""ceramic""valve steeper""heavy-paper cone""flat bed"` +
	`"turns""collar""words""per_turn":"mark":"hand mill""flat burr""blade""readings":{"first_c":"second_c":"apart_s":` +
	`"one-long-pour""two-centred-pours""pulses""steep-and-release""anaerobic""honey""natural""decaf""medium-light""medium-dark""dark""light""medium"` +
	`"then":"stir""then":"tap""pattern":"centre""pattern":"ring""height":"high"` +
	`{"format":"yardbloom-recipe","version":3,"name":"","coffee":{"name":"","roast":"","process":"washed","age_days":` +
	`},"brewer":{"kind":"open cone","material":"plastic","filter":"standard paper","holds_g":` +
	`},"grinder":{"burrs":"conical burr","dial":{"kind":"clicks","kind":"numbers","zero_um":,"step_um":},"loss_g":` +
	`},"kettle":{"thermostat":true,"holds_g":},"style":"three-rounds","dose_g":,"water_g":,"grind_um":,"rinse":true,"pours":[` +
	`{"bloom":true,"water_g":,"start_s":0,"rate_g_s":5,"height":"mid","pattern":"small circles","temperature_c":,"then":"swirl"},` +
	`{"water_g":,"start_s":,"rate_g_s":5,"height":"mid","pattern":"spiral","temperature_c":},` +
	`{"water_g":,"start_s":,"rate_g_s":5,"height":"low","pattern":"spiral","temperature_c":,"then":"swirl"}],"aim_s":`

// dictionaries holds the dictionary of each version by its prefix. That of version 1 has a former style.
var dictionaries = map[string]string{PackPrefix: packDictionary,
	"YARD1:": strings.Replace(packDictionary, string(recipe.TwoCentredPours), "two-heavy-pours", 1)}

// ErrPacked is returned for a packed recipe that is incomplete or damaged, or was packed by a newer version.
var ErrPacked = errors.New("the code is incomplete or damaged, or comes from a newer version")

var packing = base32.StdEncoding.WithPadding(base32.NoPadding)

// Pack returns a recipe as a short text. Fields of a read document that this version does not know are left out.
func Pack(d Recipe) (string, error) {
	text, err := json.Marshal(d)
	if err != nil {
		return "", err
	}
	var out bytes.Buffer
	w, err := zlib.NewWriterLevelDict(&out, zlib.BestCompression, []byte(packDictionary))
	if err != nil {
		return "", err
	}
	if _, err := w.Write(text); err != nil {
		return "", err
	}
	if err := w.Close(); err != nil {
		return "", err
	}
	return PackPrefix + packing.EncodeToString(out.Bytes()), nil
}

// Unpack returns the document of a packed recipe, for ReadRecipe. It returns ErrPacked for another text.
func Unpack(text string) ([]byte, error) {
	// A code that was sent as a message may have line breaks and small letters.
	text = strings.ToUpper(strings.Join(strings.Fields(text), ""))
	head := text[:min(len(PackPrefix), len(text))]
	dictionary := dictionaries[head]
	if dictionary == "" || len(text) > maxBytes {
		return nil, ErrPacked
	}
	compressed, err := packing.DecodeString(text[len(head):])
	if err != nil {
		return nil, ErrPacked
	}
	r, err := zlib.NewReaderDict(bytes.NewReader(compressed), []byte(dictionary))
	if err != nil {
		return nil, ErrPacked
	}
	const most = 64 << 10 // a recipe has about a thousand bytes
	out, err := io.ReadAll(io.LimitReader(r, most+1))
	if err != nil || len(out) > most {
		return nil, fmt.Errorf("%w (%v)", ErrPacked, err)
	}
	return out, nil
}

var packed = regexp.MustCompile(`(?i)^\s*YARD[0-9]+:`)

// IsPacked reports whether a text begins as a packed recipe of any version.
func IsPacked(text string) bool { return packed.MatchString(text) }
