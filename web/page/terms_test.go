package page

import (
	"bytes"
	"regexp"
	"strings"
	"testing"
)

// Each term is linked where it occurs first in a sentence, and nothing else of a page changes. Mutations caught: a link inside a control, a
// second link, a term found inside another word, an element that ends the exclusion of the one around it.
func TestTermsOfSentencesAreLinked(t *testing.T) {
	const page = `<!doctype html><header><p>The bloom</p></header><script>let bloom = "<p>fines"</script>
<main id="main" class="wide"><h1>Bloom</h1><p>A longer <b>bloom</b> wets the <em>dry</em> fines &amp; the bloom again.<button>fines</button></p>
<div class="field wrong"><label>Drawdown</label><p class="error">The drawdown is too long.</p></div>
<li class="row-open now"><ul><li>a slurry</li></ul> and slurry</li><li>the slurry, in seedbeds that preinfuse; Over-Extracted? No: TDS.</li>
<p><a class="term" href="/glossary#dose">Dose</a> and dose; <a href="/x">the drawdown</a></p><svg><text>crust</text></svg>
<textarea>a crust</textarea></main><footer><p>retention</p></footer>`
	var out bytes.Buffer
	linkTerms(&out, []byte(page))
	link := regexp.MustCompile(`<a class="term" href="/glossary#([a-z-]+)" data-word="[^"]+" data-says="[^"]+" data-in="sentence">([^<]+)</a>`)
	var got []string
	for _, m := range link.FindAllStringSubmatch(out.String(), -1) {
		got = append(got, m[1]+": "+m[2])
	}
	const want = "bloom: bloom, fines: fines, slurry: slurry, over-extracted: Over-Extracted, tds: TDS"
	if s := strings.Join(got, ", "); s != want {
		t.Errorf("linked %s, not %s", s, want)
	}
	if plain := link.ReplaceAllString(out.String(), "$2"); plain != page {
		t.Errorf("the page without the links is another one:\n%s", plain)
	}
}
