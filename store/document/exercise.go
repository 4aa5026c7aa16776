package document

import (
	"yardbloom/core/practice"
	"yardbloom/core/units"
)

// Exercise is the stored form of a practice.Try.
type Exercise struct {
	V        int     `json:"v"`
	Lesson   string  `json:"lesson"`
	Rate     float64 `json:"rate_g_s"`
	Wanted   float64 `json:"wanted_g"`
	Readings Trace   `json:"readings,omitempty"`
	Began    float64 `json:"began_s,omitempty"`
	Ended    float64 `json:"ended_s,omitempty"`
	Water    float64 `json:"water_g,omitempty"`
}

// OfTry returns the document of a try.
func OfTry(t practice.Try) Exercise {
	return Exercise{V: Version, Lesson: t.Lesson.ID, Rate: t.Lesson.Rate, Wanted: float64(t.Lesson.Water), Readings: OfTrace(t.Readings),
		Began: float64(t.Began), Ended: float64(t.Ended), Water: float64(t.Water)}
}

// Core returns the try of a document.
func (d Exercise) Core() practice.Try {
	l, _ := practice.LessonByID(d.Lesson)
	l.ID, l.Rate, l.Water = d.Lesson, d.Rate, units.Grams(d.Wanted)
	return practice.Try{Lesson: l, Readings: d.Readings.Core(), Began: units.Seconds(d.Began), Ended: units.Seconds(d.Ended),
		Water: units.Grams(d.Water)}
}
