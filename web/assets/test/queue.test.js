import assert from "node:assert/strict";
import { test } from "node:test";

import { Queue } from "../queue.js";

/** A storage in memory. */
function memory() {
  const items = new Map();
  return { items, get length() { return items.size; }, key: (i) => [...items.keys()][i], getItem: (k) => items.get(k) ?? null,
    setItem: (k, v) => items.set(k, v), removeItem: (k) => items.delete(k) };
}

/** An answer; ours is the key that it echoes. */
function answer(status, ours, { body = "ok", reason = "", url = "http://yard/brews/b/tap", redirected = false } = {}) {
  const headers = new Map([["Yard-Answer", ours], ["Yard-Reason", encodeURIComponent(reason)]]);
  return { status, ok: status < 400, url, redirected, headers: { get: (name) => headers.get(name) ?? null },
    text: () => (body instanceof Error ? Promise.reject(body) : Promise.resolve(body)) };
}

/** A queue whose server gives the answers in order, and repeats the last one. */
function queue(answers, storage = memory()) {
  const log = { sent: [], failed: [], delays: [], posts: [], signedOut: 0, clock: 1000 };
  let n = 0;
  const q = new Queue({ storage, now: () => log.clock, changed: () => {}, signedOut: () => log.signedOut++,
    sent: (e, text) => log.sent.push(`${e.key}:${text}`), failed: (why) => log.failed.push(why),
    wait: (ms) => { log.delays.push(ms); if (log.delays.length > 20) throw new Error("gave up"); return Promise.resolve(); },
    fetch: (url, init) => {
      log.posts.push([url, init.headers["Yard-Key"], init.body.get("ago"), init.body.get("kind")]);
      const next = answers[Math.min(n++, answers.length - 1)];
      const value = typeof next === "function" ? next(init.headers["Yard-Key"]) : next;
      return value instanceof Error ? Promise.reject(value) : Promise.resolve(value);
    } });
  return { q, log, storage };
}

const tap = (key, made = 1000) => ({ key, url: "/brews/b/tap", body: { kind: "advance" }, made });
const good = (key) => answer(200, key);

// Mutation caught: any answer below 400 counts.
test("only an answer with the key counts", async () => {
  for (const status of [200, 204, 302, 400, 403, 404, 409, 410, 422, 500, 502, 503]) {
    const { q, log, storage } = queue([answer(status, null), answer(status, "another"), good]);
    await q.add(tap("one"));
    assert.deepEqual(log.sent, ["one:ok"], `after ${status} by something else`);
    assert.equal(log.failed.length, 2);
    assert.equal(storage.items.size, 0);
  }
});

// Mutation caught: the body is read outside of the attempt, and the queue waits for ever.
test("a body that stalls is an attempt that failed", async () => {
  const { q, log } = queue([(key) => answer(200, key, { body: new Error("stalled") }), new Error("no connection"), good]);
  await q.add(tap("one"));
  await q.add(tap("two"));
  assert.deepEqual(log.sent, ["one:ok", "two:ok"]);
  assert.equal(q.sending, false);
});

// Mutations caught: a refusal is dropped, blocks the ones behind it, or is sent again.
test("a refusal by the app stays until it is dismissed", async () => {
  const { q, log, storage } = queue([(key) => answer(409, key, { reason: "The brew has moved on. Nothing – changed." }), good]);
  await q.add(tap("one"));
  await q.add(tap("two"));
  assert.deepEqual(log.sent, ["two:ok"]);
  assert.deepEqual(q.refused.map((e) => e.refused), ["The brew has moved on. Nothing – changed."]);
  assert.equal(q.waiting.length, 0);
  const later = queue([good], storage); // another page
  await later.q.send();
  assert.equal(later.log.posts.length, 0);
  later.q.dismiss("one");
  assert.equal(storage.items.size, 0);
});

// Mutations caught: taps of another page lost or out of order, the time of a tap counted when it is sent.
test("taps survive the page, in order and with their own time", async () => {
  const storage = memory();
  storage.setItem("tap late", JSON.stringify(tap("late", 9000)));
  storage.setItem("tap early", JSON.stringify(tap("early", 4000)));
  storage.setItem("tap broken", "{}");
  storage.setItem("begun b", "1");
  const { q, log } = queue([good], storage);
  log.clock = 10_000;
  await q.send();
  assert.deepEqual(log.posts.map(([, key, ago]) => [key, ago]), [["early", "6.00"], ["late", "1.00"]]);
  assert.deepEqual([...storage.items.keys()], ["tap broken", "begun b"]);
});

