// The clock of the Brew station. The server has worked out every stretch from
// here on; this only shows the one whose second has come, counts inside it,
// sounds, and sends touches. A touch that finds no server is kept and sent again.
"use strict";

const brew = { zero: 0, cue: "", queue: [], sending: false, wall: Date.now(), page: performance.now() };
const $ = (id) => document.getElementById(id);
// The wall clock, and not the page's own: that one stands still while a tablet sleeps.
const now = () => (Date.now() - brew.zero) / 1000;

function clock(s) {
  const whole = Math.max(0, Math.floor(s));
  return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, "0")}`;
}

// sync takes over what the server last said.
function sync() {
  const el = $("brew");
  if (!el) return;
  if (el.dataset.done) { location.assign(el.dataset.done); return; }
  brew.zero = Date.now() - Number(el.dataset.elapsed) * 1000;
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
  const { id, status } = $("brew")?.dataset ?? {};
  if (status !== "running") return;
  try {
    const answer = await fetch(`/brews/${id}/brew`, { headers: { "HX-Request": "true" }, signal: AbortSignal.timeout(4000) });
    if (answer.ok && !answer.redirected) show(await answer.text());
  } catch { /* without a server the wall clock is all there is */ }
}

function tick() {
  watchClock();
  const cues = [...document.querySelectorAll(".cue[data-at]")];
  if (!cues.length) return;
  const t = now();
  const current = cues.filter((c) => Number(c.dataset.at) <= t + 0.02).pop() || cues[0];
  for (const c of cues) c.hidden = c !== current;
  const key = `${current.dataset.at}/${current.dataset.to}/${"pour" in current.dataset}`;
  if (key !== brew.cue) {
    if (brew.cue) sound.change();
    brew.cue = key;
  }
  $("clock").textContent = clock(t);
  count(current, t);
  for (const line of document.querySelectorAll("[data-now]")) {
    line.setAttribute("transform", `translate(${Number(line.dataset.from) + t * Number(line.dataset.perSecond)} 0)`);
  }
}

// count shows the time left in a stretch and, while pouring, what the scale should show by now.
function count(c, t) {
  const at = Number(c.dataset.at), until = Number(c.dataset.until);
  const left = Math.ceil(until - t - 0.02);
  const word = $("left");
  if ("open" in c.dataset) word.textContent = left > 0 ? `about ${clock(left)} to go` : "any moment now";
  else if (left > 0) word.textContent = `${left} s left`;
  else word.textContent = "pour" in c.dataset ? "should be in" : "now";
  word.classList.toggle("soon", left <= 3);
  if (left <= 3 && left > 0 && !("open" in c.dataset)) sound.tick(`${c.dataset.at}/${left}`);
  const from = Number(c.dataset.from), to = Number(c.dataset.to);
  const share = Math.min(1, Math.max(0, (t - at) / Math.max(0.5, until - at)));
  $("should").textContent = "pour" in c.dataset && to > from
    ? `about ${(from + (to - from) * share).toFixed(c.dataset.decimals)} ${c.dataset.unit} by now` : "";
}

// An answer that says no for good. Any other one may be that of a proxy, a full disk or a server that starts.
const refusals = [400, 403, 404, 409, 410, 422];

// Touches. Each has a key of its own, so that sending one twice keeps it once.
function touch(kind, mark) {
  const id = $("brew")?.dataset.id;
  if (!id || $("brew").dataset.status !== "running") return;
  const t = { id, key: crypto.randomUUID?.() ?? `${Date.now()}-${Math.random()}`, kind, mark: mark || "", at: now().toFixed(2) };
  brew.queue.push(t);
  try { localStorage.setItem(`touch ${t.key}`, JSON.stringify(t)); } catch { /* a private window keeps none */ }
  send();
}

// kept returns the touches that wait on this device: of a page that was closed, or of another tab.
// Each is an item of its own, so that no tab writes over another's.
function kept() {
  try {
    return Object.keys(localStorage).filter((k) => k.startsWith("touch ")).map((k) => JSON.parse(localStorage.getItem(k))).sort((a, b) => a.at - b.at);
  } catch { return []; }
}

function forget(t) { try { localStorage.removeItem(`touch ${t.key}`); } catch { /* it was never kept */ } }

async function send() {
  if (brew.sending) return;
  brew.sending = true;
  while (brew.queue.length) {
    const { id, ...body } = brew.queue[0];
    let answer;
    try {
      answer = await fetch(`/brews/${id}/touch`, { method: "POST", headers: { "HX-Request": "true" }, body: new URLSearchParams(body), signal: AbortSignal.timeout(4000) });
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
    if (answer.ok && $("brew")?.dataset.id === id) show(await answer.text());
    else if (answer.status === 409) location.reload();
  }
  brew.sending = false;
}

// wait says that the touches are kept, and lets a moment pass before they are sent again.
function wait(why) {
  say(`${why} The clock goes on; ${brew.queue.length === 1 ? "your touch is" : brew.queue.length + " touches are"} kept and will be sent.`);
  return new Promise((r) => setTimeout(r, 700));
}

function show(html) {
  const fresh = new DOMParser().parseFromString(html, "text/html").getElementById("brew");
  // An answer overtaken by the stream is old news.
  if (!fresh || Number(fresh.dataset.version) < Number($("brew").dataset.version)) return;
  $("brew").replaceWith(fresh);
  took();
}

// took follows on new content, from a touch or from the stream.
function took() { sync(); sound.label(); }

function say(text) {
  const line = $("said");
  if (!line) return;
  line.textContent = text;
  line.classList.add("lost");
}

// Sound: a short tick in the last three seconds, a longer tone when something new begins.
const sound = {
  ctx: null, last: "", muted: localStorage.getItem("mute") === "yes",
  wake() { this.ctx ??= new AudioContext(); if (this.ctx.state === "suspended") this.ctx.resume(); },
  play(hertz, seconds) {
    if (this.muted || !this.ctx) return;
    const tone = this.ctx.createOscillator(), gain = this.ctx.createGain(), at = this.ctx.currentTime;
    tone.frequency.value = hertz;
    gain.gain.setValueAtTime(0.25, at);
    gain.gain.exponentialRampToValueAtTime(0.001, at + seconds);
    tone.connect(gain).connect(this.ctx.destination);
    tone.start(at);
    tone.stop(at + seconds);
  },
  tick(what) { if (what !== this.last) { this.last = what; this.play(660, 0.09); } },
  change() { this.play(990, 0.45); },
  toggle() { this.muted = !this.muted; localStorage.setItem("mute", this.muted ? "yes" : "no"); this.label(); },
  label() {
    const button = $("mute");
    if (!button) return;
    button.setAttribute("aria-pressed", String(this.muted));
    button.firstChild.textContent = this.muted ? "Sound off " : "Sound on ";
  },
};

// The screen stays awake while a brew runs.
async function stayAwake() {
  if ($("brew")?.dataset.status !== "running" || document.hidden) return;
  try { await navigator.wakeLock?.request("screen"); } catch { /* the device decides */ }
}

document.addEventListener("submit", (e) => {
  const button = e.submitter;
  if (!button || !e.target.action.endsWith("/touch")) return;
  e.preventDefault();
  touch(button.value === "later" || button.value === "undo" || button.value === "advance" ? button.value : "mark", button.dataset.mark);
});

const marks = { d: "dry spot", c: "channel", s: "stall", x: "spill" };
document.addEventListener("keydown", (e) => {
  if (e.altKey || e.ctrlKey || e.metaKey || e.target.closest("input, select, textarea")) return;
  const key = e.key.toLowerCase();
  if (key === " ") {
    e.preventDefault();
    if (!e.repeat) $("tap")?.click();
  } else if (key === "m") sound.toggle();
  else if (key === "l") touch("later");
  else if (key === "u") touch("undo");
  else if (marks[key]) touch("mark", marks[key]);
});
// The space bar is the big tap wherever the focus is; Enter presses what is focused.
document.addEventListener("keyup", (e) => { if (e.key === " ") e.preventDefault(); });
document.addEventListener("pointerdown", () => sound.wake());
document.addEventListener("keydown", () => sound.wake());
document.addEventListener("click", (e) => { if (e.target.closest("#mute")) sound.toggle(); });
document.addEventListener("visibilitychange", () => { stayAwake(); tick(); });
document.addEventListener("htmx:after:swap", took);

brew.queue = kept();
took();
stayAwake();
send();
setInterval(tick, 100);
