import assert from "node:assert/strict";
import { test } from "node:test";

import { clock, span } from "../clock.js";
import { decimalsOf, read, write } from "../fields.js";
import { piece } from "../ribbon.js";

test("numbers are read in every notation of a field", () => {
  for (const [text, value] of [["16.5", 16.5], ["2,5", 2.5], ["1 : 16.5", 16.5], ["−4", -4], [" 1:05 ", 65], ["0:07", 7]]) {
    assert.equal(read(text), value, text);
  }
  for (const text of ["abc", "1:5", "1:2:3"]) assert.ok(Number.isNaN(read(text)), text);
});

test("a value is written like the text that it replaces", () => {
  assert.equal(write(65.4, "3:10", 0), "1:05");
  assert.equal(write(-3, "0:10", 0), "0:00");
  assert.equal(write(16.5, "1 : 16", 1), "16.5");
  assert.equal(write(0.1 + 0.2, "0.2", 1), "0.3");
  assert.equal(decimalsOf("1", "0.25", "2,5"), 2);
});

test("clocks round down and durations round up", () => {
  assert.deepEqual([0, 59.9, 60, 605, -3].map(clock), ["0:00", "0:59", "1:00", "10:05", "0:00"]);
  assert.deepEqual([0.2, 59.1, 61, -2].map(span), ["1 s", "1:00", "1:01", "2 s"]);
});

// Mutation caught: a line across the time in which the brewer was lifted.
test("a measured line begins anew after a gap", () => {
  const scales = { from: 50, perSecond: 2, floor: 300, perGram: 0.5 };
  assert.equal(piece(scales, 10, 100, false), "L70.0 250.0");
  assert.equal(piece(scales, 10, -4, true), "M70.0 300.0");
});
