package words

import (
	"slices"
	"strings"
)

// A form is a spelling of a term in sentences, in lower case.
type form struct {
	text string
	term Term
}

// inSentences holds the forms by their first word, the longest first.
var inSentences = func() map[string][]form {
	out := map[string][]form{}
	for _, t := range glossary {
		for _, text := range t.In {
			text = strings.ToLower(text)
			first := text[:wordEnd(text, 0)]
			out[first] = append(out[first], form{text, t})
		}
	}
	for _, forms := range out {
		slices.SortFunc(forms, func(a, b form) int { return len(b.text) - len(a.text) })
	}
	return out
}()

// A Use is a term in a sentence, which has it from byte From to byte To.
type Use struct {
	Term
	From, To int
}

// Uses returns the terms of the glossary in a sentence, in order and as often as they occur.
func Uses(sentence string) (out []Use) {
	for at := 0; at < len(sentence); {
		end := wordEnd(sentence, at)
		for _, f := range inSentences[strings.ToLower(sentence[at:end])] {
			to := at + len(f.text)
			if to <= len(sentence) && wordEnd(sentence, to) == to && strings.EqualFold(sentence[at:to], f.text) {
				out, end = append(out, Use{f.term, at, to}), to
				break
			}
		}
		at = max(at+1, end)
	}
	return out
}

// wordEnd returns the end of the word that begins at a byte, or the byte itself without a word. Hyphens join words.
func wordEnd(s string, at int) int {
	for at < len(s) && (s[at] == '-' || '0' <= s[at] && s[at] <= '9' || 'A' <= s[at] && s[at] <= 'Z' || 'a' <= s[at] && s[at] <= 'z' || s[at] >= 0x80) {
		at++
	}
	return at
}
