package page

import (
	"bytes"
	"html/template"
	"slices"
	"strings"

	"golang.org/x/net/html"

	"yardbloom/web/words"
)

var (
	// unlinked lists elements in whose text terms are not linked: they are names, controls or drawings.
	unlinked = map[string]bool{"a": true, "button": true, "label": true, "legend": true, "summary": true, "option": true, "textarea": true,
		"h1": true, "h2": true, "h3": true, "svg": true, "script": true, "style": true, "code": true, "kbd": true}
	// unlinkedClasses lists classes with the same effect: rows that open as a whole, corrections, and the large name of a change.
	unlinkedClasses = []string{"row-open", "error", "change", "glossary"}
)

// A termLinker links the terms of the trade in the sentences of a page to their glossary entries, each where it occurs first.
type termLinker struct {
	out    *bytes.Buffer
	linked map[string]bool // by id
	off    string          // name of the element in which nothing is linked; empty outside
	depth  int             // of elements with that name inside it
	inMain bool
}

// linkedText returns a text with its terms linked, for an element that linkTerms skips: a heading or a label.
func linkedText(text string) template.HTML {
	var out bytes.Buffer
	l := termLinker{out: &out, linked: map[string]bool{}}
	l.text(template.HTMLEscapeString(text))
	return template.HTML(out.String())
}

// linkTerms writes a page, or the part of it inside the frame, with the terms of its main part linked.
func linkTerms(out *bytes.Buffer, page []byte) {
	l := termLinker{out: out, linked: map[string]bool{}}
	z := html.NewTokenizer(bytes.NewReader(page))
	for {
		switch z.Next() {
		case html.ErrorToken: // the end
			return
		case html.StartTagToken:
			out.Write(z.Raw())
			l.start(z)
		case html.EndTagToken:
			out.Write(z.Raw())
			name, _ := z.TagName()
			l.end(string(name))
		case html.TextToken:
			if l.inMain && l.off == "" {
				l.text(string(z.Raw()))
			} else {
				out.Write(z.Raw())
			}
		default:
			out.Write(z.Raw())
		}
	}
}

func (l *termLinker) start(z *html.Tokenizer) {
	tag, more := z.TagName()
	name := string(tag)
	l.inMain = l.inMain || name == "main"
	if name == l.off {
		l.depth++
	}
	if l.off != "" || !l.inMain {
		return
	}
	off := unlinked[name]
	for more {
		var key, value []byte
		key, value, more = z.TagAttr()
		switch string(key) {
		case "class":
			off = off || slices.ContainsFunc(strings.Fields(string(value)), func(c string) bool { return slices.Contains(unlinkedClasses, c) })
		case "href":
			if id, isTerm := strings.CutPrefix(string(value), "/glossary#"); isTerm {
				l.linked[id] = true
			}
		}
	}
	if off {
		l.off, l.depth = name, 1
	}
}

func (l *termLinker) end(name string) {
	if name == "main" {
		l.inMain = false
	}
	if name == l.off {
		if l.depth--; l.depth == 0 {
			l.off = ""
		}
	}
}

// text writes a text with the terms in it that are not linked yet.
func (l *termLinker) text(s string) {
	written := 0
	for _, use := range words.Uses(s) {
		if l.linked[use.ID] {
			continue
		}
		l.linked[use.ID] = true
		l.out.WriteString(s[written:use.From])
		l.out.WriteString(string(termLink(use.Term, s[use.From:use.To], ` data-in="sentence"`)))
		written = use.To
	}
	l.out.WriteString(s[written:])
}
