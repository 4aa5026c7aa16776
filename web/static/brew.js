// The Brew station while water runs. The server computes every stage from here on. This script
// shows the one whose time has come, counts down, draws the readings of the scale, makes sounds and
// sends taps. A tap that cannot be sent counts on this screen and is sent again.
import { clock } from "./clock.js";
import { countDown } from "./countin.js";
import { afterTap, currentIndex } from "./cues.js";
import { drawFrame } from "./cutaway.js";
import { byId, find, findAll, isTyping, moveNowLines, setText, target } from "./dom.js";
import { storePage } from "./offline.js";
import { browserQueue, newKey, showRefused } from "./queue.js";
import { drawTo, measuredLine } from "./ribbon.js";
import * as sound from "./sound.js";

/** @typedef {import("./cues.js").Cue} Cue */
/** @typedef {{t: number, g: number, r: number, pours: boolean, away: boolean}} Numbers */
/** @typedef {import("./queue.js").Entry} Entry */

const brew = {
  zero: 0, // the first water on the wall clock, ms
  speed: 1,
  cue: "",
  frame: -1,
  wall: Date.now(),
  page: performance.now(),
  /** @type {Numbers & {heard: number}} */ scale: null,
};

const requestTimeout = 4000; // ms

const shown = () => byId("brew");
const running = () => shown()?.dataset.status === "running";
/** A threshold that the server sets. @param {string} name */
const limit = (name) => Number(shown().dataset[name]);
// The wall clock: the clock of the page stops while a tablet sleeps.
const now = () => (Date.now() - brew.zero) / 1000 * brew.speed;

/** Takes over what the server last sent. */
function sync() {
  const el = shown();
  if (!el) return;
  if (el.dataset.done) { location.assign(el.dataset.done); return; }
  brew.speed = Number(el.dataset.speed) || 1;
  brew.frame = -1;
  if (running()) brew.zero = Number(el.dataset.zero) || Date.now() - Number(el.dataset.elapsed) * 1000 / brew.speed;
  tick();
}

// A wall clock that is set drifts from the clock of the page. A step back is corrected at once. A
// step forward may be sleep, so the server is asked.
function checkClock() {
  const wall = Date.now(), page = performance.now(), drift = wall - brew.wall - (page - brew.page);
  brew.wall = wall;
  brew.page = page;
  if (Math.abs(drift) < 1000) return;
  if (drift < 0) brew.zero += drift;
  refresh();
}

/** Loads the brew from the server. */
async function refresh() {
  const { id } = shown()?.dataset ?? {};
  if (!running() || queue.waiting.some(isStart)) return;
  try {
    const answer = await fetch(`/brews/${id}/brew`, { headers: { "HX-Request": "true" }, signal: AbortSignal.timeout(requestTimeout) });
    if (answer.ok && !answer.redirected) show(await answer.text());
  } catch { /* offline: the wall clock continues */ }
}

const cueElements = () => findAll("#tap .cue[data-at]");

/** @param {HTMLElement} el @returns {Cue} */
const cueOf = ({ dataset: d }) => ({ at: Number(d.at), until: Number(d.until), tapped: "tapped" in d, held: "held" in d, advance: d.advance });

const scaleNow = () => (brew.scale && Date.now() - brew.scale.heard < limit("lost") * 1000 ? brew.scale : null);

function tick() {
  checkClock();
  const all = cueElements();
  if (!running() || !all.length) return; // before the first water or after the last
  const t = now(), current = all[currentIndex(all.map(cueOf), t, Boolean(scaleNow()))];
  for (const c of all) c.hidden = c !== current;
  for (const e of findAll("#brew [data-only]")) e.hidden = !e.dataset.only.split(" ").includes(current.dataset.stage);
  const key = `${current.dataset.at}/${current.dataset.to}/${"pour" in current.dataset}`;
  if (key !== brew.cue) {
    if (brew.cue) sound.announce(current.dataset.say);
    setText("step-said", current.dataset.say);
    brew.cue = key;
  }
  setText("clock", clock(t));
  byId("clock").classList.toggle("over", t >= 600); // four digits need a smaller size
  count(current, t);
  moveNowLines(t);
  showFrame(t);
}

