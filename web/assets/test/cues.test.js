import assert from "node:assert/strict";
import { test } from "node:test";

import { afterTap, currentIndex, shift } from "../cues.js";

// A bloom, its wait, a pour, its wait, and the drawdown.
const brew = () => [
  { at: 0, until: 10, tapped: false, held: false, advance: "start" },
  { at: 10, until: 45, tapped: false, held: false, advance: "shift" },
  { at: 45, until: 65, tapped: false, held: false, advance: "start" },
  { at: 65, until: 90, tapped: false, held: false, advance: "shift" },
  { at: 90, until: 200, tapped: false, held: false, advance: "end" },
];

test("the current cue is the last one that has begun", () => {
  assert.deepEqual([-1, 0, 9.9, 9.99, 45, 64, 500].map((t) => currentIndex(brew(), t, false)), [0, 0, 0, 1, 2, 2, 4]);
});

test("a cue that only a tap starts is skipped", () => {
  const cues = brew();
  cues[1].tapped = true;
  assert.equal(currentIndex(cues, 20, false), 0);
  assert.equal(currentIndex(cues, 50, false), 2);
});

// Mutation caught: a pour on a scale that ends with the clock.
test("a pour on a scale ends with the scale", () => {
  const cues = brew();
  cues[0].held = true;
  assert.equal(currentIndex(cues, 20, true), 0);
  assert.equal(currentIndex(cues, 20, false), 1);
});

test("a tap in a pour starts its wait now", () => {
  const cues = brew();
  cues[1].tapped = true;
  const after = afterTap(cues, "advance", 13, 5, false);
  assert.deepEqual([after[1].at, after[1].until, after[1].tapped, after[2].at], [13, 45, false, 45]);
});

test("a tap in a wait shifts the rest", () => {
  const after = afterTap(brew(), "advance", 40, 5, false);
  assert.deepEqual(after.map((c) => c.at), [0, 10, 40, 60, 85]);
});

// Mutation caught: "later" moves the stretch that runs, or by another amount than the server's.
test("later moves what follows by what the server says", () => {
  const after = afterTap(brew(), "later", 20, 7, false);
  assert.deepEqual(after.map((c) => [c.at, c.until]), [[0, 10], [10, 45], [52, 72], [72, 97], [97, 207]]);
});

test("the last tap ends the brew", () => {
  assert.equal(afterTap(brew(), "advance", 180, 5, false), null);
  assert.equal(afterTap(brew(), "finish", 30, 5, false), null);
});

test("a mark changes no times", () => {
  assert.deepEqual(afterTap(brew(), "mark", 30, 5, false), brew());
});

test("shift leaves its argument alone", () => {
  const cues = brew();
  shift(cues, 0, 3);
  assert.deepEqual(cues, brew());
});