// Mutations caught: no limit of the delay, a delay that stays long after a success.
test("the delay grows to ten seconds and starts anew", async () => {
  const { q, log } = queue([...Array(6).fill(new Error("away")), good, new Error("away"), good]);
  await q.add(tap("one"));
  await q.add(tap("two"));
  assert.deepEqual(log.delays, [700, 1400, 2800, 5600, 10_000, 10_000, 700]);
});

// Mutation caught: a busy server loses a tap.
test("the app may ask to wait", async () => {
  for (const status of [408, 425, 429, 500, 503, 507]) {
    const { q, log } = queue([(key) => answer(status, key), good]);
    await q.add(tap("one"));
    assert.deepEqual(log.sent, ["one:ok"], String(status));
  }
});

// Mutation caught: taps lost at the sign-in.
test("signed out, taps wait", async () => {
  const { q, log, storage } = queue([(key) => answer(200, key, { url: "http://yard/sign-in", redirected: true })]);
  await q.add(tap("one"));
  assert.equal(log.signedOut, 1);
  assert.equal(storage.items.size, 1);
});

test("without storage taps are sent", async () => {
  const broken = { get length() { throw new Error("blocked"); }, setItem() { throw new Error("blocked"); }, removeItem() { throw new Error("blocked"); } };
  const { q, log } = queue([good], broken);
  await q.add(tap("one"));
  assert.deepEqual(log.sent, ["one:ok"]);
});

// Mutation caught: a refused action that is sent again under another key, or that stays refused.
test("a refused action can be sent again", async () => {
  const { q, log, storage } = queue([(key) => answer(410, key, { reason: "The bag was removed." }), good]);
  await q.add(tap("one"));
  assert.equal(q.refused.length, 1);
  await q.again("one");
  assert.deepEqual(log.sent, ["one:ok"]);
  assert.deepEqual(log.posts.map((p) => p[1]), ["one", "one"]);
  assert.equal(storage.items.size, 0);
});

// A device whose clock is set while an action waits: its age is never negative. Mutation caught: an age from the difference of two clocks.
test("a clock that is set back makes no action from the future", async () => {
  const { q, log } = queue([good]);
  log.clock = 1000 - 2 * 365 * 24 * 3600e3;
  await q.add(tap("one", 1000));
  assert.equal(log.posts[0][2], "0.00");
});

// A list of values is sent as repeated names. Mutation caught: a list that is joined.
test("a list keeps its values apart", async () => {
  const bodies = [];
  const { q } = queue([good]);
  const send = q.options.fetch;
  q.options.fetch = (url, init) => { bodies.push(init.body.getAll("faults")); return send(url, init); };
  await q.add({ ...tap("cup"), url: "/brews/b/cup", body: { faults: ["papery", "hollow"] } });
  assert.deepEqual(bodies, [["papery", "hollow"]]);
});

// Whatever happens to the server between the start and the cup, everything arrives once, in order. Mutations caught: a cup before its brew, an
// action that is dropped with the page, an action that another tab sends twice.
test("start, pour, end and cup arrive in order after every kind of absence", async () => {
  const steps = ["begin", "tap", "tap", "cup"];
  const absences = { down: () => new Error("no connection"), restarted: () => answer(502, null), updated: () => answer(503, null, { body: "updating" }),
    "something else": () => answer(200, null) };
  for (const [name, absence] of Object.entries(absences)) {
    for (let from = 0; from < steps.length; from++) {
      const storage = memory(), arrived = [];
      const make = (back) => {
        const made = queue([(key) => (back || arrived.length < from ? (arrived.push(key), answer(200, key)) : absence())], storage);
        return made;
      };
      const first = make(false);
      for (const [i, step] of steps.entries()) {
        await first.q.add({ key: `${step}${i}`, url: `/brews/b/${step}`, body: {}, made: 1000 + i }).catch(() => { /* gave up */ });
      }
      const again = make(true); // after a reload
      await again.q.send();
      assert.deepEqual(arrived, steps.map((step, i) => `${step}${i}`), `${name} from ${steps[from]}`);
      assert.equal(storage.items.size, 0);
    }
  }
});

// Signed out, the queue stops and keeps everything. Mutation caught: taps that are dropped with the session.
test("a session that expired keeps what waits", async () => {
  const { q, log, storage } = queue([(key) => answer(200, key, { redirected: true, url: "http://yard/sign-in" })]);
  await q.add(tap("one"));
  assert.equal(log.signedOut, 1);
  assert.equal(storage.items.size, 1);
});