/**
 * Shows the time and the water that are left in a stage, and the rate of the stream.
 * @param {HTMLElement} cue
 * @param {number} t
 */
function count(cue, t) {
  const d = cue.dataset, at = Number(d.at), until = Number(d.until), from = Number(d.from), to = Number(d.to), decimals = Number(d.decimals);
  const left = Math.ceil(until - t - 0.02), pours = "pour" in d, open = "open" in d, scale = scaleNow();
  let text;
  if (open) text = left > 0 ? `about ${clock(left)} to go` : left > -limit("grace") ? "any moment now" : `${clock(-left)} over`;
  else if (left > 0) text = `${left} s left`;
  else if (pours && scale) text = scale.pours ? "" : "pour now";
  else text = pours ? "should be in" : "now";
  setText("left", text);
  byId("left").classList.toggle("soon", left <= limit("last"));
  if (left <= limit("last") && left > 0 && !open && !pours) sound.tick(`${d.at}/${left}`);
  if (left <= limit("early") && left > limit("last") && !pours && !open) sound.speak(`in ${left} seconds`, `${d.at}/soon`);
  const share = Math.min(1, Math.max(0, (t - at) / Math.max(0.5, until - at)));
  const more = scale ? to - scale.g : (to - from) * (1 - share), soon = pours && more <= Number(d.soon);
  let togo = "";
  if (pours && to > from) {
    if (scale) togo = `${Math.abs(more).toFixed(decimals)} ${d.unit} ${more >= 0 ? "to go" : "over"}`;
    else togo = `~${Math.max(0, more).toFixed(decimals)} ${d.unit} to go`;
    if (scale?.pours && soon && more > 0) sound.speak(d.unit === "g" ? "ten" : "nearly", `${d.at}/ten`);
  }
  setText("togo", togo);
  byId("togo").classList.toggle("soon", soon);
  showRate(pours ? Number(d.rate) : 0, scale, d.unit, decimals + 1);
}

/**
 * @param {number} wanted 0 for no pour
 * @param {Numbers} scale
 * @param {string} unit
 * @param {number} decimals
 */
function showRate(wanted, scale, unit, decimals) {
  const el = byId("rate");
  el.hidden = !wanted;
  if (!wanted) return;
  const rate = scale?.pours ? scale.r : 0;
  byId("rate-now").style.transform = `scaleX(${Math.min(1, rate / (2 * wanted)).toFixed(2)})`;
  setText("rate-says", `${scale ? `${rate.toFixed(decimals)} of` : "aim"} ${wanted.toFixed(decimals)} ${unit}/s`);
  el.classList.toggle("fast", rate > limit("fast") * wanted);
  el.classList.toggle("slow", rate > 0 && rate < limit("slow") * wanted);
}

/**
 * Shows the brewer as the model predicts it for now.
 * @param {number} t
 */
function showFrame(t) {
  const box = find(".cutaway-live[data-every]");
  if (!box) return;
  const frame = Math.max(0, Math.floor(t / Number(box.dataset.every)));
  if (frame === brew.frame) return;
  brew.frame = frame;
  drawFrame(find(".cutaway", box), frame);
}

/**
 * Takes in a reading of the scale.
 * @param {string} text
 */
function weighed(text) {
  /** @type {Numbers} */
  let n;
  try { n = JSON.parse(text); } catch { return; }
  setText("shows", n.away ? "lifted" : `${n.g.toFixed(1)} g`);
  if (!running()) { showReady(n); return; }
  brew.scale = { ...n, heard: Date.now() };
  if (Math.abs(n.t - now()) > 0.4 * brew.speed) brew.zero = Date.now() - n.t * 1000 / brew.speed;
  draw(n);
  tick();
}

/**
 * Shows before the first water whether the scale is tared.
 * @param {Numbers} n
 */
function showReady(n) {
  setText("on-scale", `${n.g.toFixed(1)} g`);
  const tared = Math.abs(n.g) < limit("empty");
  const button = /** @type {HTMLButtonElement} */ (byId("tap"));
  if (!button.disabled) setText("ready-says", tared ? "It starts by itself with the first water" : "Tare the scale, then pour");
}

/**
 * Extends the measured line of the ribbons.
 * @param {Numbers} n
 */
