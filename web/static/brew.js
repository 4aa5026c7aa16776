// The clock of the Brew station. The server has worked out every stretch from
// here on; this only shows the one whose second has come, counts inside it,
// draws what the scale says, sounds, and sends touches. A touch that finds no
// server is kept and sent again, and until then counts on this screen alone.
"use strict";

const brew = { zero: 0, speed: 1, cue: "", frame: -1, queue: [], sending: false, wall: Date.now(), page: performance.now(), scale: null };
const $ = (id) => document.getElementById(id);
// The wall clock, and not the page's own: that one stands still while a tablet sleeps.
const now = () => (Date.now() - brew.zero) / 1000 * brew.speed;
const running = () => $("brew")?.dataset.status === "running";
const set = (id, text) => { const el = $(id); if (el && el.textContent !== text) el.textContent = text; };

function clock(s) {
  const whole = Math.max(0, Math.floor(s));
  return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, "0")}`;
}

// sync takes over what the server last said.
function sync() {
  const el = $("brew");
  if (!el) return;
  if (el.dataset.done) { location.assign(el.dataset.done); return; }
  brew.speed = Number(el.dataset.speed) || 1;
  brew.frame = -1;
  if (running()) brew.zero = Number(el.dataset.zero) || Date.now() - Number(el.dataset.elapsed) * 1000 / brew.speed;
  tick();
}

// A wall clock that is set runs apart from the page's own. Set back, it is told at
// once; forward, it looks as if the tablet had slept, and the server knows.
function watchClock() {
  const wall = Date.now(), page = performance.now(), step = wall - brew.wall - (page - brew.page);
  brew.wall = wall;
  brew.page = page;
  if (Math.abs(step) < 1000) return;
  if (step < 0) brew.zero += step;
  ask();
}

// ask takes over the second at which the server has the brew.
async function ask() {
  const { id } = $("brew")?.dataset ?? {};
  if (!running() || brew.queue.some((t) => t.kind === "start")) return;
  try {
    const answer = await fetch(`/brews/${id}/brew`, { headers: { "HX-Request": "true" }, signal: AbortSignal.timeout(4000) });
    if (answer.ok && !answer.redirected) show(await answer.text());
  } catch { /* without a server the wall clock is all there is */ }
}

const cues = () => [...document.querySelectorAll("#tap .cue[data-at]")];
const scaleNow = () => (brew.scale && Date.now() - brew.scale.heard < 2500 ? brew.scale : null);

// currentCue is the stretch whose second has come. A pour that a scale sees is over when the scale says so.
// A wait after a pour that nobody tapped as done is passed over.
function currentCue(all, t) {
  let current = all[0];
  for (const c of all.slice(1)) {
    if ("tapped" in c.dataset) continue;
    if (Number(c.dataset.at) > t + 0.02 || ("held" in current.dataset && scaleNow())) break;
    current = c;
  }
  return current;
}

function tick() {
  watchClock();
  const all = cues();
  if (!running() || !all.length) return; // before the first water, or after the last
  const t = now(), current = currentCue(all, t);
  for (const c of all) c.hidden = c !== current;
  const key = `${current.dataset.at}/${current.dataset.to}/${"pour" in current.dataset}`;
  if (key !== brew.cue) {
    if (brew.cue) sound.change(current.dataset.say);
    brew.cue = key;
  }
  set("clock", clock(t));
  $("clock").classList.toggle("over", t >= 600);
  count(current, t);
  for (const line of document.querySelectorAll("[data-now]")) {
    line.setAttribute("transform", `translate(${Number(line.dataset.from) + t * Number(line.dataset.perSecond)} 0)`);
  }
  cutaway(t);
}

// count shows the time and the water left in a stretch, and the rate of the stream.
function count(c, t) {
  const d = c.dataset, at = Number(d.at), until = Number(d.until), from = Number(d.from), to = Number(d.to);
  const left = Math.ceil(until - t - 0.02), pours = "pour" in d, scale = scaleNow();
  let says;
  if ("open" in d) says = left > 0 ? `about ${clock(left)} to go` : left > -60 ? "any moment now" : `${clock(-left)} over`;
  else if (left > 0) says = `${left} s left`;
  else if (pours && scale) says = scale.pours ? "" : "pour now";
  else says = pours ? "should be in" : "now";
  set("left", says);
  $("left").classList.toggle("soon", left <= 3);
  if (left <= 3 && left > 0 && !("open" in d) && !pours) sound.tick(`${d.at}/${left}`);
  if (left <= 10 && left > 3 && !pours && !("open" in d)) sound.say(`in ${left} seconds`, `${d.at}/soon`);
  const share = Math.min(1, Math.max(0, (t - at) / Math.max(0.5, until - at)));
  const more = scale ? to - scale.g : (to - from) * (1 - share);
  let togo = "";
  if (pours && to > from) {
    if (scale) togo = more >= 0 ? `${more.toFixed(d.decimals)} ${d.unit} to go` : `${(-more).toFixed(d.decimals)} ${d.unit} over`;
    else togo = `~${Math.max(0, more).toFixed(d.decimals)} ${d.unit} to go`;
    if (scale?.pours && more <= Number(d.soon) && more > 0) sound.say(d.unit === "g" ? "ten" : "nearly", `${d.at}/ten`);
  }
  set("togo", togo);
  $("togo").classList.toggle("soon", pours && more <= Number(d.soon));
  rate(pours ? Number(d.rate) : 0, scale, d.unit, Number(d.decimals) + 1);
}

function rate(wanted, scale, unit, decimals) {
  const el = $("rate");
  el.hidden = !wanted;
  if (!wanted) return;
  const is = scale?.pours ? scale.r : 0;
  $("rate-now").style.transform = `scaleX(${Math.min(1, is / (2 * wanted)).toFixed(2)})`;
  set("rate-says", scale ? `${is.toFixed(decimals)} of ${wanted.toFixed(decimals)} ${unit}/s` : `aim ${wanted.toFixed(decimals)} ${unit}/s`);
  el.classList.toggle("fast", is > 1.35 * wanted);
  el.classList.toggle("slow", is > 0 && is < 0.65 * wanted);
}

// cutaway shows the brewer as the model has it by now.
function cutaway(t) {
  const box = document.querySelector(".cutaway-live[data-every]");
  if (!box) return;
  const frame = Math.max(0, Math.floor(t / Number(box.dataset.every)));
  if (frame === brew.frame) return;
  brew.frame = frame;
  drawMoment(box.querySelector(".cutaway"), frame);
}

// weighed takes what the scale says, ten times a second.
function weighed(text) {
  let n;
  try { n = JSON.parse(text); } catch { return; }
  set("shows", n.away ? "lifted" : `${n.g.toFixed(1)} g`);
  if (!running()) { ready(n); return; }
  brew.scale = { ...n, heard: Date.now() };
  if (Math.abs(n.t - now()) > 0.4 * brew.speed) brew.zero = Date.now() - n.t * 1000 / brew.speed;
  draw(n);
  tick();
}

// ready says before the first water whether the scale waits for it.
function ready(n) {
  const zero = Math.abs(n.g) < 1;
  set("on-scale", `${n.g.toFixed(1)} g`);
  if (!$("tap").disabled) set("ready-says", zero ? "It starts by itself with the first water" : "Tare the scale, then pour");
}

// draw goes on with the line of what was really poured.
function draw(n) {
  for (const svg of document.querySelectorAll(".ribbon[data-per-gram]")) {
    const d = svg.dataset;
    const line = realLine(svg);
    if (n.t > Number(d.ends)) continue;
    if (n.away) { d.pen = "up"; continue; }
    drawTo(svg, line, n.t, n.g);
  }
}

// An answer that says no for good. Any other one may be that of a proxy, a full disk or a server that starts.
const refusals = [400, 403, 404, 409, 410, 422];

// Touches. Each has a key of its own, so that sending one twice keeps it once.
function touch(kind, mark) {
  const id = $("brew")?.dataset.id;
  if (!id || !running()) return;
  keep({ id, key: newKey(), kind, mark: mark || "", at: now().toFixed(2) });
}

// start begins the brew on this screen at once, and tells the server.
function start() {
  const id = $("brew").dataset.id;
  if (running() || brew.queue.some((t) => t.kind === "start" && t.id === id)) return;
  const t = { id, key: newKey(), kind: "start", at: -1, begun: Date.now() };
  keep(t);
  t.here = true;
  here(t);
  stayAwake();
}

const newKey = () => crypto.randomUUID?.() ?? `${Date.now()}-${Math.random()}`;

function keep(t) {
  brew.queue.push(t);
  try { localStorage.setItem(`touch ${t.key}`, JSON.stringify(t)); } catch { /* a private window keeps none */ }
  send();
}

// kept returns the touches that wait on this device: of a page that was closed, or of another tab.
// Each is an item of its own, so that no tab writes over another's.
function kept() {
  try {
    return Object.keys(localStorage).filter((k) => k.startsWith("touch ")).map((k) => JSON.parse(localStorage.getItem(k))).filter((t) => t?.id && t.key).sort((a, b) => a.at - b.at);
  } catch { return []; }
}

function forget(t) { try { localStorage.removeItem(`touch ${t.key}`); } catch { /* it was never kept */ } }

function post({ id, ...t }) {
  const path = t.kind === "start" ? "start" : "touch";
  // How long ago, not when: the clock of this device may be off.
  const body = t.kind === "start" ? { key: t.key, ago: ((Date.now() - t.begun) / 1000).toFixed(2) } : { key: t.key, kind: t.kind, mark: t.mark, at: t.at };
  return fetch(`/brews/${id}/${path}`, { method: "POST", headers: { "HX-Request": "true" }, body: new URLSearchParams(body), signal: AbortSignal.timeout(4000) });
}

async function send() {
  if (brew.sending) return;
  brew.sending = true;
  while (brew.queue.length) {
    const t = brew.queue[0];
    let answer;
    try {
      answer = await post(t);
    } catch {
      await wait("The server does not answer.");
      continue;
    }
    if (answer.redirected) { location.reload(); return; } // signed out meanwhile: the touches wait for the sign-in
    if (!answer.ok && !refusals.includes(answer.status)) {
      await wait(`The server could not keep it (${answer.status}).`);
      continue;
    }
    forget(brew.queue.shift());
    if (t.kind === "start") began(t.id, t.begun);
    if (brew.queue.some((other) => other.id === t.id)) continue; // what this screen shows is ahead of the answer
    if (answer.ok && $("brew")?.dataset.id === t.id) show(await answer.text(), t.kind === "start");
    else if (answer.status === 409) location.reload();
  }
  brew.sending = false;
}

// wait says that the touches are kept, and lets a moment pass before they are sent again.
function wait(why) {
  for (const t of brew.queue) if (!t.here && t.id === $("brew")?.dataset.id) { t.here = true; here(t); }
  say(`${why} The clock goes on; ${brew.queue.length === 1 ? "your touch is" : brew.queue.length + " touches are"} kept and will be sent.`);
  return new Promise((r) => setTimeout(r, 700));
}

// here lets a touch count on this screen until the server has it: once for what the server last said.
function here(t) {
  const at = Number(t.at), shown = $("brew");
  if (shown.counted?.version !== shown.dataset.version) shown.counted = { version: shown.dataset.version, keys: new Set() };
  if (shown.counted.keys.has(t.key)) return;
  shown.counted.keys.add(t.key);
  if (t.kind === "start") {
    if (running()) return;
    const el = $("brew");
    el.replaceChildren($("begun").content.cloneNode(true));
    el.dataset.status = "running";
    brew.speed = 1;
    brew.zero = t.begun;
    sound.label();
    tick();
    return;
  }
  const all = cues(), index = all.indexOf(currentCue(all, at)), next = all[index + 1];
  const move = (from, by) => all.slice(from).forEach((c) => { c.dataset.at = Number(c.dataset.at) + by; c.dataset.until = Number(c.dataset.until) + by; });
  if (t.kind === "later") move(index + 1, 5);
  else if (t.kind === "finish" || t.kind === "advance" && !next) over(at);
  else if (t.kind === "advance" && all[index].classList.contains("pouring")) {
    next.dataset.at = at;
    delete next.dataset.tapped;
  } else if (t.kind === "advance") move(index + 1, at - Number(next.dataset.at));
  if (next) delete all[index].dataset.held;
  tick();
}

// over shows that the pouring is over, before the server knows.
function over(at) {
  const el = $("brew");
  el.dataset.status = "poured";
  $("tap").disabled = true;
  for (const c of cues()) c.hidden = true;
  set("clock", clock(at));
  set("left", "poured");
}

function show(html, anyway) {
  const page = new DOMParser().parseFromString(html, "text/html"), fresh = page.getElementById("brew"), line = page.querySelector(".line");
  // An answer overtaken by the stream is old news.
  if (!fresh || !anyway && Number(fresh.dataset.version) < Number($("brew").dataset.version)) return;
  $("brew").replaceWith(fresh);
  if (line) document.querySelector(".line")?.replaceWith(line);
  took();
}

// hold keeps this page on the device as the server has it, with the moment at which the brew began.
let holding;
function hold() {
  clearTimeout(holding);
  holding = setTimeout(async () => {
    try {
      const answer = await fetch(location.pathname, { signal: AbortSignal.timeout(4000) });
      if (!answer.ok || answer.redirected) return;
      const page = await answer.text();
      await holdPage(location.pathname, page.replace(/id="brew"([^>]*)data-elapsed="([\d.]+)" data-speed="([\d.]+)"/, (_, other, elapsed, speed) =>
        `id="brew"${other}data-elapsed="${elapsed}" data-speed="${speed}" data-zero="${Date.now() - elapsed * 1000 / speed}"`));
    } catch { /* the server is away: what was held stays */ }
  }, 800);
}

// took follows on new content, from a touch or from the stream.
function took() {
  sync();
  sound.label();
  hold();
  for (const t of brew.queue) if (t.here && t.id === $("brew")?.dataset.id) here(t);
}

function say(text) {
  const line = $("said");
  if (!line) return;
  line.textContent = text;
  line.classList.add("lost");
}

// Sound: a short tick in the last three seconds, a longer tone when something new begins; or the
// browser's own voice, where it has one.
const sound = {
  ctx: null, last: "", spoken: "", modes: window.speechSynthesis ? ["tones", "voice", "off"] : ["tones", "off"],
  mode: "tones",
  wake() { this.ctx ??= new AudioContext(); if (this.ctx.state === "suspended") this.ctx.resume(); },
  play(hertz, seconds) {
    if (this.mode === "off" || !this.ctx) return;
    const tone = this.ctx.createOscillator(), gain = this.ctx.createGain(), at = this.ctx.currentTime;
    tone.frequency.value = hertz;
    gain.gain.setValueAtTime(0.25, at);
    gain.gain.exponentialRampToValueAtTime(0.001, at + seconds);
    tone.connect(gain).connect(this.ctx.destination);
    tone.start(at);
    tone.stop(at + seconds);
  },
  // say speaks a text once for what it is about.
  say(text, about) {
    if (this.mode !== "voice" || about === this.spoken) return;
    this.spoken = about;
    const words = new SpeechSynthesisUtterance(text);
    words.lang = "en";
    speechSynthesis.cancel();
    speechSynthesis.speak(words);
  },
  tick(what) { if (what !== this.last) { this.last = what; this.play(660, 0.09); } },
  change(text) { this.play(990, 0.45); this.say(text, text); },
  next() {
    this.mode = this.modes[(this.modes.indexOf(this.mode) + 1) % this.modes.length];
    try { localStorage.setItem("sound", this.mode); } catch { /* a private window forgets it */ }
    this.label();
  },
  label() {
    const button = $("mute");
    if (button) button.firstChild.textContent = { tones: "Tones ", voice: "Voice ", off: "Sound off " }[this.mode];
  },
};
try { if (sound.modes.includes(localStorage.getItem("sound"))) sound.mode = localStorage.getItem("sound"); } catch { /* tones, then */ }

// The screen stays awake while a brew runs.
async function stayAwake() {
  if (!running() || document.hidden) return;
  try { await navigator.wakeLock?.request("screen"); } catch { /* the device decides */ }
}

document.addEventListener("submit", (e) => {
  if (e.target.id === "start-form") {
    e.preventDefault();
    start();
    return;
  }
  const button = e.submitter;
  if (e.target.action.endsWith("/weigh") && button?.value === "tare") {
    e.preventDefault();
    tare(e.target);
    return;
  }
  if (!button || !e.target.action.endsWith("/touch") || e.target.closest(".forgotten")) return;
  e.preventDefault();
  touch(button.value === "later" || button.value === "undo" || button.value === "advance" ? button.value : "mark", button.dataset.mark);
});

// tare asks the scale to count what lies on it as nothing.
function tare(form) {
  fetch(form.action, { method: "POST", headers: { "HX-Request": "true" }, body: new URLSearchParams({ do: "tare" }) }).catch(() => say("The scale cannot be reached."));
}

const marks = { d: "dry spot", c: "channel", s: "stall", x: "spill" };
document.addEventListener("keydown", (e) => {
  if (e.altKey || e.ctrlKey || e.metaKey || e.target.closest("input, select, textarea")) return;
  const key = e.key.toLowerCase();
  if (key === " " && !e.target.closest("summary, .menu form")) {
    e.preventDefault();
    if (!e.repeat) $("tap")?.click();
  } else if (key === "m") sound.next();
  else if (key === "l") touch("later");
  else if (key === "u") touch("undo");
  else if (key === "t") { if (!running()) $("tare")?.click(); }
  else if (marks[key]) touch("mark", marks[key]);
});
// The space bar is the big tap wherever the focus is; Enter presses what is focused.
document.addEventListener("keyup", (e) => { if (e.key === " " && !e.target.closest("summary, .menu form")) e.preventDefault(); });
document.addEventListener("pointerdown", () => sound.wake());
document.addEventListener("keydown", () => sound.wake());
document.addEventListener("click", (e) => { if (e.target.closest("#mute")) sound.next(); });
document.addEventListener("visibilitychange", () => { stayAwake(); tick(); });
document.addEventListener("htmx:after:swap", () => { took(); stayAwake(); });
document.addEventListener("scale", (e) => weighed(e.detail?.data));

// began remembers when a brew began on this device, for a page of it that was held before that.
function began(id, at) {
  try {
    for (const k of Object.keys(localStorage)) if (k.startsWith("begun ") && Date.now() - localStorage.getItem(k) > 6 * 3600e3) localStorage.removeItem(k);
    localStorage.setItem(`begun ${id}`, at);
  } catch { /* a private window remembers nothing */ }
}

function beganBefore(id) { try { return Number(localStorage.getItem(`begun ${id}`)); } catch { return 0; } }

brew.queue = kept();
took();
if ($("brew")?.dataset.status === "ready" && beganBefore($("brew").dataset.id)) {
  const { id } = $("brew").dataset;
  here({ id, key: "begun", kind: "start", begun: beganBefore(id) });
  ask();
}
// A start that waits on this device has begun, whatever the page says that the browser had kept.
for (const t of brew.queue) if (t.id === $("brew")?.dataset.id && !running()) { t.here = true; here(t); }
stayAwake();
send();
setInterval(tick, 100);
