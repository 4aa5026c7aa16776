// A practice pour: counts down, shows the readings of the scale against the lesson, and sends them
// to be scored. Without a scale two taps mark the start and the end of the water.
import { clock } from "./clock.js";
import { byId, findAll, setText, target } from "./dom.js";
import { browserQueue, newKey } from "./queue.js";
import { drawTo } from "./ribbon.js";

/** @typedef {{t: number, g: number, r: number, pours: boolean}} Numbers */

const lesson = byId("exercise").dataset;
const unit = { grams: Number(lesson.toG), name: lesson.unit, decimals: Number(lesson.decimals) };
const pour = {
  phase: "ready", // ready, scale, first tap, second tap, done
  /** @type {EventSource} */ source: null,
  /** @type {string[]} */ readings: [],
  zero: 0, // when the pour is to begin, on the wall clock
  level: 0, // shown by the scale before that
  ended: 0, // last second at which water ran
  timer: 0,
};

const age = () => (Date.now() - pour.zero) / 1000;

function begin() {
  const by = /** @type {HTMLSelectElement} */ (byId("by")).value;
  pour.readings = [];
  pour.zero = Date.now() + Number(lesson.ready) * 1000;
  pour.phase = by ? "scale" : "first tap";
  setText("step", "Get ready");
  setText("tapsays", by ? "Tap when you have stopped" : "Tap as the water starts");
  if (by) {
    pour.source = new EventSource(`/practice/${lesson.lesson}/live?${by}`);
    pour.source.addEventListener("scale", (e) => weighed(JSON.parse(e.data)));
    pour.source.onerror = () => { pour.source.close(); setText("step", "The scale was lost"); pour.phase = "ready"; };
  }
  clearInterval(pour.timer);
  pour.timer = window.setInterval(() => { if (pour.phase !== "ready") tick(age()); }, 100);
}

/** @param {number} t seconds since the signal */
function tick(t) {
  setText("clock", t < 0 ? `−${Math.ceil(-t)}` : clock(t));
  if (t >= 0 && byId("step").textContent === "Get ready") setText("step", "Pour");
}

/** @param {Numbers} n */
function weighed(n) {
  if (n.t < 0) pour.zero = Date.now() - n.t * 1000; // the signal is at the time from which the pour is scored
  if (n.t < -Number(lesson.settle)) { pour.level = n.g; return; } // the scale is not tared
  const g = n.g - pour.level, rate = Number(lesson.rate) / unit.grams, left = Number(lesson.water) / unit.grams - g;
  pour.readings.push(`${n.t.toFixed(2)},${(g * unit.grams).toFixed(1)}`);
  setText("togo", `${Math.abs(left).toFixed(unit.decimals)} ${unit.name} ${left >= 0 ? "to go" : "over"}`);
  setText("rate-says", `${n.r.toFixed(unit.decimals + 1)} of ${rate.toFixed(unit.decimals + 1)} ${unit.name}/s`);
  byId("rate-now").style.transform = `scaleX(${Math.min(1, n.r / (2 * rate)).toFixed(2)})`;
  byId("rate").classList.toggle("fast", n.r > Number(lesson.fast) * rate);
  byId("rate").classList.toggle("slow", n.pours && n.r < Number(lesson.slow) * rate);
  if (n.t >= 0) for (const svg of findAll(".ribbon[data-per-gram]")) drawTo(svg, n.t, g);
  if (n.pours) pour.ended = n.t;
  else if (pour.ended && n.t - pour.ended > Number(lesson.after)) finish();
}

function finish() {
  pour.source?.close();
  clearInterval(pour.timer);
  pour.phase = "done";
  queue.add({ key: newKey(), url: location.pathname, made: Date.now(), says: "the practice pour",
    body: { readings: pour.readings.join(";"), by: document.body.dataset.by ?? "" } });
}

// The readings wait on this device until the server has scored them.
const queue = browserQueue({
  sent: (entry) => { if (entry.url === location.pathname) location.assign(location.pathname); },
  failed: (why) => setText("step", `${why} The pour is kept.`),
  refused: ([entry]) => {
    queue.dismiss(entry.key);
    setText("step", entry.refused);
    pour.phase = "ready";
  },
});

function tap() {
  const form = /** @type {HTMLFormElement} */ (byId("by-taps"));
  const entry = (/** @type {string} */ name) => /** @type {HTMLInputElement} */ (form.elements.namedItem(name));
  if (pour.phase === "ready") begin();
  else if (pour.phase === "scale" && age() > 1) finish();
  else if (pour.phase === "first tap") {
    entry("began").value = age().toFixed(2);
    pour.phase = "second tap";
    setText("tapsays", "Tap as it stops");
  } else if (pour.phase === "second tap") {
    entry("ended").value = age().toFixed(2);
    clearInterval(pour.timer);
    pour.phase = "done";
    form.hidden = false;
    entry("water").focus();
    setText("step", "Enter the weight");
  }
}

byId("tap").addEventListener("click", tap);
const isField = (/** @type {Event} */ e) => Boolean(target(e).closest("input, select, textarea"));
document.addEventListener("keydown", (e) => {
  if (e.key !== " " || isField(e)) return;
  e.preventDefault();
  if (!e.repeat) tap();
});
document.addEventListener("keyup", (e) => { if (e.key === " " && !isField(e)) e.preventDefault(); });