function draw(n) {
  for (const svg of findAll(".ribbon[data-per-gram]")) {
    measuredLine(svg); // replaces the line that the server drew
    if (n.t > Number(svg.dataset.ends)) continue;
    if (n.away) svg.dataset.pen = "up";
    else drawTo(svg, n.t, n.g);
  }
}

/** @param {Entry} e */
const isStart = (e) => /\/(start|begin)$/.test(e.url);
/** Seconds since the first water at which a tap was made. @param {Entry} e */
const atOf = (e) => Number(e.body.at);
const here = (/** @type {Entry} */ e) => e.id === shown()?.dataset.id;

// Taps that are shown on this screen before the server has them, by key.
/** @type {Set<string>} */
const early = new Set();

const queue = browserQueue({
  sent: (e, text) => {
    if (isStart(e)) rememberStart(e.id, e.made, e.key);
    if (e.url.endsWith("/begin") && here(e) && !queue.waiting.some(here)) {
      copied.finally(() => location.replace(`/brews/${e.id}/brew`));
      return;
    }
    if (here(e) && !queue.waiting.some(here)) show(text, isStart(e)); // else this screen is ahead of the answer
  },
  failed: (why, n) => {
    for (const e of queue.waiting) if (here(e) && !early.has(e.key)) apply(e);
    const line = byId("said");
    if (!line) return;
    line.textContent = `${why} The clock goes on; ${n === 1 ? "your tap is" : `${n} taps are`} kept and will be sent.`;
    line.classList.add("lost");
  },
  refused: (all) => { if (all.some((e) => here(e) && early.has(e.key))) location.reload(); }, // it counted on this screen
});

/**
 * Sends a tap. Its key makes it count once however often it is sent.
 * @param {string} kind
 * @param {string} [mark]
 */
function tap(kind, mark) {
  const id = shown()?.dataset.id;
  if (!id || !running()) return;
  const at = now();
  const entry = { id, key: newKey(), url: `/brews/${id}/tap`, made: Date.now(), says: `${mark || words[kind] || kind} at ${clock(at)}`,
    body: { kind, mark: mark || "", at: at.toFixed(2), stage: stageAt(at), start: shown().dataset.start, by: document.body.dataset.by ?? "",
      undoes: kind === "undo" ? lastTap() : "" } };
  queue.add(entry);
  if (queue.attempts) apply(entry); // the server is known to be away: the next attempt may be seconds off
}

/** The number of the stage that is shown at a time. @param {number} t */
function stageAt(t) {
  const all = cueElements();
  return all[currentIndex(all.map(cueOf), t, Boolean(scaleNow()))]?.dataset.stage ?? "";
}

/** The key of the last tap that this screen knows and that is not undone; empty for none. */
function lastTap() {
  const mine = queue.waiting.filter((e) => here(e) && !isStart(e)), undone = new Set(mine.map((e) => e.body.undoes));
  const taps = [shown().dataset.undo, ...mine.filter((e) => e.body.kind !== "undo").map((e) => e.key)];
  return taps.filter((key) => key && !undone.has(key)).pop() ?? "";
}

/** Taps in words. @type {Record<string, string>} */
const words = { advance: "the tap", finish: "the end", later: "“later”", more: "more water", undo: "the undo" };

/** Stops a running count-down. */
let stopCounting = () => {};

/** Counts down to the first water with opening words, or stops counting. @param {HTMLElement} button */
function countIn(button) {
  stopCounting();
  if (button.getAttribute("aria-pressed") === "true") {
    button.setAttribute("aria-pressed", "false");
    setText("ready-says", "Tap, or press space, with the first water");
    return;
  }
  button.setAttribute("aria-pressed", "true");
  sound.wake();
  sound.speak(button.dataset.opening, "opening");
  stopCounting = countDown(Number(button.dataset.seconds), (left) => {
    setText("ready-says", `First water in ${left}`);
    sound.tick(`in/${left}`);
  }, start);
}

/** Starts the brew on this screen at once and tells the server. */
function start() {
  stopCounting();
  const { from } = shown().dataset, id = from ? becomeCopy(from) : shown().dataset.id;
  if (running() || queue.waiting.some((e) => isStart(e) && e.id === id)) return;
  // Sent with its age: the clock of this device may be wrong.
  const entry = { id, key: newKey(), url: from ? `/brews/${from}/begin` : `/brews/${id}/start`, made: Date.now(), says: "the start",
    body: { by: document.body.dataset.by ?? "", ...(from && { new: id }) } };
  queue.add(entry);
  apply(entry);
  stayAwake();
}

