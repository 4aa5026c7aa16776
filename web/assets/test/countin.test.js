import assert from "node:assert/strict";
import { mock, test } from "node:test";
import { countDown } from "../countin.js";

// Every second is announced once, the end comes once and not before, and a stopped count never ends. Mutations caught: an end that is a
// second early, a count that goes on after the end, a stop without effect.
test("a count-down tells every second and ends once", () => {
  mock.timers.enable({ apis: ["setTimeout"] });
  const told = [];
  let ends = 0;
  countDown(3, (left) => told.push(left), () => { ends += 1; });
  const pass = (/** @type {number} */ seconds) => { for (let i = 0; i < seconds; i++) mock.timers.tick(1000); };
  pass(2);
  mock.timers.tick(999);
  assert.deepEqual([told, ends], [[3, 2, 1], 0]);
  mock.timers.tick(1);
  pass(5);
  assert.deepEqual([told, ends], [[3, 2, 1], 1]);
  const stop = countDown(3, (left) => told.push(left), () => { ends += 1; });
  pass(1);
  stop();
  pass(9);
  assert.deepEqual([told, ends], [[3, 2, 1, 3, 2], 1]);
  mock.timers.reset();
});