/** Settles when the page of a copy is stored on this device. @type {Promise<void>} */
let copied = Promise.resolve();

/**
 * Makes this page the page of a new brew, a copy of the recipe that it shows, and stores it for a reload without the server.
 * @param {string} from the brew or recipe that is copied
 */
function becomeCopy(from) {
  const id = newKey(), el = shown(), path = `/brews/${id}/brew`;
  const renamed = (/** @type {string} */ html) => html.replaceAll(`/brews/${from}/`, `/brews/${id}/`).replace(`data-id="${from}" data-from="${from}"`, `data-id="${id}"`);
  const template = /** @type {HTMLTemplateElement} */ (byId("begun"));
  template.innerHTML = renamed(template.innerHTML);
  el.dataset.id = id;
  delete el.dataset.from;
  const ready = location.pathname;
  copied = (async () => {
    try {
      const page = await caches.match(ready);
      if (page) await storePage(path, renamed(await page.text()));
    } catch { /* there is no cache */ }
  })();
  history.replaceState(null, "", path);
  return id;
}

// Keys of the taps that were applied to a version of the brew.
/** @type {{version: string, element: Element, keys: Set<string>}} */
const applied = { version: "", element: null, keys: new Set() };

/**
 * Applies a tap on this screen until the server has it, once for each version of the brew.
 * @param {Entry} t
 */
function apply(t) {
  early.add(t.key);
  const el = shown();
  if (applied.element !== el || applied.version !== el.dataset.version) {
    Object.assign(applied, { element: el, version: el.dataset.version, keys: new Set() });
  }
  if (applied.keys.has(t.key)) return;
  applied.keys.add(t.key);
  if (isStart(t)) {
    if (running()) return;
    el.replaceChildren(/** @type {HTMLTemplateElement} */ (byId("begun")).content.cloneNode(true));
    el.dataset.status = "running";
    el.dataset.start = t.key;
    brew.speed = 1;
    brew.zero = t.made;
    sound.label();
    tick();
    return;
  }
  const at = atOf(t), elements = cueElements();
  const after = afterTap(elements.map(cueOf), String(t.body.kind), at, limit("later"), Boolean(scaleNow()));
  if (!after) { showOver(at); return; }
  after.forEach((c, i) => {
    const d = elements[i].dataset;
    d.at = String(c.at);
    d.until = String(c.until);
    if (!c.tapped) delete d.tapped;
    if (!c.held) delete d.held;
  });
  tick();
}

/**
 * Shows that the brew is over, before the server knows.
 * @param {number} at
 */
function showOver(at) {
  shown().dataset.status = "poured";
  /** @type {HTMLButtonElement} */ (byId("tap")).disabled = true;
  for (const c of cueElements()) c.hidden = true;
  setText("clock", clock(at));
  setText("left", "poured");
}

/**
 * Replaces the brew on this page by a newer one.
 * @param {string} html
 * @param {boolean} [always] also if the version is not newer
 */
function show(html, always = false) {
  const page = new DOMParser().parseFromString(html, "text/html"), fresh = page.getElementById("brew"), line = page.querySelector(".line");
  if (!fresh || !always && Number(fresh.dataset.version) < Number(shown().dataset.version)) return; // the stream was faster
  shown().replaceWith(fresh);
  if (line) document.querySelector(".line")?.replaceWith(line);
  updated();
}

/** @type {number} */
let storing;

/** Stores this page as the server has it, with the moment at which the brew began. */
function storeThisPage() {
  clearTimeout(storing);
  if (shown()?.dataset.from) return; // the worker keeps it
  storing = window.setTimeout(async () => {
    try {
      const answer = await fetch(location.pathname, { signal: AbortSignal.timeout(requestTimeout) });
      if (!answer.ok || answer.redirected) return;
      const page = await answer.text();
      await storePage(location.pathname, page.replace(/id="brew"([^>]*)data-elapsed="([\d.]+)" data-speed="([\d.]+)"/, (_, other, elapsed, speed) =>
        `id="brew"${other}data-elapsed="${elapsed}" data-speed="${speed}" data-zero="${Date.now() - elapsed * 1000 / speed}"`));
    } catch { /* offline: the stored page stays */ }
  }, 800);
}

/** Follows on new content from a tap or from the stream. */
function updated() {
  sync();
  sound.label();
  storeThisPage();
  for (const e of queue.waiting) if (early.has(e.key) && here(e)) apply(e);
  showRefused(queue);
}

async function stayAwake() {
  if (!running() || document.hidden) return;
  try { await navigator.wakeLock?.request("screen"); } catch { /* the device decides */ }
}

document.addEventListener("submit", (e) => {
  const form = /** @type {HTMLFormElement} */ (e.target), button = /** @type {HTMLButtonElement} */ (e.submitter);
  if (form.id === "start-form") {
    e.preventDefault();
    start();
    return;
  }
  if (form.action.endsWith("/weigh") && button?.value === "tare") {
    e.preventDefault();
    fetch(form.action, { method: "POST", headers: { "HX-Request": "true" }, body: new URLSearchParams({ do: "tare" }) })
      .catch(() => setText("said", "The scale cannot be reached."));
    return;
  }
  if (!button || !form.action.endsWith("/tap") || form.closest(".forgotten")) return;
  e.preventDefault();
  if (button.dataset.mark) tap("mark", button.dataset.mark);
  else tap(button.value);
});

const inMenu = (/** @type {Event} */ e) => Boolean(target(e).closest("summary, .menu form"));

document.addEventListener("keydown", (e) => {
  if (isTyping(e)) return;
  const key = e.key.toLowerCase();
  if (key === " " && !inMenu(e)) {
    e.preventDefault();
    if (!e.repeat) byId("tap")?.click();
  } else if (key === "m") sound.nextMode();
  else if (key === "l") tap("later");
  else if (key === "u") tap("undo");
  else if (key === "t") { if (!running()) byId("tare")?.click(); }
  else find(`#brew [data-mark][data-key="${CSS.escape(e.key.toUpperCase())}"]`)?.click();
});
// The space bar is the large button wherever the focus is. Enter presses what has the focus.
document.addEventListener("keyup", (e) => { if (e.key === " " && !inMenu(e)) e.preventDefault(); });
document.addEventListener("pointerdown", sound.wake);
document.addEventListener("keydown", sound.wake);
document.addEventListener("click", (e) => {
  if (target(e).closest("#mute")) sound.nextMode();
  const button = /** @type {HTMLElement} */ (target(e).closest("#count-in"));
  if (button && !running()) countIn(button);
});
document.addEventListener("visibilitychange", () => { stayAwake(); tick(); });
document.addEventListener("htmx:after:swap", () => { updated(); stayAwake(); });
document.addEventListener("scale", (/** @type {CustomEvent} */ e) => weighed(e.detail?.data));

/**
 * Remembers when a brew began on this device, for a page of it that was stored before.
 * @param {string} id
 * @param {number} at wall clock, ms
 * @param {string} key of the start
 */
function rememberStart(id, at, key) {
  const maxAge = 6 * 3600e3; // ms
  try {
    for (const k of Object.keys(localStorage)) {
      if (k.startsWith("begun ") && Date.now() - Number.parseFloat(localStorage.getItem(k)) > maxAge) localStorage.removeItem(k);
    }
    localStorage.setItem(`begun ${id}`, `${at} ${key}`);
  } catch { /* storage is unavailable */ }
}

/** @param {string} id @returns {[number, string]} moment and key of the start that this device saw; 0 for none */
function startOf(id) {
  try {
    const [at, key] = (localStorage.getItem(`begun ${id}`) ?? "").split(" ");
    return [Number(at), key ?? ""];
  } catch { return [0, ""]; }
}

updated();
if (shown()?.dataset.status === "ready" && startOf(shown().dataset.id)[0]) {
  const { id } = shown().dataset, [made, key] = startOf(id);
  apply({ id, key, url: `/brews/${id}/start`, made, body: {} });
  refresh();
}
// A start that waits on this device counts, whatever the page in the browser's cache says.
for (const e of queue.waiting) if (here(e) && !running()) apply(e);
stayAwake();
queue.send();
setInterval(tick, 100);
